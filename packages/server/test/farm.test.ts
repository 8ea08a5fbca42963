import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer as createSocket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FastifyInstance } from 'fastify';
import { copperTo, solutionFrom, type FileSolution } from '@ditch/core/formats';
import { pace } from '@ditch/core/numeric';
import { prepareSteps, type Copper, type Point } from '@ditch/core/planar';
import { bundle, serverOptions } from '../../../scripts/bundle.mjs';
import { createServer } from '../src/server';

const hasRedis = spawnSync('redis-server', ['--version']).status === 0;
if (!hasRedis)
  process.stderr.write(
    'redis-server is not installed (Debian: redis-server): the tests of the farm are left out\n',
  );

const program = fileURLToPath(new URL('../dist/worker.test.js', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'ditch-farm-'));
const children = new Set<ChildProcess>();
let port = 0;
let server: FastifyInstance;
let base = '';

const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = createSocket().listen(0, '127.0.0.1', () => {
      const { port: own } = probe.address() as { port: number };
      probe.close(() => resolve(own));
    });
  });
const until = async (what: () => boolean | Promise<boolean>, ms = 40_000): Promise<void> => {
  const end = Date.now() + ms;
  while (!(await what())) {
    if (Date.now() > end) throw new Error('it did not come to be');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
};

/** A queue that keeps what it knows through a restart. */
function redis(): ChildProcess {
  const own = spawn(
    'redis-server',
    ['--port', String(port), '--dir', folder, '--appendonly', 'yes', '--appendfsync', 'always', '--save', ''],
    { stdio: 'ignore' },
  );
  children.add(own);
  return own;
}

interface Hand {
  readonly process: ChildProcess;
  readonly lines: string[];
}
async function worker(): Promise<Hand> {
  const own = spawn(process.execPath, [program], {
    env: { ...process.env, DITCH_QUEUE: `redis://127.0.0.1:${port}`, DITCH_LOCK: '2000' },
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  children.add(own);
  const lines: string[] = [];
  own.stdout.on('data', (d: Buffer) => lines.push(...d.toString().split('\n').filter(Boolean)));
  await until(() => lines.length > 0);
  return { process: own, lines };
}
const stop = async (own: ChildProcess, signal: NodeJS.Signals = 'SIGTERM') => {
  children.delete(own);
  if (own.exitCode !== null || own.signalCode !== null) return;
  const gone = new Promise((resolve) => own.once('exit', resolve));
  own.kill(signal);
  await gone;
};

/** A line with an open stub of some length, mm, between two ports. */
function stub(long: number): Copper {
  const mm = (points: readonly (readonly [number, number])[]) =>
    points.map(([x, y]): Point => [x * 1e-3, y * 1e-3]);
  return {
    layers: {
      below: { er: 2.94, tand: 0.0012, height: 0.508e-3 },
      above: { er: 1, tand: 0, height: Infinity },
    },
    metal: { thickness: 0, conductivity: 5.8e7, roughness: 0 },
    polygons: [
      mm([
        [0, 0],
        [10, 0],
        [10, 1.3],
        [0, 1.3],
      ]),
      mm([
        [4.5, 1.3],
        [5.5, 1.3],
        [5.5, 1.3 + long],
        [4.5, 1.3 + long],
      ]),
    ],
    ports: [0, 10].map((x, i) => ({
      number: i + 1,
      edge: [
        [x * 1e-3, 0],
        [x * 1e-3, 1.3e-3],
      ] as const,
      plane: 0,
      z0: 50,
    })),
  };
}

const ask = (path: string, init: RequestInit = {}, at = base) => fetch(`${at}${path}`, init);
async function begin(copper: Copper, accuracy = 'draft', stopAt = 12e9): Promise<string> {
  const response = await ask('/api/farm/solutions', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ copper: copperTo(copper), start: 8e9, stop: stopAt, accuracy }),
  });
  expect(response.status).toBe(202);
  return ((await response.json()) as { id: string }).id;
}
interface Heard {
  readonly events: { readonly event: string; readonly data: Record<string, unknown> }[];
  readonly end: Promise<void>;
  readonly close: () => void;
}
/** What a client hears of a solution. */
function listen(id: string): Heard {
  const events: Heard['events'] = [];
  const control = new AbortController();
  const end = (async () => {
    const response = await ask(`/api/farm/solutions/${id}/events`, { signal: control.signal });
    const decoder = new TextDecoder();
    let text = '';
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      text += decoder.decode(chunk, { stream: true });
      for (let at = text.indexOf('\n\n'); at >= 0; at = text.indexOf('\n\n')) {
        const [, event, data] = /^event: (\w+)\ndata: (.*)$/.exec(text.slice(0, at)) ?? [];
        if (event) events.push({ event, data: JSON.parse(data) as Record<string, unknown> });
        text = text.slice(at + 2);
      }
    }
  })().catch((error: unknown) => {
    if (!control.signal.aborted) throw error;
  });
  return { events, end, close: () => control.abort() };
}
/** Waits for a solution's end. */
async function solved(id: string): Promise<FileSolution> {
  const heard = listen(id);
  await heard.end;
  const last = heard.events.at(-1)!;
  expect([last.event, last.data.message]).toEqual(['done', undefined]);
  return last.data.solution as FileSolution;
}

describe.skipIf(!hasRedis)('a farm on a real queue', { timeout: 120_000 }, () => {
  let queue: ChildProcess;
  beforeAll(async () => {
    await bundle(fileURLToPath(new URL('../src/worker.ts', import.meta.url)), program, serverOptions);
    port = await freePort();
    queue = redis();
    server = await createServer({ root: folder, farm: { url: `redis://127.0.0.1:${port}` } });
    base = await server.listen({ host: '127.0.0.1', port: 0 });
  });
  afterAll(async () => {
    await server.close();
    await Promise.all([...children].map((c) => stop(c, 'SIGKILL')));
    rmSync(folder, { recursive: true, force: true });
    rmSync(program, { force: true });
  });

  it('solves what the page would, once for everybody who asks, and tells it as it comes', async () => {
    const [first, second] = await Promise.all([worker(), worker()]);
    const copper = stub(4);
    const ids = await Promise.all([begin(copper), begin(copper), begin(stub(3))]);
    expect(ids[0]).toBe(ids[1]);
    const [one, again, other] = await Promise.all(ids.map(solved));
    expect(again).toEqual(one);
    expect(other.copper).not.toEqual(one.copper);
    const takes = [...first.lines, ...second.lines].filter((l) => l.includes(`takes ${ids[0]}`));
    expect(takes.length).toBe(1);
    // Asked for once more it is there already.
    expect(await solved(await begin(copper))).toEqual(one);
    const own = solutionFrom(one);
    expect([own.complete, own.accuracy]).toEqual([true, 'draft']);
    const prepared = await pace(prepareSteps(copper, { start: 8e9, stop: 12e9 }, 'draft'), () => undefined);
    for (const { x, re, im } of own.samples.slice(0, 3)) {
      const here = prepared.at(x);
      here.re.forEach((v, k) => expect(re[k]).toBeCloseTo(v, 6));
      here.im.forEach((v, k) => expect(im[k]).toBeCloseTo(v, 6));
    }
    // Of one large solution alone whoever is free takes a part.
    const large = await begin(stub(7), 'fine', 16e9);
    expect((await solved(large)).unknowns).toBeGreaterThan(250);
    await until(() => [...first.lines, ...second.lines].some((l) => l.includes(`helps with ${large}`)));
    await Promise.all([stop(first.process), stop(second.process)]);
  });

  it('goes on with another worker where one is killed in the middle, and through a restart of the queue', async () => {
    const victim = await worker();
    const id = await begin(stub(5.2), 'fine', 20e9);
    const heard = listen(id);
    await until(() => heard.events.some((e) => e.event === 'progress'));
    await stop(victim.process, 'SIGKILL');
    const heir = await worker();
    await until(() => heir.lines.some((l) => l.includes(`takes ${id}`)));
    // The queue goes away under it, and comes back with what it knew.
    await stop(queue, 'SIGKILL');
    await new Promise((resolve) => setTimeout(resolve, 500));
    queue = redis();
    await heard.end;
    expect(heard.events.at(-1)!.event).toBe('done');
    const done = heard.events.filter((e) => e.event === 'progress').map((e) => Number(e.data.done));
    expect(done.length).toBeGreaterThan(0);
    await stop(heir.process);
  });

  it('gives up what nobody waits for any more, and asks for it anew where somebody does', async () => {
    const hand = await worker();
    const id = await begin(stub(6.1), 'fine', 20e9);
    const heard = listen(id);
    await until(() => hand.lines.some((l) => l.includes(`takes ${id}`)));
    // As a page does it: the stream is left and the wish taken back at once. Another who listens keeps it.
    const other = listen(id);
    await until(() => other.events.length > 0);
    heard.close();
    await ask(`/api/farm/solutions/${id}`, { method: 'DELETE' });
    await heard.end;
    await new Promise((resolve) => setTimeout(resolve, 700));
    expect(hand.lines.some((l) => l.includes('gives up'))).toBe(false);
    other.close();
    await until(() => hand.lines.some((l) => l.includes(`gives up ${id}: cancelled`)));
    // Free again at once for what is wanted.
    expect((await solved(await begin(stub(2)))).complete).toBe(true);
    await stop(hand.process);
  });

  it('says in words what cannot be solved, what is too much, and lets in only who may', async () => {
    const hand = await worker();
    const apart: Copper = {
      ...stub(4),
      ports: stub(4).ports.map((p) => ({
        ...p,
        edge: [
          [1, 1],
          [1, 1.001],
        ] as const,
      })),
    };
    const heard = listen(await begin(apart));
    await heard.end;
    expect(heard.events.at(-1)!.event).toBe('failed');
    expect(heard.events.at(-1)!.data.message).toMatch(/port 1/);
    await stop(hand.process);
    const post = (body: unknown, headers: Record<string, string> = {}, at = base) =>
      ask(
        '/api/farm/solutions',
        {
          method: 'POST',
          headers: { 'content-type': 'application/json', ...headers },
          body: JSON.stringify(body),
        },
        at,
      );
    const good = { copper: copperTo(stub(4)), start: 8e9, stop: 12e9, accuracy: 'draft' };
    expect((await post({ ...good, accuracy: 'perfect' })).status).toBe(400);
    expect((await post({ ...good, start: '8e9' })).status).toBe(400);
    expect((await post({ ...good, name: 'mine' })).status).toBe(400);
    expect((await post({ ...good, stop: 1e9 })).status).toBe(413);
    const many = Array.from({ length: 9000 }, (_, i): Point => [i * 1e-6, (i % 7) * 1e-6]);
    expect((await post({ ...good, copper: { ...good.copper, polygons: [many, many, many] } })).status).toBe(
      413,
    );
    expect((await ask('/api/farm/solutions/none/events')).status).toBe(404);
    const stranger = await server.inject({ url: '/api/farm/state', headers: { host: 'elsewhere.example' } });
    expect(stranger.statusCode).toBe(403);
    const token = 'a-token-of-this-test-alone';
    const locked = await createServer({ root: folder, farm: { url: `redis://127.0.0.1:${port}`, token } });
    expect((await locked.inject('/api/farm')).json()).toEqual({ offered: true, token: true });
    const state = (authorization?: string) =>
      locked.inject({ url: '/api/farm/state', headers: { ...(authorization && { authorization }) } });
    expect((await state()).statusCode).toBe(401);
    expect((await state('Bearer wrong')).statusCode).toBe(401);
    expect((await state(`Bearer ${token}`)).json()).toMatchObject({ active: 0 });
    await locked.close();
  });

  it('closes at once, server and worker, with a page that still listens and a queue that is away', async () => {
    const hand = await worker();
    const id = await begin(stub(6.6), 'fine', 20e9);
    const heard = listen(id);
    await until(() => hand.lines.some((l) => l.includes(`takes ${id}`)) && heard.events.length > 0);
    await stop(queue, 'SIGKILL');
    await new Promise((resolve) => setTimeout(resolve, 300));
    const late = new Promise((resolve) => setTimeout(resolve, 20_000, 'late').unref());
    const closed = server
      .close()
      .then(() => heard.end.catch(() => undefined))
      .then(() => 'closed');
    expect(await Promise.race([closed, late])).toBe('closed');
    expect(await Promise.race([stop(hand.process).then(() => 'ended'), late])).toBe('ended');
  });
});
