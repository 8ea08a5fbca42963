import { layOut } from '../artwork';
import {
  circuitOf,
  GROUND,
  stateAt,
  surroundings,
  type Circuit,
  type ResolvedDesign,
  type ResolvedPiece,
  type SolvedOver,
} from '../network';
import { parts, type ArtworkPin } from '../parts';
import type { Copper, CopperPort, Point } from '../planar';
import { REFERENCE } from './contract';
import { boardOf, NotSolvable, type SolvedSubject } from './copper';

/** Lengths of the lines that lead into an excerpt, over the height of the board and over their width. */
const LEAD = { heights: 3, widths: 1.5 } as const;

const along = ({ x, y, angle }: ArtworkPin, forward: number, aside: number): Point => [
  x + forward * Math.cos(angle) - aside * Math.sin(angle),
  y + forward * Math.sin(angle) + aside * Math.cos(angle),
];

/** Pieces by themselves, and where lines go on from them. */
interface Excerpted {
  readonly pieces: readonly ResolvedPiece[];
  readonly stack: ResolvedDesign['stack'];
  readonly height: number;
  /** Each with the width of the line that goes on, m. */
  readonly leads: readonly { readonly piece: ResolvedPiece; readonly pin: number; readonly width: number }[];
}

/**
 * The copper of pieces by themselves: what goes on from them becomes lines that lead to ports, whose reference planes stand where the
 * pieces' pins are.
 * @throws NotSolvable naming the piece
 */
function excerptOf({ pieces, stack, height, leads }: Excerpted): Pick<Copper, 'polygons' | 'ports'> {
  // By themselves: nothing outside covers any of their copper.
  const layout = layOut({ stack, pieces });
  const placed = new Map(layout.pieces.map((p) => [p.id, p]));
  const polygons: Point[][] = [];
  for (const piece of pieces) {
    const place = placed.get(piece.id);
    if (!place) throw new NotSolvable(`${piece.name} has no place`);
    polygons.push(...place.copper.map((polygon) => polygon.map(({ x, y }): Point => [x, y])));
  }
  const ports = leads.map(({ piece, pin, width }, i): CopperPort => {
    const at = placed.get(piece.id)!.pins[pin];
    // A junction's own copper reaches beyond its pin.
    const from = parts.get(piece.kind)!.setbacks?.(piece.values!, piece.settings)[pin] ?? 0;
    const end = from + Math.max(LEAD.heights * height, LEAD.widths * width);
    const h = width / 2;
    polygons.push([along(at, from, -h), along(at, end, -h), along(at, end, h), along(at, from, h)]);
    return { number: i + 1, edge: [along(at, end, -h), along(at, end, h)], plane: end, z0: REFERENCE };
  });
  if (ports.length === 0) throw new NotSolvable('nothing is joined to these pieces');
  return { polygons, ports };
}

/** Pins at which some pieces of a design are joined to others, the first of each node. @throws NotSolvable naming the piece */
export function outerPins(
  { pieces }: Pick<ResolvedDesign, 'pieces'>,
  ids: ReadonlySet<string>,
): { readonly piece: ResolvedPiece; readonly pin: number; readonly width: number }[] {
  const drawn = pieces.filter((p) => p.values && parts.has(p.kind));
  const around = surroundings(drawn);
  const nodes = new Set<string>();
  return drawn.flatMap((piece) => {
    if (!ids.has(piece.id)) return [];
    const definition = parts.get(piece.kind)!;
    if (definition.field !== 'copper') throw new NotSolvable(`${piece.name} is not copper alone`);
    const widths = definition.widths?.(piece.values!, piece.settings);
    return piece.nodes.flatMap((node, pin) => {
      if (node === GROUND) throw new NotSolvable(`${piece.name} is grounded`);
      const others = (around.byNode.get(node) ?? []).filter((o) => !ids.has(o.piece.id));
      // Inside of the excerpt, or an end.
      if (others.length === 0 || nodes.has(node)) return [];
      if (definition.gaps && piece.nodes.length > 2)
        throw new NotSolvable(`strips that couple go on from ${piece.name}`);
      if (around.bare(piece, pin)) throw new NotSolvable(`a part is mounted at ${piece.name}`);
      const width = widths?.[pin] ?? around.neighbour(piece, pin);
      if (width === undefined) throw new NotSolvable(`nothing says how wide the line at ${piece.name} is`);
      nodes.add(node);
      return [{ piece, pin, width }];
    });
  });
}

/**
 * Some pieces of a design by themselves, as copper to be solved. The rest is the design's modelled circuit without them, so that both
 * together are the design with these pieces solved. Undefined while the design has errors.
 * @throws NotSolvable naming the piece
 */
export function excerptSubject(
  resolved: ResolvedDesign,
  ids: ReadonlySet<string>,
): SolvedSubject | undefined {
  const circuit = circuitOf(resolved, 'modelled');
  if (!circuit) return undefined;
  const board = boardOf(circuit);
  const leads = outerPins(resolved, ids);
  const copper: Copper = {
    ...board,
    ...excerptOf({
      pieces: resolved.pieces.filter((p) => p.values && ids.has(p.id)),
      stack: resolved.stack,
      height: circuit.substrate.height,
      leads,
    }),
  };
  // A circuit has the pieces that have values, in their order.
  const inside = resolved.pieces.flatMap((p) => (p.values ? [ids.has(p.id)] : []));
  const rest: Circuit = { ...circuit, pieces: circuit.pieces.filter((_p, i) => !inside[i]) };
  return { copper, nodes: leads.map(({ piece, pin }) => piece.nodes[pin]), rest };
}

/**
 * The copper of data that is solved over sizes, at a place in its ranges.
 * @param u from -1 to 1 along every axis
 * @throws NotSolvable naming the piece
 */
export function stateCopper(over: SolvedOver, u: readonly number[]): Copper {
  const { substrate, pieces } = stateAt(over, u);
  return {
    ...boardOf({ substrate, medium: over.medium }),
    ...excerptOf({
      pieces,
      stack: undefined,
      height: substrate.height,
      leads: over.pins.map(([index, pin]) => {
        const piece = pieces[index];
        const width = parts.get(piece.kind)?.widths?.(piece.values!, piece.settings)[pin];
        if (width === undefined) throw new NotSolvable(`nothing says how wide the line at ${piece.name} is`);
        return { piece, pin, width };
      }),
    }),
  };
}
