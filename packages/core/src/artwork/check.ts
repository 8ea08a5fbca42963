import { pinsByNode, type ResolvedDesign } from '../network';
import { parts, turn, type Point } from '../parts';
import type { Layout } from './layout';

/** Two pieces whose copper comes nearer than it may. */
export interface Nearness {
  readonly first: string;
  readonly second: string;
  /** Distance between their copper in m; 0 where they overlap. */
  readonly distance: number;
}

interface Box {
  readonly x0: number;
  readonly x1: number;
  readonly y0: number;
  readonly y1: number;
}

const boxOf = (polygon: readonly Point[]): Box => {
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const p of polygon) {
    x0 = Math.min(x0, p.x);
    x1 = Math.max(x1, p.x);
    y0 = Math.min(y0, p.y);
    y1 = Math.max(y1, p.y);
  }
  return { x0, x1, y0, y1 };
};

/** Distance from a point to a segment. */
function toSegment(p: Point, a: Point, b: Point): number {
  const dx = b.x - a.x;
  const dy = b.y - a.y;
  const size = dx * dx + dy * dy;
  const t = size === 0 ? 0 : Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / size));
  return Math.hypot(p.x - a.x - t * dx, p.y - a.y - t * dy);
}

/** Whether some edge of either polygon separates the two; of convex ones that are apart some edge does. */
function separated(a: readonly Point[], b: readonly Point[]): boolean {
  for (const [p, q] of [
    [a, b],
    [b, a],
  ])
    for (let i = 0; i < p.length; i++) {
      const u = p[i];
      const v = p[(i + 1) % p.length];
      const nx = v.y - u.y;
      const ny = u.x - v.x;
      const own = p.map((r) => (r.x - u.x) * nx + (r.y - u.y) * ny);
      const other = q.map((r) => (r.x - u.x) * nx + (r.y - u.y) * ny);
      if (Math.max(...own) <= Math.min(...other) || Math.min(...own) >= Math.max(...other)) return true;
    }
  return false;
}

function isConvex(polygon: readonly Point[]): boolean {
  const n = polygon.length;
  const turns = polygon.map((p, i) => turn(p, polygon[(i + 1) % n], polygon[(i + 2) % n]));
  return turns.every((t) => t >= 0) || turns.every((t) => t <= 0);
}

function isInside({ x, y }: Point, polygon: readonly Point[]): boolean {
  let inside = false;
  polygon.forEach((a, i) => {
    const b = polygon[(i + 1) % polygon.length];
    if (a.y > y !== b.y > y && x < a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x)) inside = !inside;
  });
  return inside;
}

/** Whether outlines of any form overlap: sides cross, or one lies inside of the other. */
function overlap(a: readonly Point[], b: readonly Point[]): boolean {
  const cross = a.some((p, i) => {
    const q = a[(i + 1) % a.length];
    return b.some((r, j) => {
      const s = b[(j + 1) % b.length];
      return turn(p, q, r) * turn(p, q, s) < 0 && turn(r, s, p) * turn(r, s, q) < 0;
    });
  });
  return cross || isInside(a[0], b) || isInside(b[0], a);
}

/** Distance between two polygons in m, 0 where they overlap. */
export function distanceBetween(a: readonly Point[], b: readonly Point[]): number {
  if (!separated(a, b) && ((isConvex(a) && isConvex(b)) || overlap(a, b))) return 0;
  let least = Infinity;
  for (const [p, q] of [
    [a, b],
    [b, a],
  ])
    for (const point of p)
      q.forEach((u, i) => (least = Math.min(least, toSegment(point, u, q[(i + 1) % q.length]))));
  return least;
}

/** Steps along the nodes within which copper belongs together and may touch. */
const NEIGHBOURHOOD = 2;

/**
 * Pairs of pieces that are not neighbours in the network and whose copper comes nearer than `least` (m), the nearest of
 * each pair.
 */
export function nearPieces(
  resolved: Pick<ResolvedDesign, 'pieces'>,
  layout: Layout,
  least: number,
): Nearness[] {
  const neighbours = new Map<string, Set<string>>();
  // Copper on the two sides of a mounted part does not belong together: touching would bridge it.
  for (const pins of pinsByNode(resolved.pieces.filter((p) => !parts.get(p.kind)?.bridges)).values())
    for (const { piece: a } of pins)
      for (const { piece: b } of pins)
        if (a !== b) (neighbours.get(a.id) ?? neighbours.set(a.id, new Set()).get(a.id)!).add(b.id);
  const points = new Set(resolved.pieces.filter((p) => parts.get(p.kind)?.point).map((p) => p.id));
  const within = (start: string): Set<string> => {
    const seen = new Set([start]);
    let edge = [start];
    for (let step = 0; step < NEIGHBOURHOOD; step++) {
      const next: string[] = [];
      for (const id of edge)
        for (const other of neighbours.get(id) ?? [])
          if (!seen.has(other)) {
            seen.add(other);
            // A point has no copper of its own: what lies behind it is met here.
            (points.has(other) ? edge : next).push(other);
          }
      edge = next;
    }
    return seen;
  };
  const solid = layout.pieces
    .filter((p) => p.copper.length > 0)
    .map((p) => ({ id: p.id, polygons: p.copper, boxes: p.copper.map(boxOf), own: within(p.id) }));
  const found: Nearness[] = [];
  solid.forEach((a, i) => {
    for (const b of solid.slice(i + 1)) {
      if (a.own.has(b.id)) continue;
      let distance = Infinity;
      a.polygons.forEach((p, m) =>
        b.polygons.forEach((q, n) => {
          const [s, t] = [a.boxes[m], b.boxes[n]];
          if (s.x0 > t.x1 + least || t.x0 > s.x1 + least || s.y0 > t.y1 + least || t.y0 > s.y1 + least)
            return;
          distance = Math.min(distance, distanceBetween(p, q));
        }),
      );
      if (distance < least * (1 - 1e-9)) found.push({ first: a.id, second: b.id, distance });
    }
  });
  return found;
}
