/**
 * A straight piece of a conductor's outline with charge spread evenly over it, along x (`along` 1) or along y (-1).
 * Lengths are in one unit of the caller's.
 */
export interface Panel {
  readonly along: 1 | -1;
  /** Middle. */
  readonly x: number;
  readonly y: number;
  /** Half its length. */
  readonly a: number;
}

/** sin(x) / x: what a panel of half length a leaves of a wave of number k, for x = k a. */
export const sinc = (x: number): number => (x < 1e-3 ? 1 - (x * x) / 6 : Math.sin(x) / x);

/** Twice the integral of -(1/2) ln(u^2 + d^2) over u, each from 0. */
function twice(u: number, d: number): number {
  const r2 = u * u + d * d;
  if (r2 === 0) return 0;
  const turned = d === 0 ? 0 : 2 * u * d * Math.atan2(u, d);
  return -0.5 * (0.5 * (u * u - d * d) * Math.log(r2) - 1.5 * u * u + turned);
}

/** The integral of -(1/2) ln(x^2 + y^2) over x and over y, each from 0. */
function both(x: number, y: number): number {
  const r2 = x * x + y * y;
  if (x === 0 || y === 0) return 0;
  return -0.5 * (x * y * (Math.log(r2) - 3) + x * x * Math.atan(y / x) + y * y * Math.atan(x / y));
}

/** Distance over the panels' half lengths beyond which their moments stand for them, to some 1e-6. */
const FAR = 3;

/**
 * Mean over panel p, and over panel q moved by (dx, dy) from its middle to p's, of -ln r: the potential that a line
 * charge spread over q has on p, times 2 pi epsilon. In closed form; from afar by moments up to the fourth.
 *
 * @param dx,dy from the middle of q to the middle of p
 */
export function meanLog(
  alongP: 1 | -1,
  ap: number,
  alongQ: 1 | -1,
  aq: number,
  dx: number,
  dy: number,
): number {
  const r2 = dx * dx + dy * dy;
  const reach = FAR * (ap + aq);
  if (r2 > reach * reach) {
    // -ln z has the derivatives 1/z^2 and 6/z^4; along y their real parts change sign as the square and stay as the fourth.
    const c = (dx * dx - dy * dy) / (r2 * r2);
    const s = (2 * dx * dy) / (r2 * r2);
    const p2 = ap * ap;
    const q2 = aq * aq;
    return (
      -0.5 * Math.log(r2) +
      ((alongP * p2 + alongQ * q2) * c) / 6 +
      6 * (c * c - s * s) * ((p2 * p2 + q2 * q2) / 120 + (alongP * alongQ * p2 * q2) / 36)
    );
  }
  if (alongP === alongQ) {
    const u = alongP === 1 ? dx : dy;
    const d = Math.abs(alongP === 1 ? dy : dx);
    return (
      (twice(u + ap + aq, d) + twice(u - ap - aq, d) - twice(u + ap - aq, d) - twice(u - ap + aq, d)) /
      (4 * ap * aq)
    );
  }
  const [a, b] = alongP === 1 ? [ap, aq] : [aq, ap];
  return (
    (both(dx + a, dy + b) + both(dx - a, dy - b) - both(dx + a, dy - b) - both(dx - a, dy + b)) /
    (4 * ap * aq)
  );
}

/**
 * Cuts from `from` to `to` that crowd towards the ends where charge is singular.
 * @param n pieces
 * @param first,last share of the whole of the first and of the last piece; 0 where that end is smooth
 */
export function cuts(from: number, to: number, n: number, first: number, last: number): Float64Array {
  // As a power of the distance to the end, whose exponent makes the first piece as small as it is wanted.
  const end = (share: number, m: number) => {
    const power = Math.max(1, Math.log(share) / Math.log(1 / m));
    return (i: number) => (i / m) ** power;
  };
  const out = new Float64Array(n + 1);
  if (first > 0 && last > 0) {
    const m = n / 2;
    const near = end(Math.min(0.5, 2 * first), m);
    const far = end(Math.min(0.5, 2 * last), m);
    for (let i = 0; i <= n; i++) out[i] = i <= m ? 0.5 * near(i) : 1 - 0.5 * far(n - i);
  } else {
    const one = end(first || last || 1 / n, n);
    for (let i = 0; i <= n; i++) out[i] = first > 0 ? one(i) : 1 - one(n - i);
  }
  for (let i = 0; i <= n; i++) out[i] = from + (to - from) * out[i];
  return out;
}

/** Panels between neighbouring cuts, along x at height `at`, or along y at x = `at`. */
export const panelsAlong = (along: 1 | -1, at: number, between: Float64Array): Panel[] =>
  Array.from({ length: between.length - 1 }, (_, i) => {
    const middle = (between[i] + between[i + 1]) / 2;
    const a = (between[i + 1] - between[i]) / 2;
    return along === 1 ? { along, x: middle, y: at, a } : { along, x: at, y: middle, a };
  });
