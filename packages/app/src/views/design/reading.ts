import { useMemo } from 'react';
import type { Circuit, Piece, ResolvedDesign } from '@ditch/core/network';
import { entryOf, type Entry, type MatchReading, type SData } from '@ditch/core/results';

/** One level's response, ready to draw and to read. */
export interface LevelResponse {
  readonly data: SData;
  /** Reflection of port 1. */
  readonly reflection: Entry;
  readonly match: MatchReading | undefined;
}

export function useLevelResponse(
  data: SData | undefined,
  match: MatchReading | undefined,
): LevelResponse | undefined {
  return useMemo(() => data && { data, reflection: entryOf(data, 0, 0), match }, [data, match]);
}

/** A pin in words; a piece with one pin is its own name. */
export const pinLabel = (piece: Piece, pin: number): string =>
  piece.nodes.length === 1 ? piece.name : `${piece.name}, pin ${pin + 1}`;

/** Change of a piece that shows its influence: 2 % of its length, or of its value. */
const LITTLE = 1.02;

/** The modelled circuit with one piece a little longer or larger, or undefined where it has nothing to change. */
export function influenceOf(
  circuit: Circuit | undefined,
  resolved: ResolvedDesign,
  id: string,
): Circuit | undefined {
  const index = resolved.pieces.filter((p) => p.values).findIndex((p) => p.id === id);
  const piece = circuit?.pieces[index];
  const face = ['length', 'r', 'c', 'l'].find((name) => piece?.values[name]);
  if (!circuit || !piece || !face) return undefined;
  const values = { ...piece.values, [face]: { re: piece.values[face].re * LITTLE, im: 0 } };
  return { ...circuit, pieces: circuit.pieces.map((p, i) => (i === index ? { ...p, values } : p)) };
}
