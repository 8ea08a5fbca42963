import { media, UnreachableImpedance } from '../../lines';
import { FaceError, parts, type PartValues, type ResolveContext } from '../../parts';
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
const sameFacts = (a: ResolvedPiece['facts'], b: ResolvedPiece['facts']): boolean => {
  for (const name in b) if (a[name] !== b[name] && String(a[name]) !== String(b[name])) return false;
  return true;
};

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
  const alone = { neighbour: () => undefined, beside: () => undefined, bare: () => false };
  const contextOf = (
    { settings = {} }: Pick<Piece, 'settings'>,
    around: Pick<ResolveContext, 'neighbour' | 'beside' | 'bare'> = alone,
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
  const work = (i: number): void => {
    const [read, piece] = [readings[i], pieces[i]];
    const context =
      read &&
      contextOf(piece, {
        neighbour: (pin) => around.neighbour(piece, pin),
        beside: (pin) => around.beside(piece, pin),
        bare: (pin) => around.bare(piece, pin),
      });
    if (!context) return;
    failures.delete(i);
    try {
      const definition = parts.get(piece.kind)!;
      piece.values = definition.resolve(read, context);
      piece.facts = definition.facts?.(read, context) ?? {};
    } catch (error) {
      failures.set(i, error);
    }
  };
  const fitting: number[] = [];
  pieces.forEach((piece, i) => {
    if (parts.get(piece.kind)?.fits) fitting.push(i);
    else work(i);
  });
  for (let round = 0, settled = false; round <= fitting.length && !settled; round++) {
    settled = true;
    for (const i of fitting) {
      const { values, facts } = pieces[i];
      work(i);
      const now = pieces[i];
      settled &&= values
        ? sameValues(values, now.values!) && sameFacts(facts, now.facts)
        : now.values === undefined;
    }
  }
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
