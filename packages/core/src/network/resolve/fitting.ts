import { media, UnreachableImpedance } from '../../lines';
import { FaceError, parts, type PartDefinition, type PartValues, type ResolveContext } from '../../parts';
import type { SData } from '../../results';
import type { ResolvedStack } from '../../stack';
import { parseExpression } from '../../units';
import type { Design, Piece } from '../document';
import { message } from '../arguments';
import { surroundings } from '../surroundings';
import type { Problems, ResolvedPiece } from './contract';
import { readHeld } from './pieces';
import type { Values } from './values';

/** A piece while it is worked out. */
type Working = { -readonly [K in keyof ResolvedPiece]: ResolvedPiece[K] };

const sameValues = (a: PartValues, b: PartValues): boolean => {
  for (const face in b)
    if (!Object.is(a[face]?.re, b[face].re) || !Object.is(a[face].im, b[face].im)) return false;
  return true;
};

/** What a part is told of what it meets. */
type Around = Pick<ResolveContext, 'neighbour' | 'beside' | 'bare' | 'pad' | 'open' | 'corner' | 'turns'>;

/**
 * Works all pieces out: lines from what they hold, then what fits them, a junction beside a junction from what that one
 * meets, until nothing changes.
 */
export function fitPieces(
  design: Design,
  values: Values,
  stack: ResolvedStack | undefined,
  data: (id: string) => SData | undefined,
  problems: Problems,
): readonly ResolvedPiece[] {
  const { f0, scope } = values;
  const nothing = () => undefined;
  const alone: Around = {
    neighbour: nothing,
    beside: nothing,
    bare: () => false,
    pad: nothing,
    open: nothing,
    corner: nothing,
    turns: () => [],
  };
  const contextOf = (
    { settings = {} }: Pick<Piece, 'settings'>,
    around: Around = alone,
  ): ResolveContext | undefined =>
    stack && f0 !== undefined
      ? {
          medium: media[design.medium],
          substrate: stack.substrate,
          f0,
          data,
          ...values.calculator(),
          ...around,
          settings,
        }
      : undefined;

  const pieces: Working[] = [];
  const readings = design.pieces.map((piece): PartValues | undefined => {
    const { held, read } = readHeld(piece, values, data, contextOf, problems);
    const { id, name, kind, role, nodes } = piece;
    let theory: number | undefined;
    try {
      if (piece.marks?.theory) theory = parseExpression(piece.marks.theory).evaluate(scope).re;
    } catch (error) {
      // Without the values it is made of, theory asks for nothing.
      message(error);
    }
    pieces.push({ id, name, kind, role, nodes, settings: piece.settings ?? {}, held, facts: {}, theory });
    return read;
  });

  const around = surroundings(pieces);
  const failures = new Map<number, unknown>();
  const work = (
    i: number,
    take: (piece: Working, part: PartDefinition, read: PartValues, context: ResolveContext) => void,
  ): void => {
    const [read, piece] = [readings[i], pieces[i]];
    const context =
      read &&
      contextOf(piece, {
        neighbour: (pin) => around.neighbour(piece, pin),
        beside: (pin) => around.beside(piece, pin),
        bare: (pin) => around.bare(piece, pin),
        pad: (pin) => around.pad(piece, pin),
        open: (pin) => around.open(piece, pin),
        corner: (pin) => around.corner(piece, pin),
        turns: (pin) => around.turns(piece, pin),
      });
    if (!context) return;
    failures.delete(i);
    try {
      take(piece, parts.get(piece.kind)!, read, context);
    } catch (error) {
      failures.set(i, error);
    }
  };
  const resolve = (i: number) =>
    work(i, (piece, part, read, context) => (piece.values = part.resolve(read, context)));
  const fitting: number[] = [];
  pieces.forEach((piece, i) => {
    if (parts.get(piece.kind)?.fits) fitting.push(i);
    else resolve(i);
  });
  for (let round = 0, settled = false; round <= fitting.length && !settled; round++) {
    settled = true;
    for (const i of fitting) {
      const { values } = pieces[i];
      resolve(i);
      const now = pieces[i];
      settled &&= values ? sameValues(values, now.values!) : now.values === undefined;
    }
  }
  // What a part learns of others stands on what all of them are.
  pieces.forEach(({ kind, values }, i) => {
    if (values && !failures.has(i) && parts.get(kind)?.facts)
      work(i, (piece, part, read, context) => (piece.facts = part.facts!(read, context)));
  });
  for (const [i, error] of failures) {
    const { id, held } = pieces[i];
    const face =
      error instanceof FaceError
        ? error.face
        : error instanceof UnreachableImpedance
          ? 'z0'
          : (held[0] ?? '');
    problems.take({ kind: 'piece', piece: id, face }, error);
  }
  return pieces;
}
