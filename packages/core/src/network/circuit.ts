import type { MediumId, Substrate } from '../lines';
import type { Complex } from '../numeric';
import { parts, type Model, type PartState, type PartValues } from '../parts';
import type { ResolvedPiece } from './resolve';

/** What a piece of a circuit says that stands on solved data. */
export interface BackedPiece {
  /** Pieces of one group are told from those of another. */
  readonly group: number;
  /** Id of the data. */
  readonly data: string;
  /** Which of the data's pieces it is. */
  readonly place: number;
  /** Its first two pins are the other way round. */
  readonly reversed?: true;
  /** Where in the data's ranges the group stands, from -1 to 1 along every axis. */
  readonly at: readonly number[];
  /** How much of what was solved counts, 0 to 1. */
  readonly weight: number;
}

/** A piece as a model sees it: the nodes at its pins and what that model reads of it. */
export interface CircuitPiece extends PartState {
  readonly kind: string;
  readonly nodes: readonly string[];
  /** Stands on solved data, with the others of its group. */
  readonly backed?: BackedPiece;
}

/** Everything that a response of the network solution depends on, as plain data: sent to a worker, the key of its results. */
export interface Circuit {
  readonly model: Model;
  readonly medium: MediumId;
  readonly substrate: Substrate;
  readonly f0: number;
  readonly pieces: readonly CircuitPiece[];
}

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
