import type { Circuit, ResolvedDesign } from '../network';
import type { Sample, Steps } from '../numeric';
import type { SData } from '../results';

/** Levels that follow every edit by themselves: parts joined as models have them. */
export type LiveId = 'ideal' | 'modelled';

/** The levels there are. What is given for each of them stands in a record by this, so that a further one is missed by none. */
export type LevelId = LiveId | 'solved';

/** What the field solution says of copper, joined to what is none. */
export interface SolvedCopper {
  /** What it was solved from, and how far: the key of these samples. */
  readonly key: string;
  /** Node that each of its ports is, in order. */
  readonly nodes: readonly string[];
  /** S-parameters by frequency (Hz) in {@link REFERENCE}. */
  readonly samples: readonly Sample[];
}

/** Reference of the solved copper's own ports, ohm: whatever is joined to them takes it into account. */
export const REFERENCE = 50;

/** What a level is asked about: plain data, only what it depends on, and so the key of its results. */
export interface Subject extends Circuit {
  /** Stands in for the pieces that are copper. */
  readonly solved?: SolvedCopper;
}

/** The key of a subject's results. Samples are known by the key they stand under. */
export function keyOf(level: LevelId, subject: Subject): string {
  const { solved } = subject;
  return JSON.stringify([
    level,
    solved ? { ...subject, solved: { ...solved, samples: undefined } } : subject,
  ]);
}

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
}

/** A level that follows by itself. */
export interface LiveLevel extends Level {
  readonly id: LiveId;
  /** Undefined while the design has errors. */
  subject(resolved: ResolvedDesign): Subject | undefined;
}

/** How a level answers; apart from what it is, because a page that asks needs no solver. */
export type Answer = (subject: Subject, data: (id: string) => SData | undefined) => Answering;
