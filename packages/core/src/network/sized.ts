import type { Substrate } from '../lines';
import { parts, propertiesOf, realValues, type PartValues } from '../parts';
import type { SData } from '../results';
import { formatNumber, formatQuantity } from '../units';
import { dataOf } from './data';
import type { Backed, DataBlock, SolvedAxis, SolvedOver, SolvedPiece } from './document';
import { GROUND } from './joined';
import type { ResolvedDesign, ResolvedPiece } from './resolve';

/** A size off its own ends, or of what was not varied, by less than this share is what was solved. */
const SAME = 0.01;
/** Shares of a range beyond its ends, and of what was not varied, by which the model of the parts stands again alone. */
const BEYOND = 0.5;
const APART = 0.2;
/** The same for angles, rad. */
const TURNED = { same: 0.01, apart: 0.2 } as const;
/** Sizes smaller than this share of the board's height are weighed by that. */
const SMALL = 0.2;

/** Faces of a piece that say how its copper is: lengths and angles, adjustments only where nothing else holds them. */
export function copperFaces(
  kind: string,
  settings: Readonly<Record<string, string>>,
): { readonly name: string; readonly label: string; readonly kind: 'length' | 'angle' }[] {
  const definition = parts.get(kind);
  if (!definition) return [];
  const reads = definition.models?.modelled.reads ?? [];
  return propertiesOf(definition, settings).flatMap(({ adjusts, faces }) =>
    faces.flatMap(({ name, label, side, rule }) =>
      side === 'physical' &&
      (rule.kind === 'length' || rule.kind === 'angle') &&
      (adjusts === undefined || reads.includes(name))
        ? [{ name, label, kind: rule.kind }]
        : [],
    ),
  );
}

/** What of a board data can be solved over. */
export const SOLVED_FACES = ['er', 'height', 'thickness'] as const;

/** The board of solved data in the middle of its ranges. */
const boardIn = ({ board }: SolvedOver): Substrate => ({ ...board, cover: board.cover ?? Infinity });

/** The middle of an axis and half of what lies between its ends. */
const spanOf = ({ from, to }: SolvedAxis) => ({ middle: (from + to) / 2, half: (to - from) / 2 });

/** A state of what was solved. */
interface SizedState {
  readonly substrate: Substrate;
  readonly pieces: readonly ResolvedPiece[];
}

/** Pieces and board of solved data at a place in its ranges. @param u from -1 to 1 along every axis */
export function stateAt(over: SolvedOver, u: readonly number[]): SizedState {
  const substrate: { -readonly [K in keyof Substrate]: Substrate[K] } = boardIn(over);
  const values = over.pieces.map((p) => ({ ...p.values }));
  over.axes.forEach((axis, j) => {
    const { middle, half } = spanOf(axis);
    const x = middle + u[j] * half;
    if (axis.board) substrate[axis.board] = x;
    for (const [piece, face] of axis.sizes ?? []) {
      for (const name of Object.keys(values[piece]))
        if (leaderOf(over.pieces[piece], name) === face) values[piece][name] *= x / middle;
      values[piece][face] = x;
    }
  });
  return {
    substrate,
    pieces: over.pieces.map((p, i) => ({
      ...p,
      id: String(i),
      name: parts.get(p.kind)?.name ?? p.kind,
      values: realValues(values[i]),
    })),
  };
}

/** The face that one of a piece is in proportion to, because nobody holds it; undefined where there is none. */
export const leaderOf = (
  { kind, held }: Pick<SolvedPiece, 'kind' | 'held'>,
  face: string,
): string | undefined => (held.includes(face) ? undefined : parts.get(kind)?.follows?.[face]);

/** A piece with its first two pins, and what belongs to them, the other way round. */
export function reversed<
  P extends Pick<ResolvedPiece, 'kind' | 'nodes' | 'facts'> & { readonly values?: PartValues },
>(piece: P): P {
  const [first, second, ...others] = piece.nodes;
  const swapped = <T>(from: Readonly<Record<string, T>>): Record<string, T> => {
    const out = { ...from };
    for (const [a, b] of parts.get(piece.kind)?.swaps ?? [])
      for (const [to, own] of [
        [a, from[b]],
        [b, from[a]],
      ] as const)
        if (own === undefined) delete out[to];
        else out[to] = own;
    return out;
  };
  return {
    ...piece,
    nodes: [second, first, ...others],
    ...(piece.values && { values: swapped(piece.values) }),
    facts: swapped(piece.facts),
  };
}

/** Pieces of a design in the order, and the way round, of the data that they stand on. */
const inOrder = (
  { pieces: ids, reversed: isReversed }: Backed,
  pieces: ReadonlyMap<string, ResolvedPiece>,
): ResolvedPiece[] => ids.map((id) => (isReversed ? reversed(pieces.get(id)!) : pieces.get(id)!));

/** Where pieces of a design stand in what was solved. */
export interface SizedPlace {
  /** From -1 to 1 along every axis, at an end of it where they are beyond. */
  readonly at: readonly number[];
  /** How much of what was solved counts: 1 within the ranges, 0 far from them. */
  readonly weight: number;
  /** What is not as it was solved, in words. */
  readonly reasons: readonly string[];
}

/**
 * Whether some pieces are those that were solved, but for their sizes; in words why not.
 * @param all pieces of the design
 */
function unlike(
  over: SolvedOver,
  pieces: readonly ResolvedPiece[],
  all: readonly ResolvedPiece[],
): string | undefined {
  if (pieces.length !== over.pieces.length) return 'they are not as many pieces as were solved';
  const names = new Map<string, string>();
  for (const [i, piece] of pieces.entries()) {
    const solved = over.pieces[i];
    if (piece.kind !== solved.kind)
      return `${piece.name} is no ${parts.get(solved.kind)?.name ?? solved.kind}`;
    for (const name of new Set([...Object.keys(piece.settings), ...Object.keys(solved.settings)]))
      // Alone, a piece and its mirror image are one.
      if (piece.settings[name] !== solved.settings[name] && !(name === 'side' && pieces.length === 1))
        return `${name} of ${piece.name} is ${piece.settings[name] ?? 'open'} and was ${solved.settings[name] ?? 'open'}`;
    for (const [name, fact] of Object.entries({ ...solved.facts, ...piece.facts }))
      if (typeof fact === 'boolean' && (piece.facts[name] ?? false) !== (solved.facts[name] ?? false))
        return `${piece.name} meets something else`;
    for (const [pin, node] of solved.nodes.entries()) {
      const own = piece.nodes[pin];
      if (own === undefined || (names.get(node) ?? own) !== own) return `${piece.name} is joined elsewhere`;
      names.set(node, own);
    }
  }
  if (new Set(names.values()).size < names.size || [...names.values()].includes(GROUND))
    return 'they are joined otherwise than they were solved';
  // What is no port of the data is known to nobody outside.
  const ports = new Set(over.pins.map(([piece, pin]) => over.pieces[piece].nodes[pin]));
  const inside = new Set([...names].flatMap(([node, own]) => (ports.has(node) ? [] : [own])));
  if (inside.size === 0) return undefined;
  const ids = new Set(pieces.map((p) => p.id));
  const guest = all.find((p) => !ids.has(p.id) && p.nodes.some((node) => inside.has(node)));
  return guest && `${guest.name} is joined within what was solved`;
}

/** What of solved pieces was not varied. */
interface Rest {
  readonly piece: number;
  readonly face: string;
  readonly label: string;
  readonly kind: 'length' | 'angle';
  /** Axis of the face that it is in proportion to. */
  readonly along?: number;
}

const rests = new WeakMap<SolvedOver, readonly Rest[]>();

function restOf(over: SolvedOver): readonly Rest[] {
  let found = rests.get(over);
  if (!found) {
    const varied = new Set(over.axes.flatMap((a) => (a.sizes ?? []).map(([p, f]) => `${p} ${f}`)));
    found = over.pieces.flatMap((solved, piece) =>
      copperFaces(solved.kind, solved.settings).flatMap(({ name: face, label, kind }): Rest[] => {
        if (varied.has(`${piece} ${face}`)) return [];
        const along = over.axes.findIndex((a) =>
          a.sizes?.some(([p, f]) => p === piece && leaderOf(solved, face) === f),
        );
        return [{ piece, face, label: label.toLowerCase(), kind, ...(along >= 0 && { along }) }];
      }),
    );
    rests.set(over, found);
  }
  return found;
}

/** 1 where something is as it was solved, less the further it is away. */
const shareOf = (away: number, same: number, apart: number): number =>
  Math.max(0, 1 - Math.max(0, away - same) / apart);

/** What of a board data can be solved over, in words. */
export const solvedFaceNames: Readonly<Record<(typeof SOLVED_FACES)[number], string>> = {
  er: 'permittivity',
  height: 'height of the board',
  thickness: 'thickness of the copper',
};

const told = (x: number, kind: 'length' | 'angle' | 'number'): string =>
  kind === 'number' ? formatNumber(x, 4) : formatQuantity(x, kind, { digits: 4 });

/**
 * Where some pieces of a design stand in what was solved over their sizes; with weight 0 where they are other pieces. What was
 * solved says by how much the models of parts are off; beyond its ranges that is taken less and less.
 */
export function placeIn(
  over: SolvedOver,
  pieces: readonly ResolvedPiece[],
  { medium, stack, pieces: all }: Pick<ResolvedDesign, 'medium' | 'stack' | 'pieces'>,
): SizedPlace {
  const nowhere = (reason: string): SizedPlace => ({
    at: over.axes.map(() => 0),
    weight: 0,
    reasons: [reason],
  });
  if (!stack || pieces.some((p) => !p.values)) return nowhere('it has errors');
  if (medium !== over.medium) return nowhere(`it is ${medium}, and ${over.medium} was solved`);
  const other = unlike(over, pieces, all);
  if (other !== undefined) return nowhere(other);
  const { substrate } = stack;
  if (substrate.offCentre || (substrate.stretch ?? 1) !== 1)
    return nowhere('its board is bent, or its copper out of the middle');
  let weight = 1;
  const reasons: string[] = [];
  const say = (share: number, reason: () => string) => {
    if (share === 1) return;
    weight *= share;
    reasons.push(reason());
  };
  const away = (now: number, solved: number) =>
    Math.abs(now - solved) / Math.max(Math.abs(solved), SMALL * over.board.height);
  const size = (piece: number, face: string): number => pieces[piece].values![face]?.re ?? 0;

  const at = over.axes.map((axis) => {
    const { middle, half } = spanOf(axis);
    const [first, ...others] = axis.sizes ?? [];
    const x = axis.board ? substrate[axis.board] : size(...first);
    const kind = axis.board === 'er' ? 'number' : 'length';
    const u = (x - middle) / half;
    say(
      shareOf(Math.abs(u) - 1, SAME, BEYOND),
      () =>
        `${axis.label} is ${told(x, kind)}, solved from ${told(axis.from, kind)} to ${told(axis.to, kind)}`,
    );
    for (const [piece, face] of others)
      say(
        shareOf(away(size(piece, face), x), SAME, APART),
        () =>
          `${axis.label} is ${told(x, kind)}, but ${told(size(piece, face), kind)} at ${pieces[piece].name}`,
      );
    return Math.min(1, Math.max(-1, u));
  });
  // What was not varied is as it was, or in proportion to what was.
  for (const face of SOLVED_FACES) {
    if (over.axes.some((a) => a.board === face)) continue;
    const [now, was] = [substrate[face], over.board[face]];
    const kind = face === 'er' ? 'number' : 'length';
    say(
      shareOf(face === 'er' ? Math.abs(now / was - 1) : away(now, was), SAME, APART),
      () => `${solvedFaceNames[face]} is ${told(now, kind)}, solved at ${told(was, kind)}`,
    );
  }
  const [lid, lidThen] = [substrate.cover, over.board.cover ?? Infinity];
  if (lid !== lidThen)
    say(
      Number.isFinite(lid) && Number.isFinite(lidThen)
        ? shareOf(Math.abs(lid / lidThen - 1), SAME, APART)
        : 0,
      () => 'the lid stands elsewhere',
    );
  for (const { piece, face, label, kind, along } of restOf(over)) {
    const now = size(piece, face);
    const was = over.pieces[piece].values[face] ?? 0;
    const reason = () =>
      `${label} of ${pieces[piece].name} is ${told(now, kind)}, solved at ${told(was, kind)}`;
    if (kind === 'angle') say(shareOf(Math.abs(now - was), TURNED.same, TURNED.apart), reason);
    else {
      const { middle, half } = along === undefined ? { middle: 1, half: 0 } : spanOf(over.axes[along]);
      const then = along === undefined ? was : was * (1 + (at[along] * half) / middle);
      say(shareOf(Math.min(away(now, was), away(now, then)), SAME, APART), reason);
    }
  }
  over.pieces.forEach(({ facts }, i) => {
    for (const [name, fact] of Object.entries(facts)) {
      if (typeof fact === 'boolean') continue;
      const now = pieces[i].facts[name];
      const off = Array.isArray(now)
        ? Math.max(...fact.map((x, k) => away((now as number[])[k] ?? 0, x)))
        : Infinity;
      say(shareOf(off, SAME, APART), () => `${pieces[i].name} has another shape`);
    }
  });
  return { at, weight, reasons };
}

/** Everything of a design that stands on solved data, and where in it. */
export function standings(resolved: ResolvedDesign): {
  readonly backed: ResolvedDesign['backed'][number];
  /** In the order, and the way round, of the data. */
  readonly pieces: readonly ResolvedPiece[];
  readonly place: SizedPlace;
}[] {
  if (resolved.backed.length === 0) return [];
  const all = new Map(resolved.pieces.map((p) => [p.id, p]));
  return resolved.backed.map((backed) => {
    const pieces = inOrder(backed, all);
    return { backed, pieces, place: placeIn(backed.block.over!, pieces, resolved) };
  });
}

/** A size of some pieces, or a value of the board, that data may be solved over. */
export interface SolvableSize extends Omit<SolvedAxis, 'from' | 'to'> {
  /** `PIECE.FACE` of the first place that is this size, or the board's face. */
  readonly key: string;
  /** What it is now, SI units. */
  readonly value: number;
}

/** Ends of a size, SI units. */
export interface SizeRange {
  readonly key: string;
  readonly from: number;
  readonly to: number;
}

/** Sizes closer to one another than this share are one. */
const ALIKE = 1e-9;

/** What some pieces could be solved over: their lengths, those that are equal taken together, and the board. */
export function solvableSizes(resolved: ResolvedDesign, ids: readonly string[]): SolvableSize[] {
  const pieces = ids.flatMap((id) => resolved.pieces.find((p) => p.id === id && p.values) ?? []);
  const found: { key: string; label: string; value: number; sizes: [number, string][] }[] = [];
  pieces.forEach((piece, i) => {
    const own = { kind: piece.kind, held: piece.held };
    for (const { name, label, kind } of copperFaces(piece.kind, piece.settings)) {
      const value = piece.values![name]?.re;
      if (kind !== 'length' || value === undefined || !(value > 0) || leaderOf(own, name) !== undefined)
        continue;
      const same = found.find((s) => Math.abs(s.value - value) <= ALIKE * value);
      if (same) same.sizes.push([i, name]);
      else
        found.push({
          key: `${piece.id}.${name}`,
          label: pieces.length > 1 ? `${label.toLowerCase()} of ${piece.name}` : label.toLowerCase(),
          value,
          sizes: [[i, name]],
        });
    }
  });
  const { stack } = resolved;
  return [
    ...found.map(({ label, sizes, ...rest }) => ({
      ...rest,
      label: sizes.length > 1 ? `${label} and ${sizes.length - 1} more` : label,
      sizes,
    })),
    ...(stack
      ? SOLVED_FACES.flatMap((face) =>
          stack.substrate[face] > 0
            ? [{ key: face, label: solvedFaceNames[face], value: stack.substrate[face], board: face }]
            : [],
        )
      : []),
  ];
}

/** Every state of data that was solved over sizes: its sizes in the order of the axes, SI, and its S-parameters. */
export function solvedStates(
  block: DataBlock,
): { readonly values: readonly number[]; readonly data: SData }[] {
  const { axes, places, states } = block.over!;
  const own = dataOf(block);
  const size = own.re.length;
  const part = (from: readonly number[], i: number) =>
    Float64Array.from(from.slice(i * size, (i + 1) * size));
  return states.map((index, i) => ({
    values: axes.map((axis, j) => {
      const { middle, half } = spanOf(axis);
      return middle + places[index[j]] * half;
    }),
    data: { ...own, re: part(block.re, i), im: part(block.im, i) },
  }));
}

/**
 * Pieces of a design that could stand on data that was solved over sizes and do not yet: those given, in the data's order, and where
 * the data is of one piece every other one like it, from either end.
 */
export function standingOn(
  block: DataBlock,
  resolved: ResolvedDesign,
  ids: readonly string[] = [],
): Backed[] {
  const over = block.over!;
  const pieces = new Map(resolved.pieces.map((p) => [p.id, p]));
  const found: Backed[] = [];
  const fits = (backed: Backed): boolean =>
    backed.pieces.every((id) => pieces.get(id)?.values) &&
    placeIn(over, inOrder(backed, pieces), resolved).weight === 1;
  const own: Backed = { data: block.id, pieces: ids };
  if (ids.length > 0 && fits(own)) found.push(own);
  if (over.pieces.length > 1) return found;
  // Those that stand where the given one stood go with it; others stay on what they stand on.
  const before = resolved.backed.find((b) => b.pieces.join() === ids.join())?.data;
  const taken = new Set(
    [...found, ...resolved.backed.filter((b) => b.data !== before)].flatMap((b) => b.pieces),
  );
  for (const { id, kind } of resolved.pieces) {
    if (taken.has(id)) continue;
    const plain: Backed = { data: block.id, pieces: [id] };
    if (fits(plain)) found.push(plain);
    else if (parts.get(kind)?.swaps && fits({ ...plain, reversed: true }))
      found.push({ ...plain, reversed: true });
  }
  return found;
}
