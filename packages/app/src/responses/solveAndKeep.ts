import {
  FIRST_CURVE,
  SOLVER,
  type Accuracy,
  type Band,
  type Copper,
  type KeptSolution,
} from '@ditch/core/planar';
import { WorkerLost } from '../bridge/bridge';
import { isOnFarm } from '../bridge/where';
import { solveApart } from '../bridge/solving';
import { findSolution, keepSolution, storeSolution } from './solutions';

/** Milliseconds between two times that what stands of a solution is stored. */
const STORE = 3000;

/**
 * Solves copper over a band in workers of its own, or on the server's where this browser is set so, on from what was solved of it before, and keeps what comes of it: in the page, in
 * the database from time to time, and where it is given up as well.
 * @param bytes of memory that it takes, 0 where that is not known
 * @param onState told the share done, and what stands by now where that is more than before
 * @throws Error in words; an AbortError where `signal` aborts
 */
export async function solveAndKeep(
  { copper, band, accuracy }: { readonly copper: Copper; readonly band: Band; readonly accuracy: Accuracy },
  bytes: number,
  onState: (progress: number, latest: KeptSolution | undefined, isNew: boolean) => void,
  signal: AbortSignal,
): Promise<KeptSolution> {
  const from = performance.now();
  const before = await findSolution(copper, band, accuracy);
  if (before?.complete) return before;
  // Samples on another grid are of no use for going on.
  const known = before && before.start === band.start && before.stop === band.stop ? before : undefined;
  let latest: KeptSolution | undefined = known;
  const record = (
    state: Pick<KeptSolution, 'samples' | 'error' | 'unknowns' | 'ports' | 'resonances' | 'warnings'>,
    complete: boolean,
  ) => {
    latest = {
      ...state,
      ...band,
      copper,
      accuracy,
      complete,
      solver: SOLVER,
      seconds: (known?.seconds ?? 0) + (performance.now() - from) / 1000,
    };
    return latest;
  };
  let stored = from;
  const onTold = (progress: number, state: Parameters<typeof record>[0] | undefined) => {
    if (signal.aborted) return;
    if (!state || state.samples.length < FIRST_CURVE) return onState(progress, latest, false);
    const partial = record(state, false);
    if (performance.now() - stored < STORE) keepSolution(partial);
    else {
      // A page that is left in the middle finds what was solved by then.
      stored = performance.now();
      void storeSolution(partial);
    }
    onState(progress, partial, true);
  };
  const request = { copper, band, accuracy };
  const attempt = () =>
    isOnFarm()
      ? import('../bridge/farm').then((m) => m.solveOnFarm(request, onTold, signal))
      : solveApart(request, latest, bytes, onTold, signal);
  try {
    const state = await attempt().catch((error: unknown) => {
      // What was solved by then is not solved again.
      if (error instanceof WorkerLost && !signal.aborted) return attempt();
      throw error;
    });
    const whole = record(state, true);
    await storeSolution(whole);
    return whole;
  } catch (error) {
    if (latest && latest !== known) await storeSolution(latest);
    throw error;
  }
}
