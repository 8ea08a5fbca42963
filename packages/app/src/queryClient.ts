import { QueryClient } from '@tanstack/query-core';
import { WorkerLost } from './bridge/bridge';

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
