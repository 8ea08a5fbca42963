import { SHARES, tightness, weighShares } from './contract';
import type { Stored } from './table';

/** By length, and by what it counts of what curves beside it. */
type Counted = readonly [number, number];

/**
 * What curving does to a line at a frequency, by two parts: one that begins where the curve does, and one that a place has of what
 * curves beside it, so that short arcs have less of it.
 */
export interface Curving {
  /** Length by which the line counts as shorter, over that of its arc. */
  readonly shorter: Counted;
  /** The same of what returns, as a change of the line's impedance would return it. */
  readonly returned: Counted;
  /**
   * Nepers that leave of waves that come from both ends alike, and of opposite ones, of a length that is the reach: only by what curves
   * beside a place, for what radiates is what does not go straight on.
   */
  readonly lost: readonly [alike: number, opposite: number];
}

/** How far a place knows of what curves beside it, over hypot(width, height): by the field solution of arcs of 15 to 110 degrees. */
const REACH = 1.25;

export const reachOf = (width: number, height: number): number => REACH * Math.hypot(width, height);

/** An arc's length as each of the two parts counts it. @param reach m */
export const countedOf = (arc: number, reach: number): [number, number] => [
  arc,
  arc - reach * (1 - Math.exp(-arc / reach)),
];

/**
 * The same of what returns: how a wave of `beta` (rad/m) that comes back from everywhere along the arc adds up in its middle.
 * Small arcs: beta times what `countedOf` says.
 */
export function returningOf(arc: number, reach: number, beta: number): [number, number] {
  const [t, x] = [beta * arc, beta * reach];
  return [Math.sin(t), (Math.sin(t) - x * (Math.cos(t) - Math.exp(-arc / reach))) / (1 + x * x)];
}

/** In the order of a table's numbers. */
export const numbersOf = ({ shorter, returned, lost }: Curving): number[] => [
  ...shorter,
  ...returned,
  ...lost,
];
const NUMBERS = 6;

/**
 * An arc of a line in waves of the straight one. Waves into both ends that are alike come out as their like with
 * e^(-lost[0] - j phase + j returned), opposite ones with e^(-lost[1] - j phase - j returned), turned over.
 */
export interface Curved {
  /** rad */
  phase: number;
  /** rad */
  returned: number;
  /** Np */
  readonly lost: [number, number];
  /** What a turn of 1 rad to the same side at one of its ends adds to the length by which it counts as shorter, m, and to what returns. */
  readonly beside: [shorter: number, returned: number];
}

/** Of no length yet: to be written. */
export const curved = (): Curved => ({ phase: 0, returned: 0, lost: [0, 0], beside: [0, 0] });

/**
 * An arc as a table stores what curving does to its line, over frequency: polynomials in its square.
 * @param width of the line, @param radius and @param arc, radius and length of its centre line, m
 * @param height over the nearest ground, m
 * @returns writes the arc at a frequency (Hz) at which the straight line has `beta` (rad/m)
 */
export function curvedLine(
  { top, leaving, re, im }: Stored,
  width: number,
  radius: number,
  arc: number,
  height: number,
): (f: number, beta: number, out: Curved) => void {
  const scale = tightness(width / height, radius / height);
  const numbers = SHARES.map((_, k) => [...re[k], ...im[k]]);
  const reach = reachOf(width, height);
  const [near, far] = countedOf(arc, reach);
  const beside = radius * (1 - Math.exp(-arc / reach));
  const weights = new Float64Array(SHARES.length);
  const by = new Float64Array(NUMBERS);
  return (f, beta, out) => {
    weighShares(f / top, weights);
    by.fill(0);
    for (let k = 0; k < weights.length; k++)
      for (let i = 0; i < NUMBERS; i++) by[i] += scale * weights[k] * numbers[k][i];
    const returning = returningOf(arc, reach, beta);
    out.phase = beta * (arc - by[0] * near - by[1] * far);
    out.beside[0] = by[1] * beside;
    out.beside[1] = by[3] * beside;
    out.returned = by[2] * returning[0] + by[3] * returning[1];
    for (const mode of [0, 1] as const) out.lost[mode] = leaving * Math.max(0, (by[4 + mode] * far) / reach);
  };
}
