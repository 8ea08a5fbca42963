import * as Comlink from 'comlink';
import { create } from 'zustand';
import type { JobName, JobRequest, JobResult } from './jobs';
import { lend } from './lent';
import type { Life, Sign, WorkerFace } from './worker';

/** The worker that computed this died or fell silent; the job may be asked for again. */
export class WorkerLost extends Error {}

interface Lane {
  readonly worker: Worker;
  readonly face: Comlink.Remote<WorkerFace>;
  readonly running: Map<number, Running>;
  /** Looks at it since its last sign of life. */
  silent: number;
  /** Jobs that were given up and are not known to have let go of it. */
  readonly abandoned: Set<number>;
  /** Data that it has. */
  readonly given: Set<number>;
}

interface Running {
  readonly onSign: (done: number) => void;
  readonly reject: (error: Error) => void;
  /** Looks without a sign that it may take. */
  readonly patience: number;
}

export interface RunOptions {
  readonly signal?: AbortSignal;
  /** @param told what else the job tells, if anything */
  readonly onProgress?: (done: number, told?: unknown) => void;
  /** What of the request is handed over instead of copied. */
  readonly transfer?: Transferable[];
}

/** What can be done to a job apart while it runs. */
export interface Steering {
  readonly hold: (on: boolean) => void;
  /** Lets it end with what it has found. */
  readonly finish: () => void;
}

/** Told when a worker was lost and replaced. */
let onLost: (message: string) => void = () => undefined;
export const whenWorkerLost = (listener: (message: string) => void): void => {
  onLost = listener;
};

const LANES = Math.min(2, globalThis.navigator?.hardwareConcurrency ?? 2);
const lanes: (Lane | undefined)[] = new Array<Lane | undefined>(LANES).fill(undefined);
let nextId = 1;

/** Milliseconds between two looks at the workers that work. */
const LOOK = 1000;
/**
 * Looks without a sign after which a worker is taken for hung. Jobs give a sign many times a second; looks are counted
 * and not seconds, so that a machine that slept does not count against it.
 */
const PATIENCE = 12;
/** Characters of a file read in a second, at the least; a reader gives no sign while it works. */
const READ = 1e6;

function patienceFor(request: unknown): number {
  const text = (request as { text?: unknown } | undefined)?.text;
  return PATIENCE + (typeof text === 'string' ? Math.ceil(text.length / READ) : 0);
}

function openLane(index: number): Lane {
  const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: 'ditch' });
  const lane: Lane = {
    worker,
    face: Comlink.wrap<WorkerFace>(worker),
    running: new Map(),
    silent: 0,
    abandoned: new Set(),
    given: new Set(),
  };
  worker.addEventListener('error', (event) => lose(index, lane, event.message || 'the worker failed'));
  worker.addEventListener('messageerror', () => lose(index, lane, 'a message could not be read'));
  worker.addEventListener('message', ({ data }: MessageEvent<Partial<Sign> | undefined>) => {
    lane.silent = 0;
    if (data?.sign !== undefined) lane.running.get(data.sign)?.onSign(data.done ?? 0);
  });
  lanes[index] = lane;
  return lane;
}

/** Opens the first worker before there is something to do. */
export function openAhead(): void {
  if (!lanes[0]) openLane(0);
}

/** Ends a worker; what it had to do is rejected and may be asked for again. */
function end(index: number, lane: Lane, reason: string): void {
  lanes[index] = undefined;
  lane.worker.terminate();
  for (const { reject } of [...lane.running.values()]) reject(new WorkerLost(reason));
}

/** Ends a worker that failed, and says so. */
function lose(index: number, lane: Lane, reason: string): void {
  if (lanes[index] !== lane) return;
  end(index, lane, reason);
  onLost(
    `A computation stopped unexpectedly (${reason}). Its worker was replaced and the result is computed again.`,
  );
}

let watch: ReturnType<typeof setInterval> | undefined;

/** Looks at the workers as long as one works. */
function watchOver(): void {
  watch ??= setInterval(() => {
    let working = false;
    lanes.forEach((lane, index) => {
      if (!lane || lane.running.size === 0) return;
      working = true;
      const patience = Math.max(...[...lane.running.values()].map((r) => r.patience));
      if (++lane.silent > patience) lose(index, lane, 'it did not answer any more');
    });
    if (working) return;
    clearInterval(watch);
    watch = undefined;
  }, LOOK);
}

/**
 * Runs a job in a worker. The promise rejects with an AbortError when `signal` aborts, and with `WorkerLost` when the
 * worker dies or falls silent; the worker is replaced either way the next time one is needed.
 */
export function run<N extends JobName>(
  name: N,
  request: JobRequest<N>,
  options: RunOptions = {},
): Promise<JobResult<N>> {
  const { signal, onProgress } = options;
  let best = 0;
  const load = (i: number) => (lanes[i]?.running.size ?? 0) + (lanes[i]?.abandoned.size ?? 0);
  for (let i = 0; i < lanes.length; i++) if (load(i) < load(best)) best = i;
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
      giveUp(best, lane, id);
    };
    if (signal?.aborted) return reject(new DOMException('cancelled', 'AbortError'));
    signal?.addEventListener('abort', abort);
    if (lane.running.size === 0) lane.silent = 0;
    lane.running.set(id, {
      onSign: (done) => onProgress?.(done),
      patience: patienceFor(request),
      reject: (error) => {
        settle();
        reject(error);
      },
    });
    watchOver();
    lane.face.run(id, name, lend(request, lane.given)).then(
      (result) => {
        lane.abandoned.delete(id);
        settle();
        resolve(result as JobResult<N>);
      },
      (error: unknown) => {
        lane.abandoned.delete(id);
        settle();
        reject(error instanceof Error ? error : new Error(String(error)));
      },
    );
  });
}

/** A worker for one job at a time. */
interface Own {
  readonly worker: Worker;
  readonly face: Comlink.Remote<WorkerFace>;
  /** Its lock is held: told at once where it is. */
  readonly alive: Promise<void>;
  readonly called: string;
}

/** Workers that have done their job, ready for the next: what is solved again and again finds its code warm. */
const idle: Own[] = [];
const IDLE = 2;
/** Milliseconds that they are kept. */
const KEPT = 60_000;

/** How many jobs apart are under way: what takes long and would be lost with the page. */
export const useWork = create(() => ({ under: 0 }));

function openOwn(): Own {
  const called = `ditch apart ${crypto.randomUUID()}`;
  const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: called });
  const alive = new Promise<void>((resolve) => {
    worker.addEventListener('message', ({ data }: MessageEvent<Partial<Life> | undefined>) => {
      if (data?.alive) resolve();
    });
  });
  return { worker, face: Comlink.wrap<WorkerFace>(worker), alive, called };
}

function keepIdle(own: Own): void {
  idle.push(own);
  if (idle.length > IDLE) idle.shift()!.worker.terminate();
  setTimeout(() => {
    const at = idle.indexOf(own);
    if (at < 0) return;
    idle.splice(at, 1);
    own.worker.terminate();
  }, KEPT);
}

/**
 * Runs a job in a worker of its own, which is ended at once when `signal` aborts. For what takes long and must not stand in
 * anybody's way.
 */
export function runApart<N extends JobName>(
  name: N,
  request: JobRequest<N>,
  {
    signal,
    onProgress,
    transfer = [],
    onSteering,
  }: RunOptions & { readonly onSteering?: (steering: Steering) => void } = {},
): Promise<JobResult<N>> {
  const count = (by: number) => useWork.setState(({ under }) => ({ under: under + by }));
  return new Promise<JobResult<N>>((resolve, reject) => {
    if (signal?.aborted) return reject(new DOMException('cancelled', 'AbortError'));
    const own = idle.pop() ?? openOwn();
    count(1);
    const { worker, face } = own;
    // Ends whatever listens for this job.
    const over = new AbortController();
    const settle = (then: () => void, again = false) => {
      if (over.signal.aborted) return;
      over.abort();
      count(-1);
      if (again) keepIdle(own);
      else worker.terminate();
      then();
    };
    const during = { signal: over.signal };
    const lose = (reason: string) => settle(() => reject(new WorkerLost(reason)));
    signal?.addEventListener(
      'abort',
      () => settle(() => reject(new DOMException('cancelled', 'AbortError'))),
      during,
    );
    worker.addEventListener('error', (event) => lose(event.message || 'the worker failed'), during);
    worker.addEventListener(
      'message',
      ({ data }: MessageEvent<Partial<Sign> | undefined>) => {
        if (data?.sign !== undefined) onProgress?.(data.done ?? 0, data.told);
      },
      during,
    );
    // It may work for minutes without a word; its lock is free only when it is dead.
    void own.alive.then(() => {
      if (!over.signal.aborted)
        navigator.locks.request(own.called, during, () => lose('the worker ended')).catch(() => undefined);
    });
    onSteering?.({ hold: (on) => void face.hold(0, on), finish: () => void face.finish(0) });
    face.run(0, name, Comlink.transfer(request as object, transfer)).then(
      (result) => settle(() => resolve(result as JobResult<N>), true),
      (error: unknown) => settle(() => reject(error instanceof Error ? error : new Error(String(error)))),
    );
  });
}

/** Milliseconds in which a job that was given up has to let go of its worker. */
const GRACE = 2000;

/**
 * A worker that does not let go of a job that nobody wants any more is ended, quietly: nothing of it is missed. What it
 * was working at before stays, and its silence is watched over; what was asked of it since has not begun.
 */
function giveUp(index: number, lane: Lane, id: number): void {
  lane.abandoned.add(id);
  setTimeout(() => {
    if (!lane.abandoned.delete(id) || lanes[index] !== lane) return;
    if ([...lane.running.keys()].some((other) => other < id)) return;
    end(index, lane, 'its worker was busy');
  }, GRACE);
}
