import { frequencies } from '../network';
import type { Sample } from '../numeric';
import { sweepPlan, toleranceOf, type Accuracy, type Band } from '../planar';

/** Samples of copper that is kept lie on this many places of its band: any other frequencies are read off between them. */
const PLACES = 401;

/** The sweep of copper over a band, on from what is known of it, wherever it is solved. @param atOnce frequencies solved beside one another */
export const sweepOf = (band: Band, accuracy: Accuracy, known: readonly Sample[], atOnce: number) =>
  sweepPlan(
    frequencies(band.start, band.stop, band.start === band.stop ? 1 : PLACES),
    toleranceOf(accuracy),
    known,
    atOnce,
  );
