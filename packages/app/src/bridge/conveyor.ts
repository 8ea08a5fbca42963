import { WorkerLost } from './bridge';

/** Runs a request; rejects with an AbortError when the signal aborts. */
export type Work<Q, R> = (request: Q, signal: AbortSignal) => Promise<R>;

export interface ConveyorEvents<Q, R> {
  readonly onResult: (result: R, request: Q) => void;
  readonly onError: (error: Error, request: Q) => void;
}

/** A request whose worker dies is asked for again this often. */
const RETRIES = 2;

/**
 * Carries requests to a worker one at a time. Of those that arrive while one is under way only the newest is kept, and
 * every result that is ready is handed on: what is drawn keeps up with a hand that does not pause, and nothing piles up
 * behind it.
 */
export class Conveyor<Q, R> {
  private running: { readonly request: Q; readonly control: AbortController } | undefined;
  private next: Q | undefined;

  constructor(
    private readonly work: Work<Q, R>,
    private readonly events: ConveyorEvents<Q, R>,
  ) {}

  /** Asks for `request`. @param atOnce the one under way takes too long to be waited for and is given up */
  want(request: Q, atOnce = false): void {
    if (this.running && !atOnce) {
      this.next = request;
      return;
    }
    this.stop();
    void this.run(request);
  }

  /** Whether something is under way or waits. */
  get isBusy(): boolean {
    return this.running !== undefined;
  }

  /** Gives up what is under way and what waits. */
  stop(): void {
    this.next = undefined;
    this.running?.control.abort();
    this.running = undefined;
  }

  private async run(request: Q, attempt = 0): Promise<void> {
    const turn = { request, control: new AbortController() };
    this.running = turn;
    const ended = () => this.running !== turn;
    try {
      const result = await this.work(request, turn.control.signal);
      if (!ended()) this.events.onResult(result, request);
    } catch (error) {
      if (ended()) return;
      if (error instanceof WorkerLost && attempt < RETRIES) return this.run(request, attempt + 1);
      this.events.onError(error instanceof Error ? error : new Error(String(error)), request);
    }
    // A listener may have asked for something else meanwhile.
    if (ended()) return;
    this.running = undefined;
    const { next } = this;
    this.next = undefined;
    if (next !== undefined) void this.run(next);
  }
}
