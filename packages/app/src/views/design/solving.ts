import { boardDifferences, designDifferences } from '@ditch/core/compare';
import type { SolvedSubject, Subject } from '@ditch/core/levels';
import { alone, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import {
  accuracies,
  FIRST_CURVE,
  type Accuracy,
  type Band,
  type Estimates,
  type KeptSolution,
} from '@ditch/core/planar';
import { run, runApart } from '../../bridge/bridge';
import { Conveyor } from '../../bridge/conveyor';
import type { Reading } from '../../bridge/jobs';
import { WORKERS } from '../../bridge/solving';
import { findSolution, subjectOf } from '../../responses/solutions';
import { solveAndKeep } from '../../responses/solveAndKeep';
import { setPreferences, usePreferences } from '../hooks';

/** A solution that is drawn. */
export interface Shown {
  /** The copper's solution with what is joined to it. */
  readonly subject: Subject;
  readonly solution: KeptSolution;
  /** Whether the copper still is what was solved. */
  readonly fresh: boolean;
  /** What has changed since, in words. */
  readonly changes: readonly string[];
}

/** A solution under way. */
export interface Under {
  readonly accuracy: Accuracy;
  /** Share done. */
  readonly progress: number;
  /** Frequencies solved. */
  readonly samples: number;
  readonly error: number;
}

/** What the page knows of the solved level. */
export interface Solved {
  /** Why this copper cannot be solved. */
  readonly refusal?: string;
  readonly estimates?: Estimates;
  readonly under?: Under;
  /** Why the last one did not come to an end. */
  readonly failure?: string;
  readonly shown?: Shown;
  /** What would be solved now. */
  readonly subject?: SolvedSubject;
  /** The copper as it stands now has been looked at. */
  readonly known: boolean;
}

/** Seconds below which it follows by itself, and how much longer it may take once it does. */
export const FOLLOWED = 1;
const GRACE = 2;
/** Milliseconds that the copper is left alone before it is looked at. */
const REST = 180;
/** The same where a solution would take long: nobody waits for it under the hand, and looking at its copper takes a core. */
const PAUSE = 700;
/** Seconds that are long. */
const LONG = 20;
/** What takes a while is not begun before the hand rests so many times as long, or at most so many milliseconds. */
const PATIENCE = 2;
const MOST_REST = 2000;
/** Milliseconds of rest after which it is said what has changed since a solution. */
const WORDS = 150;

interface State {
  readonly project: Project;
  readonly design: Design;
  readonly band: Band;
}

interface Copper extends State {
  readonly subject: SolvedSubject;
}

/** What is asked about copper before it is solved: a mesh for each accuracy. */
interface Weighing {
  readonly copper: Copper;
  readonly asked: readonly Accuracy[];
}

/** All that the copper of a design and what is joined to it come from. */
export const sourceOf = ({ project, design, band }: State): string =>
  JSON.stringify([
    design.values,
    design.pieces,
    design.medium,
    design.enclosure,
    project.stacks.find((s) => s.id === design.stack),
    band,
  ]);

const bytesOf = (estimates: Estimates | undefined, accuracy: Accuracy): number => {
  const found = estimates?.[accuracy];
  return typeof found === 'object' ? found.bytes : Infinity;
};

/**
 * The solved level of a design, outside React: it looks at the copper once the hand rests, finds what was solved before, tells
 * what a solution would take, solves when it is asked to or, where that is quick, by itself, and keeps what comes of it.
 */
export class Solving {
  private now: Solved = { known: false };
  private present: State | undefined;
  private source = '';
  private copper: Copper | undefined;
  /** What is shown, and the state it is of. */
  private shownSource = '';
  private shownOf: State | undefined;
  /** Of this the copper is solved as soon as it is known. */
  private wanted: Accuracy | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private wording: ReturnType<typeof setTimeout> | undefined;
  private running: { readonly copper: Copper; readonly control: AbortController } | undefined;
  /** Seconds that the last solution of this design took, or would take. */
  private seconds: number | undefined;
  /** Seconds that the last estimate said, at whatever accuracy. */
  private weighed: number | undefined;
  /** Milliseconds that the last look at the copper took, or had taken when it was broken off; and since when there is one. */
  private looked = 0;
  private since: number | undefined;
  /** It has followed by itself. */
  private followedOnce = false;
  private closed = false;
  private readonly surveyor = new Conveyor<State, Reading<SolvedSubject | undefined>>(
    ({ project, design }, signal) => run('survey', { project: alone(project, design), design }, { signal }),
    {
      onResult: (reading, state) => this.surveyed(reading, state),
      onError: (error) => {
        this.lookedFor();
        this.tell({ refusal: error.message, known: true });
      },
    },
  );
  private readonly estimator = new Conveyor<Weighing, Estimates>(
    ({ copper: { subject, band }, asked }, signal) =>
      runApart('estimate', { copper: subject.copper, band, workers: WORKERS, asked }, { signal }),
    {
      onResult: (estimates, { copper }) => {
        this.lookedFor();
        if (copper !== this.copper) return;
        this.tell({ estimates: { ...this.now.estimates, ...estimates } });
        for (const e of Object.values(estimates)) if (typeof e === 'object') this.weighed = e.seconds;
        this.followed();
      },
      // Without an estimate it can be solved all the same.
      onError: () => this.lookedFor(),
    },
  );

  constructor(private readonly onChange: () => void) {}

  readonly get = (): Solved => this.now;

  private tell(change: Partial<Solved>): void {
    // Under a hand that does not rest most of it is as it was: nobody draws that again.
    if (Object.entries(change).every(([key, value]) => this.now[key as keyof Solved] === value)) return;
    this.now = { ...this.now, ...change };
    if (!this.closed) this.onChange();
  }

  /** Looks at a state of the design, once the hand rests. */
  follow(project: Project, design: Design, resolved: ResolvedDesign): void {
    const { sweep } = resolved;
    if (!sweep || resolved.problems.some((p) => p.place.kind !== 'goal')) {
      this.present = undefined;
      return this.stopLooking();
    }
    this.closed = false;
    // What is pointed at, or stands on other pages, changes nothing here.
    const { present } = this;
    if (
      this.source !== '' &&
      present?.design === design &&
      present.project.stacks === project.stacks &&
      present.project.data === project.data
    )
      return;
    const state = { project, design, band: { start: sweep.start, stop: sweep.stop } };
    const source = sourceOf(state);
    this.present = state;
    if (source === this.source) return;
    this.source = source;
    this.copper = undefined;
    const { shown } = this.now;
    // What was drawn is of another state from here on, until it turns out that the copper is the same.
    const fresh = source === this.shownSource;
    this.tell({
      known: false,
      refusal: undefined,
      failure: undefined,
      estimates: undefined,
      subject: undefined,
      ...(shown && shown.fresh !== fresh && { shown: { ...shown, fresh } }),
    });
    clearTimeout(this.wording);
    if (shown && !fresh) this.wording = setTimeout(() => this.present && this.compare(this.present), WORDS);
    clearTimeout(this.timer);
    this.estimator.stop();
    this.lookedFor();
    this.timer = setTimeout(() => {
      this.since = performance.now();
      this.surveyor.want(state);
    }, this.rest());
  }

  /** Milliseconds that the copper is left alone before it is looked at. */
  private rest(): number {
    if (this.isQuick()) return 0;
    return Math.max(this.isLong() ? PAUSE : REST, Math.min(PATIENCE * this.looked, MOST_REST));
  }

  /** Ends a look at the copper: the next one is begun as late as it is long. */
  private lookedFor(): void {
    if (this.since !== undefined) this.looked = performance.now() - this.since;
    this.since = undefined;
  }

  private stopLooking(): void {
    clearTimeout(this.timer);
    clearTimeout(this.wording);
    this.since = undefined;
    this.surveyor.stop();
    this.estimator.stop();
    this.source = '';
    this.copper = undefined;
  }

  close(): void {
    this.closed = true;
    this.stopLooking();
    this.stop();
  }

  /** Whether solutions of this design follow the hand. */
  private isQuick(): boolean {
    const { follow, accuracy } = usePreferences.getState();
    const estimate = this.now.estimates?.[accuracy];
    if (!follow) return false;
    // What it takes under a hand says more than what it was estimated to take, but not before it is warm.
    if (this.followedOnce) return (this.seconds ?? Infinity) < GRACE * FOLLOWED;
    return (typeof estimate === 'object' ? estimate.seconds : (this.seconds ?? Infinity)) < FOLLOWED;
  }

  /** Whether solutions of this design take long, by what the last took or would have taken. */
  private isLong(): boolean {
    return (this.seconds ?? this.weighed ?? 0) > LONG;
  }

  private surveyed(reading: Reading<SolvedSubject | undefined>, state: State): void {
    if (state !== this.present && sourceOf(state) !== this.source) return;
    if ('problem' in reading || !reading.value) {
      this.lookedFor();
      this.tell({ refusal: 'problem' in reading ? reading.problem : undefined, known: true });
      return;
    }
    const copper = { ...state, subject: reading.value };
    this.copper = copper;
    this.tell({ subject: reading.value });
    void findSolution(copper.subject.copper, copper.band).then((solution) => {
      if (this.copper !== copper) return;
      if (solution && solution.samples.length >= FIRST_CURVE) {
        this.seconds = solution.seconds;
        this.show(copper, solution);
      }
      this.tell({ known: true });
      const { wanted } = this;
      this.wanted = undefined;
      if (wanted && !(solution?.complete && solution.accuracy === wanted)) this.start(wanted);
      else if (!solution?.complete && !this.isQuick())
        return this.estimator.want({ copper, asked: [usePreferences.getState().accuracy] }, true);
      else if (!solution?.complete) this.followed();
      this.lookedFor();
    });
  }

  /** Begins to follow, where that was just asked for and is quick. */
  readonly followNow = (): void => this.followed();

  /** Looks at what a solution would take at every accuracy, where that is not known yet. */
  readonly weigh = (): void => {
    const { copper } = this;
    const asked = accuracies.filter((a) => this.now.estimates?.[a] === undefined);
    if (copper && asked.length > 0) this.estimator.want({ copper, asked });
  };

  private show(copper: Copper, solution: KeptSolution): void {
    this.shownSource = sourceOf(copper);
    this.shownOf = copper;
    const fresh = this.shownSource === this.source;
    this.tell({
      shown: { subject: subjectOf(copper.subject, solution), solution, fresh, changes: [] },
    });
    if (!fresh && this.present) this.compare(this.present);
  }

  /** Says what has changed since what is shown was solved. */
  private compare(state: State): void {
    const was = this.shownOf;
    const { shown } = this.now;
    if (!was || !shown || shown.fresh) return;
    const changes = [
      ...designDifferences(was.design, state.design),
      ...boardDifferences(was.project, state.project, state.design, was.design),
    ];
    if (changes.join('\n') !== shown.changes.join('\n')) this.tell({ shown: { ...shown, changes } });
  }

  /** Follows by itself where that is quick. */
  private followed(): void {
    const { follow, accuracy } = usePreferences.getState();
    if (!follow || !this.isQuick() || this.running) return;
    if (!this.copper || (this.now.shown?.fresh && this.now.shown.solution.complete)) return;
    this.followedOnce = true;
    this.start(accuracy);
  }

  /** Solves the copper as it stands. */
  readonly start = (accuracy: Accuracy = usePreferences.getState().accuracy): void => {
    if (accuracy !== usePreferences.getState().accuracy) setPreferences({ accuracy });
    const { copper } = this;
    if (!copper) {
      // It is looked at first.
      this.wanted = accuracy;
      return;
    }
    this.stop();
    const control = new AbortController();
    const running = { copper, control };
    this.running = running;
    this.tell({ failure: undefined, under: { accuracy, progress: 0, samples: 0, error: Infinity } });
    void this.solve(copper, accuracy, control.signal).then(
      () => this.ended(running),
      (error: unknown) => this.ended(running, error),
    );
  };

  private ended(running: NonNullable<Solving['running']>, error?: unknown): void {
    if (this.running !== running) return;
    this.running = undefined;
    const message = error instanceof Error ? error.message : undefined;
    this.tell({ under: undefined, failure: message && this.words(message) });
    if (!error) this.followed();
  }

  /** A failure in words, with an accuracy that would fit where it is for want of memory. */
  private words(message: string): string {
    if (!message.includes('memory')) return message;
    const { estimates } = this.now;
    const { accuracy } = usePreferences.getState();
    const less = (['normal', 'draft'] as const).find(
      (a) => bytesOf(estimates, a) < 0.7 * bytesOf(estimates, accuracy),
    );
    const needs = Number.isFinite(bytesOf(estimates, accuracy))
      ? `${accuracy} accuracy needs ${Math.ceil(bytesOf(estimates, accuracy) / 1e6)} MB, more than this browser gives`
      : 'this browser does not give so much memory';
    return less ? `${needs}; ${less} would take ${Math.ceil(bytesOf(estimates, less) / 1e6)} MB` : needs;
  }

  private async solve(copper: Copper, accuracy: Accuracy, signal: AbortSignal): Promise<void> {
    const bytes = bytesOf(this.now.estimates, accuracy);
    const whole = await solveAndKeep(
      { copper: copper.subject.copper, band: copper.band, accuracy },
      Number.isFinite(bytes) ? bytes : 0,
      (progress, latest, isNew) => {
        const { samples, error } = latest ?? { samples: [], error: Infinity };
        this.tell({ under: { accuracy, progress, samples: samples.length, error } });
        // Of a copper that is gone nothing better than what is drawn is drawn.
        if (latest && isNew && (copper === this.copper || !this.now.shown?.fresh)) this.show(copper, latest);
      },
      signal,
    );
    this.seconds = whole.seconds;
    this.show(copper, whole);
  }

  /** Ends what is under way; what was solved by then is kept, and can be gone on with. */
  readonly stop = (): void => {
    this.wanted = undefined;
    if (!this.running) return;
    this.running.control.abort();
    this.running = undefined;
    this.tell({ under: undefined });
  };
}
