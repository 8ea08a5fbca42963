import styled from 'styled-components';
import { rolesOf } from '@ditch/core/plots';
import type { SData } from '@ditch/core/results';
import type { Retuned } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { Button, PrimaryButton, Quiet, SectionTitle } from '../../controls/basics';
import { Dialog } from '../../controls/Dialog';
import { Figures } from './Figures';
import type { Retuning } from './retuning';
import { SearchTrail } from './SearchTrail';
import { SolvedSteps } from './SolvedSteps';

const Table = styled(Figures)`
  td:last-child {
    font-weight: 600;
  }
`;
const Buttons = styled.div`
  display: flex;
  gap: 8px;
`;

const dB = (s: SData, i: number, j: number) =>
  20 * Math.log10(Math.max(1e-10, Math.hypot(s.re[i * s.ports + j], s.im[i * s.ports + j])));
const shown = (x: number) => (x < -120 ? 'below \u2212120' : formatNumber(x, 3));

/** What became of a limit, in words. */
const verdict = (over: number, unit: string): string =>
  over > 0
    ? `missed by ${formatNumber(over, 3)} ${unit}`
    : `kept, ${formatNumber(-over, 3)} ${unit} to spare`;

interface Row {
  readonly name: string;
  readonly values: readonly [string, string, string];
}

/** What a response is at the design frequency, before and after: the worst match, isolation, split and phase. */
function rowsOf({ ideal, was, is }: Retuned): Row[] {
  const roles = rolesOf(ideal, ideal.freq[0]);
  const all = [ideal, was, is] as const;
  const each = (read: (s: SData) => string): Row['values'] => [read(all[0]), read(all[1]), read(all[2])];
  const matched = Array.from({ length: ideal.ports }, (_, i) => i).filter((i) => dB(ideal, i, i) < -20);
  const rows: Row[] = [];
  if (matched.length > 0)
    rows.push({
      name: matched.length > 1 ? 'worst match, dB' : `match of port ${matched[0] + 1}, dB`,
      values: each((s) => shown(Math.max(...matched.map((i) => dB(s, i, i))))),
    });
  const apart: [number, number][] = [];
  for (let i = 0; i < ideal.ports; i++)
    for (let j = 0; j < i; j++) if (dB(ideal, i, j) < -30) apart.push([i, j]);
  if (apart.length > 0)
    rows.push({
      name: 'worst isolation, dB',
      values: each((s) => shown(Math.max(...apart.map(([i, j]) => dB(s, i, j))))),
    });
  const [a, b] = roles.outputs;
  if (b !== undefined) {
    rows.push({
      name: `S${a + 1}1 over S${b + 1}1, dB`,
      values: each((s) => formatNumber(Math.round((dB(s, a, 0) - dB(s, b, 0)) * 1e4) / 1e4, 3)),
    });
    rows.push({
      name: `S${a + 1}1 against S${b + 1}1, degrees`,
      values: each((s) => {
        const n = s.ports;
        const phase = (i: number) => Math.atan2(s.im[i * n], s.re[i * n]);
        const d = phase(a) - phase(b);
        const angle = (Math.atan2(Math.sin(d), Math.cos(d)) * 180) / Math.PI;
        return formatNumber(Math.round(angle * 1e6) / 1e6 || 0, 4);
      }),
    });
  }
  return rows;
}

/** Before and after, and what moved, with the choice to take it. */
export default function RetuneDialog({ retuning }: { retuning: Retuning }) {
  const { result } = retuning;
  if (!result) return null;
  const rows = rowsOf(result);
  const missed = result.limits?.filter((l) => l.after > 0) ?? [];
  const better = result.limits
    ? result.after < result.before - 1e-6 * Math.max(1, result.before)
    : result.moved.length > 0 && result.after <= result.before;
  const solved = 'steps' in result ? result : undefined;
  const level = solved ? 'solved' : 'modelled';
  const title = !result.limits
    ? solved
      ? better
        ? 'Retuned to the solved response'
        : 'The solved response was not brought nearer'
      : 'Retuned'
    : result.before <= 0
      ? 'The limits are kept already'
      : !better
        ? 'The limits were not brought nearer'
        : missed.length === 0
          ? 'The limits are met'
          : 'Nearer to the limits';
  // What would have to go further than it may.
  const ends = (result.stopped ?? []).map(
    (s) => `${s.label} is at its ${s.end}, ${formatQuantity(s.value, s.kind, { digits: 4 })}`,
  );
  const stopped =
    ends.length > 0
      ? ` ${ends.join('; ')}: a wider range may lead further.`
      : retuning.width === 'near'
        ? ' No value is at its end: a search of the whole ranges, other values on the strip, or wider limits may lead there.'
        : ' Other values on the strip, or wider limits, may lead there.';
  const Take = better ? PrimaryButton : Button;
  const Leave = better ? Button : PrimaryButton;
  return (
    <Dialog title={title} open onClose={retuning.discard}>
      {solved && (
        <>
          <SectionTitle>
            {solved.solves} solution{solved.solves === 1 ? '' : 's'} of the copper
          </SectionTitle>
          <SolvedSteps steps={solved.steps} towards={solved.towards} />
        </>
      )}
      {result.limits && (
        <p style={{ marginBottom: 12 }}>
          {missed.length === 0
            ? better
              ? 'With these values every limit is kept.'
              : 'Every limit is kept as it is.'
            : `Still missed: ${missed
                .map(
                  (l) =>
                    `${l.label} by ${formatNumber(l.after, 3)} ${l.unit} at ${formatQuantity(l.at, 'frequency', { digits: 4 })}`,
                )
                .join('; ')}.${stopped}`}
        </p>
      )}
      {result.trail && result.trail.length > 1 && (
        <div style={{ maxWidth: 300, marginBottom: 10 }}>
          <SectionTitle>Worst miss over {result.solves} states</SectionTitle>
          <SearchTrail trail={result.trail} evaluations={result.solves} />
        </div>
      )}
      {result.limits && (
        <>
          <SectionTitle>Limits of the plots</SectionTitle>
          <Table>
            <thead>
              <tr>
                <th scope="col">modelled</th>
                <th scope="col">before</th>
                <th scope="col">after</th>
              </tr>
            </thead>
            <tbody>
              {result.limits.map((l, i) => (
                <tr key={i}>
                  <td>{l.label}</td>
                  <td>{verdict(l.before, l.unit)}</td>
                  <td>{verdict(l.after, l.unit)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </>
      )}
      {rows.length > 0 && (
        <>
          <SectionTitle>At {formatQuantity(result.ideal.freq[0], 'frequency', { digits: 5 })}</SectionTitle>
          <Table>
            <thead>
              <tr>
                <th scope="col">{level}</th>
                <th scope="col">ideal</th>
                <th scope="col">before</th>
                <th scope="col">after</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.name}>
                  <td>{row.name}</td>
                  {row.values.map((v, i) => (
                    <td key={i}>{v}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </Table>
        </>
      )}
      <SectionTitle>What moves</SectionTitle>
      {result.moved.length === 0 ? (
        <p>
          <Quiet>Nothing: the response stands where it can.</Quiet>
        </p>
      ) : (
        <Table>
          <thead>
            <tr>
              <th scope="col">{result.limits ? 'value' : 'copper'}</th>
              <th scope="col">before</th>
              <th scope="col">after</th>
            </tr>
          </thead>
          <tbody>
            {result.moved.map((m) => (
              <tr key={m.label}>
                <td>{m.label}</td>
                <td>{formatQuantity(m.from, m.kind, { digits: 4 })}</td>
                <td>{formatQuantity(m.to, m.kind, { digits: 4 })}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {(result.left?.length ?? 0) > 0 && (
        <p style={{ marginBottom: 12 }}>
          <Quiet>Given, and left alone: {result.left!.join('; ')}.</Quiet>
        </p>
      )}
      <Buttons>
        <Take isDisabled={result.moved.length === 0} onPress={retuning.take} autoFocus={better}>
          Take it
        </Take>
        <Leave onPress={retuning.discard} autoFocus={!better}>
          Leave it
        </Leave>
        {(result.limits ?? solved) && (
          <Button isDisabled={result.moved.length === 0} onPress={retuning.keep}>
            Keep as an attempt
          </Button>
        )}
        {missed.length > 0 && (
          <Button onPress={() => retuning.start('limits', 'wide')}>
            {retuning.width === 'near' ? 'Search the whole ranges' : 'Search them again'}
          </Button>
        )}
      </Buttons>
    </Dialog>
  );
}
