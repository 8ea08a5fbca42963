import type { Steps } from '../numeric';
import { accuracies, CopperError, widthOf, type Accuracy, type Band, type Copper } from './contract';
import { denseOf } from './dense';
import { extended } from './extend';
import { meshOf } from './solve';
import { symmetryOf } from './symmetry';

/** What solving copper takes. */
export interface Estimate {
  readonly unknowns: number;
  /** Memory of one worker, bytes. */
  readonly bytes: number;
  /** On this machine. */
  readonly seconds: number;
}

/** What accuracies take that were asked about; a sentence where it cannot be solved so. */
export type Estimates = Readonly<Partial<Record<Accuracy, Estimate | string>>>;

/** Order of the matrix that tells how fast a machine is. */
const TRIAL = 256;
/**
 * Seconds where these were measured: of the trial; to begin with; for each width of a line that goes on and of one that ends; for
 * each pair of unknowns; and at each frequency, with what grows as pairs and triples.
 */
const MEASURED = {
  trial: 0.0137,
  begin: 0.15,
  line: 0.2,
  end: 0.6,
  pair: 5e-7,
  each: 0.025,
  fill: 2.4e-7,
  triple: 8e-11,
} as const;
/** What comparing it with a coarser mesh takes beside. */
const COMPARED = 1.25;
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
 * @param workers that share the frequencies
 * @param asked accuracies that it is asked about: a mesh each
 */
export function* estimateSteps(
  copper: Copper,
  { stop }: Band,
  seconds: number,
  workers = 1,
  asked: readonly Accuracy[] = accuracies,
): Steps<Estimates> {
  const slowness = seconds / MEASURED.trial;
  const widths = (ends: boolean) =>
    new Set(copper.ports.filter((p) => Boolean(p.ends) === ends).map((p) => widthOf(p).toFixed(8))).size;
  const lines = MEASURED.begin + MEASURED.line * widths(false) + MEASURED.end * widths(true);
  const out: Partial<Record<Accuracy, Estimate | string>> = {};
  for (const [i, accuracy] of asked.entries()) {
    try {
      const whole = extended(copper);
      const mesh = meshOf(whole, stop, accuracy);
      const n = mesh.bases.length;
      // What is its own image falls apart into matrices for each class of currents.
      const { order } = symmetryOf(mesh, n, () => false, whole.walls);
      const pairs = n ** 2 / order;
      const each = MEASURED.each + MEASURED.fill * pairs + (MEASURED.triple * n ** 3) / order ** 2;
      out[accuracy] = {
        unknowns: n,
        // The parts that no frequency changes, the matrix and its factors, and of several classes what is summed before it comes to them.
        bytes: (order === 1 ? 42 : 58) * pairs,
        seconds: COMPARED * slowness * (lines + MEASURED.pair * pairs + (SAMPLES / workers) * each),
      };
    } catch (error) {
      if (!(error instanceof CopperError) && !(error instanceof RangeError)) throw error;
      out[accuracy] = error.message;
    }
    yield (i + 1) / asked.length;
  }
  return out;
}
