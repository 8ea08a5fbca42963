import { useQuery } from '@tanstack/react-query';
import type { Subject } from '@ditch/core/levels';
import { alone, type Design, type Project } from '@ditch/core/network';
import type { Band } from '@ditch/core/planar';
import { queryClient } from '../queryClient';
import { wholeSubjectOf } from './solutions';

/** A state of a design in its project. */
export interface State {
  readonly project: Project;
  readonly design: Design;
}

/**
 * What the solved level is asked of states of a design, in their order, where the copper of all of them was solved over the
 * band: undefined as long as it was not. The same object as long as the states are.
 */
export function useSolvedStates(
  states: readonly State[],
  band: Band | undefined,
): readonly Subject[] | undefined {
  const { data } = useQuery(
    {
      queryKey: ['solved states', band, states.map(({ project, design }) => alone(project, design))],
      enabled: band !== undefined,
      queryFn: async () => {
        const found = await Promise.all(
          states.map(({ project, design }) => wholeSubjectOf(project, design, band!)),
        );
        const subjects = found.flatMap((f) => ('value' in f && f.value ? [f.value] : []));
        return subjects.length === states.length ? subjects : null;
      },
      // Solved again elsewhere in the meantime, it is looked for again.
      gcTime: 0,
      staleTime: 0,
    },
    queryClient,
  );
  return data ?? undefined;
}
