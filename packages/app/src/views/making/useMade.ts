import { useEffect, useRef, useState } from 'react';
import type { What } from '@ditch/core/making';
import type { Project } from '@ditch/core/network';
import { run, WorkerLost } from '../../bridge/bridge';
import { Conveyor } from '../../bridge/conveyor';
import type { MadeAnswer } from '../../bridge/making';
import { needed } from '../exportBoard';

export interface MadeState {
  readonly answer?: MadeAnswer;
  /** Of which board the answer is. */
  readonly key?: string;
  readonly failed?: string;
}

interface Request {
  readonly project: Project;
  readonly what: What;
  readonly wish: readonly unknown[];
}

export const keyOf = (what: What): string =>
  'panel' in what ? `panel ${what.panel}` : `design ${what.design}`;

/** Times that a board is asked for whose worker was given up for another's sake. */
const TIMES = 3;

/** What is made, once. */
export async function madeOnce(project: Project, what: What): Promise<MadeAnswer> {
  for (let k = 1; ; k++)
    try {
      return await run('made', { project: needed(project, what), what });
    } catch (error) {
      if (!(error instanceof WorkerLost) || k === TIMES) throw error;
    }
}

/** What is made, worked out behind the hand; what was known stays in sight until then. */
export function useMade(
  project: Project,
  what: What | undefined,
): MadeState & {
  /** The answer is of an earlier state; the next one is under way. */
  readonly late: boolean;
} {
  const [state, setState] = useState<MadeState & { readonly wish?: readonly unknown[] }>({});
  const key = what && keyOf(what);
  const { stacks, data, designs, panels, shop } = project;
  const wish = [stacks, data, designs, panels, shop, key];
  const conveyor = useRef<Conveyor<Request, MadeAnswer>>(null);
  useEffect(() => {
    conveyor.current = new Conveyor<Request, MadeAnswer>(
      (request, signal) =>
        run('made', { project: needed(request.project, request.what), what: request.what }, { signal }),
      {
        onResult: (answer, request) => setState({ answer, key: keyOf(request.what), wish: request.wish }),
        onError: (error, request) =>
          setState({ key: keyOf(request.what), failed: error.message, wish: request.wish }),
      },
    );
    return () => conveyor.current?.stop();
  }, []);
  useEffect(() => {
    if (what) conveyor.current?.want({ project, what, wish });
    // The project is what the other wishes are of.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, wish);
  return { ...state, late: state.wish?.some((v, i) => v !== wish[i]) ?? true };
}
