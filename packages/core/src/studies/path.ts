import { beyond } from '../grow';
import {
  GROUND,
  networkOf,
  portPiece,
  seenBy,
  solveNetwork,
  type Circuit,
  type PlotPlane,
  type Design,
  type ResolvedDesign,
  type ResolvedPiece,
} from '../network';
import { parts, type PartValues } from '../parts';
import type { SData } from '../results';

/** A reflection against the reference of port 1. */
export interface Reflection {
  readonly re: number;
  readonly im: number;
}

/** Reflections that a wave passes on its way through a piece. */
export interface PathArc {
  readonly piece: string;
  /** From the side of the load to the side of port 1. */
  readonly points: readonly Reflection[];
  /** The face whose value the arc grows with, where it is held and there is an in-between. */
  readonly face?: string;
  /** The longer the arc, the smaller the value: a capacitor in series, a coil or a resistor across. */
  readonly inverse?: boolean;
}

/** The way from the load to port 1 at the design frequency. */
export interface MatchPath {
  readonly start: Reflection;
  /** From the load on; what only joins others and moves nothing is left out. */
  readonly arcs: readonly PathArc[];
  /**
   * Where the end of a piece's arc would lie if the piece were `share` of what it is. Other pieces stay.
   * Undefined for a piece without an arc of its own.
   */
  at(piece: string, share: number): Reflection | undefined;
}

/** Larger networks are not walked. */
const MOST = 60;
/** Points of an arc: one every few degrees of line, so that long arcs are as round as short ones. */
const stepsOf = (values: PartValues): number =>
  Math.min(48, Math.max(10, Math.ceil((values.theta?.re ?? 0.6) / 0.06)));

/** The values of a piece grown to a share of itself, or undefined where it has no in-between. */
const shareOfPiece = (piece: ResolvedPiece, share: number, across = false): PartValues | undefined =>
  parts.get(piece.kind)?.grows?.at(piece.values!, share, across);

type Looker = (node: string, inside: ReadonlySet<string>, id?: string, own?: PartValues) => Reflection;

/** Looks into a part of a network from one of its nodes; other ports stand there as their references. */
function reflector(
  solid: readonly ResolvedPiece[],
  first: ResolvedPiece,
  circuit: Circuit,
  f0: number,
  data: (id: string) => SData | undefined,
): Looker {
  const freq = Float64Array.of(f0);
  return (node, inside, id, own) => {
    let number = 1;
    const pieces = solid.flatMap((p, i) => {
      if (!inside.has(p.id)) return [];
      const here = circuit.pieces[i];
      if (p.kind === 'port') return [portPiece(p.nodes[0], p.values!.z, ++number)];
      return [p.id === id && own ? seenBy(circuit.model, { ...p, values: own }) : here];
    });
    const port = portPiece(node, first.values!.z, 1);
    const s = solveNetwork(networkOf({ ...circuit, pieces: [...pieces, port] }, data), freq);
    return { re: s.re[0], im: s.im[0] };
  };
}

/**
 * The arc of one piece, where the network beyond it does not come back to port 1 by another way.
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
  const index = solid.findIndex((p) => p.id === id);
  const piece = solid[index];
  const first = solid.find((p) => p.kind === 'port' && p.settings.number === '1');
  if (!piece || !first || piece.nodes.length !== 2 || solid.length > MOST || resolved.f0 === undefined)
    return undefined;
  const ways = [0, 1].map((pin) => new Set(beyond(design, id, pin)));
  const near = ways.findIndex((w) => w.has(first.id));
  // In a ring port 1 lies beyond both pins, and there is no one path.
  if (near < 0 || ways[1 - near].has(first.id)) return undefined;
  const far = ways[1 - near];
  const look = reflector(solid, first, circuit, resolved.f0, data);
  const points = [look(piece.nodes[1 - near], far)];
  const inside = new Set([...far, id]);
  const steps = shareOfPiece(piece, 0.5) ? stepsOf(piece.values!) : 1;
  for (let k = 1; k <= steps; k++)
    points.push(look(piece.nodes[near], inside, id, shareOfPiece(piece, k / steps)));
  return { piece: id, points };
}

/**
 * Walks from the load, or from the other port, to port 1, or only as far as a plane that lies on that way and looks to
 * the load. Undefined where there is no one way: in rings, in networks of more than two ports, from a plane beside the
 * way, and while the design has errors.
 * @param circuit the design's circuit at the level that is shown
 */
export function matchPath(
  design: Design,
  resolved: ResolvedDesign,
  circuit: Circuit,
  data: (id: string) => SData | undefined,
  plane: Pick<PlotPlane, 'look' | 'reference'> = {},
): MatchPath | undefined {
  const solid = resolved.pieces.filter((p) => p.values);
  const first = solid.find((p) => p.kind === 'port' && p.settings.number === '1');
  const last =
    solid.find((p) => p.kind === 'load') ?? solid.find((p) => p.kind === 'port' && p.settings.number === '2');
  const { f0 } = resolved;
  if (!first || !last || f0 === undefined || solid.length > MOST) return undefined;
  if (solid.filter((p) => p.kind === 'port').length > (last.kind === 'load' ? 1 : 2)) return undefined;
  const byId = new Map(solid.map((p, i) => [p.id, { piece: p, index: i }]));

  // Pieces between the two ends, nearest to port 1 first, each with the pin it is entered and left by; and what hangs
  // at each of the nodes between them without a junction.
  const way: { id: string; near: number; far: number }[] = [];
  const hanging: { node: string; pieces: { id: string; pin: number }[] }[] = [];
  for (let node = first.nodes[0], from = first.id; ;) {
    const next = solid.flatMap((p) =>
      p.id === from || way.some((w) => w.id === p.id)
        ? []
        : p.nodes.flatMap((n, pin) => (n === node ? [{ p, pin }] : [])),
    );
    const onwards = next.flatMap(({ p, pin }) =>
      p.nodes.flatMap((n, far) =>
        far !== pin && n !== GROUND && beyond(design, p.id, far).includes(last.id)
          ? [{ id: p.id, near: pin, far }]
          : [],
      ),
    );
    hanging.push({
      node,
      pieces: next.flatMap(({ p, pin }) =>
        p.id === last.id || onwards.some((o) => o.id === p.id) ? [] : [{ id: p.id, pin }],
      ),
    });
    if (next.some(({ p }) => p.id === last.id)) break;
    // Two ways on are a ring, none is an end.
    if (onwards.length !== 1) return undefined;
    way.push(onwards[0]);
    from = onwards[0].id;
    node = byId.get(from)!.piece.nodes[onwards[0].far];
  }

  const from = plane.look
    ? way.findIndex((w) => w.id === plane.look!.piece && w.near === plane.look!.pin)
    : 0;
  const toLoad = plane.look?.piece === last.id;
  if (from < 0 && !toLoad) return undefined;
  const reference =
    plane.reference === undefined ? first : { ...first, values: { z: { re: plane.reference, im: 0 } } };
  const reflection = reflector(solid, reference, circuit, f0, data);
  /** What is connected on the side of the load, with the node at which it is looked into. */
  const inside = new Set([
    last.id,
    ...solid.filter((p) => p.nodes.every((n) => n === GROUND)).map((p) => p.id),
  ]);
  const lookers = new Map<string, (share: number) => Reflection>();
  const arcs: PathArc[] = [];
  const start = reflection(last.nodes[0], inside);
  let here = start;
  const grow = (id: string, node: string, also: readonly string[], across = false) => {
    const { piece } = byId.get(id)!;
    const grows = parts.get(piece.kind)?.grows;
    for (const p of also) inside.add(p);
    const set = new Set(inside);
    const before = here;
    if (!grows) {
      here = reflection(node, set);
      if (Math.hypot(here.re - before.re, here.im - before.im) > 1e-4)
        arcs.push({ piece: id, points: [before, here] });
      return;
    }
    const look = (share: number) => reflection(node, set, id, grows.at(piece.values!, share, across));
    lookers.set(id, look);
    const points = [before];
    const steps = stepsOf(piece.values!);
    const from = grows.beginning?.(piece.values!) ?? 0;
    for (let k = 1; k <= steps; k++) points.push(look(from + ((1 - from) * k) / steps));
    here = points[steps];
    arcs.push({
      piece: id,
      points,
      face: grows.faces.find((f) => piece.held.includes(f)),
      ...(grows.inverse?.(across) ? { inverse: true } : {}),
    });
  };
  const hang = (at: (typeof hanging)[number] | undefined) => {
    for (const { id, pin } of at?.pieces ?? []) {
      const { piece } = byId.get(id)!;
      const beyondIt = piece.nodes.flatMap((n, far) =>
        far === pin || n === GROUND ? [] : beyond(design, id, far).filter((o) => byId.has(o)),
      );
      grow(id, at!.node, [id, ...beyondIt], true);
    }
  };
  if (toLoad) return { start, arcs, at: () => undefined };
  hang(hanging[way.length]);
  for (let i = way.length - 1; i >= from; i--) {
    const step = way[i];
    const { piece } = byId.get(step.id)!;
    const node = piece.nodes[step.near];
    grow(step.id, node, [step.id]);
    piece.nodes.forEach((n, pin) => {
      if (pin === step.near || pin === step.far || n === GROUND) return;
      const branch = beyond(design, piece.id, pin).filter((id) => byId.has(id));
      if (branch.length > 0) grow(branch[0], node, branch, true);
    });
    // A plane looks into the piece alone, not at what hangs before it.
    if (i > from || !plane.look) hang(hanging[i]);
  }
  return { start, arcs, at: (id, share) => lookers.get(id)?.(share) };
}

/**
 * The share of itself at which a piece's arc ends nearest to `wanted`, found near the present one so that a hand that
 * moves steadily never makes the piece jump. `turn` is how far it may go either way, as a share.
 */
export function shareNearest(
  path: MatchPath,
  piece: string,
  wanted: Reflection,
  turn: number,
): number | undefined {
  const distance = (share: number): number => {
    const p = path.at(piece, share);
    return p ? Math.hypot(p.re - wanted.re, p.im - wanted.im) : NaN;
  };
  if (Number.isNaN(distance(1))) return undefined;
  const low = Math.max(1e-3, 1 - turn);
  const high = 1 + turn;
  const count = 32;
  let best = 1;
  let least = distance(1);
  for (let k = 0; k <= count; k++) {
    const share = low + ((high - low) * k) / count;
    const d = distance(share);
    if (d < least) [best, least] = [share, d];
  }
  // Golden section around the best sample.
  const ratio = (Math.sqrt(5) - 1) / 2;
  let [a, b] = [Math.max(low, best - (high - low) / count), Math.min(high, best + (high - low) / count)];
  for (let i = 0; i < 18; i++) {
    const [p, q] = [b - ratio * (b - a), a + ratio * (b - a)];
    if (distance(p) < distance(q)) b = q;
    else a = p;
  }
  return (a + b) / 2;
}
