import type { Design, Piece } from '../network';
import { parts, ringsOf, sidesOf } from '../parts';
import { freshNode } from './document';
import { GrowError } from './grow';

/** A corner of a typed outline as it stands in the text. */
export interface Corner {
  readonly x: string;
  readonly y: string;
}

/** Where a text stands apart at commas that no bracket holds. */
function apart(text: string): string[] {
  const out = [''];
  let depth = 0;
  for (const c of text) {
    if (c === '(') depth++;
    if (c === ')') depth--;
    if (c === ',' && depth === 0) out.push('');
    else out[out.length - 1] += c;
  }
  return out.map((part) => part.trim());
}

/** Corners of outlines, a line each, an empty line between two outlines. @throws GrowError naming the line */
export function readOutline(text: string): Corner[][] {
  const rings: Corner[][] = [[]];
  text.split('\n').forEach((line, i) => {
    if (line.trim() === '') {
      if (rings[rings.length - 1].length > 0) rings.push([]);
      return;
    }
    const found = apart(line);
    if (found.length !== 2 || found.includes(''))
      throw new GrowError(`line ${i + 1}: a corner is written as x, y`);
    rings[rings.length - 1].push({ x: found[0], y: found[1] });
  });
  const kept = rings.filter((r) => r.length > 0);
  kept.forEach((ring, i) => {
    if (ring.length < 3)
      throw new GrowError(
        `${kept.length > 1 ? `outline ${i + 1}` : 'the outline'} has ${ring.length} corners; it needs three at least`,
      );
  });
  if (kept.length === 0) throw new GrowError('it has no corners; write one as x, y in each line');
  return kept;
}

/** Corners of a piece's outlines as they stand in it. */
export function cornersOf({ held, settings }: Piece): Corner[][] {
  let k = 0;
  return ringsOf(settings ?? {}).map((count) =>
    Array.from({ length: count }, () => ({
      x: held[`x${++k}`] ?? '0 mm',
      y: held[`y${k}`] ?? '0 mm',
    })),
  );
}

/** Numbers of the sides at which a piece of free copper has its pins. */
export const pinSides = ({ settings }: Piece): number[] => sidesOf(settings ?? {});

/** Sides as they are typed. @throws GrowError naming what is none */
export function readSides(text: string): number[] {
  const words = text.split(/[\s,]+/).filter((word) => word !== '');
  const wrong = words.find((word) => !/^\d+$/.test(word));
  if (wrong !== undefined) throw new GrowError(`"${wrong}" is no side; they are numbers, such as 4, 2`);
  return words.map(Number);
}

/** Outlines as text, as {@link readOutline} reads it. */
export const textOfOutline = (rings: readonly (readonly Corner[])[]): string =>
  rings.map((ring) => ring.map(({ x, y }) => `${x}, ${y}`).join('\n')).join('\n\n');

/** Numbers of a drawing are written this closely, mm. */
const WRITTEN = 5;
/** A side is the end of a line where those beside it go back from it, at right angles but for this, and are this long in it. */
const END = { askew: 0.2, long: 0.5 };
/** So many ends are taken for pins at most. */
const PINS = 8;

/**
 * Outlines in numbers (m) as text with its lower left at the origin, and the sides where lines seem to end at its rim, which
 * pins are proposed for.
 */
export function outlineFrom(outlines: readonly (readonly (readonly [number, number])[])[]): {
  readonly text: string;
  readonly sides: number[];
} {
  const all = outlines.flat();
  const [xs, ys] = [all.map(([x]) => x), all.map(([, y]) => y)];
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const [y0, y1] = [Math.min(...ys), Math.max(...ys)];
  const within = 1e-3 * Math.max(x1 - x0, y1 - y0);
  const typed = (x: number) => `${Number((x * 1e3).toFixed(WRITTEN))} mm`;
  const text = textOfOutline(
    outlines.map((ring) => ring.map(([x, y]) => ({ x: typed(x - x0), y: typed(y - y0) }))),
  );
  const sides: number[] = [];
  let first = 1;
  for (const ring of outlines) {
    const at = (i: number) => ring[(i + ring.length) % ring.length];
    const way = (i: number) => [at(i + 1)[0] - at(i)[0], at(i + 1)[1] - at(i)[1]] as const;
    for (let i = 0; i < ring.length; i++) {
      const [side, before, after] = [way(i), way(i - 1), way(i + 1)];
      const length = Math.hypot(...side);
      const onRim = [
        [0, x0],
        [0, x1],
        [1, y0],
        [1, y1],
      ].some(([axis, rim]) => [at(i), at(i + 1)].every((p) => Math.abs(p[axis] - rim) < within));
      const upright = [before, after].every(
        (w) =>
          Math.abs(w[0] * side[0] + w[1] * side[1]) < END.askew * length * Math.hypot(...w) &&
          Math.hypot(...w) > END.long * length,
      );
      const back = before[0] * after[0] + before[1] * after[1] < 0;
      if (onRim && upright && back) sides.push(first + i);
    }
    first += ring.length;
  }
  return { text, sides: sides.length > 0 ? sides.slice(0, PINS) : [1] };
}

/** The text of a piece's outline. */
export const outlineText = (piece: Piece): string => textOfOutline(cornersOf(piece));

/** The piece with other corners and pins; `nodes` are those of its pins. */
const outlinedAs = (
  piece: Piece,
  rings: readonly (readonly Corner[])[],
  sides: readonly number[],
  nodes: readonly string[],
): Piece => ({
  ...piece,
  held: Object.fromEntries(
    rings.flat().flatMap(({ x, y }, i) => [
      [`x${i + 1}`, x],
      [`y${i + 1}`, y],
    ]),
  ),
  settings: {
    ...piece.settings,
    rings: rings.map((r) => r.length).join(' '),
    sides: sides.join(' '),
  },
  nodes,
});

const onPiece = (design: Design, id: string, change: (piece: Piece) => Piece): Design => ({
  ...design,
  pieces: design.pieces.map((p) => (p.id === id && parts.get(p.kind)?.outlined ? change(p) : p)),
});

/**
 * The design with another outline of a piece, and with pins at other sides of it: pins keep what they are joined to, in their
 * order, or by their sides where some of them are only left out.
 * @param sides numbers of the sides, in the order of the pins; side k begins at corner k
 * @throws GrowError in words
 */
export function setOutline(design: Design, id: string, text: string, sides: readonly number[]): Design {
  const rings = readOutline(text);
  const count = rings.flat().length;
  if (sides.length === 0) throw new GrowError('it needs a pin at one of its sides at least');
  sides.forEach((side, i) => {
    if (!(side >= 1 && side <= count))
      throw new GrowError(`there is no side ${side}; sides are counted from 1 to ${count}`);
    if (sides.indexOf(side) !== i) throw new GrowError(`side ${side} is named twice`);
  });
  return onPiece(design, id, (piece) => {
    const before = pinSides(piece);
    const fewer = sides.length < before.length && sides.every((side) => before.includes(side));
    const nodes = sides.map((side, i) => piece.nodes[fewer ? before.indexOf(side) : i] ?? freshNode());
    return outlinedAs(piece, rings, sides, nodes);
  });
}

/** Which outline a corner (from 1) belongs to, and where in it. */
function placeIn(
  rings: readonly (readonly Corner[])[],
  corner: number,
): { ring: number; at: number } | undefined {
  let at = corner - 1;
  for (const [ring, corners] of rings.entries()) {
    if (at < corners.length) return { ring, at };
    at -= corners.length;
  }
  return undefined;
}

const PLAIN = /^\s*([+-]?[\d.]+)\s*([a-z]+)\s*$/i;

/** The middle of two coordinates as text: a number where both are numbers of one unit. */
function middleOf(a: string, b: string): string {
  const [p, q] = [PLAIN.exec(a), PLAIN.exec(b)];
  if (p && q && p[2] === q[2]) return `${Number(((Number(p[1]) + Number(q[1])) / 2).toPrecision(9))} ${p[2]}`;
  return a === b ? a : `((${a}) + (${b}))/2`;
}

/** Sets a corner into the middle of a side; a pin of it stays at the first half. */
export const splitSide = (design: Design, id: string, side: number): Design =>
  onPiece(design, id, (piece) => {
    const rings = cornersOf(piece);
    const place = placeIn(rings, side);
    if (!place) return piece;
    const ring = rings[place.ring];
    const [a, b] = [ring[place.at], ring[(place.at + 1) % ring.length]];
    ring.splice(place.at + 1, 0, { x: middleOf(a.x, b.x), y: middleOf(a.y, b.y) });
    const sides = pinSides(piece).map((s) => (s > side ? s + 1 : s));
    return outlinedAs(piece, rings, sides, piece.nodes);
  });

/** Takes a corner away. @throws GrowError where its outline or a pin would be nothing without it */
export const removeCorner = (design: Design, id: string, corner: number): Design =>
  onPiece(design, id, (piece) => {
    const rings = cornersOf(piece);
    const place = placeIn(rings, corner);
    if (!place) return piece;
    const ring = rings[place.ring];
    if (ring.length <= 3) throw new GrowError('an outline keeps three corners at least');
    const first = corner - place.at;
    const before = place.at === 0 ? first + ring.length - 1 : corner - 1;
    // Both sides of it become one, which keeps the number of the one before.
    const sides = pinSides(piece).map((s) => {
      const joined = s === corner ? before : s;
      return joined > corner ? joined - 1 : joined;
    });
    if (new Set(sides).size < sides.length)
      throw new GrowError('both sides of this corner have pins; move one of them first');
    ring.splice(place.at, 1);
    return outlinedAs(piece, rings, sides, piece.nodes);
  });
