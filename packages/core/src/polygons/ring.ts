/** A point, m. */
export type Point = readonly [number, number];

/** The corners of an outline, m. */
export type Ring = readonly Point[];

/** Area within an outline, negative where it turns right. */
export const areaOf = (ring: Ring): number =>
  ring.reduce((sum, [x, y], i) => {
    const [u, v] = ring[(i + 1) % ring.length];
    return sum + (x * v - u * y) / 2;
  }, 0);

/** Whether a point lies inside of closed outlines, those inside of others being holes. */
export function within(rings: readonly Ring[], x: number, y: number): boolean {
  let inside = false;
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [xi, yi] = ring[i];
      const [xj, yj] = ring[j];
      if (yi > y !== yj > y && x < xi + ((y - yi) / (yj - yi)) * (xj - xi)) inside = !inside;
    }
  return inside;
}

/** Length of an outline, m. */
export const lengthAround = (ring: Ring): number =>
  ring.reduce((sum, [x, y], i) => {
    const [u, v] = ring[(i + 1) % ring.length];
    return sum + Math.hypot(u - x, v - y);
  }, 0);

/** Points closer than this are one, m. */
export const NEAR = 1e-9;

/** Whether a corner lies between its neighbours, off the straight way from one to the other by less than `off` (m). */
export function isBetween(ring: Ring, k: number, off: number): boolean {
  const [x, y] = ring[k];
  const [ax, ay] = ring[(k + ring.length - 1) % ring.length];
  const [bx, by] = ring[(k + 1) % ring.length];
  const length = Math.hypot(bx - ax, by - ay);
  const along = (x - ax) * (bx - ax) + (y - ay) * (by - ay);
  return (
    Math.abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) < off * length &&
    along > 0 &&
    along < length * length
  );
}

/** Corners of the box around points; of none it is turned inside out. */
export function boxOf(points: Ring): {
  readonly x0: number;
  readonly x1: number;
  readonly y0: number;
  readonly y1: number;
} {
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const [x, y] of points) {
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  return { x0, x1, y0, y1 };
}

/** The point of a straight side that is nearest to a place. */
export function nearestOn([x, y]: Point, [ax, ay]: Point, [bx, by]: Point): Point {
  const [dx, dy] = [bx - ax, by - ay];
  const size = dx * dx + dy * dy;
  const t = size === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / size));
  return [ax + t * dx, ay + t * dy];
}

/** Where two straight sides come nearest to each other, and how near, m; where they cross, 0. */
export function nearestBetween(
  a: Point,
  b: Point,
  c: Point,
  d: Point,
): { readonly p: Point; readonly q: Point; readonly distance: number } {
  const side = (p: Point, q: Point, r: Point) =>
    (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
  const [s, t, u, v] = [side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)];
  if (s * t < 0 && u * v < 0) {
    const along = u / (u - v);
    const p: Point = [a[0] + along * (b[0] - a[0]), a[1] + along * (b[1] - a[1])];
    return { p, q: p, distance: 0 };
  }
  let best = { p: a, q: c, distance: Infinity };
  const tell = (p: Point, q: Point) => {
    const distance = Math.hypot(p[0] - q[0], p[1] - q[1]);
    if (distance < best.distance) best = { p, q, distance };
  };
  tell(a, nearestOn(a, c, d));
  tell(b, nearestOn(b, c, d));
  tell(nearestOn(c, a, b), c);
  tell(nearestOn(d, a, b), d);
  return best;
}

/** Straight sides of outlines, in places of a grid so that those near a place are found without looking at all. */
export interface Sides {
  readonly sides: readonly Side[];
  /** Sides whose places come within so much of a box. */
  near(box: { x0: number; x1: number; y0: number; y1: number }): readonly Side[];
}

export interface Side {
  readonly a: Point;
  readonly b: Point;
  readonly ring: number;
  readonly index: number;
  /** Into the area, of length 1: the area lies to the left. */
  readonly normal: Point;
}

/** @param cell size of the grid's places, m */
export function sidesOf(rings: readonly Ring[], cell: number): Sides {
  const sides = rings.flatMap((corners, ring) =>
    corners.map((a, index): Side => {
      const b = corners[(index + 1) % corners.length];
      const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      return { a, b, ring, index, normal: [(a[1] - b[1]) / long, (b[0] - a[0]) / long] };
    }),
  );
  const places = new Map<string, Side[]>();
  const at = (v: number) => Math.floor(v / cell);
  for (const side of sides) {
    const { a, b } = side;
    // A long side at an angle is in the places along it, not in all of its box.
    const steps = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / (4 * cell)));
    const seen = new Set<string>();
    for (let k = 0; k < steps; k++) {
      const [p, q] = [k / steps, (k + 1) / steps].map((t): Point => [
        a[0] + t * (b[0] - a[0]),
        a[1] + t * (b[1] - a[1]),
      ]);
      for (let i = at(Math.min(p[0], q[0])); i <= at(Math.max(p[0], q[0])); i++)
        for (let j = at(Math.min(p[1], q[1])); j <= at(Math.max(p[1], q[1])); j++) seen.add(`${i} ${j}`);
    }
    for (const key of seen) {
      const list = places.get(key);
      if (list) list.push(side);
      else places.set(key, [side]);
    }
  }
  return {
    sides,
    near({ x0, x1, y0, y1 }) {
      const found = new Set<Side>();
      for (let i = at(x0); i <= at(x1); i++)
        for (let j = at(y0); j <= at(y1); j++)
          for (const side of places.get(`${i} ${j}`) ?? []) found.add(side);
      return [...found];
    },
  };
}

/** Distance from a place to the nearest of outlines, m; negative where it lies in none. */
export function copperAround(rings: readonly Ring[], at: Point): number {
  let least = Infinity;
  for (const ring of rings)
    ring.forEach((a, i) => {
      const [x, y] = nearestOn(at, a, ring[(i + 1) % ring.length]);
      least = Math.min(least, Math.hypot(x - at[0], y - at[1]));
    });
  return within(rings, at[0], at[1]) ? least : -least;
}

/** Outer outlines each with the holes that lie in it. */
export function grouped(rings: readonly Ring[]): { readonly outer: Ring; readonly holes: readonly Ring[] }[] {
  const outers = rings.filter((r) => areaOf(r) > 0);
  const groups = outers.map((outer) => ({ outer, holes: [] as Ring[], area: areaOf(outer) }));
  for (const hole of rings)
    if (areaOf(hole) < 0) {
      const around = groups.filter((g) => within([g.outer], hole[0][0], hole[0][1]));
      around.sort((a, b) => a.area - b.area)[0]?.holes.push(hole);
    }
  return groups.map(({ outer, holes }) => ({ outer, holes }));
}
