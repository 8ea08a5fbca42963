import type { KeptSolution } from '@ditch/core/planar';
import { runApart } from './bridge';
import type { SolveRequest, SolveState } from './solve';

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
  const cores = globalThis.navigator?.hardwareConcurrency ?? 2;
  let helper: MessagePort | undefined;
  if (cores > 1 && 2 * bytes < TOGETHER) {
    const { port1, port2 } = new MessageChannel();
    helper = port1;
    // A helper that dies before it is ready is not missed; one that dies later is, and the solution is begun anew.
    runApart('assist', { ...request, port: port2 }, { signal: control.signal, transfer: [port2] }).catch(
      () => undefined,
    );
  }
  try {
    const reading = await runApart(
      'solve',
      { ...request, known: known?.samples ?? [], ...(helper && { helper }) },
      {
        signal,
        transfer: helper ? [helper] : [],
        onProgress: (done, told) => onTold(done, told as SolveState | undefined),
      },
    );
    if ('problem' in reading) throw new Error(reading.problem);
    return reading.value;
  } finally {
    control.abort();
  }
}
