import { solve, type Constraint } from 'yalps';
import { differenceSteps } from './differences';
import { drive, type Steps } from './steps';

export interface MinimaxOptions {
  /** Step of each unknown for the differences of the Jacobian. */
  readonly step: readonly number[];
  /** Bounds of each unknown. */
  readonly lower: readonly number[];
  readonly upper: readonly number[];
  readonly maxIterations?: number;
  /** Ends when an iteration lowers the largest residual by less than this share of it. */
  readonly tolerance?: number;
}

export interface MinimaxResult {
  readonly x: readonly number[];
  /** The largest residual at `x`. */
  readonly worst: number;
}

/** The first trust region, in steps of the differences, and the least one that is still looked into. */
const TRUST = { first: 30, least: 1e-3 } as const;

/**
 * The step within a box that makes the largest of linear residuals least: a linear program (each unknown moved so that it
 * begins at zero, as such programs want it).
 */
function linearStep(
  residuals: Float64Array,
  jacobian: Float64Array,
  low: readonly number[],
  high: readonly number[],
): { readonly d: readonly number[]; readonly worst: number } | undefined {
  const n = low.length;
  const m = residuals.length;
  const span = high.map((h, j) => h - low[j]);
  // Residuals at the low corner, and the least that any of them can become: the largest residual counts from there.
  const corner = Array.from(residuals, (r, i) => {
    let at = r;
    for (let j = 0; j < n; j++) at += jacobian[i * n + j] * low[j];
    return at;
  });
  const floor = Math.min(
    ...corner.map((c, i) => span.reduce((s, w, j) => s + Math.min(0, jacobian[i * n + j] * w), c)),
  );
  const constraints: [string, Constraint][] = [];
  for (let i = 0; i < m; i++) constraints.push([`r${i}`, { max: floor - corner[i] }]);
  for (let j = 0; j < n; j++) constraints.push([`b${j}`, { max: 1 }]);
  const unknowns: [string, [string, number][]][] = span.map((w, j) => [
    `x${j}`,
    [
      ...Array.from({ length: m }, (_, i): [string, number] => [`r${i}`, jacobian[i * n + j] * w]),
      [`b${j}`, 1],
    ],
  ]);
  unknowns.push(['t', [['t', 1], ...Array.from({ length: m }, (_, i): [string, number] => [`r${i}`, -1])]]);
  const solution = solve({ direction: 'minimize', objective: 't', constraints, variables: unknowns });
  if (solution.status !== 'optimal') return undefined;
  const found = new Map(solution.variables);
  return {
    d: span.map((w, j) => low[j] + w * Math.min(1, found.get(`x${j}`) ?? 0)),
    worst: floor + solution.result,
  };
}

/**
 * Makes the largest of `m` residuals least, by linear programs in a trust region (Madsen 1975): at the end as many
 * of them are equal as there are unknowns and one more, or bounds stand in the way. Yields the share done.
 * @param residuals fills `out` (length `m`) for `x`; false where `x` is impossible
 */
export function* minimaxSteps(
  residuals: (x: readonly number[], out: Float64Array) => boolean,
  start: readonly number[],
  m: number,
  { step, lower, upper, maxIterations = 40, tolerance = 1e-6 }: MinimaxOptions,
): Steps<MinimaxResult> {
  const n = start.length;
  const largest = (v: Float64Array) => v.reduce((a, b) => Math.max(a, b), -Infinity);
  let x = start.map((v, j) => Math.min(upper[j], Math.max(lower[j], v)));
  const r = new Float64Array(m);
  const trial = new Float64Array(m);
  const jacobian = new Float64Array(m * n);
  if (!residuals(x, r)) return { x, worst: Infinity };
  let worst = largest(r);
  let trust: number = TRUST.first;
  for (let iteration = 0; iteration < maxIterations && trust > TRUST.least; iteration++) {
    for (const done of differenceSteps(residuals, x, r, step, jacobian))
      yield (iteration + done) / maxIterations;
    let gained = 0;
    while (trust > TRUST.least) {
      const next = linearStep(
        r,
        jacobian,
        x.map((v, j) => Math.max(lower[j] - v, -trust * step[j])),
        x.map((v, j) => Math.min(upper[j] - v, trust * step[j])),
      );
      const expected = next ? worst - next.worst : 0;
      if (!next || !(expected > 0)) {
        trust = 0;
        break;
      }
      const there = x.map((v, j) => Math.min(upper[j], Math.max(lower[j], v + next.d[j])));
      const is = residuals(there, trial) ? largest(trial) : Infinity;
      const ratio = (worst - is) / expected;
      if (ratio > 0.75) trust *= 2;
      else if (ratio < 0.25) trust /= 4;
      yield (iteration + 1) / maxIterations;
      if (ratio > 0) {
        x = there;
        r.set(trial);
        gained = worst - is;
        worst = is;
        break;
      }
    }
    if (gained <= tolerance * Math.abs(worst)) break;
  }
  return { x, worst };
}

/** The same in one go. */
export const minimax = (...args: Parameters<typeof minimaxSteps>): MinimaxResult =>
  drive(minimaxSteps(...args));
