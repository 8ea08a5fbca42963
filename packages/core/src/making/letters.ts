import vectorChar from '@jscad/modeling/src/text/vectorChar.js';
import { changed, outlinesIn, swept, type Area, type Point, type Ring } from '../polygons';

/** Units of the letters' drawings that a capital is high. */
const CAPITAL = 21;
/** Height of a capital over the width of its strokes. */
const STROKES = 8;
/** Letters are outlined once at this height, m, and scaled from there. */
const NOMINAL = 1e-3;
/** How far straight sides are off the ends of strokes at that height, m; the later ones where sides fall onto one another. */
const CHORDS = [5e-6, 7e-6, 3.5e-6];
/** Strokes are widened to so many parts of the height, so that few shapes serve all. */
const PARTS = 50;

const drawn = (letter: string) => vectorChar({ height: 14 }, letter);

/** Width of a word of letters so high, m. */
export const wordWidth = (text: string, height: number): number =>
  [...text].reduce((sum, letter) => sum + drawn(letter).width, 0) * (height / CAPITAL);

const shapes = new Map<string, readonly Ring[]>();

/** Outlines of a letter of nominal height whose lower left corner is the origin. @param parts width of its strokes */
function shapeOf(letter: string, parts: number): readonly Ring[] {
  const key = `${letter} ${parts}`;
  const known = shapes.get(key);
  if (known) return known;
  const scale = NOMINAL / CAPITAL;
  for (const chord of CHORDS)
    try {
      let area: Area = [];
      for (const way of drawn(letter).segments)
        way.slice(1).forEach((p, i) => {
          const [a, b] = [way[i], p].map(([x, y]): Point => [x * scale, y * scale]);
          area = changed(area, [swept(a, b, ((parts / PARTS) * NOMINAL) / 2, chord)]);
        });
      const outlines = outlinesIn(area);
      shapes.set(key, outlines);
      return outlines;
    } catch (error) {
      // Sides that all but fall onto one another are more than the union can tell apart: others are tried.
      if (chord === CHORDS.at(-1)) throw error;
    }
  return [];
}

/**
 * A word as copper, its capitals so high, its lower left corner at the origin: strokes of the Hershey letters (A. V. Hershey 1967).
 * @param least narrowest stroke, m
 */
export function etchedWord(text: string, height: number, least: number): Ring[] {
  const parts = Math.ceil(PARTS * Math.max(1 / STROKES, least / height) - 1e-9);
  const scale = height / NOMINAL;
  let x = 0;
  return [...text].flatMap((letter) => {
    const own = shapeOf(letter, parts).map((ring) => ring.map(([u, v]): Point => [u * scale + x, v * scale]));
    x += drawn(letter).width * (height / CAPITAL);
    return own;
  });
}
