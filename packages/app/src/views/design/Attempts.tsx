import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { designDifferences } from '@ditch/core/compare';
import { closest } from '@ditch/core/levels';
import { resolveDesign, type Attempt, type Design, type Project } from '@ditch/core/network';
import { decibels, entryOf, interpolate } from '@ditch/core/results';
import { blended, inAttempt } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { Quiet, TextButton } from '../../controls/basics';
import { Select } from '../../controls/Select';
import { NameInput } from '../../controls/NameInput';
import { useResponses, type Task, type Wanted } from '../../responses';
import { useSolvedStates } from '../../responses/solvedStates';
import { edit, editDesign, endMerge } from '../../store/session';
import { colour } from '../../theme';

const Attempts = styled.div`
  position: absolute;
  z-index: 6;
  /* Over the copper: the curves stay in sight while one blends. */
  top: 8px;
  right: 8px;
  width: 420px;
  max-height: calc(100% - 16px);
  overflow: auto;
  padding: 12px 14px;
  border: 1px solid ${colour('rule')};
  border-radius: 8px;
  background: ${colour('raised')};
  box-shadow: 0 8px 30px rgb(0 0 0 / 16%);
  font-size: 12px;
  header,
  .row {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
  }
  .row {
    padding: 4px 0;
    border-top: 1px solid ${colour('rule')};
  }
  .row input:not([type]) {
    flex: 1;
  }
  table {
    width: 100%;
    margin: 4px 0;
    border-collapse: collapse;
  }
  th,
  td {
    padding: 2px 0 2px 10px;
    text-align: right;
    font-weight: 400;
  }
  th[scope='row'] {
    padding-left: 0;
    text-align: left;
  }
  thead th {
    color: ${colour('quiet')};
    font-size: 11px;
  }
  ul {
    margin: 4px 0 8px;
    padding-left: 16px;
    color: ${colour('quiet')};
  }
  label {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  input[type='range'] {
    flex: 1;
    accent-color: ${colour('water')};
  }
`;

export interface AttemptProps {
  readonly project: Project;
  readonly design: Design;
  readonly beside: readonly string[];
  readonly onBeside: (ids: readonly string[]) => void;
  readonly onClose: () => void;
}

/** The states that were kept: beside the present one, blended back to, compared in words. */
export function AttemptList({ project, design, beside, onBeside, onClose }: AttemptProps) {
  const attempts = design.attempts ?? [];
  const [chosenId, setChosen] = useState(attempts[0]?.id);
  const [against, setAgainst] = useState('now');
  const chosen = attempts.find((a) => a.id === chosenId) ?? attempts[0];
  // Where the blend began: it ends when anything else is edited.
  const [blend, setBlend] = useState<{ from: Design; share: number; last: Design }>();
  const blending = blend?.last === design ? blend : undefined;
  const rename = (attempt: Attempt, name: string) =>
    editDesign(
      design.id,
      'rename an attempt',
      (d) => ({ ...d, attempts: d.attempts?.map((a) => (a.id === attempt.id ? { ...a, name } : a)) }),
      `attempt:${attempt.id}`,
    );
  const blendTo = (share: number) => {
    const from = blending?.from ?? design;
    let last = design;
    edit(
      `blend to ${chosen.name}`,
      (p) => {
        const next = blended(p, from, chosen, share);
        last = next.designs.find((d) => d.id === design.id)!;
        return next;
      },
      `${design.id}:blend:${chosen.id}`,
    );
    setBlend({ from, share, last });
  };
  const other = attempts.find((a) => a.id === against && a.id !== chosen.id);
  const pair = useMemo(
    () => [
      { name: chosen.name, design: inAttempt(design, chosen) },
      other ? { name: other.name, design: inAttempt(design, other) } : { name: 'now', design },
    ],
    [design, chosen, other],
  );
  const words = designDifferences(inAttempt(design, chosen), other ? inAttempt(design, other) : design);
  return (
    <Attempts role="dialog" aria-label="Attempts">
      <header>
        <b>Attempts</b>
        <TextButton onPress={onClose}>close</TextButton>
      </header>
      {attempts.map((attempt) => (
        <div className="row" key={attempt.id}>
          <label>
            <input
              type="radio"
              name="attempt"
              aria-label={`choose ${attempt.name}`}
              checked={attempt.id === chosen.id}
              onChange={() => setChosen(attempt.id)}
            />
          </label>
          <NameInput
            label={`name of ${attempt.name}`}
            value={attempt.name}
            onChange={(name) => rename(attempt, name)}
          />
          <label>
            <input
              type="checkbox"
              aria-label={`draw ${attempt.name} beside`}
              checked={beside.includes(attempt.id)}
              onChange={(event) =>
                onBeside(
                  event.target.checked ? [...beside, attempt.id] : beside.filter((id) => id !== attempt.id),
                )
              }
            />
            beside
          </label>
          <TextButton
            aria-label={`forget ${attempt.name}`}
            onPress={() => {
              onBeside(beside.filter((id) => id !== attempt.id));
              editDesign(design.id, `forget ${attempt.name}`, (d) => ({
                ...d,
                attempts: d.attempts?.filter((a) => a.id !== attempt.id),
              }));
            }}
          >
            forget
          </TextButton>
        </div>
      ))}
      <div className="row">
        <label style={{ flex: 1 }}>
          blend to {chosen.name}
          <input
            type="range"
            min={0}
            max={100}
            value={Math.round((blending?.share ?? 0) * 100)}
            aria-label={`blend to ${chosen.name}`}
            onChange={(event) => blendTo(Number(event.target.value) / 100)}
            onPointerUp={endMerge}
          />
        </label>
        <TextButton onPress={() => blendTo(1)}>take it</TextButton>
      </div>
      <div className="row">
        <span>{chosen.name} against</span>
        <div style={{ flex: 1 }}>
          <Select
            label="compare with"
            value={other ? other.id : 'now'}
            choices={[
              { id: 'now', label: 'the present state' },
              ...attempts.filter((a) => a.id !== chosen.id).map((a) => ({ id: a.id, label: a.name })),
            ]}
            onChange={setAgainst}
          />
        </div>
      </div>
      <Numbers project={project} states={pair} />
      {words.length === 0 ? (
        <Quiet>No difference.</Quiet>
      ) : (
        <ul aria-label="differences">
          {words.slice(0, 40).map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
      )}
    </Attempts>
  );
}

/** What states of a design come to, side by side. */
function Numbers({
  project,
  states,
}: {
  project: Project;
  states: readonly { readonly name: string; readonly design: Design }[];
}) {
  const resolved = useMemo(
    () => states.map(({ design }) => resolveDesign(project, design)),
    [project, states],
  );
  const solved = useSolvedStates(
    useMemo(() => states.map(({ design }) => ({ project, design })), [project, states]),
    resolved[0].sweep,
  );
  const level = solved ? 'solved' : closest.id;
  const wanted = useMemo((): Wanted | undefined => {
    const [{ f0: near, goal, sweep }] = resolved;
    return (
      sweep && {
        sweep,
        data: project.data,
        match: near === undefined ? undefined : { near, target: -goal },
        at: resolved.flatMap((r) => r.f0 ?? []),
        tasks: resolved.flatMap((r, i): Task[] => {
          const subject = solved ? solved[i] : closest.subject(r);
          return subject ? [{ id: String(i), level, subject, first: true, read: true }] : [];
        }),
      }
    );
  }, [resolved, project.data, level, solved]);
  const { results, current } = useResponses(wanted);
  const rows = states.map(({ name }, i) => {
    const { f0 } = resolved[i];
    const result = current.has(String(i)) ? results.get(String(i)) : undefined;
    if (!result || f0 === undefined) return { name };
    const at = interpolate(entryOf(result.data, 0, 0), f0);
    return { name, level: decibels(at.re, at.im), match: result.match };
  });
  return (
    <table aria-label="numbers">
      <thead>
        <tr>
          <th scope="col">{level}</th>
          <th scope="col">|S11| at f0</th>
          <th scope="col">best at</th>
          <th scope="col">band</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ name, level, match }) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td>{level === undefined ? '\u2013' : `${formatNumber(Math.max(-200, level), 3)} dB`}</td>
            <td>{match ? formatQuantity(match.best, 'frequency', { digits: 5 }) : '\u2013'}</td>
            <td>
              {match?.band
                ? formatQuantity(match.band.high - match.band.low, 'frequency', { digits: 3 })
                : '\u2013'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
