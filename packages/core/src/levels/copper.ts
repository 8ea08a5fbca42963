import { isCopper, SAME_PLACE, sideWalls, type Layout } from '../artwork';
import { circuitOf, GROUND, type Circuit, type ResolvedDesign, type ResolvedPiece } from '../network';
import { share, type Steps } from '../numeric';
import { MOUNTED_SPAN, mountedWidth, parts, type ArtworkPin } from '../parts';
import {
  layersOf,
  solveSteps,
  type Copper,
  type CopperPort,
  type Point,
  type Solution,
  type SolveOptions,
} from '../planar';
import { outlinesOf } from '../polygons';
import type { SData } from '../results';
import { answer } from './answers';
import { REFERENCE } from './contract';

/** A design whose copper cannot be solved; the message names the piece and says why. */
export class NotSolvable extends Error {}

/** The copper of a design and what is joined to it: plain data, the key of its solution. */
export interface SolvedSubject {
  readonly copper: Copper;
  /** Node that each port of the copper is, in order. */
  readonly nodes: readonly string[];
  /** What is not copper: ports, loads, mounted parts, data. */
  readonly rest: Circuit;
}

/**
 * The board around the copper of a circuit.
 * @throws NotSolvable
 */
export function boardOf({
  substrate,
  medium,
}: Pick<Circuit, 'substrate' | 'medium'>): Pick<Copper, 'layers' | 'metal'> {
  if (substrate.offCentre || (substrate.stretch ?? 1) !== 1)
    throw new NotSolvable('copper out of the middle or on a bent board cannot be solved');
  const { er, tand, height, cover, conductivity, thickness, roughness } = substrate;
  return {
    layers: layersOf(medium, { er, tand, height, cover }),
    metal: { conductivity, thickness, roughness },
  };
}

/**
 * The copper of a design as one piece of metal, with ports where it meets what is none. Undefined while the design has errors.
 * @throws NotSolvable naming the piece
 */
export function solvedSubject(resolved: ResolvedDesign, layout: Layout): SolvedSubject | undefined {
  const circuit = circuitOf(resolved, 'modelled');
  if (!circuit) return undefined;
  const board = boardOf(circuit);
  const placed = new Map(layout.pieces.map((p) => [p.id, p]));
  const nameOf = (id: string) => resolved.pieces.find((p) => p.id === id)?.name ?? id;
  if (layout.closures.length > 0) {
    const { first, second } = layout.closures[0];
    throw new NotSolvable(
      `the copper does not close between ${nameOf(first)} and ${nameOf(second)}; what is drawn is not what is meant`,
    );
  }
  const pieces = resolved.pieces.filter((p) => p.values);
  const fieldOf = ({ kind }: { readonly kind: string }) => parts.get(kind)?.field;
  const isMounted = ({ kind }: ResolvedPiece) => parts.get(kind)?.group === 'mounted' || kind === 'via';
  for (const piece of pieces)
    if (fieldOf(piece) === undefined)
      throw new NotSolvable(
        `${piece.name} is copper and something else at once, which the field solution does not know yet`,
      );
  for (const { kind, name, values } of pieces) {
    const missing = parts.get(kind)?.unsolved?.(values!);
    if (missing)
      throw new NotSolvable(
        `${missing} of ${name} is not in its copper and would be missed; without it the copper can be solved`,
      );
  }
  const copper = pieces.filter(isCopper);
  const polygons = copper.flatMap((p) =>
    (placed.get(p.id)?.copper ?? []).map((polygon) => polygon.map(({ x, y }): Point => [x, y])),
  );
  if (polygons.length === 0) throw new NotSolvable('there is no copper to be solved');

  // Ports of the copper: nodes at which something else meets it.
  const outlines = outlinesOf(polygons);
  const ports: CopperPort[] = [];
  const nodes: string[] = [];
  for (const piece of pieces) {
    if (isCopper(piece)) continue;
    for (const node of piece.nodes) {
      if (node === GROUND || nodes.includes(node)) continue;
      const own = copper.find((p) => p.nodes.includes(node));
      const at = own && placed.get(own.id)?.pins[own.nodes.indexOf(node)];
      if (!at) continue;
      // A mounted part may stand at the side of a line, on a pad of its own width.
      const width = mountedWidth(piece.values?.span?.re ?? MOUNTED_SPAN);
      const edge = edgeAt(outlines, at.x, at.y) ?? edgeBefore(outlines, at, width);
      if (!edge)
        throw new NotSolvable(
          `${piece.name} meets the copper where no line ends, which the field solution does not know yet`,
        );
      nodes.push(node);
      // Behind a port, or a load that stands for what follows, the line goes on; where a part is mounted it ends.
      const ends = isMounted(piece) && { ends: true };
      const plane = piece.kind === 'port' ? (piece.values?.plane?.re ?? 0) : 0;
      ports.push({ number: nodes.length, edge, plane, z0: REFERENCE, ...ends });
    }
  }
  for (const piece of pieces) {
    const [a, b] = isMounted(piece) ? piece.nodes.map((node) => ports[nodes.indexOf(node)]) : [];
    if (!a || !b || a.other !== undefined || b.other !== undefined) continue;
    ports[a.number - 1] = { ...a, other: b.number };
    ports[b.number - 1] = { ...b, other: a.number };
  }
  // Holes to ground at the ends of copper.
  const holes: Circuit['pieces'][number][] = [];
  for (const piece of copper) {
    if (fieldOf(piece) !== 'grounded') continue;
    const end = placed.get(piece.id)?.centre.at(-1);
    const edge = end && edgeAt(outlines, end.x, end.y);
    if (!edge) throw new NotSolvable(`the end of ${piece.name} lies inside of other copper`);
    const node = `hole of ${piece.id}`;
    nodes.push(node);
    ports.push({ number: nodes.length, edge, plane: 0, z0: REFERENCE, ends: true });
    holes.push({ kind: 'via', values: { hole: piece.values!.hole }, settings: {}, facts: {}, nodes: [node] });
  }
  if (ports.length === 0) throw new NotSolvable('nothing is joined to the copper');
  // What they learn of copper beside them is in its solution.
  const joined = circuit.pieces
    .filter((p) => fieldOf(p) === 'joined')
    .map((piece) => ({ ...piece, facts: {} }));
  const walls = sideWalls(resolved, layout);
  return {
    copper: {
      ...board,
      polygons,
      ports,
      ...(walls && { walls }),
    },
    nodes,
    rest: { ...circuit, pieces: [...joined, ...holes] },
  };
}

/** The side of an outline whose middle is at a place. */
function edgeAt(
  outlines: readonly (readonly Point[])[],
  x: number,
  y: number,
): readonly [Point, Point] | undefined {
  for (const ring of outlines)
    for (const [i, a] of ring.entries()) {
      const b = ring[(i + 1) % ring.length];
      if (Math.hypot((a[0] + b[0]) / 2 - x, (a[1] + b[1]) / 2 - y) < SAME_PLACE) return [a, b];
    }
  return undefined;
}

/** A design's response with its copper solved. */
export interface SolvedDesign {
  readonly data: SData;
  readonly copper: Solution;
}

/** A pad less than this wide, half of it in widths of the part, is none. */
const LEAST_PAD = 0.15;

/** So much a side may be turned against the direction in which a part leaves it, rad. */
const ASKEW = 0.3;

/** Where a pin inside of the copper looks out of it: a piece of the side there, `width` wide or less. */
function edgeBefore(
  outlines: readonly (readonly Point[])[],
  { x, y, angle }: ArtworkPin,
  width: number,
): readonly [Point, Point] | undefined {
  const [dx, dy] = [Math.cos(angle), Math.sin(angle)];
  let nearest = Infinity;
  let found: readonly [Point, Point] | undefined;
  for (const ring of outlines)
    for (const [i, a] of ring.entries()) {
      const b = ring[(i + 1) % ring.length];
      const [ex, ey] = [b[0] - a[0], b[1] - a[1]];
      const length = Math.hypot(ex, ey);
      // The direction less the part along the side.
      const across = (dx * ey - dy * ex) / length;
      if (across < Math.cos(ASKEW)) continue;
      const t = ((a[0] - x) * ey - (a[1] - y) * ex) / (across * length);
      const along = ((x + t * dx - a[0]) * ex + (y + t * dy - a[1]) * ey) / length;
      // As wide as there is room for to both sides.
      const half = Math.min(width / 2, along, length - along);
      if (t < -SAME_PLACE || t >= nearest || half < LEAST_PAD * width) continue;
      nearest = t;
      const at = (s: number): Point => [a[0] + (s * ex) / length, a[1] + (s * ey) / length];
      found = [at(along - half), at(along + half)];
    }
  return found;
}

/**
 * The S-parameters of a subject at frequencies (Hz, ascending): its copper solved, the rest joined to it.
 * @throws CopperError
 */
export function* solvedSteps(
  { copper, nodes, rest }: SolvedSubject,
  data: (id: string) => SData | undefined,
  freq: Float64Array,
  options: Pick<SolveOptions, 'accuracy'> = {},
): Steps<SolvedDesign> {
  const solution = yield* share(solveSteps(copper, freq, options), 0, 0.98);
  const { re, im } = solution.data;
  const entries = nodes.length ** 2;
  // Every frequency is a sample: what stands between those that were solved is known already.
  const samples = Array.from(freq, (x, k) => ({
    x,
    re: re.subarray(k * entries, (k + 1) * entries),
    im: im.subarray(k * entries, (k + 1) * entries),
  }));
  const whole = { ...rest, solved: { key: '', nodes, samples } };
  return { data: yield* share(answer(whole, data).sample(freq), 0.98, 1), copper: solution };
}
