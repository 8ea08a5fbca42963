import { Worker } from 'node:worker_threads';
import type { Answer, Question } from './thread';

/** What cannot be solved, however often it is tried. */
export class Final extends Error {}

/** A thread that computes beside this one; asked anything it answers in turn. */
export class Computer {
  private thread: Worker | undefined;
  private readonly open = new Map<
    number,
    { resolve: (value: unknown) => void; reject: (e: Error) => void }
  >();
  private next = 1;

  /** @param program file that computes where it is no main thread */
  constructor(private readonly program: URL) {}

  ask<T>(question: Question): Promise<T> {
    const thread = (this.thread ??= this.start());
    const n = this.next++;
    return new Promise<T>((resolve, reject) => {
      this.open.set(n, { resolve: resolve as (value: unknown) => void, reject });
      thread.postMessage({ n, question });
    });
  }

  /** Gives up what it does. */
  stop(reason: string): void {
    const thread = this.thread;
    this.thread = undefined;
    void thread?.terminate();
    for (const { reject } of this.open.values()) reject(new Error(reason));
    this.open.clear();
  }

  private start(): Worker {
    const thread = new Worker(this.program);
    thread.on('message', ({ n, told }: { n: number; told: Answer }) => {
      const waiting = this.open.get(n);
      this.open.delete(n);
      if ('value' in told) waiting?.resolve(told.value);
      else waiting?.reject(told.final ? new Final(told.problem) : new Error(told.problem));
    });
    thread.on('error', (error) => this.thread === thread && this.stop(error.message));
    return thread;
  }
}
