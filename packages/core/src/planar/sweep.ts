import { rationalThrough, type Sample, type Steps } from '../numeric';

/** Samples before anything is compared. */
const FIRST = 5;
/** More than these and the sweep is taken for solved point by point. */
const MOST = 80;

/** S-parameters over a band from few solutions. */
export interface Swept {
  readonly samples: readonly Sample[];
  /** Values at each of the frequencies asked for, `entries` in a row. */
  readonly re: Float64Array;
  readonly im: Float64Array;
  /** What two successive approximations differ by in the end: most of any entry. */
  readonly error: number;
}

/** What a sweep asks for next. */
export interface Wish {
  /** Frequencies to be solved, Hz; the most needed first. */
  readonly wanted: readonly number[];
  /** What stands by now; undefined before there are curves. */
  readonly soFar: Swept | undefined;
  /** Share done, 0 to 1. */
  readonly done: number;
}

/**
 * A sweep as a conversation: it asks for frequencies where two successive rational approximations differ most, is told what
 * they are, and ends when they agree twice: a cautious rule, after which the true error is mostly far below `tolerance`.
 * @param frequencies Hz, ascending
 * @param known samples solved before, at any of these frequencies
 * @param atOnce how many are solved beside one another
 */
export function* sweepPlan(
  frequencies: Float64Array,
  tolerance: number,
  known: readonly Sample[] = [],
  atOnce = 1,
): Generator<Wish, Swept, readonly Sample[]> {
  const count = frequencies.length;
  const samples: Sample[] = [];
  const solved = new Set<number>();
  const places = new Map(Array.from(frequencies, (f, k) => [f, k]));
  const take = (list: readonly Sample[]) => {
    for (const sample of list) {
      const at = places.get(sample.x);
      if (at === undefined || solved.has(at)) continue;
      solved.add(at);
      samples.push(sample);
    }
  };
  take(known);
  const first = Math.min(FIRST, count);
  // Ends and what lies between by Chebyshev, so that ends are no worse than the middle.
  const begin = Array.from({ length: first }, (_, i) =>
    Math.round((first === 1 ? 0 : (1 - Math.cos((Math.PI * i) / (first - 1))) / 2) * (count - 1)),
  );
  for (;;) {
    const open = begin.filter((k) => !solved.has(k));
    if (open.length === 0) break;
    take(
      yield {
        wanted: open.slice(0, atOnce).map((k) => frequencies[k]),
        soFar: undefined,
        done: 0.5 * (1 - open.length / first),
      },
    );
  }
  const entries = samples[0].re.length;
  const sampled = () => {
    const through = rationalThrough(samples);
    const re = new Float64Array(count * entries);
    const im = new Float64Array(count * entries);
    for (let k = 0; k < count; k++) {
      const [from, to] = [k * entries, (k + 1) * entries];
      through(frequencies[k], re.subarray(from, to), im.subarray(from, to));
    }
    return { re, im };
  };
  let now = sampled();
  let error = samples.length === count ? 0 : Infinity;
  let quiet = 0;
  const swept = (): Swept => ({ samples: [...samples].sort((a, b) => a.x - b.x), ...now, error });
  const miss = new Float64Array(count);
  // Where the first guess is worst nothing tells; the middles of the widest gaps are as good as any.
  let next = gaps(frequencies, solved, atOnce);
  while (samples.length < Math.min(count, MOST) && quiet < 2 && next.length > 0) {
    const before = samples.length;
    take(
      yield {
        wanted: next.map((k) => frequencies[k]),
        soFar: swept(),
        done: Math.min(0.99, 0.5 + 0.5 * Math.max(quiet / 2, 1 - 1 / (samples.length - first + 1))),
      },
    );
    const was = now;
    now = sampled();
    error = 0;
    for (let k = 0; k < count; k++) {
      miss[k] = 0;
      for (let e = 0; e < entries; e++) {
        const i = k * entries + e;
        miss[k] = Math.max(miss[k], Math.hypot(now.re[i] - was.re[i], now.im[i] - was.im[i]));
      }
      if (Number.isNaN(miss[k])) miss[k] = Infinity;
      error = Math.max(error, miss[k]);
    }
    // Two samples at once that change nothing are two agreements.
    quiet = error < tolerance / 2 ? quiet + Math.max(1, samples.length - before) : 0;
    if (samples.length === count) error = 0;
    next = worst(miss, solved, atOnce);
  }
  return swept();
}

/** The sweep with its samples solved one after the other. @param told of what stands after every sample */
export function* sweepSteps(
  frequencies: Float64Array,
  tolerance: number,
  at: (f: number) => Sample,
  told: (soFar: Swept) => void = () => undefined,
): Steps<Swept> {
  const plan = sweepPlan(frequencies, tolerance);
  let step = plan.next();
  while (!step.done) {
    const { wanted, soFar, done } = step.value;
    if (soFar) told(soFar);
    yield done;
    step = plan.next(wanted.map(at));
  }
  told(step.value);
  return step.value;
}

/** Where most is missing, without what is solved or beside what is taken already. */
function worst(miss: Float64Array, solved: ReadonlySet<number>, atOnce: number): number[] {
  const apart = Math.max(1, Math.floor(miss.length / 40));
  const out: number[] = [];
  for (let turn = 0; turn < atOnce; turn++) {
    let best = -1;
    for (let k = 0; k < miss.length; k++)
      if (
        !solved.has(k) &&
        (best < 0 || !(miss[k] <= miss[best])) &&
        out.every((o) => Math.abs(o - k) >= apart)
      )
        best = k;
    if (best >= 0) out.push(best);
  }
  return out;
}

/** The indices in the middles of the widest stretches without a sample. */
function gaps(frequencies: Float64Array, solved: ReadonlySet<number>, atOnce: number): number[] {
  const all = [...solved].sort((a, b) => a - b);
  return all
    .slice(1)
    .map((to, i) => ({ from: all[i], to, width: frequencies[to] - frequencies[all[i]] }))
    .filter(({ from, to }) => to - from > 1)
    .sort((a, b) => b.width - a.width)
    .slice(0, atOnce)
    .map(({ from, to }) => Math.round((from + to) / 2));
}
