import { differenceSteps } from './differences';
import { solveReal } from './matrix';
import { drive, type Steps } from './steps';

export interface LeastSquaresOptions {
  /** Step of each unknown for the differences of the Jacobian. */
  readonly step: number | readonly number[];
  readonly maxIterations?: number;
  /** Ends when an iteration lowers the sum of squares by less than this share. */
  readonly tolerance?: number;
  /** Bounds of each unknown. */
  readonly lower?: readonly number[];
  readonly upper?: readonly number[];
}

export interface LeastSquaresResult {
  readonly x: number[];
  /** Sum of squared residuals at `x`. */
  readonly cost: number;
  readonly iterations: number;
}

/**
 * Least squares by Levenberg's and Marquardt's damping (Marquardt 1963) with a Jacobian by central differences. Of
 * several solutions that are equally good it ends near the start, in the sense of the scaled unknowns.
 * Yields the share done of its iterations after each column of the Jacobian, so that the caller can let others have a
 * turn, or leave it.
 * @param residuals fills `out` (length `m`) for `x`; false where `x` is impossible
 */
export function* leastSquaresSteps(
  residuals: (x: readonly number[], out: Float64Array) => boolean,
  start: readonly number[],
  m: number,
  options: LeastSquaresOptions,
): Steps<LeastSquaresResult> {
  const n = start.length;
  const { maxIterations = 50, tolerance = 1e-12, lower, upper } = options;
  const steps = Array.from({ length: n }, (_, i) =>
    typeof options.step === 'number' ? options.step : options.step[i],
  );
  const clamp = (v: number, i: number) =>
    Math.min(upper?.[i] ?? Infinity, Math.max(lower?.[i] ?? -Infinity, v));
  let x = start.map(clamp);
  const r = new Float64Array(m);
  const trial = new Float64Array(m);
  const jacobian = new Float64Array(m * n);
  const sum = (v: Float64Array) => v.reduce((a, b) => a + b * b, 0);
  if (!residuals(x, r)) return { x, cost: Infinity, iterations: 0 };
  let cost = sum(r);
  let damping = 1e-3;
  let iteration = 0;
  for (; iteration < maxIterations && cost > 0; iteration++) {
    for (const done of differenceSteps(residuals, x, r, steps, jacobian))
      yield (iteration + done) / maxIterations;
    const normal = new Float64Array(n * n);
    const gradient = new Float64Array(n);
    for (let i = 0; i < m; i++)
      for (let j = 0; j < n; j++) {
        gradient[j] -= jacobian[i * n + j] * r[i];
        for (let k = 0; k < n; k++) normal[j * n + k] += jacobian[i * n + j] * jacobian[i * n + k];
      }
    let improved = false;
    while (damping < 1e12) {
      const a = Float64Array.from(normal);
      // Damping in units of the steps: an unknown without influence stays where it is.
      for (let j = 0; j < n; j++)
        a[j * n + j] += damping * (normal[j * n + j] + 1e-12 / (steps[j] * steps[j]));
      const d = solveReal(n, a, Float64Array.from(gradient));
      if (d.every(Number.isFinite)) {
        const next = x.map((v, j) => clamp(v + d[j], j));
        if (residuals(next, trial)) {
          const lowered = sum(trial);
          if (lowered < cost) {
            const share = (cost - lowered) / cost;
            x = next;
            r.set(trial);
            cost = lowered;
            damping = Math.max(damping / 9, 1e-12);
            improved = share > tolerance;
            break;
          }
        }
      }
      damping *= 4;
    }
    if (!improved) break;
    damping = Math.min(damping, 1e6);
  }
  return { x, cost, iterations: iteration };
}

/** The same in one go. */
export const leastSquares = (...args: Parameters<typeof leastSquaresSteps>): LeastSquaresResult =>
  drive(leastSquaresSteps(...args));
