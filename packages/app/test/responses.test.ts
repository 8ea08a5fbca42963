import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { readProject } from '@ditch/core/formats';
import { liveLevels } from '@ditch/core/levels';
import { resolveDesign } from '@ditch/core/network';
import demo from '../../../examples/ditchwater.ditch.json';
import type { SimulateRequest, Simulated } from '../src/bridge/jobs';
import type { ResponseStore as Store, Task, Wanted } from '../src/responses/store';

interface Call {
  readonly request: SimulateRequest;
  readonly apart: boolean;
  readonly signal: AbortSignal;
  readonly answer: () => void;
}
const calls: Call[] = [];
const ask =
  (apart: boolean) =>
  (_name: string, request: SimulateRequest, { signal }: { signal: AbortSignal }) =>
    new Promise<Simulated[]>((resolve, reject) => {
      signal.addEventListener('abort', () => reject(new DOMException('cancelled', 'AbortError')));
      const data = (points: number) => ({
        ports: 1,
        freq: Float64Array.from({ length: points }, (_, k) => 1e9 + k),
        re: new Float64Array(points),
        im: new Float64Array(points),
        z0: [{ re: 50, im: 0 }],
      });
      const answer = () =>
        resolve(
          request.tasks.map((t) => ({
            ...(t.sweep && { swept: data(t.sweep.points) }),
            ...(t.at && { exact: data(t.at.length) }),
          })),
        );
      calls.push({ request, apart, signal, answer });
    });
vi.mock('../src/bridge/bridge', () => ({
  run: ask(false),
  runApart: ask(true),
  WorkerLost: class extends Error {},
}));

const project = readProject(JSON.stringify(demo));
const resolved = resolveDesign(project, project.designs[0]);
const task = (id: string, more: Partial<Task> = {}): Task => {
  const level = liveLevels.find((l) => id.endsWith(l.id))!;
  return { id, level: level.id, subject: level.subject(resolved)!, ...more };
};
/** Frequencies of a sweep that no other test has asked for. */
let nth = 0;
const wish = (tasks: readonly Task[], points = 11): Wanted => ({
  tasks,
  sweep: { start: 1e9, stop: 2e9 + nth++, points },
  data: [],
});
const first = liveLevels.map((l) => task(l.id, { first: true }));
const settled = async () => {
  for (let i = 0; i < 12; i++) await new Promise((r) => setTimeout(r, 2));
};

describe('the responses of a view', () => {
  let ResponseStore: typeof Store;
  const open: Store[] = [];
  const made = (wanted?: Wanted): Store => {
    const store = new ResponseStore(wanted);
    open.push(store);
    return store;
  };
  beforeEach(async () => {
    calls.length = 0;
    await import('../src/responses/long');
    ({ ResponseStore } = await import('../src/responses/store'));
  });
  afterEach(() => {
    for (const store of open.splice(0)) store.close();
  });

  it('are told by id, those that belong together at once, and what follows behind does not hold them up', async () => {
    const store = made();
    const told: string[][] = [];
    store.subscribe(() => told.push([...store.get().current]));
    const plane = task('plane:p:modelled');
    store.want(wish([...first, { ...plane, subject: { ...plane.subject, f0: 1e9 } }]));
    expect(calls.map((c) => c.request.tasks.length)).toEqual([2, 1]);
    calls[0].answer();
    await settled();
    expect(told.at(-1)).toEqual(['ideal', 'modelled']);
    calls[1].answer();
    await settled();
    expect([...store.get().results.keys()]).toEqual(['ideal', 'modelled', 'plane:p:modelled']);
    // Those of one edit never stood apart.
    expect(told.some((ids) => ids.length === 1)).toBe(false);
  });

  it('are there at once where they are known, and stay until others have come; only silence makes them old', async () => {
    const wanted = wish(first);
    const store = made();
    store.want(wanted);
    calls[0].answer();
    await settled();
    const { results } = store.get();
    expect(made(wanted).get().results).toEqual(results);
    store.want(wanted);
    expect(calls).toHaveLength(1);
    store.want(wish(first));
    expect([store.get().results, store.get().current.size, store.get().waiting]).toEqual([results, 0, false]);
    await new Promise((r) => setTimeout(r, 450));
    expect(store.get().waiting).toBe(true);
    calls[1].answer();
    await settled();
    expect([store.get().waiting, store.get().current.size]).toEqual([false, 2]);
  });

  it('that take long have a worker of their own, which ends with the wish, and are kept in the database', async () => {
    const long = wish([first[1]], 100_001);
    const store = made();
    store.want(long);
    await settled();
    expect(calls.map((c) => c.apart)).toEqual([true]);
    expect([store.get().waiting, store.get().progress]).toEqual([true, 0]);
    store.want(wish([first[1]], 100_001));
    expect(calls[0].signal.aborted).toBe(true);
    await settled();
    store.want(long);
    await settled();
    expect(calls).toHaveLength(3);
    calls[2].answer();
    await settled();
    expect(store.get().results.get('modelled')?.data.freq).toHaveLength(100_001);
    const { db } = await import('../src/store/db');
    await vi.waitFor(async () => expect(await db.responses.count()).toBe(1));
    // A page that is loaded anew has nothing in memory.
    const { forget } = await import('../src/responses/kept');
    forget();
    const later = made();
    later.want(long);
    await vi.waitFor(() => expect(later.get().results.size).toBe(1));
    expect(calls).toHaveLength(3);
    expect(later.get().results.get('modelled')?.data.freq).toHaveLength(100_001);
  });

  it('begin when they are asked for where they wait for that, and are stopped and taken up again', async () => {
    const store = made();
    store.want(wish([task('modelled', { first: true, waits: true })], 100_001));
    await settled();
    expect(calls).toHaveLength(0);
    store.ask('modelled');
    await settled();
    expect(calls).toHaveLength(1);
    store.stop();
    expect([calls[0].signal.aborted, store.get().stopped, store.get().waiting]).toEqual([true, true, true]);
    store.resume();
    await settled();
    calls[1].answer();
    await settled();
    expect([store.get().stopped, store.get().waiting]).toEqual([false, false]);
  });
});
