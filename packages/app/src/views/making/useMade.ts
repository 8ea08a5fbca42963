import { useEffect, useState } from 'react';
import type { What } from '@ditch/core/making';
import type { Project } from '@ditch/core/network';
import { run } from '../../bridge/bridge';
import type { MadeAnswer } from '../../bridge/making';
import { needed } from '../exportBoard';

export interface MadeState {
  readonly answer?: MadeAnswer;
  /** Of which board the answer is. */
  readonly key?: string;
  /** It is of an earlier state; the next one is under way. */
  readonly late: boolean;
  readonly failed?: string;
}

export const keyOf = (what: What): string =>
  'panel' in what ? `panel ${what.panel}` : `design ${what.design}`;

/** What is made, worked out behind the hand; what was known stays in sight until then. */
export function useMade(project: Project, what: What | undefined): MadeState {
  const [state, setState] = useState<MadeState>({ late: true });
  const [asked, setAsked] = useState<unknown>();
  const key = what && keyOf(what);
  const { stacks, data, designs, panels, shop } = project;
  const wish = [stacks, data, designs, panels, shop, key];
  if (!Array.isArray(asked) || asked.some((v, i) => v !== wish[i])) {
    setAsked(wish);
    setState((s) => (s.key === key ? { ...s, late: true } : { late: true }));
  }
  useEffect(() => {
    if (!what) return;
    const abort = new AbortController();
    run('made', { project: needed(project, what), what }, { signal: abort.signal }).then(
      (answer) => !abort.signal.aborted && setState({ answer, key: keyOf(what), late: false }),
      (error: unknown) =>
        !abort.signal.aborted &&
        setState((s) => ({
          ...s,
          late: false,
          failed: error instanceof Error ? error.message : String(error),
        })),
    );
    return () => abort.abort();
    // The project is what the other wishes are of.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, wish);
  return state;
}
