import { ticks } from 'd3-array';
import type { Domain } from './domain';
import { pixelsOf } from './path';

export interface Axis {
  readonly label: string;
  /** Multiplies SI values into the numbers on the axis. */
  readonly scale?: number;
  readonly log?: boolean;
  /** Whole range when nothing is zoomed, in SI; default: that of the traces. */
  readonly range?: readonly [number, number];
  /** Writes a value for the read-out; default: the number in axis units. */
  readonly format?: (value: number) => string;
}

/** Pixels of values on an axis, and back. */
export interface Scale {
  (value: number): number;
  invert(pixel: number): number;
}

/** Linear, or linear in the logarithm. */
export function scaleOf(log: boolean | undefined, domain: Domain, from: number, to: number): Scale {
  const share = (pixel: number): number => (pixel - from) / (to - from);
  const [a, b] = domain;
  return Object.assign(pixelsOf(log, domain, from, to), {
    invert: (pixel: number) => (log ? a * Math.pow(b / a, share(pixel)) : a + (b - a) * share(pixel)),
  });
}

/** Numbers that a logarithmic axis is ruled at: 1 to 9 in every decade, or 1, 2 and 5, or powers of ten, as there is room. */
function logTicks([a, b]: Domain, count: number): number[] {
  const [first, last] = [Math.floor(Math.log10(a)), Math.ceil(Math.log10(b))];
  const inside = (digits: readonly number[]): number[] =>
    Array.from({ length: last - first + 1 }, (_, k) => first + k)
      .flatMap((decade) => digits.map((digit) => Number(`${digit}e${decade}`)))
      .filter((t) => t >= a && t <= b);
  const all = inside([1, 2, 3, 4, 5, 6, 7, 8, 9]);
  if (all.length <= 12) return all;
  const few = inside([1, 2, 5]);
  return few.length <= 3 * count ? few : inside([1]);
}

/** Round values at which an axis is ruled, about so many. */
export const ticksOf = (log: boolean | undefined, domain: Domain, count: number): number[] =>
  log ? logTicks(domain, count) : ticks(domain[0], domain[1], count);
