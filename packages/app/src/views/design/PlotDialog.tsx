import { useState } from 'react';
import styled from 'styled-components';
import { newId, type Design, type Limit, type Plot } from '@ditch/core/network';
import { parseFormula, proposeLimit, type FormulaValues } from '@ditch/core/plots';
import { valueAt } from '../../charts/domain';
import { QuantityError } from '@ditch/core/units';
import { Button, Quiet, SectionTitle, Segments, TextButton } from '../../controls/basics';
import { Dialog } from '../../controls/Dialog';
import { Select } from '../../controls/Select';
import { ErrorText, InputBox, QuantityInput } from '../../controls/QuantityInput';
import type { Drawn } from './plots';
import { pinLabel } from './reading';

const Row = styled.div`
  display: grid;
  grid-template-columns: auto 58px auto 1fr auto 1fr auto;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
`;
const FormulaRow = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  align-items: center;
  gap: 8px;
  padding: 2px 0;
`;
const Chosen = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 12px;
  padding: 0 0 6px 4px;
  font-size: 12px;
  label {
    display: inline-flex;
    align-items: center;
    gap: 4px;
  }
`;
const About = styled.div`
  display: contents;
`;
const SmallBox = styled(InputBox)`
  width: 52px;
`;
const Part = styled.div`
  margin-bottom: 16px;
`;

interface PlotDialogProps {
  readonly plot: Plot;
  readonly design: Design;
  readonly title: string;
  /** Named values that formulas know. */
  readonly values: FormulaValues;
  /** The plot as it is drawn. */
  readonly drawn: Drawn;
  readonly f0: number | undefined;
  /** Return loss that counts as matched, dB. */
  readonly goal: number;
  readonly ports: number;
  readonly errors: readonly { readonly id: string; readonly message: string }[];
  readonly onChange: (label: string, next: Plot) => void;
  readonly onClose: () => void;
}

/** The limit without what it does not say. */
const without = (limit: Limit): Limit =>
  Object.fromEntries(Object.entries(limit).filter(([, v]) => v !== undefined)) as unknown as Limit;

/** How near a curve shall be to a level to begin with, in the plot's unit. */
const nearness = (unit: string): string => (unit === 'dB' ? '0.5' : unit === 'deg' ? '5' : '0.1');

const wrong = (text: string, values: FormulaValues): string | undefined => {
  if (text.trim() === '') return undefined;
  try {
    parseFormula(text, values);
    return undefined;
  } catch (error) {
    if (error instanceof QuantityError) return error.message;
    throw error;
  }
};

/** A plot's formulas, for the kind that has them, and the limits drawn into it. */
export default function PlotDialog({
  plot,
  design,
  title,
  values,
  drawn,
  f0,
  goal,
  ports,
  errors,
  onChange,
  onClose,
}: PlotDialogProps) {
  // Texts are held here while they are typed; only those that can be read go into the design.
  const [texts, setTexts] = useState<readonly string[]>(
    plot.formulas?.length ? plot.formulas : [ports > 1 ? 'S21 in dB' : 'abs(S11) in 1'],
  );
  const write = (next: readonly string[]) => {
    setTexts(next);
    const sound = next.filter((t) => t.trim() !== '' && wrong(t, values) === undefined);
    onChange('change the formulas', { ...plot, formulas: sound });
  };
  const curves = [
    ...new Map(
      drawn.traces.flatMap((t) => (t.curve && t.kind.role !== 'overlay' ? [[t.curve, t] as const] : [])),
    ),
  ];
  const propose = (): Limit => {
    const at = (i: number) => (f0 === undefined ? NaN : valueAt(curves[i][1], f0));
    return {
      id: newId(),
      ...proposeLimit(
        plot.show,
        drawn.unit,
        curves.map(([id]) => ({ id })),
        at,
        goal,
      ),
      from: '0.95*f0',
      to: '1.05*f0',
    };
  };
  const limits = plot.limits ?? [];
  const change = (id: string, part: Partial<Limit>) =>
    onChange('change a limit', {
      ...plot,
      limits: limits.map((l) => (l.id === id ? without({ ...l, ...part }) : l)),
    });
  return (
    <Dialog title={title} open onClose={onClose}>
      {plot.show === 'formula' && (
        <Part>
          <SectionTitle>Formulas</SectionTitle>
          <Quiet>
            A quantity made of S, Y and Z parameters and this design’s values, “in”, and its unit:{' '}
            {ports > 1
              ? 'S21 in dB, S31/S21 in deg, abs(S11) in 1, re(Z11) in ohm, delay(S21) in ns.'
              : 'abs(S11) in 1, S11 in dB, re(Z11) in ohm, Z11/z0 in 1.'}
          </Quiet>
          {texts.map((text, i) => {
            const problem = wrong(text, values);
            return (
              <div key={i}>
                <FormulaRow>
                  <InputBox
                    aria-label={`formula ${i + 1}`}
                    aria-invalid={problem !== undefined}
                    value={text}
                    spellCheck={false}
                    onChange={(event) => write(texts.map((t, k) => (k === i ? event.target.value : t)))}
                  />
                  <TextButton
                    aria-label={`remove formula ${i + 1}`}
                    onPress={() => write(texts.filter((_t, k) => k !== i))}
                  >
                    remove
                  </TextButton>
                </FormulaRow>
                {problem && <ErrorText>{problem}</ErrorText>}
              </div>
            );
          })}
          <TextButton
            onPress={() =>
              write([...texts, drawn.unit && drawn.unit !== '1' ? `S11 in ${drawn.unit}` : 'abs(S11) in 1'])
            }
          >
            add a formula
          </TextButton>
        </Part>
      )}
      {plot.show === 'smith' ? (
        <PlanePart plot={plot} design={design} errors={errors} onChange={onChange} />
      ) : (
        <Part>
          <SectionTitle>Limits</SectionTitle>
          {limits.length === 0 && (
            <Quiet>A limit shades what the curves shall keep out of, between two frequencies.</Quiet>
          )}
          {limits.map((limit) => {
            const problem = errors.find((e) => e.id === limit.id)?.message;
            return (
              <div key={limit.id}>
                <Row>
                  <Segments
                    label="side of the limit"
                    value={limit.side}
                    choices={[
                      { id: 'below', label: 'below' },
                      { id: 'above', label: 'above' },
                      { id: 'at', label: 'at' },
                    ]}
                    onChange={(side) =>
                      change(limit.id, {
                        side: side as Limit['side'],
                        tolerance: side === 'at' ? (limit.tolerance ?? nearness(drawn.unit)) : undefined,
                      })
                    }
                  />
                  <InputBox
                    aria-label="level of the limit"
                    maxLength={60}
                    value={limit.level}
                    onChange={(e) => change(limit.id, { level: e.target.value })}
                  />
                  <span>from</span>
                  <InputBox
                    aria-label="limit from"
                    value={limit.from}
                    onChange={(e) => change(limit.id, { from: e.target.value })}
                  />
                  <span>to</span>
                  <InputBox
                    aria-label="limit to"
                    value={limit.to}
                    onChange={(e) => change(limit.id, { to: e.target.value })}
                  />
                  <TextButton
                    aria-label="remove the limit"
                    onPress={() =>
                      onChange('remove a limit', { ...plot, limits: limits.filter((l) => l.id !== limit.id) })
                    }
                  >
                    remove
                  </TextButton>
                </Row>
                <Chosen>
                  {limit.side === 'at' && (
                    <label>
                      <Quiet>within</Quiet>
                      <SmallBox
                        aria-label="tolerance of the limit"
                        maxLength={60}
                        value={limit.tolerance ?? ''}
                        onChange={(e) => change(limit.id, { tolerance: e.target.value })}
                      />
                      <Quiet>{drawn.unit}</Quiet>
                    </label>
                  )}
                  <label>
                    <Quiet>weight in a search</Quiet>
                    <SmallBox
                      aria-label="weight of the limit"
                      maxLength={60}
                      placeholder="1"
                      value={limit.weight ?? ''}
                      onChange={(e) => change(limit.id, { weight: e.target.value || undefined })}
                    />
                  </label>
                  {curves.length > 1 && (
                    <Curves
                      limit={limit}
                      curves={curves.map(([id]) => id)}
                      onChange={(about) => change(limit.id, { curves: about })}
                    />
                  )}
                </Chosen>
                {problem && <ErrorText>{problem}</ErrorText>}
              </div>
            );
          })}
          <TextButton
            onPress={() =>
              onChange('add a limit', {
                ...plot,
                limits: [...limits, propose()],
              })
            }
          >
            add a limit
          </TextButton>
        </Part>
      )}
      <Button onPress={onClose}>Done</Button>
    </Dialog>
  );
}

/** Which curves of its plot a limit is about. */
function Curves({
  limit,
  curves,
  onChange,
}: {
  limit: Limit;
  curves: readonly string[];
  onChange: (curves: readonly string[] | undefined) => void;
}) {
  const about = limit.curves ?? curves;
  const set = (id: string, on: boolean) => {
    const next = curves.filter((c) => (c === id ? on : about.includes(c)));
    if (next.length > 0) onChange(next.length === curves.length ? undefined : next);
  };
  return (
    <About role="group" aria-label="curves of the limit">
      <Quiet>for</Quiet>
      {curves.map((id) => (
        <label key={id}>
          <input
            type="checkbox"
            checked={about.includes(id)}
            onChange={(event) => set(id, event.target.checked)}
          />
          {id}
        </label>
      ))}
    </About>
  );
}

const PORT = 'port';

/** From where a Smith chart looks, and against which impedance. */
function PlanePart({
  plot,
  design,
  errors,
  onChange,
}: Pick<PlotDialogProps, 'plot' | 'design' | 'errors' | 'onChange'>) {
  const problem = errors.find((e) => e.id === plot.id)?.message;
  const pins = design.pieces.flatMap((piece) =>
    piece.kind === 'port'
      ? []
      : piece.nodes.map((_node, pin) => ({
          id: `${piece.id}:${pin}`,
          label: `into ${pinLabel(piece, pin)}`,
          look: { piece: piece.id, pin },
        })),
  );
  return (
    <Part>
      <SectionTitle>Looks</SectionTitle>
      <Select
        label="where the Smith chart looks from"
        value={plot.look ? `${plot.look.piece}:${plot.look.pin}` : PORT}
        choices={[{ id: PORT, label: 'from port 1' }, ...pins]}
        onChange={(id) =>
          onChange('look from another plane', { ...plot, look: pins.find((p) => p.id === id)?.look })
        }
      />
      <Quiet>
        The network is cut open at the pin, and one looks into the piece and what lies beyond it. Pins on the
        copper offer the same.
      </Quiet>
      <SectionTitle>Reference</SectionTitle>
      <QuantityInput
        label="reference of the Smith chart"
        kind="impedance"
        help="Impedance of the centre of the chart. Left empty, it is that of port 1."
        value={plot.reference ?? ''}
        placeholder="that of port 1"
        error={problem}
        onChange={(text) =>
          onChange('change the reference', { ...plot, reference: text.trim() === '' ? undefined : text })
        }
      />
    </Part>
  );
}
