import { rationalFit, type Sample, type Steps } from '../numeric';

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

/**
 * Solves where two successive rational approximations differ most, until they agree twice: a cautious rule, after which
 * the true error is mostly far below `tolerance`.
 * @param at solves at one frequency
 * @param told of every sample, and of what stands so far
 */
export function* sweepSteps(
  frequencies: Float64Array,
  tolerance: number,
  at: (f: number) => Sample,
  told: (soFar: Swept) => void = () => undefined,
): Steps<Swept> {
  const count = frequencies.length;
  const samples: Sample[] = [];
  const solved = new Set<number>();
  const take = (index: number) => {
    solved.add(index);
    samples.push(at(frequencies[index]));
  };
  const first = Math.min(FIRST, count);
  for (let i = 0; i < first; i++) {
    // Ends and what lies between by Chebyshev, so that ends are no worse than the middle.
    const t = first === 1 ? 0 : (1 - Math.cos((Math.PI * i) / (first - 1))) / 2;
    const wanted = Math.round(t * (count - 1));
    if (!solved.has(wanted)) take(wanted);
    yield (0.5 * (i + 1)) / first;
  }
  const entries = samples[0].re.length;
  const sampled = () => {
    const re = new Float64Array(count * entries);
    const im = new Float64Array(count * entries);
    const fit = rationalFit(samples, Math.ceil(samples.length / 2));
    const [r, x] = [new Float64Array(entries), new Float64Array(entries)];
    for (let k = 0; k < count; k++) {
      fit(frequencies[k], r, x);
      re.set(r, k * entries);
      im.set(x, k * entries);
    }
    for (const { x: f, re: r0, im: i0 } of samples) {
      const k = frequencies.indexOf(f);
      re.set(r0, k * entries);
      im.set(i0, k * entries);
    }
    return { re, im };
  };
  let now = sampled();
  let error = samples.length === count ? 0 : Infinity;
  let quiet = 0;
  const swept = (): Swept => ({ samples: [...samples].sort((a, b) => a.x - b.x), ...now, error });
  told(swept());
  // Where the first guess is worst nothing tells; the middle of the widest gap is as good as any.
  let next = widest(frequencies, solved);
  while (samples.length < Math.min(count, MOST) && quiet < 2) {
    take(next);
    const before = now;
    now = sampled();
    error = 0;
    let worst = -1;
    for (let k = 0; k < count; k++) {
      let miss = 0;
      for (let e = 0; e < entries; e++) {
        const i = k * entries + e;
        miss = Math.max(miss, Math.hypot(now.re[i] - before.re[i], now.im[i] - before.im[i]));
      }
      if (!(miss <= error)) error = miss;
      if (!solved.has(k) && (worst < 0 || !(miss <= worst))) {
        worst = Number.isNaN(miss) ? Infinity : miss;
        next = k;
      }
    }
    quiet = error < tolerance / 2 ? quiet + 1 : 0;
    if (samples.length === count) error = 0;
    told(swept());
    yield Math.min(0.99, 0.5 + 0.5 * Math.max(quiet / 2, 1 - 1 / (samples.length - first + 1)));
    if (worst < 0) break;
  }
  return swept();
}

/** The index in the middle of the widest stretch without a sample. */
function widest(frequencies: Float64Array, solved: ReadonlySet<number>): number {
  const all = [...solved].sort((a, b) => a - b);
  let [from, to] = [all[0], all[all.length - 1]];
  let most = -1;
  for (let i = 1; i < all.length; i++) {
    const width = frequencies[all[i]] - frequencies[all[i - 1]];
    if (all[i] - all[i - 1] > 1 && width > most) [most, from, to] = [width, all[i - 1], all[i]];
  }
  return Math.round((from + to) / 2);
}
