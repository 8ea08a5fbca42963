import type { Layout } from '../artwork';
import type { Circuit, ResolvedDesign } from '../network';
import type { Steps } from '../numeric';
import type { SData } from '../results';

/** The levels there are. What is given for each of them stands in a record by this, so that a further one is missed by none. */
export type LevelId = 'ideal' | 'modelled';

/** What a level is asked about: plain data, only what it depends on, and so the key of its results. */
export type Subject = Circuit;

/** What an answer takes. */
export interface Cost {
  readonly seconds: number;
  /** Memory at the most, bytes. */
  readonly bytes: number;
}

/** A subject ready to be asked; the work that no frequency needs again is done. */
export interface Answering {
  /** S-parameters at all of `freq` (Hz). */
  sample(freq: Float64Array): Steps<SData>;
  /** Writes the S-matrix at `f` (Hz) row by row; for readings between the samples. Absent where one frequency takes long. */
  readonly at?: (f: number, re: Float64Array, im: Float64Array) => void;
}

/** A way to tell the response of a design: a file of its own behind this contract. */
export interface Level {
  readonly id: LevelId;
  /** As it stands beside a number. */
  readonly name: string;
  readonly about: string;
  /** Levels are drawn, read out and judged by this order, never by name; the highest counts. */
  readonly fidelity: number;
  /** Undefined while the design has errors. */
  subject(resolved: ResolvedDesign, layout: () => Layout): Subject | undefined;
  /** Below a second it follows by itself; above it is asked for. */
  cost(subject: Subject, points: number): Cost;
}

/** How a level answers; apart from what it is, because a page that asks needs no solver. */
export type Answer = (subject: Subject, data: (id: string) => SData | undefined) => Answering;
