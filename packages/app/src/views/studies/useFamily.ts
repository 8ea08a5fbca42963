import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { LiveId } from '@ditch/core/levels';
import { alone, type Design, type FamilyAxis, type Plot, type Project } from '@ditch/core/network';
import { run } from '../../bridge/bridge';
import type { Family, Studied } from '../../bridge/studying';
import { queryClient } from '../../queryClient';

/** Points of the sweep at which members are drawn. */
const POINTS = 201;

export interface FamilyState {
  /** The latest that was computed, which may be of before. */
  readonly family?: Family;
  /** Why there is none, and at which axis. */
  readonly problem?: { readonly text: string; readonly axis?: number };
  /** Share done while one is computed. */
  readonly progress?: number;
}

/** A family of a design followed as it changes. */
export function useFamily(
  project: Project,
  design: Design,
  axes: readonly FamilyAxis[],
  level: LiveId,
  plot: Plot | undefined,
): FamilyState {
  const [progress, setProgress] = useState(0);
  const own = alone(project, design);
  const { data, isFetching, isPlaceholderData } = useQuery<Studied<Family>>(
    {
      queryKey: ['family', own, axes, level, plot],
      enabled: axes.length > 0 && plot !== undefined,
      placeholderData: keepPreviousData,
      gcTime: 60_000,
      staleTime: Infinity,
      queryFn: ({ signal }) => {
        setProgress(0);
        return run(
          'family',
          { project: own, design, axes, level, plot: plot!, points: POINTS },
          { signal, onProgress: setProgress },
        );
      },
    },
    queryClient,
  );
  const waiting = isFetching ? { progress } : {};
  if (axes.length === 0 || !data) return waiting;
  if ('value' in data) return { family: data.value, ...waiting };
  if (isPlaceholderData) return waiting;
  return {
    problem: { text: data.problem, ...(typeof data.at === 'number' && { axis: data.at }) },
    ...waiting,
  };
}
