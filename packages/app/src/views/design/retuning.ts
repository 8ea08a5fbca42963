import { useMemo, useRef, useState } from 'react';
import { alone, type Design, type Project } from '@ditch/core/network';
import { studyWords, type Retuned, type StudyId } from '@ditch/core/studies';
import { run } from '../../bridge/bridge';
import { useHandler } from '../../controls/stable';
import { editDesign, say } from '../../store/session';

/** A retuning under way, or its result waiting to be taken. */
export interface Retuning {
  /** Share done while it runs. */
  readonly progress: number | undefined;
  /** What the one under way is for. */
  readonly aim: StudyId | undefined;
  readonly result: Retuned | undefined;
  readonly start: (aim: StudyId) => void;
  readonly stop: () => void;
  readonly take: () => void;
  readonly discard: () => void;
}

/** A design with what retuning has moved since `from`; what was edited meanwhile stays. */
export const takenOver = (design: Design, from: Design, retuned: Design): Design => ({
  ...design,
  values: design.values.map((v) => {
    const was = from.values.find((x) => x.name === v.name);
    const is = retuned.values.find((x) => x.name === v.name);
    return was && is && was.value !== is.value ? { ...v, value: is.value } : v;
  }),
  pieces: design.pieces.map((p) => {
    const was = from.pieces.find((x) => x.id === p.id);
    const is = retuned.pieces.find((x) => x.id === p.id);
    if (!was || !is || was.held === is.held) return p;
    const held = { ...p.held };
    for (const face of new Set([...Object.keys(was.held), ...Object.keys(is.held)])) {
      if (was.held[face] === is.held[face]) continue;
      if (is.held[face] === undefined) delete held[face];
      else held[face] = is.held[face];
    }
    return { ...p, held };
  }),
});

/**
 * Runs retuning in the worker and holds its result until it is taken or discarded.
 * @param now what is to be retuned, when it begins
 */
export function useRetuning(now: () => { readonly project: Project; readonly design: Design }): Retuning {
  const [progress, setProgress] = useState<number>();
  const [result, setResult] = useState<{
    readonly aim: StudyId;
    readonly from: Design;
    readonly retuned: Retuned;
  }>();
  const [aim, setAim] = useState<StudyId>();
  const job = useRef<AbortController | undefined>(undefined);
  const start = useHandler((aim: StudyId) => {
    job.current?.abort();
    const { project, design } = now();
    setAim(aim);
    const own = new AbortController();
    job.current = own;
    setProgress(0);
    run(
      'study',
      { project: alone(project, design), design, study: aim },
      { signal: own.signal, onProgress: setProgress },
    )
      .then((reading) => {
        if (own.signal.aborted) return;
        if ('problem' in reading) say(`${studyWords[aim].refused}: ${reading.problem}.`);
        else setResult({ aim, from: design, retuned: reading.value });
      })
      .catch((error: unknown) => {
        if (!own.signal.aborted)
          say(`The search failed: ${error instanceof Error ? error.message : String(error)}.`);
      })
      .finally(() => {
        if (job.current === own) setProgress(undefined);
      });
  });
  const stop = useHandler(() => {
    job.current?.abort();
    setProgress(undefined);
  });
  const take = useHandler(() => {
    if (!result) return;
    const { aim, from, retuned } = result;
    editDesign(from.id, studyWords[aim].edit, (d) => takenOver(d, from, retuned.design));
    setResult(undefined);
  });
  const discard = useHandler(() => setResult(undefined));
  return useMemo(
    () => ({ progress, aim, result: result?.retuned, start, stop, take, discard }),
    [progress, aim, result, start, stop, take, discard],
  );
}
