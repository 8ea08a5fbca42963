import * as Comlink from 'comlink';
import { Cancelled, jobs, type JobName } from './jobs';

const cancelled = new Set<number>();

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

/** The memory of all arrays in a result: handed over instead of copied, since jobs keep nothing of what they return. */
function buffersOf(result: unknown, found = new Set<ArrayBuffer>()): ArrayBuffer[] {
  if (ArrayBuffer.isView(result)) found.add(result.buffer as ArrayBuffer);
  else if (typeof result === 'object' && result !== null)
    for (const value of Object.values(result)) if (typeof value === 'object') buffersOf(value, found);
  return [...found];
}

/** Milliseconds between two signs of life. */
const SIGN = 100;

/** Told now and then while a job works, beside the answers to calls: which one, and how much is done. */
export interface Sign {
  readonly sign: number;
  readonly done: number;
}

export interface WorkerFace {
  run(id: number, name: JobName, request: unknown): Promise<unknown>;
  cancel(id: number): void;
}

const face: WorkerFace = {
  async run(id, name, request) {
    let last = 0;
    try {
      const job = jobs[name] as (
        request: unknown,
        context: Parameters<(typeof jobs)['simulate']>[1],
      ) => Promise<unknown>;
      const result = await job(request, {
        async pause() {
          await breathe();
          return cancelled.has(id);
        },
        progress(done) {
          const now = performance.now();
          if (now - last < SIGN) return;
          last = now;
          self.postMessage({ sign: id, done } satisfies Sign);
        },
      });
      const buffers = buffersOf(result);
      return buffers.length > 0 ? Comlink.transfer(result as object, buffers) : result;
    } catch (error) {
      if (error instanceof Cancelled) return undefined;
      throw error;
    } finally {
      cancelled.delete(id);
    }
  },
  cancel(id) {
    cancelled.add(id);
  },
};

Comlink.expose(face);
