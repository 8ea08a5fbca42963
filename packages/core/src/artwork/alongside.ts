import type { ResolvedDesign } from '../network';
import { parts, type Point } from '../parts';
import type { Layout } from './layout';

/** Two straight lines of a design that run beside one another; lengths in m. */
export interface Beside {
  readonly first: string;
  readonly second: string;
  /** Copper-free distance between them. */
  readonly gap: number;
  /** Length over which they do. */
  readonly overlap: number;
  /** On which side of the first the second lies, seen from pin 1 of the first along it. */
  readonly side: 'left' | 'right';
  /** The second one's pin 2 stands beside the first one's pin 1. */
  readonly reversed: boolean;
  /** How far their ends miss one another along them. */
  readonly offset: number;
}

/** Directions that miss each other by less than this are one. */
const PARALLEL = 0.02;

/** Lines that nothing couples in the document and that run closer than `within` (m) over more than `least` (m). */
export function linesBeside(
  resolved: Pick<ResolvedDesign, 'pieces'>,
  layout: Layout,
  within: number,
  least: number,
): Beside[] {
  const placed = new Map(layout.pieces.map((p) => [p.id, p]));
  const straight = resolved.pieces.flatMap((piece) => {
    const line = piece.values && parts.get(piece.kind)?.line?.(piece.values);
    const centre = placed.get(piece.id)?.centre;
    if (!line || piece.nodes.length !== 2 || piece.values.turn || centre?.length !== 2) return [];
    const [a, b] = centre;
    const length = Math.hypot(b.x - a.x, b.y - a.y);
    return length > 0
      ? [{ id: piece.id, a, length, width: line.width, ux: (b.x - a.x) / length, uy: (b.y - a.y) / length }]
      : [];
  });
  const found: Beside[] = [];
  straight.forEach((p, i) => {
    for (const q of straight.slice(i + 1)) {
      const along = p.ux * q.ux + p.uy * q.uy;
      if (1 - Math.abs(along) > PARALLEL * PARALLEL) continue;
      const local = (point: Point) => ({
        x: (point.x - p.a.x) * p.ux + (point.y - p.a.y) * p.uy,
        y: (point.y - p.a.y) * p.ux - (point.x - p.a.x) * p.uy,
      });
      const from = local(q.a);
      const to = { x: from.x + along * q.length, y: from.y };
      const gap = Math.abs(from.y) - (p.width + q.width) / 2;
      const [low, high] = [Math.min(from.x, to.x), Math.max(from.x, to.x)];
      const overlap = Math.min(p.length, high) - Math.max(0, low);
      if (!(gap > 0 && gap < within && overlap > least)) continue;
      found.push({
        first: p.id,
        second: q.id,
        gap,
        overlap,
        side: from.y > 0 ? 'left' : 'right',
        reversed: along < 0,
        offset: Math.max(Math.abs(low), Math.abs(high - p.length)),
      });
    }
  });
  return found;
}
