import { union, type Geom } from 'polyclip-ts';
import { areaOf, isBetween, NEAR, type Point, type Ring } from './ring';

/** How far a corner may be from the edge of another polygon that it lies on but for rounding, nm. */
const ON = 1.6;

/**
 * Polygons in whole nanometres whose edges are one where they are but for rounding: a corner that lies on an edge of another
 * polygon becomes a corner of that one too. Without it copper that meets at any angle but a right one would be left with slits.
 */
function joined(polygons: readonly Ring[]): [number, number][][] {
  const corners: [number, number][] = [];
  const rounded = polygons.map((p) =>
    p.map(([x, y]): [number, number] => {
      const own: [number, number] = [Math.round(x / NEAR), Math.round(y / NEAR)];
      const known = corners.find(([u, v]) => Math.abs(u - own[0]) <= ON && Math.abs(v - own[1]) <= ON);
      if (!known) corners.push(own);
      return known ?? own;
    }),
  );
  return rounded.map((p) =>
    p.flatMap((a, i) => {
      const b = p[(i + 1) % p.length];
      const [ex, ey] = [b[0] - a[0], b[1] - a[1]];
      const length = Math.hypot(ex, ey);
      if (length === 0) return [];
      const [xs, ys] = [0, 1].map((k) => [Math.min(a[k], b[k]) - ON, Math.max(a[k], b[k]) + ON]);
      const on = corners.flatMap((c) => {
        if (c[0] < xs[0] || c[0] > xs[1] || c[1] < ys[0] || c[1] > ys[1]) return [];
        const t = ((c[0] - a[0]) * ex + (c[1] - a[1]) * ey) / length;
        const off = Math.abs((c[0] - a[0]) * ey - (c[1] - a[1]) * ex) / length;
        return c !== a && c !== b && off <= ON && t > 0 && t < length ? [{ c, t }] : [];
      });
      return [a, ...on.sort((p, q) => p.t - q.t).map(({ c }) => c)];
    }),
  );
}

/** The outlines of the union of polygons: outer ones turn left, holes turn right. */
export function outlinesOf(polygons: readonly Ring[]): Point[][] {
  const closed = joined(polygons).map((p): Geom => [p]);
  const [first, ...rest] = closed;
  if (!first) return [];
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
      const corners = open.filter((_, k) => !isBetween(open, k, 1.5 * NEAR));
      return areaOf(corners) > 0 === (i === 0) ? corners : corners.reverse();
    }),
  );
}
