import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { run } from './bridge/bridge';
import type { CurveRequest } from './bridge/jobs';

/** Impedance over width of a cross-section. */
export function useImpedanceCurve(request: CurveRequest | undefined) {
  return useQuery({
    queryKey: ['impedance-curve', request],
    enabled: request !== undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => run('impedanceCurve', request!, { signal }),
  });
}
