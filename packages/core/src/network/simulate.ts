import { media, sectionsOn, type MediumId, type Substrate } from '../lines';
import { parts, scaled, type ElectricalContext, type Model, type PartState, type PartValues } from '../parts';
import type { Complex } from '../numeric';
import type { SData } from '../results';
import type { ResolvedDesign, ResolvedPiece } from './resolve';
import { lineOfPort } from './resolve/ports';
import type { Network } from './joined';
import { solveNetwork } from './solve';

/** A piece as a model sees it: the nodes at its pins and what that model reads of it. */
export interface CircuitPiece extends PartState {
  readonly kind: string;
  readonly nodes: readonly string[];
}

/** Everything that a response of the network solution depends on, as plain data: sent to a worker, the key of its results. */
export interface Circuit {
  readonly model: Model;
  readonly medium: MediumId;
  readonly substrate: Substrate;
  readonly f0: number;
  readonly pieces: readonly CircuitPiece[];
}

/** Places whose errors leave the circuit itself alone. */
const BESIDE: ReadonlySet<string> = new Set([
  'sweep',
  'marker',
  'goal',
  'limit',
  'range',
  'plane',
  'enclosure',
]);

/** Whether a design can be solved: nothing that its response depends on has an error. */
export const isSound = (resolved: ResolvedDesign): boolean =>
  resolved.stack !== undefined &&
  resolved.f0 !== undefined &&
  !resolved.problems.some((p) => !BESIDE.has(p.place.kind));

function pick<T>(from: Readonly<Record<string, T>>, names: readonly string[]): Record<string, T> {
  const out: Record<string, T> = {};
  for (const name of names) if (Object.hasOwn(from, name)) out[name] = from[name];
  return out;
}

/** What a port is to the solution. */
const PORT_READS = ['z', 'number'];

/** A piece with only what a model reads of it. */
export function seenBy(
  model: Model,
  piece: Pick<ResolvedPiece, 'kind' | 'nodes' | 'settings' | 'facts'> & { readonly values: PartValues },
): CircuitPiece {
  const reads = parts.get(piece.kind)?.models?.[model].reads ?? PORT_READS;
  return {
    kind: piece.kind,
    nodes: piece.nodes,
    values: pick(piece.values, reads),
    settings: pick(piece.settings, reads),
    facts: pick(piece.facts, reads),
  };
}

/** A port as the solution sees it. @param z its reference, ohm */
export const portPiece = (node: string, z: Complex, number: number): CircuitPiece => ({
  kind: 'port',
  nodes: [node],
  values: { z },
  settings: { number: String(number) },
  facts: {},
});

/**
 * The circuit of a design in one model, or undefined while the design has errors. What the model does not read is left
 * out, so that it does not change the key.
 */
export function circuitOf(resolved: ResolvedDesign, model: Model): Circuit | undefined {
  if (!isSound(resolved)) return undefined;
  // Seen from a plane inside of it a line is so much shorter.
  const taken = new Map<string, number>();
  for (const port of resolved.pieces) {
    const plane = port.kind === 'port' ? (port.values?.plane?.re ?? 0) : 0;
    const met = plane > 0 ? lineOfPort(port, resolved.pieces) : undefined;
    if (met) taken.set(met.line.id, (taken.get(met.line.id) ?? 0) + plane / met.length);
  }
  const rest = ({ id, values }: ResolvedPiece): PartValues =>
    taken.has(id) ? scaled(values!, ['length', 'theta'], Math.max(0, 1 - taken.get(id)!)) : values!;
  return {
    model,
    medium: resolved.medium,
    substrate: resolved.stack!.substrate,
    f0: resolved.f0!,
    pieces: resolved.pieces.flatMap((p) => (p.values ? [seenBy(model, { ...p, values: rest(p) })] : [])),
  };
}

/** Joins the parts of a circuit. @param data finds imported data by id */
export function networkOf(circuit: Circuit, data: (id: string) => SData | undefined): Network {
  const sections = sectionsOn(circuit.medium, circuit.substrate);
  const context: ElectricalContext = {
    medium: media[circuit.medium],
    substrate: circuit.substrate,
    f0: circuit.f0,
    data,
    section: (shape, ...dimensions) => sections.get(shape, ...dimensions),
  };
  const ports: { node: string; z0: { re: number; im: number }; number: number }[] = [];
  const joined: Network['parts'][number][] = [];
  for (const piece of circuit.pieces) {
    const definition = parts.get(piece.kind);
    if (definition?.models)
      joined.push({
        electrical: definition.models[circuit.model].electrical(piece, context),
        nodes: piece.nodes,
      });
    else ports.push({ node: piece.nodes[0], z0: piece.values.z, number: Number(piece.settings.number) });
  }
  ports.sort((a, b) => a.number - b.number);
  return { parts: joined, ports };
}

/** S-parameters of a circuit at `freq` (Hz) in one go. */
export const simulate = (
  circuit: Circuit,
  freq: Float64Array,
  data: (id: string) => SData | undefined,
): SData => solveNetwork(networkOf(circuit, data), freq);

/** Frequencies from `start` to `stop` (both included, Hz). With one point, `start`. */
export function frequencies(
  start: number,
  stop: number,
  points: number,
  scale: 'lin' | 'log' = 'lin',
): Float64Array {
  const freq = new Float64Array(points);
  for (let i = 0; i < points; i++) {
    const t = points === 1 ? 0 : i / (points - 1);
    freq[i] =
      i === points - 1 && points > 1
        ? stop
        : scale === 'log'
          ? start * Math.pow(stop / start, t)
          : start + (stop - start) * t;
  }
  return freq;
}
