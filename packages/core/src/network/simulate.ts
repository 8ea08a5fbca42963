import { media, sectionsOn } from '../lines';
import { parts, scaled, type ElectricalContext, type InModel, type Model, type PartValues } from '../parts';
import type { SData } from '../results';
import type { ResolvedDesign, ResolvedPiece } from './resolve';
import { lineOfPort } from './resolve/ports';
import { backedElectrical, unbacked } from './backing';
import { seenBy, type BackedPiece, type Circuit, type CircuitPiece } from './circuit';
import type { Network } from './joined';
import { standings } from './sized';
import { solveNetwork } from './solve';

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

/** Whether a model is put right by data that was solved. */
const isBacked: InModel<boolean> = { ideal: false, modelled: true };

/** Pieces that stand on solved data and where in it, by their ids. */
function backings(resolved: ResolvedDesign, model: Model): ReadonlyMap<string, BackedPiece> {
  const found = new Map<string, BackedPiece>();
  if (!isBacked[model]) return found;
  standings(resolved).forEach(({ backed: { data, pieces: ids, reversed }, place: { at, weight } }, group) => {
    if (weight > 0 && !ids.some((id) => found.has(id)))
      ids.forEach((id, place) =>
        found.set(id, { group, data, place, at, weight, ...(reversed && { reversed }) }),
      );
  });
  return found;
}

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
  const backed = backings(resolved, model);
  return {
    model,
    medium: resolved.medium,
    substrate: resolved.stack!.substrate,
    f0: resolved.f0!,
    pieces: resolved.pieces.flatMap((p) => {
      if (!p.values) return [];
      const seen = seenBy(model, { ...p, values: rest(p) });
      const own = backed.get(p.id);
      return [own ? { ...seen, backed: own } : seen];
    }),
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
  const groups = new Map<number, CircuitPiece[]>();
  for (const piece of circuit.pieces) {
    if (piece.backed) {
      const group = groups.get(piece.backed.group);
      if (group) group.push(piece);
      else groups.set(piece.backed.group, [piece]);
      continue;
    }
    const definition = parts.get(piece.kind);
    if (definition?.models) {
      const model = definition.models[circuit.model];
      const from = [piece.kind, piece.values, piece.settings, piece.facts];
      const nodes = [...piece.nodes];
      for (const { pins, beside, electrical } of model.ends?.(piece, context) ?? []) {
        const inner = pins.map((pin) => `${piece.nodes.join(' ')} ${pin}`);
        const at = (of: readonly number[]) => of.map((pin) => piece.nodes[pin]);
        joined.push({ electrical, nodes: [...at(beside), ...inner, ...at(pins)], from: [pins, ...from] });
        pins.forEach((pin, i) => (nodes[pin] = inner[i]));
      }
      joined.push({ electrical: model.electrical(piece, context), nodes, from });
    } else ports.push({ node: piece.nodes[0], z0: piece.values.z, number: Number(piece.settings.number) });
  }
  for (const group of groups.values()) {
    const solved = backedElectrical(group, circuit, data, networkOf);
    if (solved) joined.push(solved);
    // What is left of a group that was cut is as models have it.
    else joined.push(...networkOf({ ...circuit, pieces: group.map(unbacked) }, data).parts);
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
