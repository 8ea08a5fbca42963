import { beyond } from '../grow';
import { networkOf, solveNetwork, type Circuit, type Design, type ResolvedDesign } from '../network';
import { parts, type PartValues } from '../parts';
import type { SData } from '../results';

/** Reflections, against the reference of port 1, that a wave passes on its way through a piece. */
export interface PathArc {
  readonly piece: string;
  /** From the far side of the piece, seen away from port 1, to its near side. */
  readonly points: readonly { readonly re: number; readonly im: number }[];
}

/** Larger networks are not walked while pointing. */
const MOST = 60;

/** The values of a piece grown to a share of itself, or undefined where it has no in-between. */
function shareOfPiece(kind: string, values: PartValues, share: number): PartValues | undefined {
  const scaled = (faces: readonly string[], by: number): PartValues => ({
    ...values,
    ...Object.fromEntries(faces.flatMap((f) => (values[f] ? [[f, { re: values[f].re * by, im: 0 }]] : []))),
  });
  if (parts.get(kind)?.carries) return scaled(['length', 'theta'], share);
  if (values.r || values.l) return scaled(['r', 'l'], share);
  // A series capacitance begins as one so large that it is nothing.
  if (values.c) return share === 0 ? scaled(['c'], 1e9) : scaled(['c'], 1 / share);
  return undefined;
}

/**
 * The arc that a piece draws on the Smith chart at the design frequency, where the network beyond it does not come
 * back to port 1 by another way. Other ports stand there as their references.
 * @param circuit the design's circuit at the level that is shown
 */
export function pathArc(
  design: Design,
  resolved: ResolvedDesign,
  circuit: Circuit,
  data: (id: string) => SData | undefined,
  id: string,
): PathArc | undefined {
  const solid = resolved.pieces.filter((p) => p.values);
  const piece = solid.find((p) => p.id === id);
  const first = solid.find((p) => p.kind === 'port' && p.settings.number === '1');
  if (!piece || !first || piece.nodes.length !== 2 || solid.length > MOST || resolved.f0 === undefined)
    return undefined;
  const ways = [0, 1].map((pin) => new Set(beyond(design, id, pin)));
  const near = ways.findIndex((w) => w.has(first.id));
  // In a ring port 1 lies beyond both pins, and there is no one path.
  if (near < 0 || ways[1 - near].has(first.id)) return undefined;
  const far = ways[1 - near];
  const freq = Float64Array.of(resolved.f0);
  const look = (node: string, own: PartValues | undefined) => {
    let number = 1;
    const pieces = solid.flatMap((p, i) => {
      const inside = far.has(p.id) || (own !== undefined && p.id === id);
      if (!inside) return [];
      const here = circuit.pieces[i];
      if (p.kind === 'port') return [{ ...here, settings: { number: String(++number) } }];
      return [p.id === id ? { ...here, values: own! } : here];
    });
    const port = { kind: 'port', nodes: [node], values: first.values!, settings: { number: '1' } };
    const s = solveNetwork(networkOf({ ...circuit, pieces: [...pieces, port] }, data), freq);
    return { re: s.re[0], im: s.im[0] };
  };
  const points = [look(piece.nodes[1 - near], undefined)];
  const steps = shareOfPiece(piece.kind, piece.values!, 0.5) ? 24 : 1;
  for (let k = 1; k <= steps; k++)
    points.push(look(piece.nodes[near], shareOfPiece(piece.kind, piece.values!, k / steps) ?? piece.values));
  return { piece: id, points };
}
