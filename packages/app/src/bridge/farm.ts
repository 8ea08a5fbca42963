import { copperTo, solutionFrom, type FileSolution } from '@ditch/core/formats';
import type { SolveRequest, SolveState } from './solve';
import { useWhere } from './where';

/** What the server offers. */
export interface Farm {
  readonly offered: boolean;
  /** It wants to be shown a token. */
  readonly token?: boolean;
  readonly workers?: number;
  readonly waiting?: number;
  readonly active?: number;
  /** Why it does not let this browser in. */
  readonly refused?: string;
}

const headers = (): Record<string, string> => {
  const { token } = useWhere.getState();
  return token === '' ? {} : { authorization: `Bearer ${token}` };
};

const wordsOf = async (response: Response): Promise<string> => {
  try {
    const { error, message } = (await response.json()) as { error?: string; message?: string };
    return error ?? message ?? response.statusText;
  } catch {
    return response.statusText;
  }
};

/** What the server offers, and how busy it is; nothing where it does not answer. */
export async function askFarm(signal?: AbortSignal): Promise<Farm> {
  try {
    const offer = (await (await fetch('/api/farm', { signal })).json()) as Farm;
    if (!offer.offered) return { offered: false };
    if (offer.token && useWhere.getState().token === '') return { ...offer, refused: 'it needs a token' };
    const state = await fetch('/api/farm/state', { headers: headers(), signal });
    return state.ok
      ? { ...offer, ...((await state.json()) as Partial<Farm>) }
      : { ...offer, refused: await wordsOf(state) };
  } catch {
    return { offered: false };
  }
}

/** Solutions of one family sent at once, at most. */
const MOST_LANES = 32;

/** How many solutions are worth sending at once. */
export const farmLanes = async (): Promise<number> =>
  Math.min(MOST_LANES, Math.max(1, (await askFarm()).workers ?? 1));

/** Times that a lost connection is taken up again, and milliseconds between. */
const TIMES = 30;
const WAIT = 1500;

/** The stream has ended without an answer. */
class Dropped extends Error {}

type Told = (done: number, state: SolveState | undefined) => void;

const stateOf = (solution: FileSolution): SolveState => {
  const { samples, error, unknowns, ports, resonances, warnings } = solutionFrom(solution);
  return { samples, error, unknowns, ports, resonances, warnings };
};

/** Listens to a solution until it has an answer. @throws Dropped where the connection is lost */
async function listen(id: string, onTold: Told, signal: AbortSignal): Promise<SolveState> {
  const response = await fetch(`/api/farm/solutions/${id}/events`, { headers: headers(), signal }).catch(
    (error: unknown) => {
      throw signal.aborted ? error : new Dropped();
    },
  );
  if (!response.ok || !response.body) {
    if (response.status >= 500) throw new Dropped();
    throw new Error(await wordsOf(response));
  }
  const reader = response.body.getReader();
  const decoder = new TextDecoder();
  let text = '';
  for (;;) {
    const { done, value } = await reader.read().catch((error: unknown) => {
      throw signal.aborted ? error : new Dropped();
    });
    if (done) throw new Dropped();
    text += decoder.decode(value, { stream: true });
    for (let at = text.indexOf('\n\n'); at >= 0; at = text.indexOf('\n\n')) {
      const [, event, data] = /^event: (\w+)\ndata: (.*)$/.exec(text.slice(0, at)) ?? [];
      text = text.slice(at + 2);
      if (!event) continue;
      const told = JSON.parse(data) as {
        done?: number;
        partial?: FileSolution;
        solution?: FileSolution;
        message?: string;
      };
      if (event === 'done') return stateOf(told.solution!);
      if (event === 'failed') throw new Error(told.message);
      if (event === 'progress') onTold(told.done ?? 0, told.partial && stateOf(told.partial));
    }
  }
}

/**
 * Solves copper on the server's workers. Sent are the copper, the board, the ports, the band and the accuracy, and nothing else.
 * @throws Error in words; an AbortError where `signal` aborts, upon which the server is told
 */
export async function solveOnFarm(
  { copper, band, accuracy }: SolveRequest,
  onTold: Told,
  signal: AbortSignal,
): Promise<SolveState> {
  const ask = () =>
    fetch('/api/farm/solutions', {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers() },
      body: JSON.stringify({ copper: copperTo(copper), start: band.start, stop: band.stop, accuracy }),
      signal,
    });
  let id: string | undefined;
  for (let k = 0; ; k++)
    try {
      const response = await ask().catch((error: unknown) => {
        throw signal.aborted ? error : new Dropped();
      });
      if (response.status >= 500) throw new Dropped();
      if (!response.ok) throw new Error(`the server refuses it: ${await wordsOf(response)}`);
      ({ id } = (await response.json()) as { id: string });
      return await listen(id, onTold, signal);
    } catch (error) {
      if (signal.aborted) {
        if (id !== undefined)
          void fetch(`/api/farm/solutions/${id}`, {
            method: 'DELETE',
            headers: headers(),
            keepalive: true,
          }).catch(() => undefined);
        throw new DOMException('cancelled', 'AbortError');
      }
      if (!(error instanceof Dropped)) throw error;
      if (k === TIMES)
        throw new Error('the server does not answer; solve it in this browser, or try again later', {
          cause: error,
        });
      // What is under way there goes on meanwhile.
      await new Promise((resolve) => setTimeout(resolve, WAIT));
    }
}
