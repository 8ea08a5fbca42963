import {
  circuitOf,
  dataFinder,
  resolveDesign,
  solverAt,
  type Circuit,
  type Design,
  type Project,
} from '../../network';
import { leastSquaresSteps, share, type Steps } from '../../numeric';
import type { Model } from '../../parts';
import { filterValues } from '../filter';
import { putAll, takeOver, type FreeValue, type Moved } from '../free';
import { freeOfStrip } from '../limits';
import { refusals, RetuneError } from '../retune';
import { drawing } from './draw';
import { limitsIn, spreadSteps, yieldOf, type Yield } from './run';
import { statesOf } from './states';
import { tolerancesOf, variedOf, type Wanted } from './varied';

/** A design moved to where more of it keeps its limits. */
export interface Centred {
  readonly design: Design;
  readonly moved: readonly Moved[];
  readonly before: Yield;
  readonly after: Yield;
  /** The worst miss of the design as it is meant, before and after: what it cost. */
  readonly meantBefore: number;
  readonly meantAfter: number;
}

/** Samples that are drawn to be watched, those of them that are watched, and those by which the outcome is judged. */
const DRAWN = 120;
const WATCHED = 32;
const JUDGED = 400;
/** What samples are to have to spare, dB. */
const SPARE = 0.3;
/** Weight of moving at all. */
const REST = 0.02;

/**
 * Moves what is on the tuning strip, or the copper where nothing is, to where the most of a design keeps its limits: the worst
 * of some samples are brought in, all with the same deviations from what is meant. Yields the share done.
 * @throws RetuneError, ToleranceError in words
 */
export function* centreSteps(
  project: Project,
  design: Design,
  {
    wanted = tolerancesOf(project, design),
    model = 'modelled',
    seed = 1,
  }: { readonly wanted?: readonly Wanted[]; readonly model?: Model; readonly seed?: number } = {},
): Steps<Centred> {
  const first = resolveDesign(project, design);
  const goals = limitsIn(project, design, first);
  if (!goals)
    throw new RetuneError('no plot has limits; set some from a plot\u2019s menu, then a yield can be raised');
  const varied = variedOf(design, first, wanted);
  if (varied.length === 0)
    throw new RetuneError('nothing spreads; say plus and minus what something comes out as');
  const strip = freeOfStrip(project, design, first).free;
  const free: readonly FreeValue[] = strip.length > 0 ? strip : filterValues(design, first);
  if (free.length === 0) throw refusals.still();
  const judged = { wanted, model, seed, samples: JUDGED, noCauses: true } as const;
  const was = yield* share(spreadSteps(project, design, judged), 0, 0.15);

  const find = dataFinder(project.data);
  const solver = solverAt(goals.freq, find);
  const missOf = (circuit: Circuit | undefined): number =>
    circuit ? goals.look([solver(circuit)(goals.freq)]).miss : Infinity;
  const next = drawing(varied, seed + 1);
  const drawn = Array.from({ length: DRAWN }, next);
  const here = statesOf(project, design, first, varied, model);
  const ranked = drawn
    .map((off) => ({ off, miss: missOf(here(off)) }))
    .sort((a, b) => b.miss - a.miss)
    .slice(0, WATCHED);
  const lower = free.map((v) => Math.max(v.lower ?? -Infinity, v.value - v.reach));
  const upper = free.map((v) => v.upper ?? v.value + v.reach);
  const start = free.map((v) => v.value);
  const found = yield* share(
    leastSquaresSteps(
      (x, out) => {
        const own = putAll(design, free, x);
        const resolved = resolveDesign(project, own);
        if (!circuitOf(resolved, model)) return false;
        const state = statesOf(project, own, resolved, varied, model);
        ranked.forEach(({ off }, i) => {
          const miss = missOf(state(off));
          // What cannot be made misses by a lot.
          out[i] = Math.max(0, Math.min(miss, 40) + SPARE);
        });
        free.forEach((v, i) => (out[WATCHED + i] = (REST * (x[i] - v.value)) / v.reach));
        return true;
      },
      start,
      WATCHED + free.length,
      { step: free.map((v) => 2e-3 * v.reach), lower, upper, maxIterations: 8, tolerance: 1e-3 },
    ),
    0.15,
    0.85,
  );
  const result = takeOver(design, free, found.x);
  const is = yield* share(spreadSteps(project, result.design, judged), 0.85, 1);
  const [before, after] = [was, is].map((s) => yieldOf(s.miss));
  // What is no better is not taken.
  const better = after.yield > before.yield || (after.yield === before.yield && rms(is.miss) < rms(was.miss));
  return better
    ? { ...result, before, after, meantBefore: was.meant, meantAfter: is.meant }
    : { design, moved: [], before, after: before, meantBefore: was.meant, meantAfter: was.meant };
}

/** How far the samples miss, as one number: ten decibels to spare are as good as any. */
const rms = (miss: Float64Array): number =>
  Math.sqrt(miss.reduce((sum, x) => sum + Math.max(0, Math.min(x, 40) + 10) ** 2, 0));
