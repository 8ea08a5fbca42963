import { useEffect, useMemo, useState } from 'react';
import styled from 'styled-components';
import { ranked, type Candidate, type Judgement, type Rank } from '@ditch/core/candidates';
import type { MediumId } from '@ditch/core/lines';
import type { Project } from '@ditch/core/network';
import type { RecipeInputs } from '@ditch/core/recipes';
import { formatNumber, formatQuantity, QuantityError, readQuantity } from '@ditch/core/units';
import { useLatest } from '../../bridge/latest';
import type { Trace } from '../../charts/types';
import { Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { QuantityInput } from '../../controls/QuantityInput';
import { colour, type ColourName } from '../../theme';

const Panel = styled.section`
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: 10px 14px;
  border-left: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  overflow: auto;
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12px;
  }
  th {
    padding: 2px 4px;
    color: ${colour('quiet')};
    font-size: 11px;
    font-weight: 400;
    text-align: right;
    white-space: nowrap;
  }
  td {
    padding: 3px 4px;
    border-top: 1px solid ${colour('rule')};
    text-align: right;
    white-space: nowrap;
  }
  th:first-child,
  td:first-child {
    padding-left: 0;
    text-align: left;
    white-space: normal;
  }
  tr[data-own] td {
    background: ${colour('waterSoft')};
  }
  label {
    display: flex;
    align-items: baseline;
    gap: 6px;
  }
  th:first-child {
    width: 44%;
  }
  td button {
    text-align: left;
  }
`;
const Judge = styled.div`
  display: grid;
  grid-template-columns: auto 74px auto 70px;
  align-items: center;
  gap: 6px;
  padding: 4px 0 6px;
  font-size: 12px;
`;

const OVERLAYS: readonly ColourName[] = ['trace2', 'trace3', 'trace4', 'trace5', 'trace6'];

interface CandidatesProps {
  readonly project: Project;
  readonly recipe: string;
  readonly inputs: RecipeInputs;
  readonly stack: string;
  readonly medium: MediumId;
  /** Curves laid over the preview. */
  readonly onOverlay: (traces: readonly Trace[]) => void;
  readonly onUse: (recipe: string, inputs: RecipeInputs) => void;
}

/** A quantity of a judgement, or what is wrong with it. */
function read(text: string, kind: 'number' | 'level'): { value?: number; error?: string } {
  try {
    return { value: readQuantity(text, { kind, min: 0, exclusive: true }).re };
  } catch (error) {
    if (error instanceof QuantityError) return { error: error.message };
    throw error;
  }
}

/** Every way to the goal, weighed: chosen ones lie over the preview, any can be taken up. */
export function Candidates({ project, recipe, inputs, stack, medium, onOverlay, onUse }: CandidatesProps) {
  const [list, setList] = useState<readonly Candidate[]>();
  const [by, setBy] = useState<Rank>('bandwidth');
  const [band, setBand] = useState('10 %');
  const [loss, setLoss] = useState('20 dB');
  const [over, setOver] = useState<readonly string[]>([]);
  const ask = useLatest('candidates', (found) => setList(found ?? []));
  const share = read(band, 'number');
  const goal = read(loss, 'level');
  const judgement = useMemo(
    (): Judgement | undefined =>
      share.value !== undefined && goal.value !== undefined && share.value < 1.9
        ? { band: share.value, returnLoss: goal.value }
        : undefined,
    [share.value, goal.value],
  );
  useEffect(() => {
    if (judgement)
      ask({
        project: { ...project, designs: [] },
        recipe,
        inputs,
        stack,
        medium,
        judgement,
      });
  }, [ask, project, recipe, inputs, stack, medium, judgement]);

  const rows = useMemo(() => ranked(list ?? [], by), [list, by]);
  const own = rows.find(
    (r) => r.recipe === recipe && Object.entries(r.inputs).every(([name, value]) => inputs[name] === value),
  );
  const chosen = useMemo(
    () => rows.filter((r) => over.includes(r.key) && r.figures).slice(0, OVERLAYS.length),
    [rows, over],
  );
  useEffect(() => {
    onOverlay(
      chosen.map((c, i) => ({
        id: c.key,
        label: c.label,
        name: c.label,
        colour: OVERLAYS[i],
        kind: { role: 'overlay' },
        x: c.figures!.freq,
        y: c.figures!.level,
      })),
    );
  }, [chosen, onOverlay]);

  const column = (rank: Rank, name: string) => (
    <th scope="col" aria-sort={by === rank ? 'descending' : 'none'}>
      <TextButton aria-label={`rank by ${name}`} onPress={() => setBy(rank)}>
        {by === rank ? <b>{name}</b> : name}
      </TextButton>
    </th>
  );
  return (
    <Panel aria-label="Candidates">
      <SectionTitle>Ways to this match</SectionTitle>
      <Judge>
        <span>worst in</span>
        <QuantityInput
          label="band judged"
          help="Band around the design frequency in which the worst return loss counts."
          value={band}
          error={share.error}
          onChange={setBand}
        />
        <span>bandwidth at</span>
        <QuantityInput
          label="return loss judged"
          help="Return loss whose bandwidth counts."
          value={loss}
          error={goal.error}
          onChange={setLoss}
        />
      </Judge>
      {list === undefined ? (
        <Quiet>Weighing…</Quiet>
      ) : (
        <table>
          <thead>
            <tr>
              <th scope="col">lay over, use</th>
              {column('worst', 'worst')}
              {column('bandwidth', 'band')}
              {column('area', 'area')}
              {column('narrowest', 'narrowest')}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.key} data-own={row === own || undefined}>
                <td>
                  <label>
                    <input
                      type="checkbox"
                      aria-label={`lay ${row.label} over the preview`}
                      disabled={!row.figures}
                      checked={over.includes(row.key)}
                      onChange={(e) =>
                        setOver(e.target.checked ? [...over, row.key] : over.filter((k) => k !== row.key))
                      }
                    />
                    {row === own ? (
                      <b>{row.label}</b>
                    ) : (
                      <TextButton onPress={() => onUse(row.recipe, row.inputs)}>{row.label}</TextButton>
                    )}
                  </label>
                </td>
                {row.figures ? (
                  <>
                    <td>{formatNumber(Math.min(row.figures.worst, 99), 3)} dB</td>
                    <td>
                      {row.figures.bandwidth === undefined
                        ? '\u2013'
                        : formatQuantity(row.figures.bandwidth, 'frequency', { digits: 3 })}
                    </td>
                    <td>{formatNumber(row.figures.area * 1e6, 3)} mm²</td>
                    <td>
                      {formatQuantity(row.figures.narrowest, 'length', { digits: 3 })}
                      {row.figures.remarks > 0 && (
                        <span title={`${row.figures.remarks} remarks of the review`}> !</span>
                      )}
                    </td>
                  </>
                ) : (
                  <td colSpan={4} style={{ textAlign: 'left', whiteSpace: 'normal', color: colour('quiet') }}>
                    {row.problem}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Panel>
  );
}
