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
 * What a basis function is on one cell: the current density (ax + bxx (x - xc) + bxy (y - yc), ay + byx (x - xc) + byy (y - yc)) in 1/m
 * of a total current of 1 through the edge; `charge` is the integral of its divergence, 1 where the current leaves through
 * the edge and -1 where it comes in. Of a share of such a current all of it is that share.
 */
export interface Half {
  readonly cell: number;
  readonly ax: number;
  readonly bxx: number;
  readonly bxy: number;
  readonly ay: number;
  readonly byx: number;
  readonly byy: number;
  readonly charge: number;
}

/** A mesh: cells, the basis functions on them (two halves over an inner edge, one where current enters), and ports. */
export interface Mesh {
  readonly cells: readonly Cell[];
  readonly bases: readonly (readonly Half[])[];
  readonly ports: readonly Entry[];
}

/** Where current enters: rectangles side by side. */
export interface Entry {
  /** The functions through which it does. */
  readonly functions: readonly number[];
  /** Lines of the mesh across the strip, m; at a wall along the axis it lies on. */
  readonly across: readonly number[];
  /** Length of the first cells, m. */
  readonly pitch: number;
  /** Length of line that the mesh has in front of the port's edge, m. */
  readonly before: number;
}

/** A rectangle along the axes as a cell. */
export const rectangle = (x0: number, y0: number, x1: number, y1: number): Cell => ({
  corners: Float64Array.of(x0, y0, x1, y0, x1, y1, x0, y1),
  area: (x1 - x0) * (y1 - y0),
  x: (x0 + x1) / 2,
  y: (y0 + y1) / 2,
});

/** A triangle, or a rectangle of any direction, as a cell. @param corners turning left */
export function cellOf(corners: Float64Array): Cell {
  const n = corners.length / 2;
  let [x, y, twice] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    x += corners[2 * i] / n;
    y += corners[2 * i + 1] / n;
    twice += corners[2 * i] * corners[2 * j + 1] - corners[2 * j] * corners[2 * i + 1];
  }
  return { corners, area: twice / 2, x, y };
}

/**
 * Half of the function of one edge of a cell: on a triangle it points away from the corner that faces the edge (Rao, Wilton &
 * Glisson 1982), on a rectangle it grows from the edge that faces it.
 * @param edge from corner `edge` to the next
 * @param charge 1 where the current leaves the cell there
 */
export function edgeHalf(
  index: number,
  { corners: c, area, x, y }: Cell,
  edge: number,
  charge: 1 | -1,
): Half {
  const n = c.length / 2;
  const a = 2 * edge;
  const b = 2 * ((edge + 1) % n);
  if (n === 3) {
    const far = 2 * ((edge + 2) % 3);
    const s = charge / (2 * area);
    return {
      cell: index,
      ax: s * (x - c[far]),
      bxx: s,
      bxy: 0,
      ay: s * (y - c[far + 1]),
      byx: 0,
      byy: s,
      charge,
    };
  }
  const length = Math.hypot(c[b] - c[a], c[b + 1] - c[a + 1]);
  // Outward where corners turn to the left.
  const ux = (c[b + 1] - c[a + 1]) / length;
  const uy = (c[a] - c[b]) / length;
  const middle = charge / (2 * length);
  const slope = charge / area;
  return {
    cell: index,
    ax: middle * ux,
    bxx: slope * ux * ux,
    bxy: slope * ux * uy,
    ay: middle * uy,
    byx: slope * uy * ux,
    byy: slope * uy * uy,
    charge,
  };
}

/** Sides of a rectangle along the axes, as the edges of its corners. */
const SIDES = { bottom: 0, right: 1, top: 2, left: 3 } as const;

/** Half of the function of a side of a rectangle along the axes. @param charge 1 where the current leaves the cell there */
export const rectangleHalf = (index: number, cell: Cell, side: keyof typeof SIDES, charge: 1 | -1): Half =>
  edgeHalf(index, cell, SIDES[side], charge);

/** A share of a half function. */
export const scaled = (half: Half, by: number): Half => ({
  cell: half.cell,
  ax: half.ax * by,
  bxx: half.bxx * by,
  bxy: half.bxy * by,
  ay: half.ay * by,
  byx: half.byx * by,
  byy: half.byy * by,
  charge: half.charge * by,
});

/** Whether a cell is a rectangle along the axes. */
export const isUpright = ({ corners: c }: Cell): boolean =>
  c.length === 8 && c[1] === c[3] && c[2] === c[4] && c[5] === c[7] && c[6] === c[0];

/** Second moments of a cell about its centre: xx, xy, yy. */
export function momentsOf({ corners: c, area, x, y }: Cell): readonly [number, number, number] {
  // Of a triangle a twelfth of the corners' sum; of a rectangle as well, with four corners.
  let [xx, xy, yy] = [0, 0, 0];
  for (let k = 0; k < c.length; k += 2) {
    xx += (c[k] - x) ** 2;
    xy += (c[k] - x) * (c[k + 1] - y);
    yy += (c[k + 1] - y) ** 2;
  }
  return [(area * xx) / 12, (area * xy) / 12, (area * yy) / 12];
}

/** Integral of the product of two halves on one cell. */
export function overlapOf(
  cell: Cell,
  [xx, xy, yy]: readonly [number, number, number],
  h: Half,
  k: Half,
): number {
  return (
    cell.area * (h.ax * k.ax + h.ay * k.ay) +
    (h.bxx * k.bxx + h.byx * k.byx) * xx +
    (h.bxx * k.bxy + h.bxy * k.bxx + h.byx * k.byy + h.byy * k.byx) * xy +
    (h.bxy * k.bxy + h.byy * k.byy) * yy
  );
}

/** Of each cell the halves that lie on it, each with its function. */
export function halvesOn({ cells, bases }: Mesh): { readonly basis: number; readonly half: Half }[][] {
  const on: { readonly basis: number; readonly half: Half }[][] = cells.map(() => []);
  bases.forEach((halves, basis) => halves.forEach((half) => on[half.cell].push({ basis, half })));
  return on;
}
