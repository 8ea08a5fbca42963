import { bisectCenter } from 'd3-array';
import type { Trace } from './types';

/** A stretch of an axis, in SI. */
export type Domain = readonly [number, number];

/** Moves labels apart so that they stay readable: each at least `gap` below the one above, inside [low, high]. */
export function spread(wanted: readonly number[], gap: number, low: number, high: number): number[] {
  const order = wanted.map((y, i) => ({ y, i })).sort((a, b) => a.y - b.y);
  let last = low - gap;
  for (const o of order) last = o.y = Math.max(o.y, last + gap);
  let next = high + gap;
  for (const o of [...order].reverse()) next = o.y = Math.min(o.y, next - gap);
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
