import * as Comlink from 'comlink';
import type { DataBlock } from '@ditch/core/network';
import { Cancelled, jobs, type JobName } from './jobs';
import { borrowed } from './lent';

const cancelled = new Set<number>();
const held = new Set<number>();
const finishing = new Set<number>();

/** Lets queued messages (a cancellation) run before the job goes on; faster than a timer. */
function breathe(): Promise<void> {
  return new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });
}

/** Jobs that draw what follows the hand, or what it holds, go before all others. */
const FIRST: ReadonlySet<JobName> = new Set<JobName>(['simulate', 'walked', 'towards']);

/** Those of them that are under way. */
const first = new Set<Promise<unknown>>();

/** Lets those go before that are under way now, but none that come later: nothing waits for ever. */
const yieldToFirst = (): Promise<unknown> | undefined =>
  first.size > 0 ? Promise.allSettled([...first]) : undefined;

/** The memory of all arrays in a result: handed over instead of copied, since jobs keep nothing of what they return. */
function buffersOf(result: unknown, found = new Set<ArrayBuffer>()): ArrayBuffer[] {
  if (ArrayBuffer.isView(result)) found.add(result.buffer as ArrayBuffer);
  else if (typeof result === 'object' && result !== null)
    for (const value of Object.values(result)) if (typeof value === 'object') buffersOf(value, found);
  return [...found];
}

/** Milliseconds between two signs of life, and between two looks whether a job is held back any more. */
const SIGN = 100;

/** Told now and then while a job works, beside the answers to calls: which one, and how much is done. */
export interface Sign {
  readonly sign: number;
  readonly done: number;
  /** What else the job tells. */
  readonly told?: unknown;
}

/** Beginning of the names of workers that are there for one job. */
export const APART = 'ditch apart';

/** Told once by a worker of its own that holds its lock. */
export interface Life {
  readonly alive: true;
}

export interface WorkerFace {
  run(id: number, name: JobName, request: unknown): Promise<unknown>;
  cancel(id: number): void;
  /** Holds a job back, or lets it go on. */
  hold(id: number, on: boolean): void;
  /** Lets a job end with what it has found. */
  finish(id: number): void;
}

/** Data that came with earlier requests. */
const kept = new Map<number, DataBlock>();

const face: WorkerFace = {
  async run(id, name, sent) {
    // Before anything is waited for: the next request may count on it.
    const request = borrowed(sent, kept);
    let last = 0;
    let share = 0;
    try {
      const job = jobs[name] as (
        request: unknown,
        context: Parameters<(typeof jobs)['simulate']>[1],
      ) => Promise<unknown>;
      const isFirst = FIRST.has(name);
      if (!isFirst) await yieldToFirst();
      const working = job(request, {
        async pause() {
          await breathe();
          if (!isFirst) await yieldToFirst();
          while (held.has(id) && !cancelled.has(id) && !finishing.has(id)) {
            await new Promise((resolve) => setTimeout(resolve, SIGN));
            self.postMessage({ sign: id, done: share } satisfies Sign);
          }
          return cancelled.has(id);
        },
        progress(done, told) {
          const now = performance.now();
          share = done;
          if (now - last < SIGN) return;
          last = now;
          self.postMessage({ sign: id, done, told: told?.() } satisfies Sign);
        },
        enough: () => finishing.has(id),
      });
      if (isFirst) {
        first.add(working);
        void working.catch(() => undefined).finally(() => first.delete(working));
      }
      const result = await working;
      const buffers = buffersOf(result);
      return buffers.length > 0 ? Comlink.transfer(result as object, buffers) : result;
    } catch (error) {
      if (error instanceof Cancelled) return undefined;
      throw error;
    } finally {
      for (const list of [cancelled, held, finishing]) list.delete(id);
    }
  },
  cancel(id) {
    cancelled.add(id);
  },
  hold(id, on) {
    if (on) held.add(id);
    else held.delete(id);
  },
  finish(id) {
    finishing.add(id);
  },
};

/** A worker of its own holds the lock of its name as long as it lives, so that whoever waits for that knows when it died. */
if (self.name.startsWith(APART))
  void navigator.locks?.request(self.name, () => {
    self.postMessage({ alive: true } satisfies Life);
    return new Promise(() => undefined);
  });

Comlink.expose(face);
