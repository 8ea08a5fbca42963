import type { SolvedSubject } from '../../levels';
import { frequencies } from '../../network';
import type { Sample, Steps } from '../../numeric';
import { solveSteps, type Accuracy } from '../../planar';

/** Points at which a solution is read off. */
const POINTS = 201;

/** Samples of copper that was solved over a band. */
export interface SolvedSamples {
  readonly samples: readonly Sample[];
}

/** How copper is solved between two frequencies, Hz. */
export type CopperSolver = (
  subject: Pick<SolvedSubject, 'copper'>,
  band: { readonly start: number; readonly stop: number },
) => Steps<SolvedSamples>;

/** Has copper solved here and now. */
export const solvingHere = (accuracy: Accuracy = 'normal'): CopperSolver =>
  function* ({ copper }, { start, stop }) {
    let samples: readonly Sample[] = [];
    yield* solveSteps(copper, frequencies(start, stop, POINTS), {
      accuracy,
      meshError: false,
      watch: (_data, swept) => (samples = swept.samples),
    });
    return { samples };
  };
