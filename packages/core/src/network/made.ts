import { parts, propertiesOf, type PartDefinition, type PartFacts, type PartValues } from '../parts';
import { media, type Substrate } from '../lines';
import type { ResolvedDesign, ResolvedPiece } from './resolve';

/** What of a board may come out otherwise than it was designed. */
export const BOARD_FACES = ['er', 'height', 'thickness', 'tand'] as const;
export type BoardFace = (typeof BOARD_FACES)[number];

/** By how much a board comes out otherwise than it was designed for. The copper on it stays as it was drawn, but for its edges. */
export interface Made extends Partial<Record<BoardFace, number>> {
  /** By how much more every line is wide, m: each edge of the copper lies out by half of it. */
  readonly etch?: number;
}

/** What cannot come out so, in words. */
export class Unmakeable extends RangeError {}

function etchedPiece(piece: ResolvedPiece, etch: number): ResolvedPiece {
  const definition = parts.get(piece.kind);
  if (!definition?.etches || !piece.values) return piece;
  const reads = definition.models?.modelled.reads ?? [];
  const adjusts = adjustmentsOf(definition);
  const values: Record<string, PartValues[string]> = { ...piece.values };
  const facts: Record<string, PartFacts[string]> = { ...piece.facts };
  for (const [name, times] of Object.entries(definition.etches)) {
    const fact = facts[name];
    const by = times * etch;
    if (Array.isArray(fact)) {
      const isDifference = definition.differences?.includes(name);
      facts[name] = (fact as readonly number[]).map((w) => (isDifference ? w + by : grown(w, by)));
    } else if (values[name] || (reads.includes(name) && adjusts.has(name))) {
      const before = values[name]?.re ?? 0;
      values[name] = { re: adjusts.has(name) ? before + by : grown(before, by), im: 0 };
    }
  }
  return { ...piece, values, facts };
}

const adjustments = new WeakMap<PartDefinition, ReadonlySet<string>>();

/** Faces of a part that adjust others: one that is left out is nothing, and may have either sign. */
function adjustmentsOf(definition: PartDefinition): ReadonlySet<string> {
  let found = adjustments.get(definition);
  if (!found) {
    found = new Set(
      propertiesOf(definition).flatMap((p) => (p.adjusts === undefined ? [] : [p.faces[0].name])),
    );
    adjustments.set(definition, found);
  }
  return found;
}

function grown(size: number, by: number): number {
  // Where there was no copper and no gap there is none.
  if (size === 0) return 0;
  if (!(size + by > 0)) throw new Unmakeable('etching leaves nothing of a line or a gap');
  return size + by;
}

/**
 * A design as it is made: its copper as it was worked out for the board that it was designed for, but for its edges, on a
 * board that is not quite that one. Electrical faces keep saying what was meant.
 * @param among between which ends such boards lie, where many are asked for
 * @throws Unmakeable
 */
export function asMade(resolved: ResolvedDesign, made: Made, among?: Substrate['among']): ResolvedDesign {
  const { etch = 0 } = made;
  if (!resolved.stack) return resolved;
  const own = resolved.stack.substrate;
  const substrate = {
    ...own,
    ...Object.fromEntries(BOARD_FACES.flatMap((f) => (made[f] ? [[f, own[f] + made[f]]] : []))),
    ...(among ? { among } : {}),
  };
  if (!(substrate.er >= 1)) throw new Unmakeable('the permittivity would be less than 1');
  if (!(substrate.height > 0)) throw new Unmakeable('nothing would be left of the board');
  if (!(substrate.thickness >= 0) || !(substrate.tand >= 0))
    throw new Unmakeable('a thickness or a loss tangent would be less than nothing');
  const refused = media[resolved.medium].refuse(substrate);
  if (refused) throw new Unmakeable(refused.message);
  return {
    ...resolved,
    stack: { ...resolved.stack, substrate },
    pieces: etch === 0 ? resolved.pieces : resolved.pieces.map((p) => etchedPiece(p, etch)),
  };
}
