import type { Sample } from '../numeric';
import { accuracies, liesOn, sameCopper, type Accuracy, type Band, type Copper } from './contract';
import type { SolvedPort } from './solve';

/** A field solution as it is kept: what it is of, and what came out. Plain data. */
export interface KeptSolution extends Band {
  readonly copper: Copper;
  readonly accuracy: Accuracy;
  /** S-parameters by frequency (Hz, ascending), row by row, in the references of the copper's ports. */
  readonly samples: readonly Sample[];
  /** Estimated error of S, absolute; infinite where nothing tells yet. */
  readonly error: number;
  /** Whether the sweep came to its end. */
  readonly complete: boolean;
  readonly unknowns: number;
  readonly seconds: number;
  readonly ports: readonly SolvedPort[];
  /** Resonances of the box inside the band, Hz. */
  readonly resonances: readonly number[];
  readonly warnings: readonly string[];
  /** The {@link SOLVER} that it was solved by; absent: the first. */
  readonly solver?: number;
}

/**
 * Which solver this is: copper that an earlier one saw otherwise is solved again. The second knows how fast lines of thick metal
 * are; the third lets a line go on behind a port the right way round where its mesh is finer at one edge; the fourth leads lines
 * on to the walls of a box, knows how far those are from what ends inside, and takes nothing for a line of thick metal that lies across
 * one; the fifth leaves in what an end of copper stores where a part is mounted; the sixth lets current go on through the part, and sees
 * planes above thick metal from its face; the seventh lets lines without walls go on so far that nothing radiates where they are left, and
 * sees far along boards at high frequencies.
 */
export const SOLVER = 7;

/** Whether a solution is what this solver would say. */
function isOfToday({ solver = 1, copper: { layers, metal, walls, ports } }: KeptSolution): boolean {
  const isThick = metal.thickness > 0;
  if (solver > SOLVER) return false;
  if (solver < 7 && walls === undefined) return false;
  if (solver < 6 && isThick && layers.above.height < Infinity) return false;
  if (solver < 6 && ports.some((p) => p.ends)) return false;
  if (solver >= 4) return true;
  if (isThick) return false;
  return ports.every(({ edge }) => liesOn(walls, edge, 1e-9));
}

/** Samples below which there is no curve. */
export const FIRST_CURVE = 3;

/** By what solutions are looked for before they are compared. */
export const shapeOf = ({ polygons, ports, layers }: Copper): string =>
  [
    polygons.map((p) => p.length),
    ports.length,
    layers.below.er,
    layers.below.height,
    layers.above.height,
  ].join(' ');

const rank = ({ accuracy, complete }: KeptSolution): number =>
  2 * accuracies.indexOf(accuracy) + (complete ? accuracies.length * 2 : 0);

/** The best of some solutions that is of a copper over a band. @param accuracy of this and no other */
export function solutionFor(
  known: readonly KeptSolution[],
  copper: Copper,
  { start, stop }: Band,
  accuracy?: Accuracy,
): KeptSolution | undefined {
  return known
    .filter(
      (k) =>
        k.start <= start &&
        k.stop >= stop &&
        (accuracy === undefined || k.accuracy === accuracy) &&
        isOfToday(k) &&
        sameCopper(k.copper, copper),
    )
    .sort((a, b) => rank(b) - rank(a))[0];
}
