import { openings } from '../artwork';
import {
  circuitOf,
  dataFinder,
  GROUND,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../network';
import { drive, leastSquaresSteps, share, type Steps } from '../numeric';
import { parts } from '../parts';
import type { SData } from '../results';
import { filterAim, filterSteps, type FilterAim } from './filter';
import { freeValues, putAll, takeOver, type FreeValue, type Moved } from './free';
import type { QuantityKind } from '../units';
import { tied } from './symmetry';
import { SMALL, targetsOf } from './targets';

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
  /** Networks solved on the way. */
  readonly solves: number;
  /** What became of the limits, where they were the goal, and what on the tuning strip is given and stayed. */
  readonly limits?: readonly LimitKept[];
  readonly left?: readonly string[];
  /** What was better than anything before: how many states had been tried, and the worst miss. */
  readonly trail?: readonly (readonly [number, number])[];
  /** Values that stand at an end of their range while limits are missed. */
  readonly stopped?: readonly Stopped[];
}

/** A value that would have to go further than it may. */
export interface Stopped {
  readonly label: string;
  readonly end: 'least' | 'most';
  readonly kind: QuantityKind;
  readonly value: number;
}

/** A limit before and after, in the unit of its plot: above zero missed by so much, at most zero kept with so much to spare. */
export interface LimitKept {
  readonly label: string;
  readonly unit: string;
  readonly before: number;
  readonly after: number;
  /** Where it is missed most, or nearest to it, Hz. */
  readonly at: number;
}

/** A retuning that cannot be done, in words. */
export class RetuneError extends Error {}

/** What keeps any search from starting or ending. */
export const refusals = {
  wrong: () => new RetuneError('the design has an error; the review says which. Then it can be retuned'),
  still: () => new RetuneError('nothing may move: every line is a feed or marked to stay'),
  unmade: () => new RetuneError('no copper with these values can be made'),
} as const;

/** Distance from the design frequency, as a share of it, at which the symmetry of the response is looked at. */
const ASIDE = 0.03;
/** The same for a coupling that is held over a band, and how much of it the ideal response still has there, at least. */
const BAND = 0.25;
const HELD = 0.75;
/** A transmission between these is a coupling; its size is weighed this much more than the match and the isolation. */
const COUPLED = [1e-3, 0.5] as const;
const COUPLING = 3;
/** Weight of that symmetry, of how what passes leans from one side to the other, of closures in 1/m, and of moving at all. */
const SYMMETRY = { match: 3, rest: 0.3, through: 0.3 };
export const CLOSURE = 2e4;
const REST = 2e-3;
/** Missing less than this needs no widths. */
const GOOD = 2e-3;
/** Missing more than this, the match comes first and its symmetry second. */
const FAR = 0.012;

/**
 * What a network that is no filter is brought back to: the zeros and ratios of its ideal response at the design frequency, the
 * symmetry of its dips, and what it couples over a band.
 * @param solve the ideal response
 */
function matchAim(solve: (freq: Float64Array) => SData, f0: number) {
  const near = [f0 * (1 - ASIDE), f0, f0 * (1 + ASIDE)];
  const far = [f0 * (1 - BAND), f0 * (1 + BAND)];
  const wide = solve(Float64Array.of(...near, ...far));
  const n = wide.ports;
  const size = (s: SData, e: number, k: number) => Math.hypot(s.re[k * n * n + e], s.im[k * n * n + e]);
  // What is coupled over a band has to be so afterwards, too: its centre alone would be had by any gaps.
  const held: number[] = [];
  for (let e = 0; e < n * n; e++) {
    const there = size(wide, e, 1);
    const aside = [3, 4].map((k) => size(wide, e, k) / there);
    const matched = size(wide, (e % n) * (n + 1), 1) < SMALL;
    if (
      e % (n + 1) !== 0 &&
      matched &&
      there > COUPLED[0] &&
      there < COUPLED[1] &&
      aside.every((x) => x > HELD)
    )
      held.push(e);
  }
  const freq = Float64Array.of(...near, ...(held.length > 0 ? far : []));
  const goal = solve(freq);
  const targets = targetsOf(goal, 1);
  const matched: number[] = [];
  const sizeAt = (e: number, k: number) => size(goal, e, k);
  // Only a response with a dip at the design frequency has sides that can lean.
  for (let e = 0; e < n * n; e++)
    if (sizeAt(e, 1) < SMALL && Math.min(sizeAt(e, 0), sizeAt(e, 2)) > sizeAt(e, 1) + 0.005) matched.push(e);
  // What passes leans as it does ideally: with the centre alone one length could make up for another, and only the centre be right.
  const through: number[] = [];
  for (let e = 0; e < n * n; e++) if (e % n < Math.floor(e / n) && sizeAt(e, 1) > COUPLED[1]) through.push(e);
  /** Size of an entry above the design frequency less that below. */
  const leaning = (s: SData, e: number) => size(s, e, 2) - size(s, e, 0);

  const offBand = (s: SData): number[] =>
    held.flatMap((e) => [1, 3, 4].map((k) => COUPLING * (size(s, e, k) - size(goal, e, k))));
  const missing = (s: SData): number => {
    const out = new Float64Array(targets.count);
    targets.write(s, 1, out, 0);
    return Math.sqrt([...out, ...offBand(s)].reduce((a, b) => a + b * b, 0) / (n * n));
  };

  return {
    freq,
    goal,
    matched,
    missing,
    /** Numbers that `write` writes. */
    count: targets.count + matched.length + through.length + 3 * held.length,
    /** Writes everything that misses, weighed, and nothing from there on. @param lean the entries whose dips shall not lean */
    write(s: SData, out: Float64Array, lean: readonly number[] = matched): void {
      out.fill(0);
      targets.write(s, 1, out, 0);
      let at = targets.count;
      for (const e of lean)
        out[at++] = (e === 0 ? SYMMETRY.match : SYMMETRY.rest) * (leaning(s, e) - leaning(goal, e));
      for (const e of through) out[at++] = SYMMETRY.through * (leaning(s, e) - leaning(goal, e));
      for (const off of offBand(s)) out[at++] = off;
    },
  };
}

/** What retuning judges a response by. */
export interface Judge {
  /** Where it looks, Hz. */
  readonly freq: Float64Array;
  /** Root mean square of what misses there, as an amplitude. */
  missing(s: SData): number;
  /** Numbers that `write` writes: everything that misses, weighed. */
  readonly count: number;
  write(s: SData, out: Float64Array): void;
  /** Whether it is a filter, which is compared by its poles. */
  readonly filter?: FilterAim;
}

/** What a design's responses are judged by. @param solve the ideal response */
export function judgeOf(
  solve: (freq: Float64Array) => SData,
  f0: number,
  sweep: ResolvedDesign['sweep'],
): Judge {
  const filter = filterAim(solve, f0, sweep);
  return filter ? filterJudge(filter) : matchAim(solve, f0);
}

const filterJudge = (filter: FilterAim) => ({
  freq: filter.freq,
  filter,
  count: filter.count,
  write: (s: SData, out: Float64Array) => filter.write(s, out, 0),
  missing(s: SData): number {
    const out = new Float64Array(filter.count);
    filter.write(s, out, 0);
    return Math.sqrt(out.reduce((a, b) => a + b * b, 0) / filter.count);
  },
});

/**
 * Brings the modelled response back to the ideal targets at the design frequency: first by the lengths that may move,
 * then, where that leaves something, by lengths and widths. Rings are kept closed. The ideal level does not change.
 * Yields the share done, many times a second.
 * @throws RetuneError in words
 */
export function* retuneSteps(project: Project, design: Design): Steps<Retuned> {
  const find = dataFinder(project.data);
  const first = resolveDesign(project, design);
  const f0 = first.f0;
  const ideal = circuitOf(first, 'ideal');
  if (f0 === undefined || !ideal) throw refusals.wrong();
  const aim = filterAim((at) => solveNetwork(networkOf(ideal, find), at), f0, first.sweep);
  if (aim) {
    const at = (resolved: ResolvedDesign, freq: Float64Array): SData | undefined => {
      const circuit = circuitOf(resolved, 'modelled');
      return circuit && solveNetwork(networkOf(circuit, find), freq);
    };
    const centre = Float64Array.of(f0);
    const judge = filterJudge(aim);
    const [was, wasThere] = [at(first, centre), at(first, aim.freq)];
    if (!was || !wasThere) throw refusals.wrong();
    const { values, x, solves } = yield* filterSteps(project, design, first, aim, find);
    if (values.length === 0) throw refusals.still();
    const result = takeOver(design, values, x);
    const resolved = resolveDesign(project, result.design);
    const [is, isThere] = [at(resolved, centre), at(resolved, aim.freq)];
    if (!is || !isThere) throw refusals.unmade();
    return {
      ...result,
      before: judge.missing(wasThere),
      after: judge.missing(isThere),
      ideal: solveNetwork(networkOf(ideal, find), centre),
      was,
      is,
      solves,
    };
  }
  const { freq, goal, matched, missing, ...aimed } = matchAim(
    (at) => solveNetwork(networkOf(ideal, find), at),
    f0,
  );
  const n = goal.ports;

  let solves = 0;
  const solve = (resolved: ResolvedDesign): SData | undefined => {
    const circuit = circuitOf(resolved, 'modelled');
    solves++;
    return circuit && solveNetwork(networkOf(circuit, find), freq);
  };
  // Where a walk comes back, all pins are watched, few of which ever differ from nothing.
  const closures = hasRing(design) ? openings(first).length : 0;
  const was = solve(first);
  if (!was) throw refusals.wrong();
  function* search(
    free: readonly FreeValue[],
    start: readonly number[],
    from: number,
    to: number,
    lean: readonly number[] = matched,
  ): Steps<number[]> {
    const count = aimed.count + closures + free.length;
    const steps = leastSquaresSteps(
      (x, out) => {
        const resolved = resolveDesign(project, putAll(design, free, x));
        const s = solve(resolved);
        if (!s) return false;
        aimed.write(s, out, lean);
        let at = aimed.count;
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
        lower: free.map((v) => Math.max(v.lower ?? -Infinity, v.value - v.reach)),
        upper: free.map((v) => v.value + v.reach),
        maxIterations: lean === matched ? 14 : 30,
        tolerance: 1e-4,
      },
    );
    return (yield* share(steps, from, to)).x;
  }

  const all = {
    lengths: freeValues(design, first, 'length'),
    widths: freeValues(design, first, 'width'),
  };
  if (all.lengths.length + all.widths.length === 0) throw refusals.still();
  /** What a search came to, and what it still misses. */
  const reached = (values: readonly FreeValue[], at: readonly number[]) => {
    const got = solve(resolveDesign(project, putAll(design, values, at)));
    return { values, x: at, missing: got ? missing(got) : Infinity };
  };
  function* settle(lengths: readonly FreeValue[], widths: readonly FreeValue[], begin: number, end: number) {
    const part = (x: number) => begin + (end - begin) * x;
    const untouched = lengths.map((v) => v.value);
    let state = reached(lengths, yield* search(lengths, untouched, part(0), part(0.3)));
    // A sharp match lies far from where the junctions have put it: first to the match, whatever its sides look like.
    if (state.missing > FAR) {
      const there = reached(lengths, yield* search(lengths, state.x, part(0.3), part(0.4), []));
      const best = there.missing < state.missing ? there : state;
      const even = reached(lengths, yield* search(lengths, best.x, part(0.4), part(0.5)));
      state = even.missing < Math.max(GOOD, best.missing) ? even : best;
    }
    if (state.missing > GOOD) {
      const both = [...lengths, ...widths];
      const start = [...state.x, ...widths.map((v) => v.value)];
      state = reached(both, yield* search(both, start, part(0.5), part(0.8)));
      if (state.missing > FAR) {
        const there = reached(both, yield* search(both, state.x, part(0.8), part(1), []));
        if (there.missing < state.missing) state = there;
      }
    }
    return state;
  }
  // What the network cannot tell apart moves together, so that a symmetric design stays symmetric; only where that does
  // not lead there each piece goes its own way.
  const pairs = { lengths: tied(design, all.lengths), widths: tied(design, all.widths) };
  const apart = pairs.lengths.length === all.lengths.length && pairs.widths.length === all.widths.length;
  let state = yield* settle(pairs.lengths, pairs.widths, 0, apart ? 1 : 0.5);
  if (!apart && state.missing > GOOD) {
    const free = yield* settle(all.lengths, all.widths, 0.5, 1);
    if (free.missing < 0.7 * state.missing) state = free;
  }
  const result = takeOver(design, state.values, state.x);
  const is = solve(resolveDesign(project, result.design));
  if (!is) throw refusals.unmade();
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
    solves,
  };
}

/**
 * The same in one go.
 * @throws RetuneError in words
 */
export const retune = (project: Project, design: Design): Retuned => drive(retuneSteps(project, design));

/** Whether the pieces form a ring: more joints than a tree of them needs. */
export function hasRing(design: Design): boolean {
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
