import type { Sample } from '../numeric';
import { accuracies, sameCopper, type Accuracy, type Band, type Copper } from './contract';
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

/** Which solver this is: copper that an earlier one has solved is solved again, for each saw some of it otherwise. */
export const SOLVER = 7;

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
        k.solver === SOLVER &&
        sameCopper(k.copper, copper),
    )
    .sort((a, b) => rank(b) - rank(a))[0];
}
