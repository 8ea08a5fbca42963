import { bisectCenter } from 'd3-array';
import type { Trace } from './types';

/** A stretch of an axis, in SI. */
export type Domain = readonly [number, number];

/**
 * Moves labels apart so that they stay readable, inside [low, high].
 * @param heights of each label, or of all; two stand at least half of each apart
 */
export function spread(
  wanted: readonly number[],
  heights: number | readonly number[],
  low: number,
  high: number,
): number[] {
  const heightOf = (i: number) => (typeof heights === 'number' ? heights : heights[i]);
  const order = wanted.map((y, i) => ({ y, i })).sort((a, b) => a.y - b.y);
  const gap = (a: { i: number } | undefined, b: { i: number }) =>
    a ? (heightOf(a.i) + heightOf(b.i)) / 2 : 0;
  order.forEach((o, k) => {
    const above = order[k - 1];
    o.y = Math.max(o.y, above ? above.y + gap(above, o) : low);
  });
  for (let k = order.length - 1; k >= 0; k--) {
    const below = order[k + 1];
    order[k].y = Math.min(order[k].y, below ? below.y - gap(below, order[k]) : high);
  }
  const out = new Array<number>(wanted.length);
  for (const o of order) out[o.i] = o.y;
  return out;
}

/** A domain moved by a share of itself. */
export function shifted(domain: Domain, log: boolean | undefined, by: number): Domain {
  if (!log) return [domain[0] + by * (domain[1] - domain[0]), domain[1] + by * (domain[1] - domain[0])];
  const factor = Math.pow(domain[1] / domain[0], by);
  return [domain[0] * factor, domain[1] * factor];
}

/** Index of the sample nearest to `x`. */
export const nearest = (xs: ArrayLike<number>, x: number): number => bisectCenter(xs as Float64Array, x);

/** Value of a trace at x, linear between samples. */
export function valueAt(trace: Trace, x: number): number {
  const { x: xs, y: ys } = trace;
  const k = nearest(xs, x);
  if (k < 0 || x < xs[0] || x > xs[xs.length - 1]) return NaN;
  const other = x >= xs[k] ? Math.min(k + 1, xs.length - 1) : Math.max(k - 1, 0);
  if (other === k || !Number.isFinite(ys[k]) || !Number.isFinite(ys[other])) return ys[k];
  return ys[k] + ((ys[other] - ys[k]) * (x - xs[k])) / (xs[other] - xs[k]);
}
