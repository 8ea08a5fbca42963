import { useQuery } from '@tanstack/react-query';
import { joinedSubject, type Subject } from '@ditch/core/levels';
import { alone, type Design, type Project } from '@ditch/core/network';
import type { Band } from '@ditch/core/planar';
import { queryClient } from '../queryClient';
import { solvedOf } from './solutions';

/** A state of a design in its project. */
export interface State {
  readonly project: Project;
  readonly design: Design;
}

/**
 * What the solved level is asked of states of a design, each where its copper was solved over the band: in the order of
 * the states, undefined where nothing was solved.
 */
export function useSolvedStates(
  states: readonly State[],
  band: Band | undefined,
): readonly (Subject | undefined)[] {
  const { data } = useQuery(
    {
      queryKey: ['solved states', band, states.map(({ project, design }) => alone(project, design))],
      enabled: band !== undefined,
      queryFn: () =>
        Promise.all(
          states.map(async ({ project, design }) => {
            const found = await solvedOf(project, design, band!);
            if (!('value' in found) || !found.value) return undefined;
            const { subject, solution } = found.value;
            return joinedSubject(subject, solution.samples, solution.accuracy);
          }),
        ),
      // Solved again elsewhere in the meantime, it is looked for again.
      gcTime: 0,
      staleTime: 0,
    },
    queryClient,
  );
  return data ?? states.map(() => undefined);
}
