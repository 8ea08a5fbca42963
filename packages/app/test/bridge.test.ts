import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { DataBlock } from '@ditch/core/network';
import type * as BridgeModule from '../src/bridge/bridge';
import { borrowed, lend } from '../src/bridge/lent';

interface Call {
  readonly id: string;
  readonly path: readonly string[];
  readonly argumentList: readonly { readonly value: unknown }[];
}

/** A worker that answers only when it is told to. */
class SilentWorker extends EventTarget {
  static readonly all: SilentWorker[] = [];
  readonly calls: Call[] = [];
  ended = false;
  constructor() {
    super();
    SilentWorker.all.push(this);
  }
  postMessage(call: Call): void {
    this.calls.push(call);
  }
  terminate(): void {
    this.ended = true;
  }
  say(data: unknown): void {
    this.dispatchEvent(Object.assign(new Event('message'), { data }));
  }
  /** Jobs asked for, by the ids that the bridge gave them. */
  get jobs(): number[] {
    return this.calls.filter((c) => c.path.join() === 'run').map((c) => c.argumentList[0].value as number);
  }
  answer(job: number, value: unknown): void {
    const call = this.calls.find((c) => c.path.join() === 'run' && c.argumentList[0].value === job)!;
    this.say({ id: call.id, type: 'RAW', value });
  }
}

describe('the bridge to the workers', () => {
  let bridge: typeof BridgeModule;
  const lost: string[] = [];
  beforeEach(async () => {
    vi.useFakeTimers();
    vi.resetModules();
    SilentWorker.all.length = 0;
    lost.length = 0;
    vi.stubGlobal('navigator', { hardwareConcurrency: 1 });
    vi.stubGlobal('Worker', SilentWorker);
    bridge = await import('../src/bridge/bridge');
    bridge.whenWorkerLost((message) => lost.push(message));
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });
  const ask = (options = {}) => {
    const state: { result?: unknown; error?: Error } = {};
    bridge.run('touchstone', { text: '', ports: 1 }, options).then(
      (result) => (state.result = result),
      (error: Error) => (state.error = error),
    );
    return state;
  };

  it('hand results and progress on', async () => {
    const told: number[] = [];
    const asked = ask({ onProgress: (d: number) => told.push(d) });
    const [worker] = SilentWorker.all;
    worker.say({ sign: worker.jobs[0], done: 0.5 });
    worker.answer(worker.jobs[0], { problem: 'x' });
    await vi.advanceTimersByTimeAsync(60_000);
    expect(told).toEqual([0.5]);
    expect(asked.result).toEqual({ problem: 'x' });
    expect(lost).toEqual([]);
  });

  it('replace one that falls silent, and say so; one that gives signs may take its time', async () => {
    const asked = ask();
    const [worker] = SilentWorker.all;
    for (let i = 0; i < 30; i++) {
      await vi.advanceTimersByTimeAsync(5000);
      worker.say({ sign: worker.jobs[0], done: i / 30 });
    }
    expect([worker.ended, lost]).toEqual([false, []]);
    await vi.advanceTimersByTimeAsync(14_000);
    expect(worker.ended).toBe(true);
    expect(asked.error).toBeInstanceOf(bridge.WorkerLost);
    expect(lost).toHaveLength(1);
    const again = ask();
    expect(SilentWorker.all).toHaveLength(2);
    SilentWorker.all[1].answer(SilentWorker.all[1].jobs[0], { value: 1 });
    await vi.advanceTimersByTimeAsync(0);
    expect(again.result).toEqual({ value: 1 });
  });

  it('give a job a worker of its own, which ends with the wish, or a while after the job', async () => {
    const control = new AbortController();
    const told: number[] = [];
    const request = { text: '', ports: 1 };
    const done = bridge.runApart('touchstone', request, { onProgress: (d) => told.push(d) });
    const given = bridge.runApart('touchstone', request, { signal: control.signal });
    const [first, second] = SilentWorker.all;
    first.say({ sign: 0, done: 0.5 });
    first.answer(0, { problem: 'x' });
    control.abort();
    await expect(given).rejects.toThrow('cancelled');
    expect(await done).toEqual({ problem: 'x' });
    expect([told, first.ended, second.ended]).toEqual([[0.5], false, true]);
    // It is there for the next, which hears nothing of the one before.
    const again = bridge.runApart('touchstone', request);
    expect(SilentWorker.all).toHaveLength(2);
    first.say({ sign: 0, done: 0.7 });
    const call = first.calls.at(-1)!;
    first.say({ id: call.id, type: 'RAW', value: { problem: 'y' } });
    expect(await again).toEqual({ problem: 'y' });
    expect(told).toEqual([0.5]);
    await vi.advanceTimersByTimeAsync(61_000);
    expect(first.ended).toBe(true);
  });

  it('end one that does not let go of a job that nobody wants, without a word', async () => {
    const control = new AbortController();
    const first = ask({ signal: control.signal });
    const [worker] = SilentWorker.all;
    control.abort();
    await vi.advanceTimersByTimeAsync(0);
    expect(first.error?.name).toBe('AbortError');
    const second = ask();
    await vi.advanceTimersByTimeAsync(2500);
    expect(worker.ended).toBe(true);
    expect(second.error).toBeInstanceOf(bridge.WorkerLost);
    expect(lost).toEqual([]);
    // One that lets go stays.
    const next = new AbortController();
    ask({ signal: next.signal });
    const worker2 = SilentWorker.all.at(-1)!;
    next.abort();
    worker2.answer(worker2.jobs[0], undefined);
    await vi.advanceTimersByTimeAsync(5000);
    expect(worker2.ended).toBe(false);
  });

  it('give data once to each worker, which knows it by its number from then on', async () => {
    const block = (id: string): DataBlock =>
      ({ id, ports: 1, freq: [1e9], re: [0], im: [0], z0: [[50, 0]], name: id, origin: 'imported' }) as const;
    const kept = new Map<number, DataBlock>();
    /** What a worker makes of the data of a request, and how long that was on the way. */
    const sent = (data: readonly DataBlock[]) => {
      void bridge.run('simulate', { tasks: [], data }).catch(() => undefined);
      const worker = SilentWorker.all.at(-1)!;
      const request = worker.calls.at(-1)!.argumentList[2].value;
      const got = borrowed(request, kept) as { data: DataBlock[] };
      return { data: got.data, length: JSON.stringify(request).length };
    };
    const blocks = Array.from({ length: 100 }, (_, i) => block(`block ${i}`));
    const [whole, again] = [sent(blocks.slice(0, 2)), sent(blocks.slice(0, 2))];
    for (const { data } of [whole, again]) expect(data).toEqual(blocks.slice(0, 2));
    expect(again.length).toBeLessThan(whole.length / 3);
    expect(again.data[0]).toBe(whole.data[0]);
    // It does not keep all that ever was.
    for (const one of [...blocks, blocks[0]]) expect(sent([blocks[99], one]).data).toEqual([blocks[99], one]);
    expect(kept.size).toBeLessThanOrEqual(65);
    // One that takes its place has nothing.
    await vi.advanceTimersByTimeAsync(60_000);
    kept.clear();
    expect(sent([blocks[99]]).data).toEqual([blocks[99]]);
    expect(SilentWorker.all.length).toBeGreaterThan(1);
    // A project brings its own; what comes as it is stays so.
    const project = { data: [blocks[0]] };
    const given = new Set<number>();
    for (let i = 0; i < 2; i++)
      expect(borrowed(lend({ project, plane: 1 }, given), kept)).toEqual({ project, plane: 1 });
    expect(borrowed({ data: [blocks[1]] }, kept)).toEqual({ data: [blocks[1]] });
    expect(borrowed(lend({ text: 'x' }, given), kept)).toEqual({ text: 'x' });
  });
});
