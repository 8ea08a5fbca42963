import type { Electrical } from '../electrical';
import { beyond } from '../grow';
import {
  fromScattering,
  GROUND,
  networkOf,
  portPiece,
  seenBy,
  solveNetwork,
  type Circuit,
  type CircuitPiece,
  type PlotPlane,
  type Design,
  type Network,
  type ResolvedDesign,
  type ResolvedPiece,
} from '../network';
import { drive, solveComplex, type Steps } from '../numeric';
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
export const MOST_WALKED = 60;
/** Whether a piece closes a line, as a load does. */
const closes = (piece: ResolvedPiece): boolean => parts.get(piece.kind)?.impedance !== undefined;

/** Points of an arc: one every few degrees of line, so that long arcs are as round as short ones. */
const stepsOf = (values: PartValues): number =>
  Math.min(48, Math.max(10, Math.ceil((values.theta?.re ?? 0.6) / 0.06)));

/** Looks into a part of a network from one of its nodes; other ports stand there as their references. */
interface Looker {
  at(node: string, inside: ReadonlySet<string>): Reflection;
  /** The same for many values of one of the pieces inside: what lies around it is solved once. */
  around(node: string, inside: ReadonlySet<string>, piece: ResolvedPiece): (own: PartValues) => Reflection;
  /** Takes what is inside together. All that is looked into later has to hold it, and meets it only where others do. */
  settle(inside: ReadonlySet<string>): void;
}

/** Where a network is looked into. */
const LOOK = '#look';
/** Reference of the waves between what is taken apart, ohm; any gives the same result. */
const BETWEEN = 50;

/** Pieces that were taken together. */
interface Behind {
  readonly ids: ReadonlySet<string>;
  readonly nodes: readonly string[];
  readonly block: Electrical;
}

function reflector(
  solid: readonly ResolvedPiece[],
  first: ResolvedPiece,
  circuit: Circuit,
  f0: number,
  data: (id: string) => SData | undefined,
): Looker {
  const freq = Float64Array.of(f0);
  const z0 = first.values!.z;
  const join = (pieces: readonly CircuitPiece[]): Network => networkOf({ ...circuit, pieces }, data);
  const solve = (network: Network): SData => solveNetwork(network, freq);
  const ports = (nodes: readonly string[], from: number): CircuitPiece[] =>
    nodes.map((node, i) => portPiece(node, { re: BETWEEN, im: 0 }, from + i));
  /** What was taken together. */
  let behind: Behind | undefined;
  // Pieces on solved data are put right together or not at all.
  const isWhole = circuit.pieces.some((p) => p.backed);
  /** S-matrix at some ports of what lies inside; other ports come after them. */
  const solved = (inside: (id: string) => boolean, asked: readonly CircuitPiece[]): SData => {
    let number = asked.length;
    const pieces = solid.flatMap((p, i) =>
      !inside(p.id) || behind?.ids.has(p.id)
        ? []
        : p.kind === 'port'
          ? [portPiece(p.nodes[0], p.values!.z, ++number)]
          : [circuit.pieces[i]],
    );
    const network = join([...pieces, ...asked]);
    return solve(
      behind
        ? { ...network, parts: [...network.parts, { electrical: behind.block, nodes: behind.nodes }] }
        : network,
    );
  };
  /** The first ports of a solution as a part. */
  const blockOf = (n: number, s: SData): Electrical =>
    fromScattering(n, s.z0.slice(0, n), (_f, re, im) => {
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          re[i * n + j] = s.re[i * s.ports + j];
          im[i * n + j] = s.im[i * s.ports + j];
        }
    });
  return {
    at(node, inside) {
      const s = solved((id) => inside.has(id), [portPiece(node, z0, 1)]);
      return { re: s.re[0], im: s.im[0] };
    },
    around(node, inside, piece) {
      const pins = [...new Set(piece.nodes.filter((n) => n !== GROUND))];
      const rest = solved(
        (id) => id !== piece.id && inside.has(id),
        [portPiece(node, z0, 1), ...ports(pins, 2)],
      );
      const apart = pins.length === piece.nodes.length ? waves(pins.length, rest) : undefined;
      const block = blockOf(pins.length + 1, rest);
      return (values) => {
        const own = join([seenBy(circuit.model, { ...piece, values })]);
        // What stands at its ends is a part of its own.
        const direct = own.parts.length === 1 ? apart?.(own.parts[0].electrical, f0) : undefined;
        if (direct) return direct;
        const looked = join([portPiece(LOOK, z0, 1)]);
        const all = [...own.parts, { electrical: block, nodes: [LOOK, ...pins] }];
        const s = solve({ parts: all, ports: looked.ports });
        return { re: s.re[0], im: s.im[0] };
      };
    },
    settle(inside) {
      if (isWhole) return;
      const within = new Set(behind?.nodes);
      const without = new Set<string>();
      for (const p of solid)
        if (!behind?.ids.has(p.id)) for (const n of p.nodes) (inside.has(p.id) ? within : without).add(n);
      const nodes = [...within].filter((n) => n !== GROUND && without.has(n));
      if (nodes.length === 0) return;
      const s = solved((id) => inside.has(id), ports(nodes, 1));
      behind = { ids: new Set(inside), nodes, block: blockOf(nodes.length, s) };
    },
  };
}

/**
 * The reflection at the first port of a network with a part at its `n` ports behind that one: what the part gives back,
 * b = P a, and what the network gives to it, a = R0 + R b, in waves of one reference. Undefined where the two resonate
 * by themselves.
 */
function waves(n: number, rest: SData): (own: Electrical, f: number) => Reflection | undefined {
  const size = rest.ports;
  const at = (i: number, j: number) => i * size + j;
  const pr = new Float64Array(n * n);
  const pi = new Float64Array(n * n);
  return (own, f) => {
    own.scatter(f, BETWEEN, pr, pi);
    // (1 - R P) a = R0.
    const [mr, mi] = [new Float64Array(n * n), new Float64Array(n * n)];
    const [ar, ai] = [new Float64Array(n), new Float64Array(n)];
    for (let i = 0; i < n; i++) {
      ar[i] = rest.re[at(i + 1, 0)];
      ai[i] = rest.im[at(i + 1, 0)];
      for (let j = 0; j < n; j++) {
        let [re, im] = [i === j ? 1 : 0, 0];
        for (let k = 0; k < n; k++) {
          const [r, x] = [rest.re[at(i + 1, k + 1)], rest.im[at(i + 1, k + 1)]];
          re -= r * pr[k * n + j] - x * pi[k * n + j];
          im -= r * pi[k * n + j] + x * pr[k * n + j];
        }
        mr[i * n + j] = re;
        mi[i * n + j] = im;
      }
    }
    if (!solveComplex(n, 1, mr, mi, ar, ai)) return undefined;
    let [re, im] = [rest.re[0], rest.im[0]];
    for (let i = 0; i < n; i++) {
      let [br, bi] = [0, 0];
      for (let k = 0; k < n; k++) {
        br += pr[i * n + k] * ar[k] - pi[i * n + k] * ai[k];
        bi += pr[i * n + k] * ai[k] + pi[i * n + k] * ar[k];
      }
      const [r, x] = [rest.re[at(0, i + 1)], rest.im[at(0, i + 1)]];
      re += r * br - x * bi;
      im += r * bi + x * br;
    }
    return { re, im };
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
  if (!piece || !first || piece.nodes.length !== 2 || solid.length > MOST_WALKED || resolved.f0 === undefined)
    return undefined;
  const ways = [0, 1].map((pin) => new Set(beyond(design, id, pin)));
  const near = ways.findIndex((w) => w.has(first.id));
  // In a ring port 1 lies beyond both pins, and there is no one path.
  if (near < 0 || ways[1 - near].has(first.id)) return undefined;
  const far = ways[1 - near];
  const look = reflector(solid, first, circuit, resolved.f0, data);
  const points = [look.at(piece.nodes[1 - near], far)];
  const inside = new Set([...far, id]);
  const grows = parts.get(piece.kind)?.grows;
  if (!grows) return { piece: id, points: [...points, look.at(piece.nodes[near], inside)] };
  const grown = look.around(piece.nodes[near], inside, piece);
  const steps = stepsOf(piece.values!);
  for (let k = 1; k <= steps; k++) points.push(grown(grows.at(piece.values!, k / steps, false)));
  return { piece: id, points };
}

/**
 * Walks from the load, or from the other port, to port 1, or only as far as a plane that lies on that way and looks to
 * the load. Undefined where there is no one way: in rings, in networks of more than two ports, from a plane beside the
 * way, and while the design has errors.
 * @param circuit the design's circuit at the level that is shown
 */
export function* pathSteps(
  design: Design,
  resolved: ResolvedDesign,
  circuit: Circuit,
  data: (id: string) => SData | undefined,
  plane: Pick<PlotPlane, 'look' | 'reference'> = {},
): Steps<MatchPath | undefined> {
  const solid = resolved.pieces.filter((p) => p.values);
  const first = solid.find((p) => p.kind === 'port' && p.settings.number === '1');
  const last = solid.find(closes) ?? solid.find((p) => p.kind === 'port' && p.settings.number === '2');
  const { f0 } = resolved;
  if (!first || !last || f0 === undefined || solid.length > MOST_WALKED) return undefined;
  if (solid.filter((p) => p.kind === 'port').length > (closes(last) ? 1 : 2)) return undefined;
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
  const start = reflection.at(last.nodes[0], inside);
  let here = start;
  function* grow(id: string, node: string, also: readonly string[], across = false): Steps<void> {
    const { piece } = byId.get(id)!;
    const grows = parts.get(piece.kind)?.grows;
    for (const p of also) inside.add(p);
    const set = new Set(inside);
    const before = here;
    if (!grows) {
      here = reflection.at(node, set);
      if (Math.hypot(here.re - before.re, here.im - before.im) > 1e-4)
        arcs.push({ piece: id, points: [before, here] });
      return reflection.settle(inside);
    }
    const grown = reflection.around(node, set, piece);
    const look = (share: number) => grown(grows.at(piece.values!, share, across));
    lookers.set(id, look);
    const points = [before];
    const steps = stepsOf(piece.values!);
    const from = grows.beginning?.(piece.values!) ?? 0;
    for (let k = 1; k <= steps; k++) points.push(look(from + ((1 - from) * k) / steps));
    here = points[steps];
    reflection.settle(inside);
    arcs.push({
      piece: id,
      points,
      face: grows.faces.find((f) => piece.held.includes(f)),
      ...(grows.inverse?.(across) ? { inverse: true } : {}),
    });
    yield arcs.length / solid.length;
  }
  function* hang(at: (typeof hanging)[number] | undefined): Steps<void> {
    for (const { id, pin } of at?.pieces ?? []) {
      const { piece } = byId.get(id)!;
      const beyondIt = piece.nodes.flatMap((n, far) =>
        far === pin || n === GROUND ? [] : beyond(design, id, far).filter((o) => byId.has(o)),
      );
      yield* grow(id, at!.node, [id, ...beyondIt], true);
    }
  }
  if (toLoad) return { start, arcs, at: () => undefined };
  yield* hang(hanging[way.length]);
  for (let i = way.length - 1; i >= from; i--) {
    const step = way[i];
    const { piece } = byId.get(step.id)!;
    const node = piece.nodes[step.near];
    yield* grow(step.id, node, [step.id]);
    for (const [pin, n] of piece.nodes.entries()) {
      if (pin === step.near || pin === step.far || n === GROUND) continue;
      const branch = beyond(design, piece.id, pin).filter((id) => byId.has(id));
      if (branch.length > 0) yield* grow(branch[0], node, branch, true);
    }
    // A plane looks into the piece alone, not at what hangs before it.
    if (i > from || !plane.look) yield* hang(hanging[i]);
  }
  return { start, arcs, at: (id, share) => lookers.get(id)?.(share) };
}

/** The same in one go. */
export const matchPath = (...args: Parameters<typeof pathSteps>): MatchPath | undefined =>
  drive(pathSteps(...args));

/**
 * The share of itself at which a piece's arc ends nearest to `wanted`, found near the present one so that a hand that
 * moves steadily never makes the piece jump. `turn` is how far it may go either way, as a share.
 * @param from the present share
 */
export function shareNearest(
  path: MatchPath,
  piece: string,
  wanted: Reflection,
  turn: number,
  from = 1,
): number | undefined {
  const distance = (share: number): number => {
    const p = path.at(piece, share);
    return p ? Math.hypot(p.re - wanted.re, p.im - wanted.im) : NaN;
  };
  if (Number.isNaN(distance(from))) return undefined;
  const low = Math.max(1e-3, from - turn);
  const high = from + turn;
  const count = 32;
  let best = from;
  let least = distance(from);
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
