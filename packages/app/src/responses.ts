import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Circuit, DataBlock } from '@ditch/core/network';
import type { SData } from '@ditch/core/results';
import { run } from './bridge/bridge';
import { Conveyor } from './bridge/conveyor';
import type { SimulateRequest } from './bridge/jobs';

interface SweepNumbers {
  readonly start: number;
  readonly stop: number;
  readonly points: number;
}

/** The job that simulates circuits, with the data they work with and no other. */
export const simulation = (
  circuits: readonly Circuit[],
  sweep: SweepNumbers,
  data: readonly DataBlock[],
): SimulateRequest => ({
  circuits,
  ...sweep,
  data: data.filter((d) => circuits.some((c) => c.pieces.some((p) => p.settings.data === d.id))),
});

/** Sweeps longer than this report their progress, and are given up when they are no longer wanted. */
const LONG = 3000;

export interface Responses {
  /** One result a circuit, in their order; of earlier values while `waiting`. */
  readonly data: readonly (SData | undefined)[];
  /** New values are being computed and take longer than a frame. */
  readonly waiting: boolean;
  readonly error: Error | undefined;
  /** Share done of a long computation. */
  readonly progress: number | undefined;
  /** The engineer stopped the computation of these values. */
  readonly stopped: boolean;
  readonly stop: () => void;
  readonly resume: () => void;
}

/** What is to be simulated, and under which name its results are kept. */
interface Wanted {
  readonly key: string;
  readonly keys: readonly (string | undefined)[];
  readonly circuits: readonly (Circuit | undefined)[];
  readonly sweep: SweepNumbers;
  readonly data: readonly DataBlock[];
}

/** The latest results by exactly what they depend on; data blocks never change under their id. */
const kept = new Map<string, SData>();
/** Numbers kept in all, 64 MB; what was asked for last stays whatever its size. */
const KEPT = 8e6;
const LAST = 4;

function keep(key: string, result: SData): void {
  kept.delete(key);
  kept.set(key, result);
  let size = 0;
  for (const { re } of kept.values()) size += 2 * re.length;
  for (const [oldest, { re }] of kept) {
    if (size <= KEPT || kept.size <= LAST) break;
    kept.delete(oldest);
    size -= 2 * re.length;
  }
}

const resultsOf = (wanted: Wanted | undefined, before: readonly (SData | undefined)[]) =>
  wanted ? wanted.keys.map((key, i) => (key === undefined ? undefined : kept.get(key)) ?? before[i]) : before;

const isComplete = (wanted: Wanted) => wanted.keys.every((key) => key === undefined || kept.has(key));

interface Shown {
  readonly data: readonly (SData | undefined)[];
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
): Responses {
  const wanted = useMemo((): Wanted | undefined => {
    if (!sweep || circuits.every((c) => !c)) return undefined;
    const { start, stop, points } = sweep;
    const keys = circuits.map((c) => c && JSON.stringify([c, start, stop, points]));
    return { key: keys.join('\n'), keys, circuits, sweep, data };
  }, [circuits, sweep, data]);
  const long = (sweep?.points ?? 0) > LONG;

  const [shown, setShown] = useState<Shown>(() => ({
    data: resultsOf(
      wanted,
      circuits.map(() => undefined),
    ),
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
        const missing = request.keys.flatMap((key, i) => (key !== undefined && !kept.has(key) ? [i] : []));
        if (missing.length === 0) return;
        const isLong = request.sweep.points > LONG;
        try {
          const job = simulation(
            missing.map((i) => request.circuits[i]!),
            request.sweep,
            request.data,
          );
          const results = await run('simulate', job, {
            signal,
            onProgress: isLong ? setProgress : undefined,
          });
          missing.forEach((i, k) => keep(request.keys[i]!, results[k]));
        } finally {
          if (isLong) setProgress(undefined);
        }
      },
      {
        onResult: (_, request) =>
          setShown((s) =>
            // The same circuits again, of a design that differs in something no curve depends on.
            s.key === request.key && !s.error
              ? s
              : { data: resultsOf(request, s.data), key: request.key, error: undefined },
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
  const waiting = wanted !== undefined && !current && (long || shown.data.every((d) => !d));
  const stop = useCallback(() => setStoppedKey(wanted?.key ?? ''), [wanted]);
  const resume = useCallback(() => setStoppedKey(''), []);
  return {
    data: shown.data,
    waiting: waiting || stopped,
    error: current ? shown.error : undefined,
    progress: waiting && !stopped ? progress : undefined,
    stopped,
    stop,
    resume,
  };
}
