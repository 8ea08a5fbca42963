import type { Copper, Point } from './contract';
import { distance, sideOf, type Side } from './sides';

/** Outlines that lie on their mirror image to this do, m: they stand in whole nanometres. */
const ALIKE = 4e-9;

/** A line across which copper is its own mirror image: x (axis 0) or y (axis 1) is `at` there, m. */
export interface Fold {
  readonly axis: 0 | 1;
  readonly at: number;
  /** Of each port the one that it becomes. */
  readonly ports: readonly number[];
}

/** The place across a fold. */
export const mirrored = ({ axis, at }: Pick<Fold, 'axis' | 'at'>, [x, y]: Point): Point =>
  axis === 0 ? [2 * at - x, y] : [x, 2 * at - y];

/** The lines across which copper is its own mirror image, with its ports and walls. */
export function foldsOf(rings: readonly (readonly Side[])[], { ports, walls }: Copper): Fold[] {
  const sides = rings.flat();
  return ([0, 1] as const).flatMap((axis) => {
    const all = sides.map((s) => s.a[axis]);
    const at = (Math.min(...all) + Math.max(...all)) / 2;
    const line = { axis, at };
    const ends = walls && (axis === 0 ? [walls.x0, walls.x1] : [walls.y0, walls.y1]);
    if (ends && Math.abs(ends[0] + ends[1] - 2 * at) > ALIKE) return [];
    const isOn = (p: Point) => sides.some((s) => distance(s, p[0], p[1]) < ALIKE);
    if (!sides.every((s) => isOn(mirrored(line, s.a)))) return [];
    const near = (p: Point, q: Point) => Math.hypot(p[0] - q[0], p[1] - q[1]) < ALIKE;
    const images = ports.map(({ edge, ends: isEnd }) => {
      const [a, b] = edge.map((p) => mirrored(line, p));
      return ports.findIndex(
        ({ edge: [p, q], ends: e }) =>
          Boolean(e) === Boolean(isEnd) && ((near(a, p) && near(b, q)) || (near(a, q) && near(b, p))),
      );
    });
    return images.includes(-1) ? [] : [{ ...line, ports: images }];
  });
}

/**
 * What of outlines lies at lower coordinates than a fold, closed along it by sides of their own; undefined where they touch it
 * without crossing it.
 */
export function folded(rings: readonly (readonly Side[])[], { axis, at }: Fold): Side[][] | undefined {
  const onto = (p: Point): Point => (axis === 0 ? [at, p[1]] : [p[0], at]);
  const kept: Side[][] = [];
  /** Parts of outlines from where they come in over the fold to where they leave. */
  const chains: Side[][] = [];
  for (const ring of rings) {
    const corners = ring.map(({ a }): Point => (Math.abs(a[axis] - at) < ALIKE ? onto(a) : a));
    const inside = corners.map((p) => Math.sign(at - p[axis]));
    if (inside.every((s) => s > 0)) {
      kept.push([...ring]);
      continue;
    }
    const start = inside.findIndex((s) => s < 0);
    if (start < 0) return undefined;
    let chain: Side[] | undefined;
    for (let k = 0; k < ring.length; k++) {
      const i = (start + k) % ring.length;
      const j = (i + 1) % ring.length;
      const [p, q] = [corners[i], corners[j]];
      const [from, to] = [inside[i], inside[j]];
      if (from <= 0 && to <= 0) {
        // Along the fold itself nothing can go on that is its own image.
        if (from === 0 && to === 0) return undefined;
        continue;
      }
      const t = (at - p[axis]) / (q[axis] - p[axis]);
      const crossing = onto([p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])]);
      const [a, b] = [from < 0 ? crossing : p, to < 0 ? crossing : q];
      if (from <= 0) chain = [];
      chain!.push({ ...ring[i], ...sideOf(a, b) });
      if (to <= 0) {
        chains.push(chain!);
        chain = undefined;
      }
    }
  }
  const along = 1 - axis;
  const ends = chains.flatMap((chain, k) => [
    { k, leaves: false, at: chain[0].a[along] },
    { k, leaves: true, at: chain[chain.length - 1].b[along] },
  ]);
  ends.sort((p, q) => p.at - q.at);
  /** The part of an outline that goes on where one has left. */
  const next = new Map<number, number>();
  for (let i = 0; i + 1 < ends.length; i += 2) {
    const [p, q] = [ends[i], ends[i + 1]];
    if (p.leaves === q.leaves || !(q.at - p.at > ALIKE)) return undefined;
    if (p.leaves) next.set(p.k, q.k);
    else next.set(q.k, p.k);
  }
  const done = new Set<number>();
  chains.forEach((_, first) => {
    if (done.has(first)) return;
    const ring: Side[] = [];
    for (let k = first; !done.has(k); k = next.get(k)!) {
      done.add(k);
      const [from, to] = [chains[k][chains[k].length - 1].b, chains[next.get(k)!][0].a];
      ring.push(...chains[k], {
        ...sideOf(from, to),
        cell: Infinity,
        room: Infinity,
        wall: true,
        fold: true,
      });
    }
    kept.push(ring);
  });
  return kept;
}
