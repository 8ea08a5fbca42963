import type { Complex } from '../numeric';

/**
 * S-parameters over frequency in split arrays: entry (i, j) at point k stands at `(k * ports + i) * ports + j`.
 * Port i is port i + 1 of the trade's count.
 */
export interface SData {
  readonly ports: number;
  /** Hz, ascending. */
  readonly freq: Float64Array;
  readonly re: Float64Array;
  readonly im: Float64Array;
  /** Reference impedance of each port. */
  readonly z0: readonly { readonly re: number; readonly im: number }[];
}

/** One entry over frequency. */
export interface Entry {
  readonly freq: Float64Array;
  readonly re: Float64Array;
  readonly im: Float64Array;
}

export function entryOf(data: SData, i: number, j: number): Entry {
  const { ports, freq } = data;
  const re = new Float64Array(freq.length);
  const im = new Float64Array(freq.length);
  for (let k = 0; k < freq.length; k++) {
    const at = (k * ports + i) * ports + j;
    re[k] = data.re[at];
    im[k] = data.im[at];
  }
  return { freq, re, im };
}

/** 20 log10 of a magnitude; zero gives -Infinity. */
export const decibels = (re: number, im: number): number => 10 * Math.log10(re * re + im * im);
/** Level in dB that stands for nothing at all where a file or a chart knows no infinity. */
export const FLOOR_DB = -400;
/** The same, not below `FLOOR_DB`. */
export const flooredDecibels = (re: number, im: number): number => Math.max(FLOOR_DB, decibels(re, im));
/** Argument in degrees, -180 to 180. */
export const degrees = (re: number, im: number): number => (Math.atan2(im, re) * 180) / Math.PI;
/** Voltage standing wave ratio of a reflection; Infinity from total reflection on. */
export function vswr(re: number, im: number): number {
  const m = Math.hypot(re, im);
  return m < 1 ? (1 + m) / (1 - m) : Infinity;
}

/** Impedance seen with reflection `s` against the reference `z0` (power waves, Kurokawa 1965; real z0: the usual formula). */
export function impedanceOf(
  re: number,
  im: number,
  z0: { re: number; im: number },
): { re: number; im: number } {
  // Z = (z0* + s z0) / (1 - s)
  const nr = z0.re + re * z0.re - im * z0.im;
  const ni = -z0.im + re * z0.im + im * z0.re;
  const dr = 1 - re;
  const di = -im;
  const d = dr * dr + di * di;
  if (d === 0) return { re: Infinity, im: 0 };
  return { re: (nr * dr + ni * di) / d, im: (ni * dr - nr * di) / d };
}

/** Index of the last frequency not above `f`, clamped so that a segment to its right exists. */
function segment(freq: ArrayLike<number>, f: number): number {
  let a = 0;
  let b = freq.length - 1;
  while (b - a > 1) {
    const m = (a + b) >> 1;
    if (freq[m] <= f) a = m;
    else b = m;
  }
  return a;
}

/** Value of an entry at `f` by linear interpolation of real and imaginary part; held constant outside the data. */
export function interpolate(entry: Entry, f: number): { re: number; im: number } {
  const { freq, re, im } = entry;
  if (freq.length === 1 || f <= freq[0]) return { re: re[0], im: im[0] };
  const last = freq.length - 1;
  if (f >= freq[last]) return { re: re[last], im: im[last] };
  const a = segment(freq, f);
  const t = (f - freq[a]) / (freq[a + 1] - freq[a]);
  return { re: re[a] + t * (re[a + 1] - re[a]), im: im[a] + t * (im[a + 1] - im[a]) };
}

/**
 * S-parameters with further points of the same network between them. Where both have a frequency, to 1e-12 of it, the
 * further point counts, at exactly its own frequency.
 */
export function withPoints(data: SData, points: SData): SData {
  const size = data.ports * data.ports;
  if (points.freq.length === 0) return data;
  const most = data.freq.length + points.freq.length;
  const freq = new Float64Array(most);
  const re = new Float64Array(most * size);
  const im = new Float64Array(most * size);
  let rows = 0;
  const put = (from: SData, k: number) => {
    const f = from.freq[k];
    const same = rows > 0 && f - freq[rows - 1] <= 1e-12 * f;
    // Of two at one frequency the point of its own counts.
    if (same && from !== points) return;
    if (!same) rows++;
    const [to, at] = [(rows - 1) * size, k * size];
    freq[rows - 1] = f;
    for (let e = 0; e < size; e++) {
      re[to + e] = from.re[at + e];
      im[to + e] = from.im[at + e];
    }
  };
  let p = 0;
  for (let k = 0; k < data.freq.length; k++) {
    for (; p < points.freq.length && points.freq[p] <= data.freq[k]; p++) put(points, p);
    put(data, k);
  }
  for (; p < points.freq.length; p++) put(points, p);
  const whole = rows * size;
  return {
    ports: data.ports,
    freq: freq.subarray(0, rows),
    re: re.subarray(0, whole),
    im: im.subarray(0, whole),
    z0: data.z0,
  };
}

/** Impedance that one-port data shows at `f` (Hz), ohm. */
export function blockImpedance(data: SData, f: number): Complex {
  const s = interpolate(entryOf(data, 0, 0), f);
  return impedanceOf(s.re, s.im, data.z0[0]);
}

/** Index of the sample nearest to a frequency, the first of equals; samples ascend. */
export function nearestSample(freq: ArrayLike<number>, f: number): number {
  const below = segment(freq, f);
  return Math.abs(freq[below + 1] - f) < Math.abs(freq[below] - f) ? below + 1 : below;
}
