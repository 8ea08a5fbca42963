import { keepPreviousData, QueryClient, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Circuit, DataBlock } from '@ditch/core/network';
import { run, WorkerLost } from './bridge/bridge';
import type { CurveRequest } from './bridge/jobs';

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

/** Sweeps longer than this report their progress. */
const LONG = 3000;

/**
 * The S-parameters of a circuit over a sweep. While a new circuit is computed the last result stays, marked by
 * `isPlaceholderData`; data blocks never change under their id, so the ids alone stand in the key.
 */
export function useResponse(
  circuit: Circuit | undefined,
  sweep: SweepNumbers | undefined,
  data: readonly DataBlock[],
) {
  const [progress, setProgress] = useState<number>();
  const used = circuit ? data.filter((d) => circuit.pieces.some((p) => p.settings.data === d.id)) : [];
  const query = useQuery({
    queryKey: ['response', circuit, sweep],
    enabled: circuit !== undefined && sweep !== undefined,
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) => {
      const long = sweep!.points > LONG;
      try {
        return await run(
          'simulate',
          { circuit: circuit!, ...sweep!, data: used },
          { signal, onProgress: long ? setProgress : undefined },
        );
      } finally {
        if (long) setProgress(undefined);
      }
    },
  });
  return { ...query, progress: query.isFetching ? progress : undefined };
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
