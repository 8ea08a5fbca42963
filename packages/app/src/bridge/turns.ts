/** What a running job may ask and tell. */
export interface JobContext {
  /** Gives waiting messages a turn, as long as the job is held back; true when the job was cancelled. */
  pause(): Promise<boolean>;
  /** @param told what else there is to know by now, asked for only when it is sent */
  progress(done: number, told?: () => unknown): void;
  /** Whether what was found so far is enough. */
  enough(): boolean;
}

export class Cancelled extends Error {}

/** Milliseconds a job works before it lets messages in. */
const TURN = 25;

/**
 * Lets others have a turn when a job has worked long enough: tells its progress, and ends it when it was cancelled.
 * Returns without waiting, at the cost of a look at the clock, most of the time.
 */
export function turns(
  context: JobContext,
  told?: () => unknown,
): (done: number) => Promise<void> | undefined {
  let since = performance.now();
  return (done) => {
    if (performance.now() - since <= TURN) return undefined;
    context.progress(done, told);
    return context.pause().then((cancelled) => {
      if (cancelled) throw new Cancelled('cancelled');
      since = performance.now();
    });
  };
}

/** What something came to, or what is wrong with it in words. */
export type Reading<T> = { readonly value: T } | { readonly problem: string };
