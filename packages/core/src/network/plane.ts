import type { PlotPlane, ResolvedDesign } from './resolve';
import { portPiece, type Circuit } from './circuit';

/** A node of no document: where a circuit is cut open to be looked into. */
const CUT = '#plane';

/**
 * The circuit as one sees it from a plane of reference: cut open at a pin, with a port there that looks into the piece
 * and what lies beyond it; everything on the other side stays as it is, its ports closed by their references. Without
 * a pin the circuit as port 1 sees it, against another reference.
 * @param resolved the design that the circuit is of
 * @returns a circuit whose port 1 is the plane; undefined where the piece is not in it
 */
export function seenFrom(
  circuit: Circuit,
  resolved: Pick<ResolvedDesign, 'pieces'>,
  { look, reference }: Pick<PlotPlane, 'look' | 'reference'>,
): Circuit | undefined {
  const first = circuit.pieces.find((p) => p.kind === 'port' && p.settings.number === '1');
  if (!first) return undefined;
  const z = reference === undefined ? first.values.z : { re: reference, im: 0 };
  if (!look)
    return { ...circuit, pieces: circuit.pieces.map((p) => (p === first ? portPiece(p.nodes[0], z, 1) : p)) };
  const index = resolved.pieces.filter((p) => p.values).findIndex((p) => p.id === look.piece);
  const into = circuit.pieces[index];
  if (!into || into.kind === 'port' || into.nodes[look.pin] === undefined) return undefined;
  return {
    ...circuit,
    pieces: [
      portPiece(CUT, z, 1),
      ...circuit.pieces.map((p, i) => {
        if (i === index) return { ...p, nodes: p.nodes.map((n, pin) => (pin === look.pin ? CUT : n)) };
        return p.kind === 'port' ? portPiece(p.nodes[0], p.values.z, Number(p.settings.number) + 1) : p;
      }),
    ],
  };
}
