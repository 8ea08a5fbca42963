import { media, Sections, type MediumId, type Substrate } from '../lines';
import { parts, type ElectricalContext, type Level, type PartValues } from '../parts';
import type { SData } from '../results';
import type { ResolvedDesign } from './resolve';
import { sampleNetwork, type Network } from './solve';

/** Everything a response depends on, as plain data: sent to the worker, and the key under which the result is kept. */
export interface Circuit {
  readonly level: Level;
  readonly medium: MediumId;
  readonly substrate: Substrate;
  readonly f0: number;
  readonly pieces: readonly {
    readonly kind: string;
    readonly nodes: readonly string[];
    readonly values: PartValues;
    readonly settings: Readonly<Record<string, string>>;
  }[];
}

/** Places whose errors leave the circuit itself alone. */
const BESIDE: ReadonlySet<string> = new Set(['sweep', 'marker', 'goal', 'limit', 'plane']);

/**
 * The circuit of a design at one level, or undefined while the design has errors.
 * Faces that the level does not look at are left out, so that they do not change the key.
 */
export function circuitOf(resolved: ResolvedDesign, level: Level): Circuit | undefined {
  const { stack, f0, medium, pieces } = resolved;
  const blocking = resolved.problems.some((p) => !BESIDE.has(p.place.kind));
  if (!stack || f0 === undefined || blocking) return undefined;
  return {
    level,
    medium,
    substrate: stack.substrate,
    f0,
    pieces: pieces.flatMap((p) =>
      p.values ? [{ kind: p.kind, nodes: p.nodes, values: p.values, settings: p.settings }] : [],
    ),
  };
}

/** Joins the parts of a circuit. @param data finds imported data by id */
export function networkOf(circuit: Circuit, data: (id: string) => SData | undefined): Network {
  const sections = new Sections(circuit.medium, circuit.substrate);
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
    if (definition?.electrical)
      joined.push({
        electrical: definition.electrical(piece.values, piece.settings, circuit.level, context),
        nodes: piece.nodes,
      });
    else ports.push({ node: piece.nodes[0], z0: piece.values.z, number: Number(piece.settings.number) });
  }
  ports.sort((a, b) => a.number - b.number);
  return { parts: joined, ports };
}

export interface SimulationHooks {
  /** Called now and then with the share done; a true return stops the simulation. */
  readonly progress?: (done: number) => boolean | void;
  /** Points between two calls. */
  readonly every?: number;
}

/** S-parameters of a circuit at `freq` (Hz). Returns undefined when a hook stopped it. */
export function simulate(
  circuit: Circuit,
  freq: Float64Array,
  data: (id: string) => SData | undefined,
  hooks: SimulationHooks = {},
): SData | undefined {
  const sampling = sampleNetwork(networkOf(circuit, data), freq);
  const every = hooks.progress ? (hooks.every ?? 256) : freq.length;
  while (sampling.done < freq.length) {
    sampling.advance(sampling.done + every);
    // A last stretch shorter than the others is not told: the result itself follows.
    if (sampling.done % every === 0 && hooks.progress?.(sampling.done / freq.length)) return undefined;
  }
  return sampling.data;
}

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
