/**
 * A cell of the mesh: a convex polygon on which the current of each of its edges is an affine function of the place.
 */
export interface Cell {
  /** Corners in turn, m: x, y, x, y ... */
  readonly corners: Float64Array;
  readonly area: number;
  /** Centre, about which half functions are written. */
  readonly x: number;
  readonly y: number;
}

/**
 * What a basis function is on one cell: the current density (ax + bx (x - xc), ay + by (y - yc)) in 1/m of a total current of
 * 1 through the edge; `charge` is the integral of its divergence, 1 where the current leaves through the edge and -1 where
 * it comes in.
 */
export interface Half {
  readonly cell: number;
  readonly ax: number;
  readonly bx: number;
  readonly ay: number;
  readonly by: number;
  readonly charge: 1 | -1;
}

/** A mesh: cells, the basis functions on them (two halves over an inner edge, one where current enters), and ports. */
export interface Mesh {
  readonly cells: readonly Cell[];
  readonly bases: readonly (readonly Half[])[];
  /** Of each port the functions through which its current enters. */
  readonly ports: readonly (readonly number[])[];
}

/** A rectangle as a cell. */
export const rectangle = (x0: number, y0: number, x1: number, y1: number): Cell => ({
  corners: Float64Array.of(x0, y0, x1, y0, x1, y1, x0, y1),
  area: (x1 - x0) * (y1 - y0),
  x: (x0 + x1) / 2,
  y: (y0 + y1) / 2,
});

/**
 * Half of the function of a rectangle's edge.
 * @param side the edge: the one at lower or higher x or y
 * @param charge 1 where the current leaves the cell there
 */
export function rectangleHalf(
  cell: number,
  { corners, area }: Cell,
  side: 'left' | 'right' | 'bottom' | 'top',
  charge: 1 | -1,
): Half {
  const across = side === 'left' || side === 'right';
  const size = across ? corners[5] - corners[1] : corners[2] - corners[0];
  const outward = side === 'right' || side === 'top' ? 1 : -1;
  // In the middle half of the current flows, in the sense of the edge's outward normal times the charge.
  const a = (outward * charge) / (2 * size);
  const b = charge / area;
  return across ? { cell, ax: a, bx: b, ay: 0, by: 0, charge } : { cell, ax: 0, bx: 0, ay: a, by: b, charge };
}
