import { leastSquares } from '../../numeric';
import { extremes } from './extremes';
import { characteristic, characteristicSquared, type Lossless } from './lossless';
import {
  checkShape,
  edgeOf,
  FilterError,
  lowpassElements,
  refuseEvenRipple,
  type FilterShape,
} from './prototype';

export interface SteppedSpecification extends FilterShape {
  /** Impedances of the wide and the narrow lines over that of the terminations. */
  readonly low: number;
  readonly high: number;
  /** Which stands at the ends, or at port 1. */
  readonly first: 'low' | 'high';
}

/** Products of power series up to the length of the first. */
function times(a: Float64Array, b: Float64Array): Float64Array {
  const out = new Float64Array(a.length);
  for (let i = 0; i < a.length; i++) for (let j = 0; i + j < a.length; j++) out[i + j] += a[i] * b[j];
  return out;
}

/** Coefficients of what has to vanish for a flat start, and of what is left: S11/S21 over the frequency, its real and imaginary parts in turn. */
function series(impedances: readonly number[], theta: readonly number[], length: number): Float64Array {
  const zero = () => new Float64Array(length);
  const one = zero();
  one[0] = 1;
  let [a, b, c, d] = [one, zero(), zero(), one];
  impedances.forEach((z, i) => {
    const [cos, sin] = [zero(), zero()];
    let term = 1;
    for (let k = 0; k < length; k++) {
      if (k > 0) term *= theta[i] / k;
      (k % 2 ? sin : cos)[k] = k % 4 < 2 ? term : -term;
    }
    const minus = (x: Float64Array, y: Float64Array) => x.map((v, k) => v - y[k]);
    const plus = (x: Float64Array, y: Float64Array) => x.map((v, k) => v + y[k]);
    const [zs, ys] = [sin.map((v) => v * z), sin.map((v) => v / z)];
    [a, b, c, d] = [
      minus(times(a, cos), times(b, ys)),
      plus(times(a, zs), times(b, cos)),
      plus(times(c, cos), times(d, ys)),
      minus(times(d, cos), times(c, zs)),
    ];
  });
  return a.map((v, k) => (k % 2 ? b[k] - c[k] : v - d[k]) / 2);
}

/** Contrast by which the first step is easier than what is asked, and the factor from step to step. */
const EASY = 6;
const STEPS = 12;
const DONE = 1e-20;

/**
 * Lines of two impedances in turn that make a low-pass: their angles at the cutoff, radians. As many conditions as lines
 * are met exactly: maximally flat from zero frequency on with half the power at the cutoff, or equal ripple up to it. The
 * well-known small-angle lengths (g z for the wide, g/z for the narrow) are where it starts, at a higher contrast of
 * impedances, from which it comes down step by step.
 * @throws FilterError where lines of this contrast cannot
 */
export function designStepped({ order: n, ripple, low, high, first }: SteppedSpecification): number[] {
  const shape = { order: n, ripple };
  checkShape(shape);
  refuseEvenRipple(shape);
  if (!(low < 1)) throw new FilterError('zLow', 'must be below the system impedance');
  if (!(high > 1)) throw new FilterError('zHigh', 'must be above the system impedance');
  const wide = (i: number) => (i % 2 === 0) === (first === 'low');
  const g = lowpassElements(shape);
  const edge = edgeOf(shape);
  // What is its own mirror image has half as many unknowns.
  const mirrored = n % 2 === 1;
  const count = mirrored ? (n + 1) / 2 : n;
  const full = (x: readonly number[]) =>
    Array.from({ length: n }, (_, i) => Math.exp(x[mirrored ? Math.min(i, n - 1 - i) : i]));
  /** The lines at a contrast eased by a factor, from where a search starts; undefined where it does not get there. */
  const solve = (start: readonly number[], ease: number): { x: number[]; angles: number[] } | undefined => {
    const z = Array.from({ length: n }, (_, i) => (wide(i) ? low / ease : high * ease));
    const value = (theta: readonly number[], f: number): Lossless => {
      let [a, b, c, d] = [1, 0, 0, 1];
      for (let i = 0; i < n; i++) {
        const [cos, sin] = [Math.cos(theta[i] * f), Math.sin(theta[i] * f)];
        const [zs, ys] = [z[i] * sin, sin / z[i]];
        [a, b, c, d] = [a * cos - b * ys, a * zs + b * cos, c * cos + d * ys, d * cos - c * zs];
      }
      return { a, b, c, d };
    };
    // What stays alike from step to step is the reactance, not the angle.
    const anglesOf = (y: readonly number[]) => full(y).map((v, i) => (wide(i) ? v * z[i] : v / z[i]));
    const possible = (theta: readonly number[]) => theta.every((t) => t < Math.PI / 2);
    const flat = (y: readonly number[], out: Float64Array): boolean => {
      const theta = anglesOf(y);
      if (!possible(theta)) return false;
      const c = series(z, theta, n);
      let row = 0;
      for (let i = 1; i < n; i++) if (!mirrored || i % 2 === 1) out[row++] = c[i];
      out[row] = Math.sqrt(characteristicSquared(value(theta, 1))) - edge;
      return true;
    };
    const rippled = (y: readonly number[], out: Float64Array): boolean => {
      const theta = anglesOf(y);
      if (!possible(theta)) return false;
      const k = (f: number) => characteristic(value(theta, f));
      const inner = extremes(k, 0, 1, 12 * n);
      if (inner.length < count - 1) return false;
      for (let i = 0; i < count - 1; i++) out[i] = Math.abs(inner[i].y) - edge;
      out[count - 1] = Math.abs(k(1)) - edge;
      return true;
    };
    const found = leastSquares(ripple > 0 ? rippled : flat, start, count, {
      step: 1e-6,
      maxIterations: 40,
      tolerance: 1e-12,
    });
    return found.cost < DONE ? { x: found.x, angles: anglesOf(found.x) } : undefined;
  };
  const start = g.slice(0, count).map(Math.log);
  const direct = solve(start, 1);
  if (direct) return direct.angles;
  let at = { x: start, angles: [] as number[] };
  for (let k = STEPS; k >= 0; k--) {
    const next = solve(at.x, Math.pow(EASY, k / STEPS));
    if (!next)
      throw new FilterError(
        'zHigh',
        `and the low impedance are too close to one another for ${n} sections of this shape: take a higher one, or a lower low impedance`,
      );
    at = next;
  }
  return at.angles;
}
