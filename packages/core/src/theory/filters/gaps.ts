import { equalised, invertersOf, passEdge } from './bandpass';
import { chain, characteristic, line, series, type Lossless } from './lossless';
import { checkShape, FilterError, type FilterShape } from './prototype';

const QUARTER = Math.PI / 2;

export interface GapSpecification extends FilterShape {
  /** Over the centre. */
  readonly bandwidth: number;
  /** Impedance of the resonators' lines over that of the terminations. */
  readonly resonator: number;
}

/** Half-wave lines end to end. */
export interface GapResonators {
  /** Susceptance of the capacitance across each gap at the centre, over the admittance of the terminations. */
  readonly gaps: readonly number[];
  /** Angles of the lines between them at the centre, radians. */
  readonly lines: readonly number[];
}

/**
 * Half-wave resonators coupled by the gaps between their ends: from capacitances as inverters to those whose ripple is equal
 * and whose edges stand, the frequency in the capacitances included. Source: Cohn 1957.
 * @throws FilterError
 */
export function designGapResonators(spec: GapSpecification): GapResonators {
  checkShape(spec);
  const { order: n, bandwidth, resonator: z } = spec;
  const edge = passEdge(bandwidth);
  // Inverters between the resonators' lines; towards the terminations their impedance counts.
  const j = invertersOf(spec, bandwidth).map((v, i) => (i === 0 || i === n ? v * Math.sqrt(z) : v));
  if (j.some((v) => v >= 0.95))
    throw new FilterError('bandwidth', 'is out of reach of gaps: take a narrower band');
  // A susceptance in series between lines of the resonators' admittance; the ends lie between unequal ones.
  const start = j.map((v, i) =>
    i === 0 || i === n ? v / (z * Math.sqrt(1 - (v * v) / z)) : v / (z * (1 - v * v)),
  );
  const lag = start.map((b, i) => {
    const bz = b * z;
    // Half of the angle that a gap takes from each line beside it; of an end one what the termination behind it leaves.
    return i === 0 || i === n ? Math.atan((2 * bz) / (1 + b * b - bz * bz)) : Math.atan(2 * bz);
  });
  const half = Math.floor(n / 2) + 1;
  const centre = Math.ceil(n / 2);
  const angles = Array.from({ length: centre }, (_, i) => Math.PI - (lag[i] + lag[i + 1]) / 2);
  const parts = (x: readonly number[]): GapResonators => ({
    gaps: Array.from({ length: n + 1 }, (_, i) => Math.exp(x[Math.min(i, n - i)])),
    lines: Array.from({ length: n }, (_, i) => Math.exp(x[half + Math.min(i, n - 1 - i)])),
  });
  const network = (x: readonly number[], theta: number): Lossless => {
    const { gaps, lines } = parts(x);
    const r = theta / QUARTER;
    return chain(
      ...gaps.flatMap((b, i) => [series(-1 / (b * r)), ...(i < n ? [line(z, lines[i] * r)] : [])]),
    );
  };
  const begun = [...start.slice(0, half), ...angles].map((v) => Math.log(Math.max(1e-3, v)));
  const found = equalised(spec, edge, begun, (x, theta) => characteristic(network(x, theta)));
  const made = found && parts(found);
  if (!made || made.lines.some((theta) => !(theta < Math.PI)))
    throw new FilterError(
      'bandwidth',
      'is out of reach of half-wave resonators with gaps of this order: take a narrower band',
    );
  return made;
}
