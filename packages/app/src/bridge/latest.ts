import { useCallback, useEffect, useRef } from 'react';
import { useHandler } from '../controls/stable';
import { run } from './bridge';
import { Conveyor } from './conveyor';
import type { JobName, JobRequest, JobResult } from './jobs';

/**
 * Asks for a job whose newest request is the one that counts, as long as the view stands. `onResult` is told every
 * result, and undefined where there is none.
 */
export function useLatest<N extends JobName>(
  name: N,
  onResult: (result: JobResult<N> | undefined) => void,
): (request: JobRequest<N>) => void {
  const told = useHandler(onResult);
  const conveyor = useRef<Conveyor<JobRequest<N>, JobResult<N>>>(null);
  useEffect(() => {
    conveyor.current = new Conveyor<JobRequest<N>, JobResult<N>>(
      (request, signal) => run(name, request, { signal }),
      { onResult: told, onError: () => told(undefined) },
    );
    return () => conveyor.current?.stop();
  }, [name, told]);
  return useCallback((request) => conveyor.current?.want(request), []);
}
