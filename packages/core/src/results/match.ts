import { brent, type Complex } from '../numeric';
import { nearestSample, type Entry } from './sparameters';

/** What a reflection curve says about a match. Frequencies in Hz, levels in dB. */
export interface MatchReading {
  /** Frequency of least reflection near the design frequency, between samples by a parabola through |S|^2. */
  readonly best: number;
  /** |S11| there, dB. */
  readonly level: number;
  /** Band around `best` in which |S11| stays at or below the level asked for; undefined when it never does. */
  readonly band?: {
    readonly low: number;
    readonly high: number;
    readonly openLow: boolean;
    readonly openHigh: boolean;
  };
}

/**
 * Reads the match nearest to `near` out of a reflection curve: a local minimum within half an octave that is at most
 * 1 dB worse than the best one there, or 20 dB better than the target, so that ripples of a broad match do not make
 * the reading jump.
 * @param target level in dB whose bandwidth is wanted, for example -20
 */
export function readMatch(entry: Entry, near: number, target: number): MatchReading | undefined {
  const { freq, re, im } = entry;
  const n = freq.length;
  if (n === 0) return undefined;
  const power = (k: number) => re[k] * re[k] + im[k] * im[k];
  let from = 0;
  let to = n - 1;
  while (from < n - 1 && freq[from] < near / Math.SQRT2) from++;
  while (to > 0 && freq[to] > near * Math.SQRT2) to--;
  if (from > to) {
    from = 0;
    to = n - 1;
  }
  const minima: number[] = [];
  for (let k = from; k <= to; k++)
    if ((k === 0 || power(k) <= power(k - 1)) && (k === n - 1 || power(k) <= power(k + 1))) minima.push(k);
  if (minima.length === 0) minima.push(power(from) < power(to) ? from : to);
  const deepest = Math.min(...minima.map(power));
  const limit = Math.max(deepest * Math.pow(10, 0.1), Math.pow(10, (target - 20) / 10));
  const k = minima
    .filter((m) => power(m) <= limit)
    .reduce((a, b) => (Math.abs(freq[b] - near) < Math.abs(freq[a] - near) ? b : a));

  let best = freq[k];
  let least = power(k);
  if (k > 0 && k < n - 1) {
    const [a, b, c] = [power(k - 1), power(k), power(k + 1)];
    const curve = a - 2 * b + c;
    // On a slope, where the window has no minimum, a parabola would lead far away.
    if (curve > 0 && b <= a && b <= c) {
      const shift = (0.5 * (a - c)) / curve;
      const step = shift > 0 ? freq[k + 1] - freq[k] : freq[k] - freq[k - 1];
      best += shift * step;
      least = Math.max(b - (0.125 * ((a - c) * (a - c))) / curve, 0);
    }
  }
  const level = 10 * Math.log10(Math.max(least, 1e-40));
  const threshold = Math.pow(10, target / 10);
  if (Math.min(least, power(k)) > threshold) return { best, level };
  const crossing = (inside: number, outside: number) => {
    const a = 10 * Math.log10(Math.max(power(inside), 1e-40));
    const b = 10 * Math.log10(Math.max(power(outside), 1e-40));
    const t = b === a ? 0 : (target - a) / (b - a);
    return freq[inside] + Math.min(1, Math.max(0, t)) * (freq[outside] - freq[inside]);
  };
  let low = k;
  while (low > 0 && power(low - 1) <= threshold) low--;
  let high = k;
  while (high < n - 1 && power(high + 1) <= threshold) high++;
  return {
    best,
    level,
    band: {
      low: low === 0 ? freq[0] : crossing(low, low - 1),
      high: high === n - 1 ? freq[n - 1] : crossing(high, high + 1),
      openLow: low === 0,
      openHigh: high === n - 1,
    },
  };
}

/** Least reflection that is told from none: -200 dB in power. */
const NONE = 1e-20;

/**
 * The same reading made exact: the least reflection and the edges of the band are looked for between the samples with
 * the network itself, so that a coarse sweep reads as a fine one does.
 * @param at S at a frequency in Hz
 */
export function sharpenMatch(
  reading: MatchReading,
  entry: Entry,
  near: number,
  target: number,
  at: (f: number) => Complex,
): MatchReading {
  const { freq, re, im } = entry;
  const n = freq.length;
  if (n < 2) return reading;
  const k = nearestSample(freq, reading.best);
  const from = freq[Math.max(0, k - 1)];
  const to = freq[Math.min(n - 1, k + 1)];
  const found = lowest(at, entry, k);
  let [best, least] = [found.f, powerOf(found)];
  // A design made for a frequency has its match there, down to rounding; a search comes near it only.
  for (const f of [freq[k], near])
    if (f >= from && f <= to) {
      const here = powerOf(at(f));
      if (here < least || (here < NONE && least < NONE)) [best, least] = [f, here];
    }
  const level = 10 * Math.log10(Math.max(least, 1e-40));
  const threshold = Math.pow(10, target / 10);
  if (least > threshold) return { best, level };
  const beyond = (f: number) => Math.log(Math.max(powerOf(at(f)), 1e-40) / threshold);
  /** The edge on one side: the first sample outside, then the crossing before it. */
  const edge = (step: 1 | -1): { f: number; open: boolean } => {
    let inside = best;
    for (
      let i = step > 0 ? freq.findIndex((f) => f > best) : lastBelow(freq, best);
      i >= 0 && i < n;
      i += step
    ) {
      const outside = freq[i];
      if (re[i] * re[i] + im[i] * im[i] > threshold) {
        const [a, b] = inside < outside ? [inside, outside] : [outside, inside];
        return {
          f: beyond(inside) >= 0 ? inside : brent(beyond, a, b, { tolerance: 1e-10 * b }),
          open: false,
        };
      }
      inside = outside;
    }
    return { f: step > 0 ? freq[n - 1] : freq[0], open: true };
  };
  const [low, high] = [edge(-1), edge(1)];
  return { best, level, band: { low: low.f, high: high.f, openLow: low.open, openHigh: high.open } };
}

function lastBelow(freq: Float64Array, f: number): number {
  for (let i = freq.length - 1; i >= 0; i--) if (freq[i] < f) return i;
  return -1;
}

/** A reflection at a frequency, Hz. */
interface Seen extends Complex {
  readonly f: number;
}
const powerOf = ({ re, im }: Complex): number => re * re + im * im;

/**
 * The least of |S|^2 about a sample: a few equal steps, then again and again where the parabola in the complex plane through the
 * nearest three has it (as Muller 1956 looks for a root). S is smooth where |S|^2 is as flat as rounding, and tells the place
 * of the least to its last digits.
 */
function lowest(at: (f: number) => Complex, { freq, re, im }: Entry, k: number): Seen {
  const STEPS = 4;
  const see = (f: number): Seen => ({ f, ...at(f) });
  const ends = [k - 1, k, k + 1].filter((i) => i >= 0 && i < freq.length);
  const seen = ends.flatMap((i, e) => {
    const sample = { f: freq[i], re: re[i], im: im[i] };
    if (e === 0) return [sample];
    const from = freq[ends[e - 1]];
    const between = Array.from({ length: STEPS - 1 }, (_, j) =>
      see(from + ((sample.f - from) * (j + 1)) / STEPS),
    );
    return [...between, sample];
  });
  let best = seen.reduce((a, b) => (powerOf(b) < powerOf(a) ? b : a));
  const place = seen.indexOf(best);
  const start = Math.max(0, Math.min(seen.length - 3, place - 1));
  let three = seen.slice(start, start + 3);
  const [low, high] = [three[0].f, three[2].f];
  for (let turn = 0; turn < 12; turn++) {
    const next = leastOf(three, low, high);
    if (next === undefined || three.some((p) => Math.abs(p.f - next) <= 1e-10 * next)) break;
    const here = see(next);
    const away = (p: Seen) => Math.abs(p.f - here.f);
    three = [here, ...[...three].sort((a, b) => away(a) - away(b)).slice(0, 2)];
    // Where rounding alone tells the two apart, the later one lies nearer to the least.
    if (powerOf(here) <= powerOf(best) * (1 + 1e-9)) best = here;
  }
  return best;
}

/** Where between two frequencies the parabola in the complex plane through three reflections comes nearest to zero. */
function leastOf(three: readonly Seen[], low: number, high: number): number | undefined {
  const [a, b, c] = three;
  // In Newton's form about `a`: S = a + (f - a)(p + (f - b) q).
  const slope = (u: Complex, v: Complex, by: number): Complex => ({
    re: (v.re - u.re) / by,
    im: (v.im - u.im) / by,
  });
  const p = slope(a, b, b.f - a.f);
  const q = slope(p, slope(b, c, c.f - b.f), c.f - a.f);
  /** Half the slope of |S|^2. */
  const falling = (f: number): number => {
    const [x, y] = [f - a.f, f - b.f];
    const [re, im] = [a.re + x * (p.re + y * q.re), a.im + x * (p.im + y * q.im)];
    return re * (p.re + (x + y) * q.re) + im * (p.im + (x + y) * q.im);
  };
  const [down, up] = [falling(low), falling(high)];
  if (down >= 0 && up >= 0) return low;
  if (down <= 0 && up <= 0) return high;
  return down < 0 ? brent(falling, low, high, { tolerance: 1e-11 * high }) : undefined;
}
