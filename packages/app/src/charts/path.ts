import type { Domain } from './domain';

/** Pixels of values on an axis. */
export type Pixels = (value: number) => number;

/** An affine scale, linear or in the logarithm; far quicker per sample than a general one. */
export function pixelsOf(log: boolean | undefined, domain: Domain, from: number, to: number): Pixels {
  const t = log ? Math.log : (v: number) => v;
  const [a, b] = [t(domain[0]), t(domain[1])];
  const slope = (to - from) / (b - a);
  const start = from - a * slope;
  return log ? (v) => start + slope * Math.log(v) : (v) => start + slope * v;
}

/** A tenth of a pixel is finer than any screen shows. */
export const tenth = (v: number): number => Math.round(v * 10) / 10;
const hundredth = (v: number): number => Math.round(v * 100) / 100;

/** The curve through points of the plane, around a centre and with a scale in pixels; y is up. */
export function planePath(
  re: ArrayLike<number>,
  im: ArrayLike<number>,
  cx: number,
  cy: number,
  scale: number,
): string {
  let d = '';
  for (let k = 0; k < re.length; k++)
    d += (k === 0 ? 'M' : 'L') + hundredth(cx + re[k] * scale) + ' ' + hundredth(cy - im[k] * scale);
  return d;
}

/** The line through points of the plane, to a tenth of a pixel. */
export const pointsPath = (
  points: readonly { readonly re: number; readonly im: number }[],
  cx: number,
  cy: number,
  scale: number,
): string =>
  points.reduce(
    (d, { re, im }, k) => `${d}${k === 0 ? 'M' : 'L'}${tenth(cx + re * scale)} ${tenth(cy - im * scale)}`,
    '',
  );

/** Samples in a column of pixels beyond which only its first, lowest, highest and last are drawn. */
const CROWDED = 4;

/**
 * The curve through samples as an SVG path. Values are clamped to `low`..`high` (pixels), so that a notch of minus
 * infinity stays drawable; where a sample is no number the curve is interrupted.
 */
export function curvePath(
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  toX: Pixels,
  toY: Pixels,
  low: number,
  high: number,
): string {
  const n = x.length;
  if (n === 0) return '';
  const at = (k: number): number => {
    const v = toY(y[k]);
    return v < high ? high : v > low ? low : v;
  };
  let d = '';
  let pen = 'M';
  const put = (k: number) => {
    const py = at(k);
    if (py !== py) {
      pen = 'M';
      return;
    }
    d += pen + tenth(toX(x[k])) + ' ' + tenth(py);
    pen = 'L';
  };
  if (n <= CROWDED * Math.abs(toX(x[n - 1]) - toX(x[0]))) {
    for (let k = 0; k < n; k++) put(k);
    return d;
  }
  for (let from = 0; from < n;) {
    const column = Math.floor(toX(x[from]));
    let [least, most, to] = [from, from, from];
    let gap = false;
    for (; to < n && Math.floor(toX(x[to])) === column; to++) {
      if (Number.isNaN(y[to])) gap = true;
      if (y[to] < y[least]) least = to;
      if (y[to] > y[most]) most = to;
    }
    if (gap) for (let k = from; k < to; k++) put(k);
    else for (const k of new Set([from, Math.min(least, most), Math.max(least, most), to - 1])) put(k);
    from = to;
  }
  return d;
}
