import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { run } from './bridge/bridge';
import type { JobName, JobRequest, JobResult } from './bridge/jobs';

/**
 * What a job answers, computed while it is wanted; the last answer stays until the next is there.
 * @param request absent: nothing is wanted
 */
export function useJob<N extends JobName>(name: N, request: JobRequest<N> | undefined) {
  return useQuery<JobResult<N>>({
    queryKey: [name, request],
    enabled: request !== undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => run(name, request!, { signal }),
  });
}
