import { cellOf, type Cell, type Mesh } from './mesh';

/** A function through which current enters. */
export interface Row {
  readonly basis: number;
  /** Ends of the cell's edge at the port, the cell to their left. */
  readonly a: readonly [number, number];
  readonly b: readonly [number, number];
  readonly at: number;
}

/** Where the functions of a port are and which way is out. */
export interface Place {
  readonly rows: readonly Row[];
  /** Outward. */
  readonly nx: number;
  readonly ny: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
}

/** @param port its index */
export function placeOf({ cells, bases, ports }: Mesh, port: number): Place {
  const own = ports[port].functions.map((basis) => ({ basis, half: bases[basis][0] }));
  // Current that comes in points inward where it does so; on a rectangle it only changes in size.
  const inward = own.map(({ half: { cell, ax, ay } }) => {
    const size = Math.hypot(ax, ay) || 1;
    return { x: cells[cell].x, y: cells[cell].y, ux: ax / size, uy: ay / size };
  });
  const nx = -inward[0].ux;
  const ny = -inward[0].uy;
  const rows = own.map(({ basis, half }): Row => {
    const { corners: c } = cells[half.cell];
    const n = c.length / 2;
    let best = -Infinity;
    let edge = 0;
    for (let e = 0; e < n; e++) {
      const k = (e + 1) % n;
      const far = (c[2 * e] + c[2 * k]) * nx + (c[2 * e + 1] + c[2 * k + 1]) * ny;
      if (far > best) [best, edge] = [far, e];
    }
    const k = (edge + 1) % n;
    const a = [c[2 * edge], c[2 * edge + 1]] as const;
    const b = [c[2 * k], c[2 * k + 1]] as const;
    return { basis, a, b, at: ((a[0] + b[0]) * -ny + (a[1] + b[1]) * nx) / 2 };
  });
  rows.sort((p, q) => p.at - q.at);
  const [first, last] = [rows[0], rows[rows.length - 1]];
  const ends = [first.a, first.b, last.a, last.b].sort(
    (p, q) => p[1] * nx - p[0] * ny - (q[1] * nx - q[0] * ny),
  );
  const [low, high] = [ends[0], ends[3]];
  return {
    rows,
    nx,
    ny,
    x: (low[0] + high[0]) / 2,
    y: (low[1] + high[1]) / 2,
    width: Math.hypot(high[0] - low[0], high[1] - low[1]),
  };
}

/** A rectangle outside of a row's edge, between two distances from it, m; its edge 0 looks back at the copper, edge 2 away from it. */
export function cellBehind({ nx, ny }: Place, { a, b }: Row, from: number, to: number): Cell {
  const out = ([x, y]: readonly [number, number], by: number) => [x + nx * by, y + ny * by];
  return cellOf(Float64Array.of(...out(b, from), ...out(a, from), ...out(a, to), ...out(b, to)));
}
