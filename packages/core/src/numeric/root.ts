export interface RootOptions {
  /** Absolute tolerance on the argument. */
  readonly tolerance?: number;
  readonly maxIterations?: number;
}

/** There is no root where one was looked for. Whoever asked says in words what that means. */
export class RootError extends RangeError {}

/**
 * Root of a continuous function inside a bracket `[a, b]` whose ends have opposite signs.
 * Source: Brent 1973, "Algorithms for Minimization without Derivatives", chapter 4.
 * @returns the argument at which `f` vanishes to within the tolerance
 * @throws RootError when the ends do not bracket a root
 */
export function brent(f: (x: number) => number, a: number, b: number, options: RootOptions = {}): number {
  const tolerance = options.tolerance ?? 1e-15;
  const maxIterations = options.maxIterations ?? 100;
  let fa = f(a);
  let fb = f(b);
  if (fa === 0) return a;
  if (fb === 0) return b;
  if (!(fa * fb < 0)) throw new RootError('there is no solution for these values');
  let c = a;
  let fc = fa;
  let step = b - a;
  let previous = step;
  for (let i = 0; i < maxIterations; i++) {
    if (Math.abs(fc) < Math.abs(fb)) {
      a = b;
      b = c;
      c = a;
      fa = fb;
      fb = fc;
      fc = fa;
    }
    const limit = 2 * Number.EPSILON * Math.abs(b) + 0.5 * tolerance;
    const half = 0.5 * (c - b);
    if (Math.abs(half) <= limit || fb === 0) return b;
    if (Math.abs(previous) < limit || Math.abs(fa) <= Math.abs(fb)) {
      step = half;
      previous = half;
    } else {
      const s = fb / fa;
      let p: number;
      let q: number;
      if (a === c) {
        p = 2 * half * s;
        q = 1 - s;
      } else {
        const r = fb / fc;
        const t = fa / fc;
        p = s * (2 * half * t * (t - r) - (b - a) * (r - 1));
        q = (t - 1) * (r - 1) * (s - 1);
      }
      if (p > 0) q = -q;
      else p = -p;
      if (2 * p < Math.min(3 * half * q - Math.abs(limit * q), Math.abs(previous * q))) {
        previous = step;
        step = p / q;
      } else {
        step = half;
        previous = half;
      }
    }
    a = b;
    fa = fb;
    b += Math.abs(step) > limit ? step : half > 0 ? limit : -limit;
    fb = f(b);
    if (fb * fc > 0) {
      c = a;
      fc = fa;
      step = b - a;
      previous = step;
    }
  }
  return b;
}
