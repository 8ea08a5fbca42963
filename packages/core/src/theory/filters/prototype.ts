/** What a filter is asked for: how many elements, and its ripple in dB; 0 is maximally flat. */
export interface FilterShape {
  readonly order: number;
  readonly ripple: number;
}

/** A filter that cannot be; `field` is what to change. */
export class FilterError extends RangeError {
  constructor(
    readonly field: 'order' | 'ripple' | 'bandwidth' | 'zLow' | 'zHigh' | 'fold',
    message: string,
  ) {
    super(message);
  }
}

/** |S11/S21| at an edge of the band: at half power where it is maximally flat, else at the ripple. */
export const edgeOf = ({ ripple }: FilterShape): number =>
  ripple > 0 ? Math.sqrt(Math.expm1((ripple * Math.LN10) / 10)) : 1;

/** @throws FilterError for what lies outside what is computed */
export function checkShape({ order, ripple }: FilterShape): void {
  if (!Number.isInteger(order) || order < 1 || order > MOST)
    throw new FilterError('order', `must be a whole number from 1 to ${MOST}`);
  if (!(ripple >= 0 && ripple <= 3.0103)) throw new FilterError('ripple', 'must lie between 0 and 3 dB');
  if (ripple > 0 && ripple < 1e-4) throw new FilterError('ripple', 'must be at least 0.0001 dB');
}
const MOST = 15;

/**
 * Equal ripple of an even order has its loss at zero frequency (or, of a band stop, far from it), where lines between
 * equal terminations have none. @throws FilterError offering the neighbouring orders
 */
export function refuseEvenRipple({ order, ripple }: FilterShape): void {
  if (ripple > 0 && order % 2 === 0)
    throw new FilterError(
      'order',
      `of an equal-ripple filter between equal terminations must be odd: take ${order - 1} or ${order + 1}`,
    );
}

/**
 * Elements of the low-pass ladder with its edge at 1 rad/s: g1 to gn, then the terminating resistance. Sources: maximally
 * flat, Bennett 1932; equal ripple, Belevitch 1952, Orchard 1953.
 */
export function lowpassElements(shape: FilterShape): number[] {
  const { order: n, ripple } = shape;
  const sine = (k: number) => Math.sin(((2 * k - 1) * Math.PI) / (2 * n));
  if (ripple === 0) return [...Array.from({ length: n }, (_, i) => 2 * sine(i + 1)), 1];
  // ln coth(ripple/17.37), and the hyperbolic sine of a share of it.
  const beta = Math.log(1 / Math.tanh((ripple * Math.LN10) / 40));
  const gamma = Math.sinh(beta / (2 * n));
  const g = [(2 * sine(1)) / gamma];
  for (let k = 2; k <= n; k++) {
    const b = gamma * gamma + Math.sin(((k - 1) * Math.PI) / n) ** 2;
    g.push((4 * sine(k - 1) * sine(k)) / (b * g[k - 2]));
  }
  return [...g, n % 2 ? 1 : 1 / Math.tanh(beta / 4) ** 2];
}

/** Chebyshev's polynomial of the first kind. */
export function chebyshevT(n: number, x: number): number {
  if (n < 0) return chebyshevT(-n, x);
  if (Math.abs(x) <= 1) return Math.cos(n * Math.acos(x));
  return Math.cosh(n * Math.acosh(Math.abs(x))) * (x < 0 && n % 2 ? -1 : 1);
}
