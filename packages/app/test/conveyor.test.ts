import { describe, expect, it, vi } from 'vitest';
import { Conveyor } from '../src/bridge/conveyor';

// The bridge opens web workers when it is used; here only its error is.
vi.stubGlobal('navigator', { hardwareConcurrency: 2 });
const { WorkerLost } = await import('../src/bridge/bridge');

/** Work that ends when it is told to, and tells what it was asked for. */
function bench() {
  const asked: {
    request: string;
    signal: AbortSignal;
    end: (r: string) => void;
    fail: (e: Error) => void;
  }[] = [];
  const results: string[] = [];
  const errors: string[] = [];
  const conveyor = new Conveyor<string, string>(
    (request, signal) =>
      new Promise((end, fail) => {
        asked.push({ request, signal, end, fail });
      }),
    {
      onResult: (result, request) => results.push(`${request}=${result}`),
      onError: (error, request) => errors.push(`${request}: ${error.message}`),
    },
  );
  const settled = () => new Promise((r) => setTimeout(r, 0));
  return { asked, results, errors, conveyor, settled };
}

describe('the conveyor to the worker', () => {
  it('hands on every result and keeps only the newest of what waits', async () => {
    const { asked, results, conveyor, settled } = bench();
    for (const request of ['a', 'b', 'c']) conveyor.want(request);
    expect(asked.map((a) => a.request)).toEqual(['a']);
    asked[0].end('1');
    await settled();
    // The hand did not pause: the result of an earlier value is drawn all the same, and b was never begun.
    expect(results).toEqual(['a=1']);
    expect(asked.map((a) => a.request)).toEqual(['a', 'c']);
    expect(asked[0].signal.aborted).toBe(false);
    asked[1].end('3');
    await settled();
    expect(results).toEqual(['a=1', 'c=3']);
  });

  it('gives up what takes too long when something else is wanted at once, and tells nothing of it', async () => {
    const { asked, results, errors, conveyor, settled } = bench();
    conveyor.want('long');
    conveyor.want('other', true);
    expect(asked[0].signal.aborted).toBe(true);
    asked[0].fail(new DOMException('cancelled', 'AbortError'));
    asked[1].end('x');
    await settled();
    conveyor.want('never', true);
    conveyor.want('waits');
    conveyor.stop();
    asked[2].end('late');
    await settled();
    expect(asked[2].signal.aborted).toBe(true);
    expect([results, errors]).toEqual([['other=x'], []]);
  });

  it('asks again when a worker dies, twice, and then says what happened; another error is told at once', async () => {
    const { asked, results, errors, conveyor, settled } = bench();
    conveyor.want('a');
    for (let i = 0; i < 3; i++) {
      asked[i].fail(new WorkerLost('the worker failed'));
      await settled();
    }
    expect(asked).toHaveLength(3);
    expect(errors).toEqual(['a: the worker failed']);
    conveyor.want('b');
    conveyor.want('c');
    asked[3].fail(new Error('singular'));
    await settled();
    expect(errors[1]).toBe('b: singular');
    asked[4].end('3');
    await settled();
    expect(results).toEqual(['c=3']);
  });
});
