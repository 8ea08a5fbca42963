import type { Design, Piece, ResolvedDesign } from '../network';
import { parts, type Face, type Property } from '../parts';
import { formatQuantity } from '../units';

/** The side of its pieces that a design holds: what stays when the board changes. */
export type Side = 'electrical' | 'physical';

/** Settings under which a piece remembers what its electrical faces were held at while its copper is held. */
const ASKED = 'asked_';

/** Properties that can be held by either side: an impedance or a width, an angle or a length. */
const twoSided = (piece: Piece): readonly Property[] =>
  (parts.get(piece.kind)?.properties ?? []).filter((p) => new Set(p.faces.map((f) => f.side)).size > 1);

const heldFace = (piece: Piece, property: Property): Face | undefined =>
  property.faces.find((f) => piece.held[f.name] !== undefined);

/** Which side a design holds, or `both` where its pieces differ; undefined where there is nothing to hold. */
export function sideHeld(design: Design): Side | 'both' | undefined {
  let side: Side | 'both' | undefined;
  for (const piece of design.pieces)
    for (const property of twoSided(piece)) {
      // The lengths of lines that only lead to ports are copper in every design.
      if (piece.role === 'feed' && property.id === 'along') continue;
      const here = heldFace(piece, property)?.side;
      if (here === undefined || here === side) continue;
      side = side === undefined ? here : 'both';
    }
  return side;
}

/** A value of a face as text that brings back the same copper: lengths to a nanometre. */
const textOf = (value: number, face: Face): string =>
  face.rule.kind === 'length'
    ? `${Number((value * 1e3).toFixed(6))} mm`
    : formatQuantity(value, face.rule.kind, { digits: 9, typed: true });

/**
 * The design with one side of all its pieces held. Holding the copper keeps widths and lengths as they are and remembers
 * what the electrical side was held at; holding the electrical side brings that back, and holds what is remembered of
 * none at its present value.
 */
export function holdSide(design: Design, resolved: ResolvedDesign, side: Side): Design {
  const values = new Map(resolved.pieces.map((p) => [p.id, p.values]));
  return {
    ...design,
    pieces: design.pieces.map((piece) => {
      const here = values.get(piece.id);
      if (!here) return piece;
      const held = { ...piece.held };
      const settings = { ...piece.settings };
      let changed = false;
      for (const property of twoSided(piece)) {
        const now = heldFace(piece, property);
        if (!now || now.side === side) continue;
        const remembered = property.faces.find((f) => settings[ASKED + f.name] !== undefined);
        const next =
          side === 'electrical' && remembered ? remembered : property.faces.find((f) => f.side === side);
        const value = next && here[next.name]?.re;
        if (!next || value === undefined || !Number.isFinite(value)) continue;
        // The lengths of feeds are given as copper, and nothing asked for an angle.
        if (side === 'electrical' && !remembered && piece.role === 'feed') continue;
        delete held[now.name];
        if (side === 'physical') settings[ASKED + now.name] = piece.held[now.name];
        held[next.name] =
          side === 'electrical' && remembered ? settings[ASKED + next.name] : textOf(value, next);
        if (side === 'electrical') for (const f of property.faces) delete settings[ASKED + f.name];
        if (property.id === 'along') delete settings.heldAt;
        changed = true;
      }
      if (!changed) return piece;
      const { settings: _before, ...rest } = piece;
      return { ...rest, held, ...(Object.keys(settings).length > 0 ? { settings } : {}) };
    }),
  };
}

/** Settings of a piece without what it remembers of faces that are held anew. */
export const forgetAsked = (
  settings: Readonly<Record<string, string>> | undefined,
  faces: readonly string[],
): Readonly<Record<string, string>> =>
  Object.fromEntries(
    Object.entries(settings ?? {}).filter(([name]) => !faces.some((f) => name === ASKED + f)),
  );
