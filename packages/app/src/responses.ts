import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Circuit, DataBlock } from '@ditch/core/network';
import { withPoints, type MatchReading, type SData } from '@ditch/core/results';
import { run } from './bridge/bridge';
import { Conveyor } from './bridge/conveyor';
import type { Simulated, SimulateRequest, SimulateTask } from './bridge/jobs';
import { useStable } from './controls/stable';

interface SweepNumbers {
  readonly start: number;
  readonly stop: number;
  readonly points: number;
}

/** A job that simulates, with the data its circuits work with and no other. */
export const simulation = (tasks: readonly SimulateTask[], data: readonly DataBlock[]): SimulateRequest => ({
  tasks,
  data: data.filter((d) => tasks.some((t) => t.circuit.pieces.some((p) => p.settings.data === d.id))),
});

/** Sweeps longer than this report their progress, and are given up when they are no longer wanted. */
const LONG = 3000;
/** Milliseconds after which a curve that is not of the present values is visibly so. */
const PATIENCE = 400;

/** What is read at frequencies of its own and not between the samples of the sweep. */
export interface ExactReadings {
  /** How many of the circuits are read, from the first on. */
  readonly of: number;
  readonly match?: { readonly near: number; readonly target: number };
  /** Hz; those outside the sweep are left alone. */
  readonly at: readonly number[];
}

export interface Responses {
  /** One result a circuit, in their order; of earlier values while `waiting`. */
  readonly data: readonly (SData | undefined)[];
  /** The matches of those that are read. */
  readonly matches: readonly (MatchReading | undefined)[];
  /** What is drawn belongs to other values than the present ones, for longer than a glance. */
  readonly waiting: boolean;
  readonly error: Error | undefined;
  /** Share done of a long computation. */
  readonly progress: number | undefined;
  /** The engineer stopped the computation of these values. */
  readonly stopped: boolean;
  readonly stop: () => void;
  readonly resume: () => void;
}

/** One circuit's work under the names its results are kept by: the sweep, and the points of its own. */
interface Ask {
  readonly task: SimulateTask;
  readonly sweepKey: string;
  readonly exactKey: string | undefined;
}

/** What is to be simulated. */
interface Wanted {
  readonly key: string;
  readonly asks: readonly (Ask | undefined)[];
  readonly long: boolean;
  readonly data: readonly DataBlock[];
}

/** The latest results by exactly what they depend on; data blocks never change under their id. */
const kept = new Map<string, Simulated>();
/** Numbers kept in all, 64 MB; what was asked for last stays whatever its size. */
const KEPT = 8e6;
const LAST = 8;

const sizeOf = ({ swept, exact }: Simulated): number =>
  2 * ((swept?.re.length ?? 0) + (exact?.re.length ?? 0));

function keep(key: string, result: Simulated): void {
  kept.delete(key);
  kept.set(key, result);
  let size = 0;
  for (const one of kept.values()) size += sizeOf(one);
  for (const [oldest, one] of kept) {
    if (size <= KEPT || kept.size <= LAST) break;
    kept.delete(oldest);
    size -= sizeOf(one);
  }
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

interface Result {
  readonly data: SData | undefined;
  readonly match: MatchReading | undefined;
}

const resultsOf = (wanted: Wanted | undefined, before: readonly Result[]): readonly Result[] =>
  wanted
    ? wanted.asks.map((ask, i) => {
        const sweep = ask && kept.get(ask.sweepKey);
        if (!ask || !sweep?.swept) return before[i] ?? { data: undefined, match: undefined };
        const exact = ask.exactKey === undefined ? undefined : kept.get(ask.exactKey)?.exact;
        return { data: join(sweep.swept, exact), match: sweep.match };
      })
    : before;

/** What of a circuit's work is not kept yet. */
function missing({ task, sweepKey, exactKey }: Ask): SimulateTask | undefined {
  const sweep = !kept.has(sweepKey);
  const exact = exactKey !== undefined && !kept.has(exactKey);
  if (!sweep && !exact) return undefined;
  return {
    circuit: task.circuit,
    ...(sweep && { sweep: task.sweep, match: task.match }),
    ...(exact && { at: task.at }),
  };
}

const isComplete = (wanted: Wanted) => wanted.asks.every((ask) => !ask || !missing(ask));

interface Shown {
  readonly results: readonly Result[];
  /** What they are results of. */
  readonly key: string;
  readonly error: Error | undefined;
}

/**
 * The S-parameters of circuits over one sweep, computed together and handed on together, so that a changed value costs
 * one drawing and not one for each level.
 */
export function useResponses(
  circuits: readonly (Circuit | undefined)[],
  sweep: SweepNumbers | undefined,
  data: readonly DataBlock[],
  readings?: ExactReadings,
): Responses {
  const exact = useStable(readings);
  const wanted = useMemo((): Wanted | undefined => {
    if (!sweep || circuits.every((c) => !c)) return undefined;
    const { start, stop, points } = sweep;
    const at = [...new Set(exact?.at.filter((f) => f >= start && f <= stop))].sort((a, b) => a - b);
    const asks = circuits.map((circuit, i): Ask | undefined => {
      if (!circuit) return undefined;
      const read = exact && i < exact.of ? exact : undefined;
      const content = JSON.stringify(circuit);
      return {
        task: { circuit, sweep: { start, stop, points }, match: read?.match, at },
        sweepKey: JSON.stringify([start, stop, points, read?.match, content]),
        exactKey: read && at.length > 0 ? JSON.stringify([at, content]) : undefined,
      };
    });
    const key = asks.map((a) => `${a?.sweepKey} ${a?.exactKey}`).join('\n');
    return { key, asks, data, long: points > LONG };
  }, [circuits, sweep, data, exact]);
  const long = wanted?.long ?? false;

  const [shown, setShown] = useState<Shown>(() => ({
    results: resultsOf(wanted, []),
    key: wanted && isComplete(wanted) ? wanted.key : '',
    error: undefined,
  }));
  const [progress, setProgress] = useState<number>();
  // What was stopped, by content: other values are computed again without being asked.
  const [stoppedKey, setStoppedKey] = useState('');
  const stopped = wanted !== undefined && stoppedKey === wanted.key;

  const conveyor = useRef<Conveyor<Wanted, void>>(null);
  useEffect(() => {
    conveyor.current = new Conveyor<Wanted, void>(
      async (request, signal) => {
        const tasks = request.asks.flatMap((ask) => {
          const task = ask && missing(ask);
          return task ? [{ ask, task }] : [];
        });
        if (tasks.length === 0) return;
        try {
          const job = simulation(
            tasks.map((t) => t.task),
            request.data,
          );
          const results = await run('simulate', job, {
            signal,
            onProgress: request.long ? setProgress : undefined,
          });
          tasks.forEach(({ ask, task }, i) => {
            const { swept, match, exact: points } = results[i];
            if (task.sweep) keep(ask.sweepKey, { swept, match });
            if (task.at && ask.exactKey !== undefined) keep(ask.exactKey, { exact: points });
          });
        } finally {
          if (request.long) setProgress(undefined);
        }
      },
      {
        onResult: (_, request) =>
          setShown((s) =>
            // The same circuits again, of a design that differs in something no curve depends on.
            s.key === request.key && !s.error
              ? s
              : { results: resultsOf(request, s.results), key: request.key, error: undefined },
          ),
        onError: (error, request) => setShown((s) => ({ ...s, key: request.key, error })),
      },
    );
    return () => conveyor.current?.stop();
  }, []);

  useEffect(() => {
    if (!wanted || stopped) {
      conveyor.current?.stop();
      return;
    }
    conveyor.current?.want(wanted, long);
  }, [wanted, stopped, long]);

  const current = wanted !== undefined && shown.key === wanted.key;
  // Under a moving hand results come all the time and the last wish is never the first: only silence counts.
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (current || !wanted) {
      setLate(false);
      return;
    }
    const timer = setTimeout(() => setLate(true), PATIENCE);
    return () => clearTimeout(timer);
  }, [current, wanted, shown.key]);

  const waiting =
    wanted !== undefined &&
    (current ? shown.error !== undefined : long || late || shown.results.every((r) => !r.data));
  const stop = useCallback(() => setStoppedKey(wanted?.key ?? ''), [wanted]);
  const resume = useCallback(() => setStoppedKey(''), []);
  return {
    data: useMemo(() => shown.results.map((r) => r.data), [shown.results]),
    matches: useMemo(() => shown.results.map((r) => r.match), [shown.results]),
    waiting: waiting || stopped,
    error: current ? shown.error : undefined,
    progress: waiting && !stopped ? progress : undefined,
    stopped,
    stop,
    resume,
  };
}
