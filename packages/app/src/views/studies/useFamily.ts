import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { LiveId, Subject } from '@ditch/core/levels';
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

/** A family of a design followed as it changes. @param from a level, or the solved members; absent while there are none */
export function useFamily(
  project: Project,
  design: Design,
  axes: readonly FamilyAxis[],
  from: LiveId | readonly (Subject | string)[] | undefined,
  plot: Plot | undefined,
): FamilyState {
  const [progress, setProgress] = useState(0);
  const own = alone(project, design);
  // Samples are known by the key that they stand under.
  const names =
    typeof from === 'object' ? from.map((s) => (typeof s === 'string' ? s : s.solved?.key)) : from;
  const { data, isFetching, isPlaceholderData } = useQuery<Studied<Family>>(
    {
      // Data is never changed once it is made.
      queryKey: ['family', { ...own, data: own.data.map((d) => d.id) }, axes, names, plot],
      enabled: axes.length > 0 && plot !== undefined && from !== undefined,
      placeholderData: keepPreviousData,
      gcTime: 60_000,
      staleTime: Infinity,
      queryFn: ({ signal }) => {
        setProgress(0);
        return run(
          'family',
          { project: own, design, axes, from: from!, plot: plot!, points: POINTS },
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
