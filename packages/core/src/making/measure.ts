import {
  areaOf,
  grouped,
  lengthAround,
  nearestBetween,
  nearestOn,
  within,
  type Point,
  type Ring,
} from '../polygons';
import type { BoardPlan } from './board';

/** What one can measure from and to on a board: a side of the copper or of the rim, a corner, or the middle of a hole. */
export interface Spot {
  readonly kind: 'side' | 'corner' | 'hole';
  /** Where it was taken hold of, m. */
  readonly at: Point;
  /** Ends of the side; of a corner or hole both are its place. */
  readonly a: Point;
  readonly b: Point;
}

/** The spot nearest to a place within a reach (m); corners and holes before sides. */
export function spotAt({ outlines, board, holes }: BoardPlan, at: Point, reach: number): Spot | undefined {
  let corner: (Spot & { far: number }) | undefined;
  let side: (Spot & { far: number }) | undefined;
  const far = ([x, y]: Point) => Math.hypot(x - at[0], y - at[1]);
  for (const { x, y } of holes) {
    const place: Point = [x, y];
    if (far(place) < Math.min(reach, corner?.far ?? Infinity))
      corner = { kind: 'hole', at: place, a: place, b: place, far: far(place) };
  }
  for (const ring of [...outlines, board])
    ring.forEach((a, i) => {
      const b = ring[(i + 1) % ring.length];
      if (far(a) < Math.min(reach, corner?.far ?? Infinity))
        corner = { kind: 'corner', at: a, a, b: a, far: far(a) };
      const p = nearestOn(at, a, b);
      if (far(p) < Math.min(reach, side?.far ?? Infinity)) side = { kind: 'side', at: p, a, b, far: far(p) };
    });
  // A corner is easily missed by hand: it is taken from twice as near as sides are.
  const best = corner && (!side || corner.far < reach / 2) ? corner : (side ?? corner);
  if (!best) return undefined;
  const { kind, at: place, a, b } = best;
  return { kind, at: place, a, b };
}

export interface Distance {
  readonly from: Point;
  readonly to: Point;
  readonly distance: number;
  readonly dx: number;
  readonly dy: number;
  /** Between two sides, 0 to 90 degrees in rad; absent where one is no side. */
  readonly angle?: number;
}

/** The shortest way from one spot to another. */
export function distanceOf(one: Spot, other: Spot): Distance {
  const { p, q, distance } = nearestBetween(one.a, one.b, other.a, other.b);
  const both = one.kind === 'side' && other.kind === 'side';
  const way = ({ a, b }: Spot) => Math.atan2(b[1] - a[1], b[0] - a[0]);
  const turn = Math.abs(way(one) - way(other)) % Math.PI;
  return {
    from: p,
    to: q,
    distance,
    dx: q[0] - p[0],
    dy: q[1] - p[1],
    ...(both && { angle: Math.min(turn, Math.PI - turn) }),
  };
}

export interface Across {
  /** Whether it is copper that was measured across, or board. */
  readonly copper: boolean;
  readonly from: Point;
  readonly to: Point;
  readonly distance: number;
}

/** How wide the copper is at a place, or the gap: square to the nearest side, to what is opposite; undefined where nothing is. */
export function acrossAt({ outlines }: BoardPlan, at: Point): Across | undefined {
  let near: { p: Point; a: Point; b: Point; far: number } | undefined;
  const each = (act: (a: Point, b: Point) => void) => {
    for (const ring of outlines) ring.forEach((a, i) => act(a, ring[(i + 1) % ring.length]));
  };
  each((a, b) => {
    const p = nearestOn(at, a, b);
    const far = Math.hypot(p[0] - at[0], p[1] - at[1]);
    if (!near || far < near.far) near = { p, a, b, far };
  });
  if (!near) return undefined;
  const copper = within(outlines, at[0], at[1]);
  const { p, a, b } = near as { p: Point; a: Point; b: Point };
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
  // Copper lies to the left of every side.
  const sign = copper ? 1 : -1;
  const way: Point = [(sign * (a[1] - b[1])) / long, (sign * (b[0] - a[0])) / long];
  let best = Infinity;
  each((c, d) => {
    const [ex, ey] = [d[0] - c[0], d[1] - c[1]];
    const cross = way[0] * ey - way[1] * ex;
    if (Math.abs(cross) < 1e-15) return;
    const t = ((c[0] - p[0]) * ey - (c[1] - p[1]) * ex) / cross;
    const s = ((c[0] - p[0]) * way[1] - (c[1] - p[1]) * way[0]) / cross;
    if (t > 1e-9 && t < best && s >= 0 && s <= 1) best = t;
  });
  if (best === Infinity) return undefined;
  return { copper, from: p, to: [p[0] + best * way[0], p[1] + best * way[1]], distance: best };
}

export interface Shape {
  /** Without its holes, m^2. */
  readonly area: number;
  /** Of all its outlines, m. */
  readonly rim: number;
  readonly outlines: readonly Ring[];
}

/** The one piece of copper at a place, everything that is joined to it; undefined where there is none. */
export function shapeAt({ outlines }: BoardPlan, at: Point): Shape | undefined {
  const here = (ring: Ring) => within([ring], at[0], at[1]);
  const own = grouped(outlines).find(({ outer, holes }) => here(outer) && !holes.some(here));
  if (!own) return undefined;
  const all = [own.outer, ...own.holes];
  const sum = (of: (ring: Ring) => number) => all.reduce((s, ring) => s + of(ring), 0);
  return { area: sum(areaOf), rim: sum(lengthAround), outlines: all };
}
