import { chargesOf, outline } from './conductors';
import type { Estimate } from './galerkin';
import type { Filling, Heights } from './layers';

/**
 * Capacitance in F/m of a strip on the interface, one for each filling; they share the geometry's work. Lengths in one
 * unit, whichever.
 * @param n panels on half a face, even; without it as many as the accuracy asks
 */
export function solveStrip(
  width: number,
  thickness: number,
  heights: Heights,
  fillings: readonly Filling[],
  n?: number,
): Estimate[] {
  const solved = chargesOf(outline(0, width / 2, thickness, n), heights, fillings, [1]);
  return solved.map(([{ capacitance }]) => ({ ...capacitance, value: 2 * capacitance.value }));
}

/** Capacitance in F/m of each strip of a symmetric pair: both at 1 V, and one at 1 V with the other at -1 V. */
export interface PairCapacitance {
  readonly even: Estimate;
  readonly odd: Estimate;
}

/** The same for two equal strips, `gap` apart. */
export function solvePair(
  width: number,
  gap: number,
  thickness: number,
  heights: Heights,
  fillings: readonly Filling[],
  n?: number,
): PairCapacitance[] {
  const panels = outline(gap / 2, gap / 2 + width, thickness, n);
  return chargesOf(panels, heights, fillings, [1, -1]).map(([even, odd]) => ({
    even: even.capacitance,
    odd: odd.capacitance,
  }));
}
