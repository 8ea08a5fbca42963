import { MU0 } from '../../numeric';
import type { Medium, Substrate } from '../../lines';
import { surfaceResistance } from '../../lines';

/**
 * Inductance (H) of a plated hole from the strip to ground. Source: Goldfarb & Pucel 1991, eq. 1. In stripline the hole
 * reaches both grounds: two halves in parallel.
 */
export function viaInductance(medium: Medium, { height }: Substrate, diameter: number): number {
  const r = diameter / 2;
  const halves = medium.grounds;
  const h = height / halves;
  const d = Math.hypot(r, h);
  return ((MU0 / (2 * Math.PI)) * (h * Math.log((h + d) / r) + 1.5 * (r - d))) / halves;
}

/** Resistance (ohm) of the hole's wall at `f`, plated as thick as the strip. */
export function viaResistance(
  medium: Medium,
  { height, conductivity, thickness }: Substrate,
  diameter: number,
  f: number,
): number {
  const halves = medium.grounds;
  const wall = thickness > 0 ? thickness : height / 20;
  return (surfaceResistance(f, conductivity, wall, 0) * height) / (Math.PI * diameter) / (halves * halves);
}
