import { openings } from '../artwork';
import {
  circuitOf,
  dataOf,
  GROUND,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../network';
import { leastSquaresSteps } from '../numeric';
import { parts } from '../parts';
import type { SData } from '../results';
import { freeValues, putAll, takeOver, type FreeValue, type Moved } from './free';
import { SMALL, targetsOf } from './targets';

export interface RetuneHooks {
  /** Share done, from 0 to 1; ends the search by returning true. */
  readonly progress?: (done: number) => boolean | void;
}

export interface Retuned {
  readonly design: Design;
  readonly moved: readonly Moved[];
  /** Root mean square of what misses the ideal targets, as an amplitude. */
  readonly before: number;
  readonly after: number;
  /** S-parameters at the design frequency: ideal, modelled before, modelled after. */
  readonly ideal: SData;
  readonly was: SData;
  readonly is: SData;
}

/** A retuning that cannot be done, in words. */
export class RetuneError extends Error {}

/** Distance from the design frequency, as a share of it, at which the symmetry of the response is looked at. */
const ASIDE = 0.03;
/** Weight of that symmetry, of closures in 1/m, and of moving at all. */
const SYMMETRY = { match: 3, rest: 0.3 };
const CLOSURE = 2e4;
const REST = 2e-3;
/** Missing less than this needs no widths. */
const GOOD = 2e-3;

/**
 * Brings the modelled response back to the ideal targets at the design frequency: first by the lengths that may move,
 * then, where that leaves something, by lengths and widths. Rings are kept closed. The ideal level does not change.
 * Yields the share done, many times a second.
 * @throws RetuneError in words
 */
export function* retuneSteps(project: Project, design: Design): Generator<number, Retuned, void> {
  const data = new Map(project.data.map((d) => [d.id, dataOf(d)]));
  const find = (id: string) => data.get(id);
  const first = resolveDesign(project, design);
  const f0 = first.f0;
  const ideal = circuitOf(first, 'ideal');
  if (f0 === undefined || !ideal)
    throw new RetuneError('the design has an error; the review says which. Then it can be retuned');
  const freq = Float64Array.of(f0 * (1 - ASIDE), f0, f0 * (1 + ASIDE));
  const goal = solveNetwork(networkOf(ideal, find), freq);
  const targets = targetsOf(goal, 1);
  const n = goal.ports;
  const matched: number[] = [];
  const sizeAt = (e: number, k: number) => Math.hypot(goal.re[k * n * n + e], goal.im[k * n * n + e]);
  // Only a response with a dip at the design frequency has sides that can lean.
  for (let e = 0; e < n * n; e++)
    if (sizeAt(e, 1) < SMALL && Math.min(sizeAt(e, 0), sizeAt(e, 2)) > sizeAt(e, 1) + 0.005) matched.push(e);
  /** Size of an entry above the design frequency less that below. */
  const lean = (s: SData, e: number) =>
    Math.hypot(s.re[2 * n * n + e], s.im[2 * n * n + e]) - Math.hypot(s.re[e], s.im[e]);

  const solve = (resolved: ResolvedDesign): SData | undefined => {
    const circuit = circuitOf(resolved, 'modelled');
    return circuit && solveNetwork(networkOf(circuit, find), freq);
  };
  // Where a walk comes back, all pins are watched, few of which ever differ from nothing.
  const closures = hasRing(design) ? openings(first).length : 0;
  const missing = (s: SData): number => {
    const out = new Float64Array(targets.count);
    targets.write(s, 1, out, 0);
    return Math.sqrt(out.reduce((a, b) => a + b * b, 0) / (n * n));
  };

  const was = solve(first);
  if (!was) throw new RetuneError('the design has an error; the review says which. Then it can be retuned');
  function* search(
    free: readonly FreeValue[],
    start: readonly number[],
    from: number,
    to: number,
  ): Generator<number, number[], void> {
    const count = targets.count + matched.length + closures + free.length;
    const steps = leastSquaresSteps(
      (x, out) => {
        const resolved = resolveDesign(project, putAll(design, free, x));
        const s = solve(resolved);
        if (!s) return false;
        out.fill(0);
        targets.write(s, 1, out, 0);
        let at = targets.count;
        for (const e of matched)
          out[at++] = (e === 0 ? SYMMETRY.match : SYMMETRY.rest) * (lean(s, e) - lean(goal, e));
        if (closures > 0) {
          const open = openings(resolved);
          for (let i = 0; i < closures; i++) out[at++] = CLOSURE * (open[i] ?? 0);
        }
        free.forEach((value, i) => (out[at++] = (REST * (x[i] - value.value)) / value.reach));
        return true;
      },
      start,
      count,
      {
        step: free.map((v) => 1e-3 * v.reach),
        lower: free.map((v) => v.value - v.reach),
        upper: free.map((v) => v.value + v.reach),
        maxIterations: 14,
        tolerance: 1e-4,
      },
    );
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) return step.value.x;
      yield from + (to - from) * step.value;
    }
  }

  const lengths = freeValues(design, first, 'length');
  const widths = freeValues(design, first, 'width');
  if (lengths.length + widths.length === 0)
    throw new RetuneError('nothing may move: every line is a feed or marked to stay');
  let free: FreeValue[] = lengths;
  let x = yield* search(
    lengths,
    lengths.map((v) => v.value),
    0,
    0.3,
  );
  const byLength = solve(resolveDesign(project, putAll(design, lengths, x)));
  if (!byLength || missing(byLength) > GOOD) {
    free = [...lengths, ...widths];
    x = yield* search(free, [...x, ...widths.map((v) => v.value)], 0.3, 1);
  }
  const result = takeOver(design, free, x);
  const is = solve(resolveDesign(project, result.design));
  if (!is) throw new RetuneError('no copper with these values can be made');
  const at0 = (s: SData): SData => ({
    ports: n,
    freq: s.freq.slice(1, 2),
    re: s.re.slice(n * n, 2 * n * n),
    im: s.im.slice(n * n, 2 * n * n),
    z0: s.z0,
  });
  return {
    ...result,
    before: missing(was),
    after: missing(is),
    ideal: at0(goal),
    was: at0(was),
    is: at0(is),
  };
}

/**
 * The same in one go.
 * @returns undefined when it was stopped
 * @throws RetuneError in words
 */
export function retune(project: Project, design: Design, hooks: RetuneHooks = {}): Retuned | undefined {
  const steps = retuneSteps(project, design);
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return step.value;
    if (hooks.progress?.(step.value) === true) return undefined;
  }
}

/** Whether the pieces form a ring: more joints than a tree of them needs. */
function hasRing(design: Design): boolean {
  const parent = new Map<string, string>();
  const root = (x: string): string => {
    let at = x;
    for (let up = parent.get(at); up !== undefined; up = parent.get(at)) at = up;
    return at;
  };
  for (const piece of design.pieces)
    for (const node of parts.get(piece.kind)?.bridges ? [] : new Set(piece.nodes)) {
      if (node === GROUND) continue;
      const a = root(`piece:${piece.id}`);
      const b = root(`node:${node}`);
      if (a === b) return true;
      parent.set(a, b);
    }
  return false;
}
