import {
  keepPreviousData,
  notifyManager,
  QueryClient,
  useQueries,
  useQuery,
  useQueryClient,
  type UseQueryResult,
} from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import type { Circuit, DataBlock } from '@ditch/core/network';
import type { SData } from '@ditch/core/results';
import { run, WorkerLost } from './bridge/bridge';
import type { CurveRequest, SimulateRequest } from './bridge/jobs';

// The default waits for a timer before it tells of a result; a result that is there shall be drawn in this frame.
notifyManager.setScheduler(queueMicrotask);

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      // A result depends on its key and nothing else, so it never goes stale; tuning makes many, so they go soon.
      staleTime: Infinity,
      gcTime: 20_000,
      retry: (failures, error) => error instanceof WorkerLost && failures < 2,
      retryDelay: 0,
      networkMode: 'always',
      refetchOnWindowFocus: false,
      structuralSharing: false,
    },
  },
});

interface SweepNumbers {
  readonly start: number;
  readonly stop: number;
  readonly points: number;
}

/** The job that simulates a circuit, with the data it works with and no other. */
export const simulation = (
  circuit: Circuit,
  sweep: SweepNumbers,
  data: readonly DataBlock[],
): SimulateRequest => ({
  circuit,
  ...sweep,
  data: data.filter((d) => circuit.pieces.some((p) => p.settings.data === d.id)),
});

/** Sweeps longer than this report their progress. */
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

type Combined = Pick<Responses, 'data' | 'waiting' | 'error'>;

/**
 * The S-parameters of circuits over one sweep, each kept under a key of exactly what it depends on. Data blocks never
 * change under their id, so the ids alone stand in the key. Results that belong together are handed on together, so
 * that a changed value costs one drawing and not one for each level.
 */
export function useResponses(
  circuits: readonly (Circuit | undefined)[],
  sweep: SweepNumbers | undefined,
  data: readonly DataBlock[],
): Responses {
  const [progress, setProgress] = useState<number>();
  const last = useRef<Combined | undefined>(undefined);
  const long = (sweep?.points ?? 0) > LONG;
  const combine = useCallback(
    (results: UseQueryResult<SData>[]) => {
      const fetching = results.some((r) => r.isFetching);
      if (fetching && !long && last.current) return last.current;
      last.current = {
        data: results.map((r) => r.data),
        waiting: fetching,
        error: results.find((r) => r.error)?.error ?? undefined,
      };
      return last.current;
    },
    [long],
  );
  const client = useQueryClient();
  // What was stopped, by content: other values are computed again without being asked.
  const key = long ? JSON.stringify([circuits, sweep]) : '';
  const [stoppedKey, setStoppedKey] = useState('');
  const stopped = long && stoppedKey === key;
  const combined = useQueries({
    queries: circuits.map((circuit) => ({
      queryKey: ['response', circuit, sweep],
      enabled: circuit !== undefined && sweep !== undefined && !stopped,
      placeholderData: keepPreviousData<SData>,
      queryFn: async ({ signal }: { signal: AbortSignal }) => {
        try {
          return await run('simulate', simulation(circuit!, sweep!, data), {
            signal,
            onProgress: long ? setProgress : undefined,
          });
        } finally {
          if (long) setProgress(undefined);
        }
      },
    })),
    combine,
  });
  return {
    ...combined,
    waiting: combined.waiting || stopped,
    progress: combined.waiting && !stopped ? progress : undefined,
    stopped,
    stop() {
      setStoppedKey(key);
      for (const circuit of circuits) void client.cancelQueries({ queryKey: ['response', circuit, sweep] });
    },
    resume: () => setStoppedKey(''),
  };
}

/** Impedance over width of a cross-section. */
export function useImpedanceCurve(request: CurveRequest | undefined) {
  return useQuery({
    queryKey: ['impedance-curve', request],
    enabled: request !== undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => run('impedanceCurve', request!, { signal }),
  });
}
