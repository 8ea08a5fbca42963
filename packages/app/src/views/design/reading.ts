import { intended, liveById, type Subject } from '@ditch/core/levels';
import {
  resolveDesign,
  type Circuit,
  type Design,
  type Piece,
  type Project,
  type ResolvedDesign,
} from '@ditch/core/network';

/** A pin in words; a piece with one pin is its own name. */
export const pinLabel = (piece: Piece, pin: number): string =>
  piece.nodes.length === 1 ? piece.name : `${piece.name}, pin ${pin + 1}`;

/** Change of a piece that shows its influence: 2 % of its length, or of its value. */
const LITTLE = 1.02;

/** A circuit with one piece a little longer or larger, or undefined where it has nothing to change. */
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

/** What a level is asked about a design; undefined while that has errors. */
export function subjectOf(project: Project, design: Design, level = intended.id): Subject | undefined {
  const resolved = resolveDesign(project, design);
  return liveById[level].subject(resolved);
}
