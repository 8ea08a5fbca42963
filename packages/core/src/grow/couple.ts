import type { Design, Piece } from '../network';
import { freshName } from './document';
import { GrowError } from './grow';

/** How two lines stand beside one another. */
export interface Coupling {
  /** Sizes of the copper as typed text. */
  readonly width: string;
  readonly gap: string;
  readonly length: string;
  /** The side on which the second lies, seen along the first. */
  readonly side: 'left' | 'right';
  /** Pin 2 of the second stands beside pin 1 of the first. */
  readonly reversed: boolean;
}

/** Two lines as one piece of coupled lines, which keeps the copper as it is. @throws GrowError where they are not there */
export function couple(
  design: Design,
  first: string,
  second: string,
  { width, gap, length, side, reversed }: Coupling,
): Design {
  const find = (id: string): Piece => {
    const piece = design.pieces.find((p) => p.id === id);
    if (!piece) throw new GrowError('one of the two lines is gone');
    return piece;
  };
  const [a, b] = [find(first), find(second)];
  const [near, far] = reversed ? [b.nodes[1], b.nodes[0]] : b.nodes;
  const pair: Piece = {
    id: a.id,
    name: freshName(design, 'coupled lines'),
    kind: 'line-pair',
    ...(a.role === undefined || a.role === 'feed' ? {} : { role: a.role }),
    held: { width, gap, length },
    settings: { side },
    nodes: [a.nodes[0], near, a.nodes[1], far],
  };
  return {
    ...design,
    pieces: design.pieces.filter((p) => p.id !== second).map((p) => (p.id === first ? pair : p)),
  };
}
