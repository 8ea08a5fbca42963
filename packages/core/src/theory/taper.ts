import { gaussLegendre } from '../numeric';

export type TaperProfile = 'klopfenstein' | 'exponential' | 'linear';

/** Modified Bessel function I1(x)/x by its power series, good to rounding for the arguments of tapers (below 30). */
function besselRatio(x: number): number {
  const q = (x * x) / 4;
  let term = 0.5;
  let sum = term;
  for (let k = 1; k < 200 && term > 1e-17 * sum; k++) {
    term *= q / (k * (k + 1));
    sum += term;
  }
  return sum;
}

/** phi(x, A) = integral from 0 to x of I1(A sqrt(1 - y^2)) / (A sqrt(1 - y^2)) dy; odd in x. */
export function klopfensteinPhi(x: number, a: number): number {
  const { nodes, weights } = gaussLegendre(24);
  let sum = 0;
  for (let i = 0; i < nodes.length; i++) {
    const y = (x * (nodes[i] + 1)) / 2;
    sum += weights[i] * besselRatio(a * Math.sqrt(Math.max(0, 1 - y * y)));
  }
  return (sum * x) / 2;
}

/** A taper that cannot be: `field` is what to change. */
export class TaperError extends RangeError {
  constructor(
    readonly field: 'reflection',
    message: string,
  ) {
    super(message);
  }
}

/**
 * Impedance along a taper from `z1` to `z2` (ohm) at the share `t` of its length. Linear in impedance; exponential:
 * linear in its logarithm; Klopfenstein: the least reflection for a given length, with a small step at either end
 * (Klopfenstein 1956). `reflection` is the largest |S11| that a Klopfenstein taper has in its band.
 * @throws TaperError where the ends alone reflect no more than `reflection`
 */
export function taperImpedance(
  profile: TaperProfile,
  z1: number,
  z2: number,
  reflection: number,
): (t: number) => number {
  if (profile === 'linear') return (t) => z1 + (z2 - z1) * t;
  const half = Math.log(z2 / z1) / 2;
  if (profile === 'exponential') return (t) => z1 * Math.exp(2 * half * t);
  if (half === 0) return () => z1;
  if (!(reflection > 0 && reflection < Math.abs(half)))
    throw new TaperError(
      'reflection',
      `must be above zero and below ${Number(Math.abs(half).toPrecision(3))}, which the two ends reflect without a taper`,
    );
  const ratio = Math.abs(half) / reflection;
  const a = Math.acosh(ratio);
  const middle = Math.log(z1 * z2) / 2;
  return (t) => Math.exp(middle + (half / ratio) * a * a * klopfensteinPhi(2 * t - 1, a));
}

/** Electrical length in radians from which on a Klopfenstein taper keeps its reflection. */
export const klopfensteinEdge = (z1: number, z2: number, reflection: number): number =>
  Math.acosh(Math.abs(Math.log(z2 / z1)) / 2 / reflection);
