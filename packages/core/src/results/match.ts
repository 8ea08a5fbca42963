import { brent } from '../numeric';
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
 * @param at |S|^2 at a frequency in Hz
 */
export function sharpenMatch(
  reading: MatchReading,
  entry: Entry,
  near: number,
  target: number,
  at: (f: number) => number,
): MatchReading {
  const { freq } = entry;
  const n = freq.length;
  if (n < 2) return reading;
  const k = nearestSample(freq, reading.best);
  const from = freq[Math.max(0, k - 1)];
  const to = freq[Math.min(n - 1, k + 1)];
  let { best, least } = lowest(at, from, to);
  // A design made for a frequency has its match there, down to rounding; a search comes near it only.
  for (const f of [freq[k], near])
    if (f >= from && f <= to) {
      const here = at(f);
      if (here < least || (here < NONE && least < NONE)) [best, least] = [f, here];
    }
  const level = 10 * Math.log10(Math.max(least, 1e-40));
  const threshold = Math.pow(10, target / 10);
  if (least > threshold) return { best, level };
  const beyond = (f: number) => Math.log(Math.max(at(f), 1e-40) / threshold);
  /** The edge on one side: the first sample outside, then the crossing before it. */
  const edge = (step: 1 | -1): { f: number; open: boolean } => {
    let inside = best;
    for (
      let i = step > 0 ? freq.findIndex((f) => f > best) : lastBelow(freq, best);
      i >= 0 && i < n;
      i += step
    ) {
      const outside = freq[i];
      if (beyond(outside) > 0) {
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

/** Place of the least value between two frequencies: a few equal steps, then golden sections around the least of them. */
function lowest(at: (f: number) => number, from: number, to: number): { best: number; least: number } {
  const STEPS = 8;
  let best = from;
  let least = Infinity;
  for (let i = 0; i <= STEPS; i++) {
    const f = from + ((to - from) * i) / STEPS;
    const y = at(f);
    if (y < least) [best, least] = [f, y];
  }
  let a = Math.max(from, best - (to - from) / STEPS);
  let b = Math.min(to, best + (to - from) / STEPS);
  const golden = (Math.sqrt(5) - 1) / 2;
  let [c, d] = [b - golden * (b - a), a + golden * (b - a)];
  let [yc, yd] = [at(c), at(d)];
  while (b - a > 1e-9 * b) {
    if (yc < yd) {
      [b, d, yd] = [d, c, yc];
      c = b - golden * (b - a);
      yc = at(c);
    } else {
      [a, c, yc] = [c, d, yd];
      d = a + golden * (b - a);
      yd = at(d);
    }
  }
  if (Math.min(yc, yd) < least) [best, least] = yc < yd ? [c, yc] : [d, yd];
  return { best, least };
}
