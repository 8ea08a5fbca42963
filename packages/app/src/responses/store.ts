import { costOf, keyOf, type LevelId, type Subject } from '@ditch/core/levels';
import type { DataBlock } from '@ditch/core/network';
import { withPoints, type MatchReading, type SData } from '@ditch/core/results';
import { run, runApart } from '../bridge/bridge';
import { Conveyor } from '../bridge/conveyor';
import type { SimulateRequest, SimulateTask, Simulated } from '../bridge/jobs';
import { keep, nameOf, recall, recallStored, store } from './kept';

/** What is asked of a level about a subject, under an id that says where its answer belongs. */
export interface Task {
  readonly id: string;
  readonly level: LevelId;
  readonly subject: Subject;
  /** Its match and the frequencies of their own are read exactly, and not between the samples of the sweep. */
  readonly read?: boolean;
  /** What the hand waits for; the rest follows behind it. */
  readonly first?: boolean;
  /** Begins only when it is asked for. */
  readonly waits?: boolean;
}

export interface SweepNumbers {
  readonly start: number;
  readonly stop: number;
  readonly points: number;
}

/** Tasks over one sweep. */
export interface Wanted {
  readonly tasks: readonly Task[];
  readonly sweep: SweepNumbers;
  readonly data: readonly DataBlock[];
  readonly match?: { readonly near: number; readonly target: number };
  /** Frequencies of their own, Hz; those outside the sweep are left alone. */
  readonly at?: readonly number[];
}

export interface Result {
  readonly data: SData;
  readonly match: MatchReading | undefined;
}

export interface Snapshot {
  /** The latest result of each task by its id; of earlier values where its id is not among `current`. */
  readonly results: ReadonlyMap<string, Result>;
  readonly current: ReadonlySet<string>;
  /** What is drawn first belongs to other values than the present ones, for longer than a glance. */
  readonly waiting: boolean;
  readonly error: Error | undefined;
  /** Share done of what takes long. */
  readonly progress: number | undefined;
  /** The engineer stopped what these values take. */
  readonly stopped: boolean;
}

export const NOTHING: Snapshot = {
  results: new Map(),
  current: new Set(),
  waiting: false,
  error: undefined,
  progress: undefined,
  stopped: false,
};

/** Seconds of cost from which on a task has a worker of its own, which ends with it, and its result is stored. */
const APART = 0.5;
/** Milliseconds after which a curve that is not of the present values is visibly so. */
const PATIENCE = 400;

/** A job that simulates, with the data its subjects work with and no other. */
export const simulation = (tasks: readonly SimulateTask[], data: readonly DataBlock[]): SimulateRequest => ({
  tasks,
  data: data.filter((d) =>
    tasks.some((t) => t.subject.pieces.some((p) => p.settings.data === d.id || p.backed?.data === d.id)),
  ),
});

/** A task's work under the names its results are kept by: the sweep, and the points of its own. */
interface Ask {
  readonly task: Task;
  readonly work: SimulateTask;
  readonly sweepKey: string;
  readonly exactKey: string | undefined;
}

/** What of a task's work is not kept yet. */
function missing({ work, sweepKey, exactKey }: Ask): SimulateTask | undefined {
  const sweep = recall(sweepKey) === undefined;
  const exact = exactKey !== undefined && recall(exactKey) === undefined;
  if (!sweep && !exact) return undefined;
  const { level, subject } = work;
  return {
    level,
    subject,
    ...(sweep && { sweep: work.sweep, match: work.match }),
    ...(exact && { at: work.at }),
  };
}

function asksOf({ tasks, sweep, match, at = [] }: Wanted): Ask[] {
  const { start, stop, points } = sweep;
  const own = [...new Set(at.filter((f) => f >= start && f <= stop))].sort((a, b) => a - b);
  return tasks.map((task) => {
    const { level, subject } = task;
    const read = task.read ? match : undefined;
    const about = nameOf(keyOf(level, subject));
    const sweepKey = JSON.stringify([start, stop, points, read, about]);
    const exactKey = task.read && own.length > 0 ? JSON.stringify([own, about]) : undefined;
    return {
      task,
      work: { level, subject, sweep: { start, stop, points }, match: read, at: own },
      sweepKey,
      exactKey,
    };
  });
}

/** Sweeps with their points, joined once. */
const joined = new WeakMap<SData, { readonly exact: SData; readonly all: SData }>();
function join(swept: SData, exact: SData | undefined): SData {
  if (!exact) return swept;
  const known = joined.get(swept);
  if (known?.exact === exact) return known.all;
  const all = withPoints(swept, exact);
  joined.set(swept, { exact, all });
  return all;
}

/** A sweep's result, the same object as long as what it is made of is. */
const made = new WeakMap<Simulated, { readonly data: SData; readonly result: Result }>();
function resultOf({ sweepKey, exactKey }: Ask): Result | undefined {
  const kept = recall(sweepKey);
  if (!kept?.swept) return undefined;
  const data = join(kept.swept, exactKey === undefined ? undefined : recall(exactKey)?.exact);
  const known = made.get(kept);
  if (known?.data === data) return known.result;
  const result = { data, match: kept.match };
  made.set(kept, { data, result });
  return result;
}

/** Tasks that are computed together and handed on together, so that a changed value costs one drawing. */
interface Batch {
  readonly asks: readonly Ask[];
  readonly data: readonly DataBlock[];
}

async function compute({ asks, data }: Batch, signal: AbortSignal): Promise<void> {
  const open = asks.flatMap((ask) => {
    const task = missing(ask);
    return task ? [{ ask, task }] : [];
  });
  if (open.length === 0) return;
  const job = simulation(
    open.map((o) => o.task),
    data,
  );
  take(open, await run('simulate', job, { signal }));
}

function take(open: readonly { ask: Ask; task: SimulateTask }[], results: readonly Simulated[]): void {
  open.forEach(({ ask, task }, i) => {
    const { swept, match, exact } = results[i];
    if (task.sweep) keep(ask.sweepKey, { swept, match });
    if (task.at && ask.exactKey !== undefined) keep(ask.exactKey, { exact });
  });
}

/**
 * The responses that a view shows, outside React: it is told what is wanted whenever that changes, and tells whoever
 * listens what there is. What is quick goes along one conveyor for what the hand waits for and another for what follows
 * behind it; what takes long has an observer and a worker of its own, both of which end with the wish.
 */
export class ResponseStore {
  private snapshot = NOTHING;
  private wanted:
    { readonly asks: readonly Ask[]; readonly key: string; readonly data: readonly DataBlock[] } | undefined;
  private readonly listeners = new Set<() => void>();
  private readonly apart = new Map<string, () => void>();
  private readonly failed = new Map<string, Error>();
  private readonly asked = new Set<string>();
  private stoppedKey: string | undefined;
  private progress: number | undefined;
  private late = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly hand = this.conveyor();
  private readonly behind = this.conveyor();

  /** @param wanted what is known of it is there at once; nothing is begun */
  constructor(wanted?: Wanted) {
    if (wanted) this.wish(wanted);
    this.refresh();
  }

  readonly get = (): Snapshot => this.snapshot;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** What is wanted from now on; undefined: nothing, and what there was stays. */
  want(wanted: Wanted | undefined): void {
    if (wanted) this.wish(wanted);
    else this.wanted = undefined;
    this.go();
  }

  /** Begins a task that waits to be asked for. */
  ask(id: string): void {
    const ask = this.wanted?.asks.find((a) => a.task.id === id);
    if (ask) this.asked.add(ask.sweepKey);
    this.go();
  }

  /** Stops what these values take; other values are computed again without being asked. */
  readonly stop = (): void => {
    this.stoppedKey = this.wanted?.key;
    this.go();
  };

  readonly resume = (): void => {
    this.stoppedKey = undefined;
    this.go();
  };

  /** Gives everything up. */
  close(): void {
    this.hand.stop();
    this.behind.stop();
    for (const end of this.apart.values()) end();
    this.apart.clear();
    clearTimeout(this.timer);
  }

  private conveyor(): Conveyor<Batch, void> {
    return new Conveyor<Batch, void>(compute, {
      onResult: (_, { asks }) => {
        for (const ask of asks) this.failed.delete(ask.sweepKey);
        // Under a moving hand results come all the time and the last wish is never the first: only silence counts.
        this.watch();
        this.refresh();
      },
      onError: (error, { asks }) => {
        for (const ask of asks) this.failed.set(ask.sweepKey, error);
        this.refresh();
      },
    });
  }

  private wish(wanted: Wanted): void {
    const asks = asksOf(wanted);
    const key = asks.map((a) => `${a.task.id} ${a.sweepKey} ${a.exactKey}`).join('\n');
    if (key !== this.wanted?.key) this.failed.clear();
    this.wanted = { asks, key, data: wanted.data };
  }

  private get stopped(): boolean {
    return this.wanted !== undefined && this.stoppedKey === this.wanted.key;
  }

  private go(): void {
    const { wanted } = this;
    if (!wanted || this.stopped) {
      this.hand.stop();
      this.behind.stop();
      for (const end of this.apart.values()) end();
      this.apart.clear();
      this.watch();
      return this.refresh();
    }
    const quick: Ask[] = [];
    const long = new Map<string, Ask>();
    for (const ask of wanted.asks) {
      if (!missing(ask)) continue;
      const { task, work } = ask;
      if (costOf(task.subject, work.sweep!.points).seconds < APART) quick.push(ask);
      else if (!task.waits || this.asked.has(ask.sweepKey)) long.set(`${ask.sweepKey} ${ask.exactKey}`, ask);
    }
    for (const [conveyor, first] of [
      [this.hand, true],
      [this.behind, false],
    ] as const) {
      const asks = quick.filter((ask) => Boolean(ask.task.first) === first);
      if (asks.length > 0) conveyor.want({ asks, data: wanted.data });
    }
    for (const [key, end] of this.apart)
      if (!long.has(key)) {
        end();
        this.apart.delete(key);
      }
    for (const [key, ask] of long)
      if (!this.apart.has(key)) this.apart.set(key, this.observe(key, ask, wanted.data));
    this.watch();
    this.refresh();
  }

  /** Computes a task in a worker of its own, or takes its result from the database. @returns ends it */
  private observe(key: string, ask: Ask, data: readonly DataBlock[]): () => void {
    let ended = false;
    let end = (): void => undefined;
    const work = async (signal: AbortSignal): Promise<void> => {
      const task = missing(ask);
      if (!task) return;
      const content = JSON.stringify(task);
      const known = await recallStored(content);
      if (!known) this.tell(0);
      const result =
        known ??
        (
          await runApart('simulate', simulation([task], data), {
            signal,
            onProgress: (done) => this.tell(done),
          })
        )[0];
      take([{ ask, task }], [result]);
      // It is drawn at once; storing it may take its time.
      this.tell(undefined);
      if (!known) await store(content, result);
    };
    // The first view has nothing that takes long.
    void import('./long').then(({ observeLong }) => {
      if (ended) return;
      end = observeLong(key, work, (error) => {
        // What failed is not begun again by itself.
        if (error) this.failed.set(ask.sweepKey, error);
        else if (!ended) {
          end();
          this.apart.delete(key);
        }
        this.tell(undefined);
      });
    });
    return () => {
      ended = true;
      end();
      this.progress = undefined;
    };
  }

  private tell(progress: number | undefined): void {
    this.progress = progress;
    this.refresh();
  }

  /** Starts waiting for silence anew. */
  private watch(): void {
    clearTimeout(this.timer);
    this.late = false;
    if (this.isComplete()) return;
    this.timer = setTimeout(() => {
      this.late = true;
      this.refresh();
    }, PATIENCE);
  }

  private isComplete(): boolean {
    return !this.wanted || this.wanted.asks.every((ask) => !ask.task.first || !missing(ask));
  }

  private refresh(): void {
    const { wanted, snapshot: before } = this;
    let { results, current } = before;
    if (wanted) {
      const next = wanted.asks.map((ask) => ({
        id: ask.task.id,
        known: resultOf(ask),
        whole: !missing(ask),
      }));
      const now = new Map<string, Result>();
      for (const { id, known } of next) {
        const result = known ?? before.results.get(id);
        if (result) now.set(id, result);
      }
      if (now.size !== results.size || [...now].some(([id, r]) => results.get(id) !== r)) results = now;
      const ids = next.filter((n) => n.whole).map((n) => n.id);
      if (ids.length !== current.size || ids.some((id) => !current.has(id))) current = new Set(ids);
    }
    const error = wanted && wanted.asks.map((a) => this.failed.get(a.sweepKey)).find((e) => e !== undefined);
    const first = wanted?.asks.filter((a) => a.task.first) ?? [];
    const open = !this.isComplete();
    const waiting =
      this.stopped ||
      (wanted !== undefined &&
        (error !== undefined ||
          (open && (this.late || this.apart.size > 0 || first.every((a) => !results.has(a.task.id))))));
    const progress = waiting && !this.stopped ? this.progress : undefined;
    const next: Snapshot = { results, current, waiting, error, progress, stopped: this.stopped };
    if ((Object.keys(next) as (keyof Snapshot)[]).every((k) => next[k] === before[k])) return;
    this.snapshot = next;
    for (const listener of this.listeners) listener();
  }
}
