import { GROUND, pinsByNode, type ResolvedDesign } from '../network';
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

/** Places this close to one another are one, m. */
const ALIKE = 1e-7;

/** Of each polygon of each piece which copper it is part of: that which current could reach without a gap, were it as joined as meant. */
function jointCopper(
  resolved: Pick<ResolvedDesign, 'pieces'>,
  { pieces }: Layout,
): ReadonlyMap<readonly Point[], string> {
  const up = new Map<string, string>();
  const find = (name: string): string => {
    let at = name;
    for (let next = up.get(at); next !== undefined; next = up.get(at)) at = next;
    return at;
  };
  const join = (a: string, b: string): void => {
    const [p, q] = [find(a), find(b)];
    if (p !== q) up.set(p, q);
  };
  const names = new Map<readonly Point[], string>();
  for (const { id, copper, pins } of pieces) {
    const piece = resolved.pieces.find((p) => p.id === id);
    if (!piece || parts.get(piece.kind)?.bridges) continue;
    copper.forEach((polygon, k) => {
      const own = `copper ${id} ${k}`;
      names.set(polygon, own);
      copper.slice(0, k).forEach((other, l) => {
        if (distanceBetween(polygon, other) < ALIKE) join(own, `copper ${id} ${l}`);
      });
    });
    // A pin belongs to the nearest of its copper, which may be set back from it.
    const away = (pin: Point, polygon: readonly Point[]): number =>
      isInside(pin, polygon)
        ? 0
        : polygon.reduce(
            (d, a, j) => Math.min(d, toSegment(pin, a, polygon[(j + 1) % polygon.length])),
            Infinity,
          );
    if (copper.length > 0)
      pins.forEach((pin, i) => {
        if (piece.nodes[i] === GROUND) return;
        const distances = copper.map((polygon) => away(pin, polygon));
        join(`copper ${id} ${distances.indexOf(Math.min(...distances))}`, `node ${piece.nodes[i]}`);
      });
    // What has no copper of its own joins pins that stand in one place.
    pins.forEach((p, i) =>
      pins.slice(0, i).forEach((q, j) => {
        if (Math.hypot(p.x - q.x, p.y - q.y) < ALIKE)
          join(`node ${piece.nodes[i]}`, `node ${piece.nodes[j]}`);
      }),
    );
  }
  return new Map([...names].map(([polygon, own]) => [polygon, find(own)]));
}

/** Steps along the nodes within which copper belongs together and may touch. */
const NEIGHBOURHOOD = 2;

/**
 * Pairs of pieces whose copper comes nearer than `least` (m), the nearest of each pair: of such as are no neighbours in the
 * network, and of neighbours where one has copper that nothing joins to that of the other (the end of a strip beside the line that
 * the other strip goes on as).
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
  const joint = jointCopper(resolved, layout);
  const gaps = new Map<string, number>();
  for (const { id, kind, values } of resolved.pieces)
    if (values)
      for (const gap of parts.get(kind)?.gaps?.(values) ?? [])
        if (gap !== undefined) gaps.set(id, Math.min(gap, gaps.get(id) ?? Infinity));
  /** Copper beside strips that couple comes as near as they do, of which the review speaks by itself. */
  const between = (a: ReadonlySet<string>, b: ReadonlySet<string>): number =>
    Math.min(least, ...[...a].map((id) => (b.has(id) && gaps.get(id)) || Infinity));
  const found: Nearness[] = [];
  solid.forEach((a, i) => {
    for (const b of solid.slice(i + 1)) {
      const isNeighbour = a.own.has(b.id);
      const enough = isNeighbour ? between(a.own, b.own) : least;
      let distance = Infinity;
      a.polygons.forEach((p, m) =>
        b.polygons.forEach((q, n) => {
          if (isNeighbour && joint.get(p) === joint.get(q)) return;
          const [s, t] = [a.boxes[m], b.boxes[n]];
          if (s.x0 > t.x1 + least || t.x0 > s.x1 + least || s.y0 > t.y1 + least || t.y0 > s.y1 + least)
            return;
          distance = Math.min(distance, distanceBetween(p, q));
        }),
      );
      if (distance < enough * (1 - 1e-9)) found.push({ first: a.id, second: b.id, distance });
    }
  });
  return found;
}
