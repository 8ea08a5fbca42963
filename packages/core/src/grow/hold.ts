import { marked, namesBehind, type Design, type Marks, type Piece, type ResolvedDesign } from '../network';
import { parts, type Face, type PartValues, type Property } from '../parts';
import { formatQuantity } from '../units';

/** The side of its pieces that a design holds: what stays when the board changes. */
export type Side = 'electrical' | 'physical';

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

/** What in an expression follows the board or the frequency: a copper face that is held by it is not held still. */
const MOVING: ReadonlySet<string> = new Set([
  'width()',
  'impedance()',
  'guided()',
  'radialreach()',
  'lambda',
  'lambda0',
  'f0',
]);

/** Whether an expression follows them, itself or through named values. */
const moves = (design: Design, text: string): boolean =>
  [...namesBehind(design, [text])].some((name) => MOVING.has(name));

/**
 * The design with one side of all its pieces held. Holding the copper keeps all widths, lengths and turns as they are
 * and remembers what they were held at; holding the electrical side brings that back, and holds what is remembered of
 * none at its present value.
 */
export function holdSide(design: Design, resolved: ResolvedDesign, side: Side): Design {
  const values = new Map(resolved.pieces.map((p) => [p.id, p.values]));
  /** The face that a property is held by from now on, and at what; undefined where nothing changes. */
  const next = (
    piece: Piece,
    property: Property,
    here: PartValues,
  ): { readonly face: string; readonly text: string } | undefined => {
    const now = heldFace(piece, property);
    if (!now) return undefined;
    const at = (face: Face | undefined) => {
      const value = face && here[face.name]?.re;
      return face && value !== undefined && Number.isFinite(value)
        ? { face: face.name, text: textOf(value, face) }
        : undefined;
    };
    if (side === 'physical')
      return now.side === 'electrical'
        ? at(property.faces.find((f) => f.side === 'physical'))
        : moves(design, piece.held[now.name])
          ? at(now)
          : undefined;
    const asked = property.faces.find((f) => piece.marks?.asked?.[f.name] !== undefined);
    if (asked) return { face: asked.name, text: piece.marks!.asked![asked.name] };
    // The lengths of feeds are given as copper, and nothing asked for an angle.
    return now.side === 'electrical' || piece.role === 'feed'
      ? undefined
      : at(property.faces.find((f) => f.side === 'electrical'));
  };
  return {
    ...design,
    pieces: design.pieces.map((piece) => {
      const here = values.get(piece.id);
      if (!here) return piece;
      const held = { ...piece.held };
      const asked = { ...piece.marks?.asked };
      let heldAt = piece.marks?.heldAt;
      let changed = false;
      for (const property of parts.get(piece.kind)?.properties ?? []) {
        const to = next(piece, property, here);
        const now = heldFace(piece, property);
        if (!to || !now) continue;
        delete held[now.name];
        held[to.face] = to.text;
        for (const f of property.faces) delete asked[f.name];
        if (side === 'physical') asked[now.name] = piece.held[now.name];
        if (property.id === 'along') heldAt = undefined;
        changed = true;
      }
      return changed ? marked({ ...piece, held }, { asked, heldAt }) : piece;
    }),
  };
}

/** What a piece remembers, without what is held anew. */
export const forgetAsked = (marks: Marks | undefined, faces: readonly string[]): Marks['asked'] =>
  Object.fromEntries(Object.entries(marks?.asked ?? {}).filter(([face]) => !faces.includes(face)));

/** A piece with what it remembers changed as its held faces are, by what is done to the piece itself. */
export const changeAsked = (
  piece: Piece,
  change: (held: Readonly<Record<string, string>>) => Readonly<Record<string, string>>,
): Piece => (piece.marks?.asked ? marked(piece, { asked: change(piece.marks.asked) }) : piece);
