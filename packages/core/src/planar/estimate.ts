import type { Steps } from '../numeric';
import { accuracies, CopperError, type Accuracy, type Band, type Copper } from './contract';
import { denseOf } from './dense';
import { extended } from './extend';
import { meshOf } from './solve';

/** What solving copper takes. */
export interface Estimate {
  readonly unknowns: number;
  /** Memory of one worker, bytes. */
  readonly bytes: number;
  /** On this machine, with one worker. */
  readonly seconds: number;
}

/** What each accuracy takes; a sentence where it cannot be solved so. */
export type Estimates = Readonly<Record<Accuracy, Estimate | string>>;

/** Order of the matrix that tells how fast a machine is. */
const TRIAL = 256;
/** Seconds of the trial where these were measured: per port, per pair of unknowns, and per pair and per triple at each frequency. */
const MEASURED = { trial: 0.0095, port: 0.12, pair: 1.6e-6, fill: 5.2e-7, triple: 4.6e-10 } as const;
/** Frequencies that a sweep takes, as a rule. */
const SAMPLES = 13;

/** A fixed calculation whose time tells how fast a machine is. */
export function trial(): void {
  const matrix = denseOf(TRIAL, true);
  for (let i = 0; i < TRIAL * TRIAL; i++) {
    matrix.re[i] = Math.sin(i);
    matrix.im![i] = i % (TRIAL + 1) === 0 ? TRIAL : Math.cos(3 * i);
  }
  matrix.factorise();
}

/**
 * What the solution of copper would take at each accuracy, from its meshes.
 * @param seconds that {@link trial} takes on this machine
 */
export function* estimateSteps(copper: Copper, { stop }: Band, seconds: number): Steps<Estimates> {
  const slowness = seconds / MEASURED.trial;
  const out = {} as Record<Accuracy, Estimate | string>;
  for (const [i, accuracy] of accuracies.entries()) {
    try {
      const n = meshOf(extended(copper), stop, accuracy).bases.length;
      const each = MEASURED.fill * n ** 2 + MEASURED.triple * n ** 3;
      out[accuracy] = {
        unknowns: n,
        bytes: 34 * n ** 2,
        seconds: slowness * (MEASURED.port + MEASURED.pair * n ** 2 + SAMPLES * each),
      };
    } catch (error) {
      if (!(error instanceof CopperError)) throw error;
      out[accuracy] = error.message;
    }
    yield (i + 1) / accuracies.length;
  }
  return out;
}
