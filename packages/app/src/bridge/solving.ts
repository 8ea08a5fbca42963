import type { KeptSolution } from '@ditch/core/planar';
import { runApart, WorkerLost } from './bridge';
import type { SolveRequest, SolveState } from './solve';

/** Workers that solve beside one another. */
export const WORKERS = (globalThis.navigator?.hardwareConcurrency ?? 2) > 1 ? 2 : 1;

/** Memory that two workers may take together, bytes; above it one works alone. */
const TOGETHER = 1.2e9;

/**
 * Solves copper in workers of its own, two where the machine has cores for them. What it knows by then is told as it comes.
 * @param bytes of one worker
 * @throws Error in words; an AbortError where `signal` aborts, at once
 */
export async function solveApart(
  request: SolveRequest,
  known: KeptSolution | undefined,
  bytes: number,
  onTold: (done: number, state: SolveState | undefined) => void,
  signal: AbortSignal,
): Promise<SolveState> {
  const control = new AbortController();
  const own = new AbortController();
  const give = () => own.abort();
  signal.addEventListener('abort', give);
  if (signal.aborted) give();
  let helper: MessagePort | undefined;
  let lost: Error | undefined;
  if (WORKERS > 1 && 2 * bytes < TOGETHER) {
    const { port1, port2 } = new MessageChannel();
    helper = port1;
    runApart('assist', { ...request, port: port2 }, { signal: control.signal, transfer: [port2] }).catch(
      (error: unknown) => {
        // Whoever waits for it would wait for ever.
        if (control.signal.aborted) return;
        lost = error instanceof Error ? error : new WorkerLost(String(error));
        own.abort();
      },
    );
  }
  try {
    const reading = await runApart(
      'solve',
      { ...request, known: known?.samples ?? [], ...(helper && { helper }) },
      {
        signal: own.signal,
        transfer: helper ? [helper] : [],
        onProgress: (done, told) => onTold(done, told as SolveState | undefined),
      },
    );
    if ('problem' in reading) throw new Error(reading.problem);
    return reading.value;
  } catch (error) {
    control.abort();
    throw lost && !signal.aborted ? lost : error;
  } finally {
    signal.removeEventListener('abort', give);
  }
}
