import { union, type Geom } from 'polyclip-ts';
import { CopperError, type Copper, type Point } from './contract';

/** Points closer than this are one, m. */
const NEAR = 1e-9;

/** Area within an outline, negative where it turns right. */
export const areaOf = (ring: readonly Point[]): number =>
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

/** How far a corner may be from the edge of another polygon that it lies on but for rounding, nm. */
const ON = 1.6;

/**
 * Polygons in whole nanometres whose edges are one where they are but for rounding: a corner that lies on an edge of another
 * polygon becomes a corner of that one too. Without it copper that meets at any angle but a right one would be left with slits.
 */
function joined(polygons: Copper['polygons']): [number, number][][] {
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
export function outlinesOf(polygons: Copper['polygons']): Point[][] {
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
      const corners = open.filter((_, k) => !isBetween(open, k));
      return areaOf(corners) > 0 === (i === 0) ? corners : corners.reverse();
    }),
  );
}

/** Copper nearer to other copper than this is neither joined to it nor apart from it, m. */
const APART = 1e-7;

/** Refuses outlines that meet in one point, or come closer to one another than anything can be made. @throws CopperError */
export function checkOutlines(outlines: readonly (readonly Point[])[]): void {
  const edges = outlines.flatMap((ring, r) => {
    let from = 0;
    return ring.map((a, i) => {
      const b = ring[(i + 1) % ring.length];
      const start = from;
      from += Math.hypot(b[0] - a[0], b[1] - a[1]);
      return { r, a, b, start, end: from };
    });
  });
  const round = outlines.map((ring) =>
    ring.reduce((sum, [x, y], i) => {
      const [u, v] = ring[(i + 1) % ring.length];
      return sum + Math.hypot(u - x, v - y);
    }, 0),
  );
  for (const {
    r,
    a: [x, y],
    start: at,
  } of edges)
    for (const { r: other, a, b, start, end } of edges) {
      if (Math.min(a[0], b[0]) - APART > x || Math.max(a[0], b[0]) + APART < x) continue;
      if (Math.min(a[1], b[1]) - APART > y || Math.max(a[1], b[1]) + APART < y) continue;
      // Along the outline itself a corner is near to what is beside it.
      const along = Math.min(...[start - at, end - at].flatMap((d) => [Math.abs(d), round[r] - Math.abs(d)]));
      if (r === other && along < 3 * APART) continue;
      const long = (end - start) ** 2;
      const t = Math.max(0, Math.min(1, ((x - a[0]) * (b[0] - a[0]) + (y - a[1]) * (b[1] - a[1])) / long));
      const away = Math.hypot(x - a[0] - t * (b[0] - a[0]), y - a[1] - t * (b[1] - a[1]));
      if (away > APART) continue;
      const place = `at ${[x, y].map((v) => Number((v * 1e3).toFixed(4))).join(', ')} mm`;
      throw new CopperError(
        away < 2 * NEAR
          ? `the copper touches itself in one point ${place}: join it there over a width, or part it`
          : `the copper comes within ${Number((away * 1e6).toPrecision(2))} um of itself ${place} without being joined: join it, or part it`,
      );
    }
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
