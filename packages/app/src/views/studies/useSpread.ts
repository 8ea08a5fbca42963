import { useEffect, useMemo, useRef, useState } from 'react';
import { alone, type Design, type Project } from '@ditch/core/network';
import { yieldOf, type SpreadSamples, type Varied, type Yield } from '@ditch/core/studies';
import { run } from '../../bridge/bridge';
import { useHandler } from '../../controls/stable';

/** Samples of one task: often enough that a picture grows. */
const CHUNK = 50;
/** Tasks under way at once. */
const LANES = 2;
/** Points of the sweep at which samples are drawn. */
export const POINTS = 101;
/** Samples at most. */
export const MOST = 5000;
/** Samples by which it is told what costs the yield. */
const JUDGED = 300;

/** Samples put together from several tasks. */
export interface Sampled {
  /** What it is of. */
  readonly of: string;
  readonly varied: readonly Varied[];
  readonly count: number;
  readonly miss: Float64Array;
  readonly off: Float64Array;
  readonly meant: number;
  readonly freq: Float64Array;
  readonly plots: readonly {
    readonly plot: string;
    readonly unit: string;
    readonly curves: readonly { readonly id: string; readonly label: string }[];
    /** Of each task its samples, in their order. */
    readonly parts: readonly Float32Array[];
  }[];
  readonly told: Yield;
  /** Share of what is missed that each value costs; absent until that is known. */
  readonly causes?: readonly number[];
  readonly hasLimits: boolean;
}

export interface Spreading {
  readonly sampled?: Sampled;
  /** The samples are of an earlier state. */
  readonly past: boolean;
  /** Share done, while samples are taken. */
  readonly progress?: number;
  readonly problem?: { readonly text: string; readonly at?: string };
  readonly start: () => void;
  readonly stop: () => void;
}

function together(of: string, chunks: readonly SpreadSamples[]): Sampled {
  const [first] = chunks;
  const count = chunks.reduce((n, c) => n + c.count, 0);
  const [miss, off] = [new Float64Array(count), new Float64Array(count * first.varied.length)];
  let at = 0;
  for (const c of chunks) {
    miss.set(c.miss, at);
    off.set(c.off, at * first.varied.length);
    at += c.count;
  }
  return {
    of,
    varied: first.varied,
    count,
    miss,
    off,
    meant: first.meant,
    freq: first.freq,
    plots: first.plots.map(({ plot, unit, curves }, i) => ({
      plot,
      unit,
      curves,
      parts: chunks.map((c) => c.plots[i].y),
    })),
    told: yieldOf(miss),
    hasLimits: first.limits.length > 0,
  };
}

/** How wide an interval of 95 % is to be when there is enough; without limits there are so many samples. */
const WITHOUT_LIMITS = 600;

/**
 * Samples of a design, taken when asked for until its yield is known well enough.
 * @param within the widest that the interval of the yield may be to either side
 */
export function useSpread(project: Project, design: Design, within: number, seed: number): Spreading {
  const own = useMemo(() => alone(project, design), [project, design]);
  const of = useMemo(() => JSON.stringify([own, seed]), [own, seed]);
  const [sampled, setSampled] = useState<Sampled>();
  const [progress, setProgress] = useState<number>();
  const [problem, setProblem] = useState<Spreading['problem']>();
  const running = useRef<AbortController>(undefined);
  const stop = useHandler(() => {
    running.current?.abort();
    running.current = undefined;
    setProgress(undefined);
  });
  useEffect(() => () => running.current?.abort(), []);
  const start = useHandler(() => {
    running.current?.abort();
    const abort = new AbortController();
    running.current = abort;
    const { signal } = abort;
    setProblem(undefined);
    setProgress(0);
    const chunks: SpreadSamples[] = [];
    let next = 0;
    /** Half of the interval after so many; what is left shrinks with the root of the samples. */
    const enough = (): boolean => {
      const s = together(of, chunks);
      if (s.varied.length === 0 || s.count >= MOST) return true;
      const half = s.hasLimits ? (s.told.high - s.told.low) / 2 : Infinity;
      setSampled(s);
      const wanted = s.hasLimits ? Math.min(MOST, s.count * (half / within) ** 2) : WITHOUT_LIMITS;
      setProgress(Math.min(0.9, (0.9 * s.count) / wanted));
      return s.hasLimits ? half <= within : s.count >= WITHOUT_LIMITS;
    };
    let over = false;
    const waiting = new Map<number, SpreadSamples>();
    const lane = async (): Promise<void> => {
      while (!over) {
        const from = next;
        next += CHUNK;
        const found = await run(
          'spread',
          { project: own, design, seed, samples: CHUNK, from, points: POINTS, noCauses: true },
          { signal },
        );
        if ('problem' in found) {
          over = true;
          setProblem({ text: found.problem, ...(typeof found.at === 'string' && { at: found.at }) });
          return;
        }
        // In their order, so that the same seed gives the same samples whoever is first.
        waiting.set(from, found.value);
        for (let k = chunks.length * CHUNK; waiting.has(k); k += CHUNK) {
          chunks.push(waiting.get(k)!);
          waiting.delete(k);
          if (enough()) {
            over = true;
            break;
          }
        }
      }
    };
    const all = async (): Promise<void> => {
      await Promise.all(Array.from({ length: LANES }, lane));
      if (chunks.length === 0) return;
      const whole = together(of, chunks);
      setSampled(whole);
      if (!whole.hasLimits || whole.varied.length === 0) return;
      const judged = await run(
        'spread',
        { project: own, design, seed, samples: Math.min(JUDGED, whole.count) },
        { signal, onProgress: (done) => setProgress(0.9 + 0.1 * done) },
      );
      if ('value' in judged) setSampled({ ...whole, causes: judged.value.causes });
    };
    all()
      .catch((error: unknown) => {
        if (signal.aborted) return;
        setProblem({ text: error instanceof Error ? error.message : String(error) });
      })
      .finally(() => {
        if (running.current !== abort) return;
        running.current = undefined;
        setProgress(undefined);
      });
  });
  return {
    ...(sampled && { sampled }),
    past: sampled !== undefined && sampled.of !== of && progress === undefined,
    ...(progress !== undefined && { progress }),
    ...(problem && { problem }),
    start,
    stop,
  };
}
