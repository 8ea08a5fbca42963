import { useRef, useState } from 'react';
import type { Design, Project } from '@ditch/core/network';
import type { Retuned } from '@ditch/core/studies';
import { run } from '../../bridge/bridge';
import { editDesign, say } from '../../store/session';

/** A retuning under way, or its result waiting to be taken. */
export interface Retuning {
  /** Share done while it runs. */
  readonly progress: number | undefined;
  readonly result: Retuned | undefined;
  readonly start: () => void;
  readonly stop: () => void;
  readonly take: () => void;
  readonly discard: () => void;
}

/** Runs retuning in the worker and holds its result until it is taken or discarded. */
export function useRetuning(project: Project, design: Design): Retuning {
  const [progress, setProgress] = useState<number>();
  const [result, setResult] = useState<{ readonly from: Design; readonly retuned: Retuned }>();
  const job = useRef<AbortController | undefined>(undefined);
  return {
    progress,
    result: result?.retuned,
    start() {
      job.current?.abort();
      const own = new AbortController();
      job.current = own;
      setProgress(0);
      const only: Project = {
        ...project,
        designs: [design],
        data: project.data.filter((d) => design.pieces.some((p) => p.settings?.data === d.id)),
      };
      run('retune', { project: only, design }, { signal: own.signal, onProgress: setProgress })
        .then((reading) => {
          if (own.signal.aborted) return;
          if ('problem' in reading) say(`Retuning is not possible: ${reading.problem}.`);
          else setResult({ from: design, retuned: reading.value });
        })
        .catch((error: unknown) => {
          if (!own.signal.aborted)
            say(`Retuning failed: ${error instanceof Error ? error.message : String(error)}.`);
        })
        .finally(() => {
          if (job.current === own) setProgress(undefined);
        });
    },
    stop() {
      job.current?.abort();
      setProgress(undefined);
    },
    take() {
      if (!result) return;
      const { from, retuned } = result;
      editDesign(design.id, 'retune', (d) =>
        // What was edited meanwhile stays: only what retuning moved is taken over.
        ({
          ...d,
          values: d.values.map((v) => {
            const was = from.values.find((x) => x.name === v.name);
            const is = retuned.design.values.find((x) => x.name === v.name);
            return was && is && was.value !== is.value ? { ...v, value: is.value } : v;
          }),
          pieces: d.pieces.map((p) => {
            const was = from.pieces.find((x) => x.id === p.id);
            const is = retuned.design.pieces.find((x) => x.id === p.id);
            if (!was || !is || was.held === is.held) return p;
            const held = { ...p.held };
            for (const face of Object.keys(is.held))
              if (was.held[face] !== is.held[face]) held[face] = is.held[face];
            return { ...p, held };
          }),
        }),
      );
      setResult(undefined);
    },
    discard: () => setResult(undefined),
  };
}
