import { union, type Geom } from 'polyclip-ts';
import type { Copper, Point } from './contract';

/** Points closer than this are one, m. */
const NEAR = 1e-9;

const areaOf = (ring: readonly Point[]): number =>
  ring.reduce((sum, [x, y], i) => {
    const [u, v] = ring[(i + 1) % ring.length];
    return sum + (x * v - u * y) / 2;
  }, 0);

/** Whether a corner lies on the straight way from the one before it to the next, but for rounding. */
function isBetween(ring: readonly Point[], k: number): boolean {
  const [x, y] = ring[k];
  const [ax, ay] = ring[(k + ring.length - 1) % ring.length];
  const [bx, by] = ring[(k + 1) % ring.length];
  const length = Math.hypot(bx - ax, by - ay);
  const along = (x - ax) * (bx - ax) + (y - ay) * (by - ay);
  return (
    Math.abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) < 1.5 * NEAR * length &&
    along > 0 &&
    along < length * length
  );
}

/** The outlines of the union of polygons: outer ones turn left, holes turn right. */
export function outlinesOf(polygons: Copper['polygons']): Point[][] {
  // In whole nanometres: edges that are one but for rounding shall be one.
  const closed = polygons.map((p): Geom => [
    p.map(([x, y]): [number, number] => [Math.round(x / NEAR), Math.round(y / NEAR)]),
  ]);
  const [first, ...rest] = closed;
  return union(first, ...rest).flatMap((polygon) =>
    polygon.map((ring, i) => {
      // Corners that are one for every purpose become one.
      const open = ring
        .slice(0, -1)
        .map(([x, y]): Point => [x * NEAR, y * NEAR])
        .filter(([x, y], k, all) => {
          const [u, v] = all[(k + all.length - 1) % all.length];
          return Math.hypot(x - u, y - v) > 1.5 * NEAR;
        });
      const corners = open.filter((_, k) => !isBetween(open, k));
      return areaOf(corners) > 0 === (i === 0) ? corners : corners.reverse();
    }),
  );
}

/** Whether a point lies inside of closed outlines, those inside of others being holes. */
export function within(rings: readonly (readonly Point[])[], x: number, y: number): boolean {
  let inside = false;
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [xi, yi] = ring[i];
      const [xj, yj] = ring[j];
      if (yi > y !== yj > y && x < xi + ((y - yi) / (yj - yi)) * (xj - xi)) inside = !inside;
    }
  return inside;
}
