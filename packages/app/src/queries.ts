import { keepPreviousData, QueryClient, useQuery } from '@tanstack/react-query';
import { run, WorkerLost } from './bridge/bridge';
import type { CurveRequest } from './bridge/jobs';

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      // A result depends on its key and nothing else, so it never goes stale.
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

/** Impedance over width of a cross-section. */
export function useImpedanceCurve(request: CurveRequest | undefined) {
  return useQuery({
    queryKey: ['impedance-curve', request],
    enabled: request !== undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => run('impedanceCurve', request!, { signal }),
  });
}
