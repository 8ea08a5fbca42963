import type { EnclosureSide, ResolvedDesign } from '../network';
import { parts, type Point } from '../parts';
import { boxResonances, layersOf, type Walls } from '../planar';
import type { Layout, PlacedPiece } from './layout';

/** Whether a piece is copper to the field solution. */
export const isCopper = ({ kind }: { readonly kind: string }): boolean => {
  const field = parts.get(kind)?.field;
  return field === 'copper' || field === 'grounded';
};

/** Outlines of the copper that the side walls stand around. */
const copperOf = (resolved: ResolvedDesign, layout: Layout): readonly PlacedPiece['copper'][number][] => {
  const own = new Set(resolved.pieces.filter((p) => p.values && isCopper(p)).map((p) => p.id));
  return layout.pieces.filter((p) => own.has(p.id)).flatMap((p) => p.copper);
};

/** Where the side walls of a design stand; undefined where it has none, or no copper. */
export function sideWalls(resolved: ResolvedDesign, layout: Layout): Walls | undefined {
  const { enclosure } = resolved;
  if (!enclosure) return undefined;
  const points = copperOf(resolved, layout).flat();
  if (points.length === 0) return undefined;
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  return {
    x0: Math.min(...xs) - enclosure.left,
    x1: Math.max(...xs) + enclosure.right,
    y0: Math.min(...ys) - enclosure.front,
    y1: Math.max(...ys) + enclosure.back,
  };
}

/** How far a point is from each wall, m. */
export const fromWalls = ({ x0, x1, y0, y1 }: Walls, { x, y }: Point): Record<EnclosureSide, number> => ({
  left: x - x0,
  right: x1 - x,
  front: y - y0,
  back: y1 - y,
});

/** Where copper is met along a cut from left to right: its stretches, ascending and apart from one another, m. */
export function cutAt(
  resolved: ResolvedDesign,
  layout: Layout,
  y: number,
): readonly (readonly [number, number])[] {
  const stretches = copperOf(resolved, layout).flatMap((ring) => {
    const crossings = ring
      .flatMap((a, i) => {
        const b = ring[(i + 1) % ring.length];
        return a.y > y === b.y > y ? [] : [a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x)];
      })
      .sort((a, b) => a - b);
    return crossings.flatMap((x, i) =>
      i % 2 === 0 && i + 1 < crossings.length ? [[x, crossings[i + 1]]] : [],
    );
  });
  const joined: [number, number][] = [];
  for (const [from, to] of stretches.sort(([a], [b]) => a - b)) {
    const last = joined.at(-1);
    if (last && from <= last[1] + 1e-9) last[1] = Math.max(last[1], to);
    else joined.push([from, to]);
  }
  return joined;
}

/** So many resonances of an enclosure are told. */
const TOLD = 20;
const known = new WeakMap<ResolvedDesign, readonly number[]>();

/** Resonances of a design's enclosure inside of its sweep, the lowest twenty, Hz. */
export function enclosureResonances(resolved: ResolvedDesign, layout: Layout): readonly number[] {
  // Plan, plots and review ask one after the other.
  const before = known.get(resolved);
  if (before) return before;
  const walls = sideWalls(resolved, layout);
  const { stack, sweep, medium } = resolved;
  if (!walls || !stack || !sweep) return [];
  const found = boxResonances(layersOf(medium, stack.substrate), walls, sweep.start, sweep.stop, TOLD);
  known.set(resolved, found);
  return found;
}
