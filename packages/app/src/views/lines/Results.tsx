import styled from 'styled-components';
import { crosstalk, type ResolvedSheet } from '@ditch/core/network';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { Quiet } from '../../controls/basics';
import { colour } from '../../theme';
import { shownValue } from '../FaceEditor';

const List = styled.dl<{ $strong?: boolean }>`
  display: grid;
  grid-template-columns: 1fr auto;
  row-gap: 5px;
  dt {
    color: ${colour('quiet')};
  }
  dd {
    text-align: right;
    font-weight: ${({ $strong }) => ($strong ? 600 : 500)};
  }
`;
const Origin = styled(Quiet)`
  display: block;
  font-size: 11px;
`;

const percent = (share: number): string => `${formatNumber(Math.abs(share) * 100, 2)} %`;
const signed = (share: number): string =>
  Math.abs(share) < 5e-5 ? 'the same' : `${percent(share)} ${share > 0 ? 'above' : 'below'}`;

/** What a line is, one row a quantity; of a pair both modes in one. */
export function Results({ resolved }: { resolved: ResolvedSheet }) {
  const { analysis, dimensions, shape, values, freq, stack } = resolved;
  if (!analysis || !dimensions || !stack) return null;
  const { modes } = analysis;
  const length = values?.length?.re;
  const loss = analysis.lossConductor + analysis.lossDielectric;
  const each = (read: (mode: (typeof modes)[number]) => number, digits = 4) =>
    modes.map((m) => formatNumber(read(m), digits)).join(' / ');
  const heard =
    shape.id === 'pair' && length !== undefined && length > 0 && freq !== undefined
      ? crosstalk(modes, length, freq)
      : undefined;
  const decibels = (x: number) => (x > 150 ? 'none' : `\u2212${formatNumber(x, 3)} dB`);
  const rows: [string, string][] = [
    ['effective permittivity', each((m) => m.eeff)],
    ['velocity factor', each((m) => 1 / Math.sqrt(m.eeff))],
    [
      modes.length > 1 ? 'guided wavelength, mean' : 'guided wavelength',
      formatQuantity(analysis.wavelength, 'length'),
    ],
    ['width to height', formatNumber(dimensions[0] / stack.substrate.height, 4)],
    ['loss, conductor', `${each((m) => m.lossConductor, 3)} dB/m`],
    ['loss, dielectric', `${each((m) => m.lossDielectric, 3)} dB/m`],
    ['loss per wavelength', `${formatNumber(loss * analysis.wavelength, 3)} dB`],
    [
      'loss over this length',
      length === undefined
        ? '\u2013'
        : `${formatNumber(loss * length, 3)} dB = ${formatNumber(analysis.lossConductor * length, 3)} + ${formatNumber(analysis.lossDielectric * length, 3)}`,
    ],
    ...(heard
      ? ([
          ['crosstalk, near end', decibels(heard.near)],
          ['crosstalk, far end', decibels(heard.far)],
          ['near end, worst to here', decibels(heard.worst)],
        ] as [string, string][])
      : []),
    ['skin depth', formatQuantity(analysis.skinDepth, 'length', { digits: 3 })],
    ['first higher-order mode', formatQuantity(analysis.higherOrderMode, 'frequency', { digits: 3 })],
  ];
  return (
    <>
      {shape.id === 'pair' && <OtherWays resolved={resolved} />}
      {modes.length > 1 && <Origin>Even / odd mode where two values stand.</Origin>}
      <List>
        {rows.map(([name, value]) => [<dt key={name}>{name}</dt>, <dd key={`${name}-value`}>{value}</dd>])}
      </List>
      <OriginOf resolved={resolved} />
    </>
  );
}

/** Which model answers, and how far the closed form is off here. */
function OriginOf({ resolved: { origin } }: { resolved: ResolvedSheet }) {
  if (!origin) return null;
  const { answers, error, closed } = origin;
  return (
    <Origin role="note" aria-label="Where it comes from">
      Static values by {answers}
      {error > 0 ? `, within ${percent(error)}` : ''}.
      {closed
        ? ` ${closed.source} ${closed.eeff === 0 ? `would be ${signed(closed.z0)}` : `would have the impedance ${signed(closed.z0)}, the permittivity ${signed(closed.eeff)}`}.`
        : ''}
    </Origin>
  );
}

/** What a pair is in the words of the other ways to ask for it. */
function OtherWays({ resolved: { shape, system, values } }: { resolved: ResolvedSheet }) {
  return (
    <List $strong>
      {shape.systems
        .filter((s) => s.id !== system.id)
        .flatMap((s) => s.across.map((p) => p.faces[0]))
        .map((face) => [
          <dt key={face.name}>{face.label.toLowerCase()}</dt>,
          <dd key={`${face.name}-value`}>{shownValue(values?.[face.name], face)}</dd>,
        ])}
    </List>
  );
}
