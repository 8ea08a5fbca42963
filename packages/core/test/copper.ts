import { expect } from 'vitest';
import type { Copper, Point } from '../src/planar';
import type { Mesh } from '../src/planar/mesh';

export const MM = 1e-3;
/** A rectangle, mm. */
export const rect = (x0: number, y0: number, x1: number, y1: number): Point[] => [
  [x0 * MM, y0 * MM],
  [x1 * MM, y0 * MM],
  [x1 * MM, y1 * MM],
  [x0 * MM, y1 * MM],
];
/** A port on an upright edge, mm. */
export const port = (number: number, x: number, y0: number, y1: number) => ({
  number,
  edge: [
    [x * MM, y0 * MM],
    [x * MM, y1 * MM],
  ] as const,
  plane: 1 * MM,
  z0: 50,
});
export const lossless = { conductivity: Infinity, thickness: 0, roughness: 0 };
export const layers = { below: { er: 3, tand: 0, height: MM }, above: { er: 1, tand: 0, height: Infinity } };
/** A straight line of 10 mm. */
export const line: Copper = {
  layers,
  metal: lossless,
  polygons: [rect(0, 0, 10, 2)],
  ports: [port(1, 0, 0, 2), port(2, 10, 0, 2)],
};

/** Edges of cells that no function crosses are those of the copper; each function leaves one cell and enters another. */
export function check(mesh: Mesh): void {
  for (const { area } of mesh.cells) expect(area).toBeGreaterThan(0);
  // No two cells lie over one another.
  const holds = ({ corners: c }: Mesh['cells'][number], x: number, y: number) =>
    Array.from({ length: c.length / 2 }, (_, i) => {
      const j = (2 * i + 2) % c.length;
      return (c[j] - c[2 * i]) * (y - c[2 * i + 1]) - (c[j + 1] - c[2 * i + 1]) * (x - c[2 * i]);
    }).every((turn) => turn > 0);
  for (const { x, y } of mesh.cells) expect(mesh.cells.filter((c) => holds(c, x, y))).toHaveLength(1);
  const crossed = new Set<string>();
  for (const halves of mesh.bases) {
    expect(halves.length).toBeLessThanOrEqual(2);
    if (halves.length === 2) {
      expect(halves.map((h) => h.charge)).toEqual([1, -1]);
      const key = halves.map((h) => h.cell).join(' ');
      expect(crossed.has(key)).toBe(false);
      crossed.add(key);
      // Both carry the same current over the edge between them: their densities agree in its middle.
      const [p, q] = halves.map(({ cell }) => mesh.cells[cell]);
      const corners = (c: Float64Array) =>
        Array.from({ length: c.length / 2 }, (_, i) => [c[2 * i], c[2 * i + 1]]);
      const shared = corners(p.corners).filter(([x, y]) =>
        corners(q.corners).some(([u, v]) => Math.hypot(x - u, y - v) < 1e-9),
      );
      expect(shared).toHaveLength(2);
      const [[ax, ay], [bx, by]] = shared;
      const [mx, my] = [(ax + bx) / 2, (ay + by) / 2];
      const flux = halves.map((h) => {
        const { x, y } = mesh.cells[h.cell];
        const jx = h.ax + h.bxx * (mx - x) + h.bxy * (my - y);
        const jy = h.ay + h.byx * (mx - x) + h.byy * (my - y);
        return jx * (by - ay) - jy * (bx - ax);
      });
      expect(Math.abs(flux[0])).toBeCloseTo(1, 6);
      expect(flux[1]).toBeCloseTo(flux[0], 6);
    }
  }
}

/** Hz */
export const TOP = 5e9;
export const areaOf = (mesh: Mesh): number => mesh.cells.reduce((sum, cell) => sum + cell.area, 0);
