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

export interface WorkerFace {
  run(id: number, name: JobName, request: unknown, progress?: (done: number) => void): Promise<unknown>;
  cancel(id: number): void;
}

const face: WorkerFace = {
  async run(id, name, request, progress) {
    try {
      const job = jobs[name] as (
        request: unknown,
        context: Parameters<(typeof jobs)['simulate']>[1],
      ) => Promise<unknown>;
      return await job(request, {
        async pause() {
          await breathe();
          return cancelled.has(id);
        },
        progress: (done) => progress?.(done),
      });
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
