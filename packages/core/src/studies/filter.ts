import {
  circuitOf,
  type dataFinder,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../network';
import { leastSquaresSteps, share, type Steps } from '../numeric';
import type { SData } from '../results';
import { freeValues, putAll, type FreeValue } from './free';
import { tied } from './symmetry';

/** Samples in which the edges of a pass band are looked for, and how far beside it one looks, over its width. */
const LOOK = 601;
const BESIDE = 0.2;
/** Places in the band at which a response is compared. */
const PLACES = 15;
/** Weight of moving at all. */
const REST = 1e-3;

/** S11/S21 and S22/S21, which are polynomials in the frequency where nothing but lines resonates, point by point. */
function ratiosOf(s: SData): Float64Array {
  const out = new Float64Array(4 * s.freq.length);
  for (let k = 0; k < s.freq.length; k++) {
    const [tr, ti] = [s.re[4 * k + 2], s.im[4 * k + 2]];
    const q = tr * tr + ti * ti;
    [0, 3].forEach((e, which) => {
      const [r, i] = [s.re[4 * k + e], s.im[4 * k + e]];
      out[4 * k + 2 * which] = (r * tr + i * ti) / q;
      out[4 * k + 2 * which + 1] = (i * tr - r * ti) / q;
    });
  }
  return out;
}

/** The band of a two-port in which more than half of the power passes, with an edge that lies in what is swept, Hz. */
export function passBandOf(
  s: SData,
  near: number,
): { readonly low: number; readonly high: number; readonly open: boolean } | undefined {
  if (s.ports !== 2) return undefined;
  const passes = (k: number) => Math.hypot(s.re[4 * k + 2], s.im[4 * k + 2]) >= Math.SQRT1_2;
  const last = s.freq.length - 1;
  // The one that holds the design frequency, or the nearest to it.
  let at = -1;
  for (let k = 0; k <= last; k++)
    if (passes(k) && (at < 0 || Math.abs(s.freq[k] - near) < Math.abs(s.freq[at] - near))) at = k;
  if (at < 0) return undefined;
  let [low, high] = [at, at];
  while (low > 0 && passes(low - 1)) low--;
  while (high < last && passes(high + 1)) high++;
  if (low === 0 && high === last) return undefined;
  return { low: s.freq[low], high: s.freq[high], open: low === 0 || high === last };
}

/** What brings a filter back: where it is compared, and by how much a response misses there. */
export interface FilterAim {
  readonly freq: Float64Array;
  readonly count: number;
  /** Writes what misses, and returns false where nothing can be compared. */
  write(s: SData, out: Float64Array, at: number): void;
}

/**
 * The aim of a two-port that passes a band and stops what lies beside it; undefined where it is no filter. Compared is
 * S11/S21 at a few places: the dips of the reflection are its zeros and nothing else of it bends, so that a filter whose
 * resonators are off by more than its band is still pulled the right way, which samples of |S21| do not do.
 */
export function filterAim(
  solve: (freq: Float64Array) => SData,
  f0: number,
  sweep: { readonly start: number; readonly stop: number } | undefined,
): FilterAim | undefined {
  if (!sweep) return undefined;
  const look = Float64Array.from(
    { length: LOOK },
    (_, k) => sweep.start + ((sweep.stop - sweep.start) * k) / (LOOK - 1),
  );
  const band = passBandOf(solve(look), f0);
  if (!band) return undefined;
  const beside = BESIDE * (band.high - band.low);
  const from = Math.max(band.low - beside, Math.max(sweep.start, band.high / 50));
  const to = Math.min(band.high + beside, sweep.stop);
  // Denser towards the ends, as the zeros are.
  const freq = Float64Array.from(
    { length: PLACES },
    (_, i) => (from + to) / 2 - ((to - from) / 2) * Math.cos(((i + 0.5) * Math.PI) / PLACES),
  );
  const goal = ratiosOf(solve(freq));
  return {
    freq,
    count: goal.length,
    write(s, out, at) {
      const is = ratiosOf(s);
      for (let i = 0; i < goal.length; i++) {
        const base = i & ~1;
        out[at + i] = (is[i] - goal[i]) / (1 + Math.hypot(goal[base], goal[base + 1]));
      }
    },
  };
}

/** Where a search of a filter's copper stands. */
export interface FilterFound {
  readonly values: readonly FreeValue[];
  readonly x: readonly number[];
  /** Networks solved on the way. */
  readonly solves: number;
}

/** The lengths, widths and gaps that bring a filter back, what is alike as one. */
export const filterValues = (design: Design, first: ResolvedDesign): readonly FreeValue[] => [
  ...tied(design, freeValues(design, first, 'length')),
  ...tied(design, freeValues(design, first, 'width')),
];

/**
 * Moves lengths, widths and gaps until the modelled response is that of an aim, as nearly as they can.
 * @param from where the search begins, by the values of `filterValues`; absent: where they are, with the lengths alone first
 */
export function* filterSteps(
  project: Project,
  design: Design,
  first: ResolvedDesign,
  aim: FilterAim,
  find: ReturnType<typeof dataFinder>,
  from?: readonly number[],
): Steps<FilterFound> {
  let solves = 0;
  const solve = (resolved: ResolvedDesign): SData | undefined => {
    const circuit = circuitOf(resolved, 'modelled');
    solves++;
    return circuit && solveNetwork(networkOf(circuit, find), aim.freq);
  };
  const both = filterValues(design, first);
  const lengths = both.slice(0, tied(design, freeValues(design, first, 'length')).length);
  function* search(free: readonly FreeValue[], start: readonly number[], from: number, to: number) {
    const steps = leastSquaresSteps(
      (x, out) => {
        const s = solve(resolveDesign(project, putAll(design, free, x)));
        if (!s) return false;
        aim.write(s, out, 0);
        free.forEach((v, i) => (out[aim.count + i] = (REST * (x[i] - v.value)) / v.reach));
        return out.every(Number.isFinite);
      },
      start,
      aim.count + free.length,
      {
        step: free.map((v) => 1e-3 * v.reach),
        lower: free.map((v) => Math.max(v.lower ?? -Infinity, v.value - v.reach)),
        upper: free.map((v) => v.value + v.reach),
        maxIterations: 30,
        tolerance: 1e-4,
      },
    );
    return (yield* share(steps, from, to)).x;
  }
  if (from) return { values: both, x: yield* search(both, from, 0, 1), solves };
  const untouched = (list: readonly FreeValue[]) => list.map((v) => v.value);
  const near = yield* search(lengths, untouched(lengths), 0, 0.4);
  const x = yield* search(both, [...near, ...untouched(both).slice(lengths.length)], 0.4, 1);
  return { values: both, x, solves };
}
