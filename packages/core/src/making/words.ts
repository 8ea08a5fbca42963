import { boxOf, nearestBetween, sidesOf, within, type Point, type Ring, type Sides } from '../polygons';
import type { BoardPort, Word } from './board';
import { wordWidth } from './letters';

/** Copper that words keep away from, and the room that they have. */
export interface Around {
  readonly outlines: readonly Ring[];
  readonly sides: Sides;
  readonly room: Ring;
}

/** Clear board around a word, in heights of its letters. */
const CLEAR = 0.3;
/** Distance of lines of words, in heights of letters. */
const LEADING = 1.5;

/** @param height of the letters, m: copper farther from the room than they keep clear is none of theirs */
export function around(outlines: readonly Ring[], room: Ring, height: number): Around {
  const own = boxOf(room);
  const clear = CLEAR * height;
  const near = outlines.filter((ring) => {
    const box = boxOf(ring);
    return (
      box.x1 >= own.x0 - clear &&
      box.x0 <= own.x1 + clear &&
      box.y1 >= own.y0 - clear &&
      box.y0 <= own.y1 + clear
    );
  });
  return { outlines: near, sides: sidesOf(near, 1e-3), room };
}

/** The room that a word takes, turning left. */
export function wordBox({ x, y, height, text }: Word): Ring {
  const [u, v] = [x + wordWidth(text, height), y + height];
  return [
    [x, y],
    [u, y],
    [u, v],
    [x, v],
  ];
}

type Box = ReturnType<typeof boxOf>;

/** Whether no copper reaches into a box that lies in the room. */
function isFree({ outlines, sides, room }: Around, box: Box, clear: number): boolean {
  const { x0, x1, y0, y1 } = boxOf(room);
  if (box.x0 < x0 || box.x1 > x1 || box.y0 < y0 || box.y1 > y1) return false;
  const wide = { x0: box.x0 - clear, x1: box.x1 + clear, y0: box.y0 - clear, y1: box.y1 + clear };
  const corners: Ring = [
    [wide.x0, wide.y0],
    [wide.x1, wide.y0],
    [wide.x1, wide.y1],
    [wide.x0, wide.y1],
  ];
  if (within(outlines, wide.x0, wide.y0)) return false;
  return !sides
    .near(wide)
    .some(
      ({ a, b }) =>
        (a[0] > wide.x0 && a[0] < wide.x1 && a[1] > wide.y0 && a[1] < wide.y1) ||
        corners.some((c, i) => nearestBetween(a, b, c, corners[(i + 1) % 4]).distance === 0),
    );
}

/** The number of a port beside its line: where no copper is, as near to the port as that allows; or else beside it all the same. */
export function portWord(port: BoardPort, height: number, about: Around): Word {
  const wide = wordWidth(port.number, height);
  const inwards: Point = [-Math.cos(port.angle), -Math.sin(port.angle)];
  const reach = ([u, v]: Point) => (Math.abs(u) * wide + Math.abs(v) * height) / 2;
  const places = [0.5, 1.5, 2.5, 4, 6].flatMap((deep) =>
    [0, 1, 2].flatMap((away) =>
      [1, -1].map((side): Point => {
        const aside: Point = [-side * inwards[1], side * inwards[0]];
        const along = reach(inwards) + deep * height;
        const off = port.width / 2 + reach(aside) + (0.5 + away) * height;
        return [
          port.x + along * inwards[0] + off * aside[0] - wide / 2,
          port.y + along * inwards[1] + off * aside[1] - height / 2,
        ];
      }),
    ),
  );
  const free = places.find(([u, v]) =>
    isFree(about, { x0: u, x1: u + wide, y0: v, y1: v + height }, CLEAR * height),
  );
  const [x, y] = free ?? places[0];
  return { x, y, height, text: port.number, ...(!free && { crowded: true }) };
}

/** Words in so many lines, as even as they go. */
function inLines(text: string, count: number): readonly string[] | undefined {
  const words = text.split(/\s+/).filter((w) => w !== '');
  if (words.length < count) return undefined;
  const most = text.length / count;
  const lines: string[] = [];
  for (const word of words) {
    const last = lines.at(-1);
    if (last === undefined || (last.length + word.length / 2 > most && lines.length < count))
      lines.push(word);
    else lines[lines.length - 1] = `${last} ${word}`;
  }
  return lines;
}

/** Letters of a name become smaller by these where there is no room otherwise. */
const SMALLER = [1, 0.8, 0.64];

/** A name where its room has none of the copper, in one line or in up to three, its letters a little smaller where they must be. */
export function nameWords(text: string, letter: number, about: Around): readonly Word[] {
  const { x0, x1, y0, y1 } = boxOf(about.room);
  for (const share of SMALLER) {
    const height = share * letter;
    const edge = height / 2;
    for (const count of [1, 2, 3]) {
      const lines = inLines(text, count);
      if (!lines) continue;
      const wide = Math.max(...lines.map((line) => wordWidth(line, height)));
      const high = (1 + (lines.length - 1) * LEADING) * height;
      const steps = (from: number, to: number) =>
        Array.from({ length: 9 }, (_, i) => from + ((to - from) * i) / 8);
      for (const y of steps(y1 - edge - high, y0 + edge))
        for (const x of steps(x0 + edge, x1 - edge - wide))
          if (isFree(about, { x0: x, x1: x + wide, y0: y, y1: y + high }, CLEAR * height))
            return lines.map((line, i) => ({
              x,
              y: y + (lines.length - 1 - i) * LEADING * height,
              height,
              text: line,
            }));
    }
  }
  return [{ x: x0 + letter / 2, y: y1 - 1.5 * letter, height: letter, text, crowded: true }];
}
