import { useEffect, useMemo, useRef, useState } from 'react';
import type { SolvedSubject, Subject } from '@ditch/core/levels';
import { alone, type Design, type FamilyAxis, type Project } from '@ditch/core/network';
import type { Accuracy, Band, KeptSolution } from '@ditch/core/planar';
import { run, runApart } from '../../bridge/bridge';
import { farmLanes } from '../../bridge/farm';
import { isOnFarm } from '../../bridge/where';
import { WORKERS } from '../../bridge/solving';
import { findSolution, subjectOf } from '../../responses/solutions';
import { solveAndKeep } from '../../responses/solveAndKeep';
import { sourceOf } from '../design/solving';

/** A member's copper with what was solved of it, or why it cannot be. */
type Member =
  { readonly copper: SolvedSubject; readonly solution?: KeptSolution } | { readonly refused: string };

/** The solved members of a family: what is there, what is left, and what that takes. */
export interface SolvedFamily {
  /** One a member, or why there is none yet; absent while the copper is looked at. */
  readonly subjects?: readonly (Subject | string)[];
  /** Members that could be solved and are not. */
  readonly left: number;
  /** Seconds that they take, estimated from one of them. */
  readonly seconds?: number;
  /** The member that is being solved, counted from 1 among those that were left, and its share done. */
  readonly under?: { readonly which: number; readonly of: number; readonly share: number };
  readonly failure?: string;
  readonly start: () => void;
  readonly stop: () => void;
}

/** What a member is said to be that waits in the queue. */
export const NOT_YET = 'not solved yet';

/** What is known of the members of one family. */
interface State {
  readonly of: string;
  readonly members?: readonly Member[];
  readonly seconds?: number;
  readonly bytes?: number;
  readonly under?: SolvedFamily['under'];
  readonly failure?: string;
}

/** A family by the field solution: what was solved is found, the rest is a queue that is started by hand. */
export function useSolvedFamily(
  project: Project,
  design: Design,
  axes: readonly FamilyAxis[],
  band: Band | undefined,
  accuracy: Accuracy,
  isAsked: boolean,
): SolvedFamily {
  const { start, stop } = band ?? {};
  // All that the copper of the members comes from; nothing where nobody asks.
  const source =
    isAsked && band && axes.length > 0
      ? JSON.stringify([
          sourceOf({ project, design, band: { start: band.start, stop: band.stop } }),
          axes,
          accuracy,
        ])
      : '';
  const [known, setKnown] = useState<State>({ of: '' });
  const state: State = known.of === source ? known : { of: source };
  const control = useRef<AbortController>(undefined);
  const now = useRef({ project, design, axes });
  useEffect(() => {
    now.current = { project, design, axes };
  });
  useEffect(() => {
    if (start === undefined || stop === undefined || source === '') return undefined;
    const own = new AbortController();
    control.current = own;
    const { signal } = own;
    const tell = (change: Partial<State>) =>
      !signal.aborted && setKnown((k) => ({ ...(k.of === source ? k : { of: source }), ...change }));
    const look = async () => {
      const { project, design, axes } = now.current;
      const reading = await run(
        'familyCopper',
        { project: alone(project, design), design, axes },
        { signal },
      );
      if ('problem' in reading) return tell({ failure: reading.problem });
      const members: Member[] = [];
      for (const found of reading.value) {
        if (typeof found === 'string') members.push({ refused: found });
        else {
          const solution = await findSolution(found.copper, { start, stop }, accuracy);
          members.push({ copper: found, ...(solution?.complete && { solution }) });
        }
      }
      tell({ members });
      const first = members.find((m) => 'copper' in m && !m.solution);
      if (!first || !('copper' in first)) return;
      const estimates = await runApart(
        'estimate',
        { copper: first.copper.copper, band: { start, stop }, workers: WORKERS, asked: [accuracy] },
        { signal },
      );
      const estimate = estimates[accuracy];
      if (typeof estimate === 'object') tell({ seconds: estimate.seconds, bytes: estimate.bytes });
    };
    look().catch((error: unknown) =>
      tell({ failure: error instanceof Error ? error.message : String(error) }),
    );
    return () => own.abort();
  }, [source, start, stop, accuracy]);

  const job = useRef<AbortController>(undefined);
  // A family that is gone is not gone on with.
  useEffect(() => () => job.current?.abort(), [source]);
  const begin = async () => {
    const { members, bytes = 0 } = state;
    if (!members || start === undefined || stop === undefined) return;
    const own = new AbortController();
    job.current = own;
    const tell = (change: (k: State) => Partial<State>) =>
      !own.signal.aborted && setKnown((k) => (k.of === source ? { ...k, ...change(k) } : k));
    const left = members.flatMap((m, i) => ('copper' in m && !m.solution ? [{ copper: m.copper, i }] : []));
    try {
      let [next, done] = [0, 0];
      /** Members one after the other; several such rows beside one another where others solve them. */
      const row = async (): Promise<void> => {
        for (let n = next++; n < left.length && !own.signal.aborted; n = next++) {
          const { copper, i } = left[n];
          const under = (share: number) =>
            tell(() => ({ under: { which: Math.min(done + 1, left.length), of: left.length, share } }));
          tell(() => ({ failure: undefined }));
          under(0);
          const solution = await solveAndKeep(
            { copper: copper.copper, band: { start, stop }, accuracy },
            bytes,
            under,
            own.signal,
          );
          if (own.signal.aborted) return;
          done++;
          tell((k) => ({
            seconds: solution.seconds,
            members: k.members!.map((m, at) => (at === i ? { copper, solution } : m)),
          }));
        }
      };
      const rows = isOnFarm() ? await farmLanes() : 1;
      await Promise.all(Array.from({ length: Math.min(rows, left.length) }, row));
    } catch (error) {
      tell(() => ({ failure: error instanceof Error ? error.message : String(error) }));
    }
    tell(() => ({ under: undefined }));
  };
  const subjects = useMemo(
    () =>
      state.members?.map((m) =>
        'refused' in m ? m.refused : m.solution ? subjectOf(m.copper, m.solution) : NOT_YET,
      ),
    [state.members],
  );
  const left = state.members?.filter((m) => 'copper' in m && !m.solution).length ?? 0;
  return {
    ...(subjects && { subjects }),
    left,
    ...(state.seconds !== undefined && { seconds: state.seconds * left }),
    ...(state.under && { under: state.under }),
    ...(state.failure !== undefined && { failure: state.failure }),
    start: () => void begin(),
    stop: () => {
      job.current?.abort();
      setKnown((k) => ({ ...k, under: undefined }));
    },
  };
}
