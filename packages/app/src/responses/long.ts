import { QueryObserver } from '@tanstack/query-core';
import { queryClient } from '../queryClient';

/**
 * Watches over what takes long: stores that want the same at once share it, its work is given up through the signal when
 * nobody wants it any more, and a worker that dies is replaced.
 * @returns ends the wish
 */
export function observeLong(
  key: string,
  work: (signal: AbortSignal) => Promise<void>,
  onEnd: (error: Error | undefined) => void,
): () => void {
  const observer = new QueryObserver<boolean>(queryClient, {
    queryKey: ['long', key],
    // The result itself is kept by what its parts depend on.
    gcTime: 0,
    // What was done for others may have been forgotten since; where it was not, there is nothing to do.
    staleTime: 0,
    queryFn: ({ signal }) => work(signal).then(() => true),
  });
  const unsubscribe = observer.subscribe(({ isSuccess, error }) => {
    if (isSuccess || error) onEnd(error ?? undefined);
  });
  return () => {
    unsubscribe();
    observer.destroy();
  };
}
