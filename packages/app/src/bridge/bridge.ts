import * as Comlink from 'comlink';
import type { JobName, JobRequest, JobResult } from './jobs';
import type { WorkerFace } from './worker';

/** The worker that computed this died; the job may be asked for again. */
export class WorkerLost extends Error {}

interface Lane {
  readonly worker: Worker;
  readonly face: Comlink.Remote<WorkerFace>;
  readonly running: Map<number, (error: Error) => void>;
}

export interface RunOptions {
  readonly signal?: AbortSignal;
  readonly onProgress?: (done: number) => void;
}

/** Told when a worker was lost and replaced. */
let onLost: (message: string) => void = () => undefined;
export const whenWorkerLost = (listener: (message: string) => void): void => {
  onLost = listener;
};

const LANES = Math.max(1, Math.min(2, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1 || 1));
const lanes: (Lane | undefined)[] = new Array<Lane | undefined>(LANES).fill(undefined);
let nextId = 1;

function openLane(index: number): Lane {
  const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: 'ditch' });
  const lane: Lane = { worker, face: Comlink.wrap<WorkerFace>(worker), running: new Map() };
  const lose = (reason: string) => {
    if (lanes[index] !== lane) return;
    lanes[index] = undefined;
    worker.terminate();
    for (const reject of lane.running.values()) reject(new WorkerLost(reason));
    onLost('A computation stopped unexpectedly. Its worker was replaced and the result is computed again.');
  };
  worker.addEventListener('error', (event) => lose(event.message || 'the worker failed'));
  worker.addEventListener('messageerror', () => lose('a message could not be read'));
  lanes[index] = lane;
  return lane;
}

/**
 * Runs a job in a worker. The promise rejects with an AbortError when `signal` aborts, and with `WorkerLost` when the
 * worker dies; the worker is replaced either way the next time one is needed.
 */
export function run<N extends JobName>(
  name: N,
  request: JobRequest<N>,
  options: RunOptions = {},
): Promise<JobResult<N>> {
  const { signal, onProgress } = options;
  let best = 0;
  for (let i = 0; i < lanes.length; i++)
    if ((lanes[i]?.running.size ?? 0) < (lanes[best]?.running.size ?? 0)) best = i;
  const lane = lanes[best] ?? openLane(best);
  const id = nextId++;
  return new Promise<JobResult<N>>((resolve, reject) => {
    const settle = () => {
      lane.running.delete(id);
      signal?.removeEventListener('abort', abort);
    };
    const abort = () => {
      settle();
      void lane.face.cancel(id);
      reject(new DOMException('cancelled', 'AbortError'));
    };
    if (signal?.aborted) return abort();
    signal?.addEventListener('abort', abort);
    lane.running.set(id, (error) => {
      settle();
      reject(error);
    });
    lane.face.run(id, name, request, onProgress && Comlink.proxy(onProgress)).then(
      (result) => {
        settle();
        resolve(result as JobResult<N>);
      },
      (error: unknown) => {
        settle();
        reject(error instanceof Error ? error : new Error(String(error)));
      },
    );
  });
}
