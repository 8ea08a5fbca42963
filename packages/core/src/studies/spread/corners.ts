import { dataFinder, resolveDesign, solverAt, type Design, type Project } from '../../network';
import type { Steps } from '../../numeric';
import type { Model } from '../../parts';
import { limitsIn } from './run';
import { statesOf } from './states';
import { tolerancesOf, variedOf, type Varied, type Wanted } from './varied';

/** The worst of the corners: everything at an end of its tolerance. */
export interface Corner {
  readonly varied: readonly Varied[];
  /** At which end each is, -1 or 1. */
  readonly ends: readonly number[];
  /** The worst miss there and as it is meant, in dB, degrees or hundredths of a level. */
  readonly miss: number;
  readonly meant: number;
  /** Corners that were looked at; of more than these the steepest way was taken. */
  readonly looked: number;
}

/** Corners that are all looked at. */
const MOST = 256;

/**
 * The worst case at the corners of all tolerances; of many values the corner to which each by itself leads down. Undefined
 * where there are no limits or nothing spreads.
 * @throws RetuneError, ToleranceError in words
 */
export function* cornerSteps(
  project: Project,
  design: Design,
  wanted: readonly Wanted[] = tolerancesOf(project, design),
  model: Model = 'modelled',
): Steps<Corner | undefined> {
  const resolved = resolveDesign(project, design);
  const varied = variedOf(design, resolved, wanted);
  const goals = limitsIn(project, design, resolved);
  if (!goals || varied.length === 0) return undefined;
  const state = statesOf(project, design, resolved, varied, model);
  const solver = solverAt(goals.freq, dataFinder(project.data));
  const missOf = (ends: readonly number[]): number => {
    const circuit = state(ends.map((e, i) => e * varied[i].half));
    return circuit ? goals.look([solver(circuit)(goals.freq)]).miss : Infinity;
  };
  const meant = missOf(varied.map(() => 0));
  const m = varied.length;
  let looked = 0;
  if (2 ** m <= MOST) {
    let worst: { ends: number[]; miss: number } = { ends: varied.map(() => 1), miss: -Infinity };
    for (let k = 0; k < 2 ** m; k++) {
      const ends = varied.map((_v, i) => ((k >> i) & 1 ? 1 : -1));
      const miss = missOf(ends);
      if (miss > worst.miss) worst = { ends, miss };
      yield ++looked / 2 ** m;
    }
    return { varied, ...worst, meant, looked };
  }
  const ends: number[] = [];
  for (let i = 0; i < m; i++) {
    const [low, high] = [-1, 1].map((e) => missOf(varied.map((_v, j) => (i === j ? e : 0))));
    ends.push(high >= low ? 1 : -1);
    looked += 2;
    yield (i + 1) / m;
  }
  return { varied, ends, miss: missOf(ends), meant, looked: looked + 1 };
}
