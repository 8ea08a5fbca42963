import { layOut } from '../artwork';
import { circuitOf, GROUND, surroundings, type Circuit, type ResolvedDesign } from '../network';
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

/**
 * Some pieces of a design by themselves, as copper to be solved: what goes on from them becomes lines that lead to ports, whose
 * reference planes stand where the pieces' pins are. The rest is the design's modelled circuit without them, so that both together are
 * the design with these pieces solved. Undefined while the design has errors.
 * @throws NotSolvable naming the piece
 */
export function excerptSubject(
  resolved: ResolvedDesign,
  ids: ReadonlySet<string>,
): SolvedSubject | undefined {
  const circuit = circuitOf(resolved, 'modelled');
  if (!circuit) return undefined;
  const board = boardOf(circuit);
  const drawn = resolved.pieces.filter((p) => p.values && parts.has(p.kind));
  const own = drawn.filter((p) => ids.has(p.id));
  const around = surroundings(drawn);
  // By themselves: nothing outside covers any of their copper.
  const layout = layOut({ stack: resolved.stack, pieces: own });
  const polygons: Point[][] = [];
  const nodes: string[] = [];
  const ports: CopperPort[] = [];
  for (const piece of own) {
    const definition = parts.get(piece.kind)!;
    if (definition.field !== 'copper') throw new NotSolvable(`${piece.name} is not copper alone`);
    if (definition.gaps && piece.nodes.length > 2)
      throw new NotSolvable(`strips that couple go on from ${piece.name}`);
    const place = layout.pieces.find((p) => p.id === piece.id);
    if (!place) throw new NotSolvable(`${piece.name} has no place`);
    polygons.push(...place.copper.map((polygon) => polygon.map(({ x, y }): Point => [x, y])));
    const reaches = definition.setbacks?.(piece.values!, piece.settings);
    const widths = definition.widths?.(piece.values!, piece.settings);
    piece.nodes.forEach((node, pin) => {
      if (node === GROUND) throw new NotSolvable(`${piece.name} is grounded`);
      const others = (around.byNode.get(node) ?? []).filter((o) => !ids.has(o.piece.id));
      // Inside of the excerpt, or an end.
      if (others.length === 0 || nodes.includes(node)) return;
      if (around.bare(piece, pin)) throw new NotSolvable(`a part is mounted at ${piece.name}`);
      const width = around.neighbour(piece, pin) ?? widths?.[pin];
      if (width === undefined) throw new NotSolvable(`nothing says how wide the line at ${piece.name} is`);
      const at = place.pins[pin];
      // A junction's own copper reaches beyond its pin.
      const from = reaches?.[pin] ?? 0;
      const end = from + Math.max(LEAD.heights * circuit.substrate.height, LEAD.widths * width);
      const h = width / 2;
      polygons.push([along(at, from, -h), along(at, end, -h), along(at, end, h), along(at, from, h)]);
      nodes.push(node);
      ports.push({
        number: nodes.length,
        edge: [along(at, end, -h), along(at, end, h)],
        plane: end,
        z0: REFERENCE,
      });
    });
  }
  if (ports.length === 0) throw new NotSolvable('nothing is joined to these pieces');
  const copper: Copper = { ...board, polygons, ports };
  // A circuit has the pieces that have values, in their order.
  const inside = resolved.pieces.flatMap((p) => (p.values ? [ids.has(p.id)] : []));
  const rest: Circuit = { ...circuit, pieces: circuit.pieces.filter((_p, i) => !inside[i]) };
  return { copper, nodes, rest };
}
