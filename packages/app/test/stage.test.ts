import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { readProject } from '@ditch/core/formats';
import demo from '../../../examples/ditchwater.ditch.json';
import type { SimulateRequest } from '../src/bridge/jobs';
import { behindHand, editDesign, useSession } from '../src/store/session';
import { Stage } from '../src/views/design/stage';

/** Milliseconds that the worker takes. */
let takes = 0;
vi.mock('../src/bridge/bridge', () => ({
  run: (name: string, request: unknown, { signal }: { signal: AbortSignal }) =>
    new Promise((resolve, reject) => {
      signal.addEventListener('abort', () => reject(new DOMException('cancelled', 'AbortError')));
      if (name === 'walked') setTimeout(() => resolve({ arcs: [] }), takes);
      if (name !== 'simulate') return;
      const tasks = (request as SimulateRequest).tasks.map((t) => {
        const n = t.sweep?.points ?? 0;
        const freq = Float64Array.from({ length: n }, (_, k) => 1e9 + k);
        const swept = { ports: 1, freq, re: new Float64Array(n), im: freq.slice(), z0: [{ re: 50, im: 0 }] };
        return { ...(t.sweep && { swept }), ...(t.at && { exact: { ...swept, freq: freq.slice(0, 0) } }) };
      });
      setTimeout(() => resolve(tasks), takes);
    }),
  runApart: () => new Promise(() => undefined),
  WorkerLost: class extends Error {},
}));

describe('a step of the hand', () => {
  let stage: Stage;
  let close: () => void;
  /** When the page was drawn since it was asked last, with the load and whether its curves were there. */
  const drawn: { at: number; load: string; whole: boolean }[] = [];
  let since = 0;
  let ohms = 60;
  const project = readProject(JSON.stringify(demo));

  beforeEach(async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] });
    useSession.setState({ project, past: [], future: [] });
    stage = new Stage('lo-match');
    close = stage.open();
    stage.scene.subscribe(({ design, responses }) =>
      drawn.push({
        at: Math.round(performance.now() - since),
        load: design.values.find((v) => v.name === 'zl')!.value,
        whole: responses.current.has('ideal') && responses.current.has('modelled'),
      }),
    );
    await pass(500);
  });
  afterEach(() => {
    close();
    vi.useRealTimers();
  });
  const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);
  const now = () => {
    drawn.length = 0;
    since = performance.now();
  };
  /** Another load, always one that was not there before. */
  const step = (): string => {
    const load = `${(ohms += 0.1).toFixed(1)} ohm`;
    editDesign('lo-match', 'load', (design) => ({
      ...design,
      values: design.values.map((v) => (v.name === 'zl' ? { ...v, value: load } : v)),
    }));
    return load;
  };
  const behind = () => behindHand(step);
  /** A step by itself, and all that is drawn of it. */
  const alone = async (ms: number) => {
    takes = ms;
    now();
    const load = behind();
    await pass(600);
    return drawn.map((d) => [d.at, d.load === load, d.whole]);
  };

  it('is drawn once, with its curves, where they come within a tenth of a second', async () => {
    // Nothing is known of them yet: the copper does not wait for longer than half of that.
    expect(await alone(75)).toEqual([
      [50, true, false],
      [75, true, true],
    ]);
    expect(await alone(75)).toEqual([[75, true, true]]);
    expect(await alone(20)).toEqual([[20, true, true]]);
    // What turns out to take long is drawn without, and from then on the copper does not wait for it.
    expect(await alone(300)).toEqual([
      [100, true, false],
      [300, true, true],
    ]);
    expect((await alone(300))[0]).toEqual([50, true, false]);
  });

  it('is drawn without them under a hand that moves on, and those of one frame are worked out once', async () => {
    await alone(80);
    now();
    const loads = [behind()];
    for (const wait of [16, 16, 16, 16]) {
      await pass(wait);
      loads.push(behind());
    }
    await pass(600);
    expect(drawn[0]).toEqual({ at: 50, load: loads[3], whole: false });
    expect(drawn.at(-1)).toMatchObject({ load: loads[4], whole: true });
    const { resolved } = stage.get();
    now();
    behind();
    const last = behind();
    expect([stage.waits, stage.get().resolved === resolved]).toEqual([true, true]);
    // Whoever needs it at once has it at once.
    stage.publish();
    expect(drawn).toEqual([{ at: 0, load: last, whole: false }]);
    expect(stage.waits).toBe(false);
  });

  it('is drawn at once where no hand shows it already', async () => {
    await alone(20);
    now();
    const load = step();
    expect(drawn.at(-1)).toEqual({ at: 0, load, whole: false });
    await pass(600);
    expect(drawn.at(-1)).toMatchObject({ at: 20, load, whole: true });
  });
});
