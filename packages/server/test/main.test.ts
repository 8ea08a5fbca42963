import { spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { fileURLToPath } from 'node:url';
import { beforeAll, expect, it } from 'vitest';
import { bundle, serverOptions } from '../../../scripts/bundle.mjs';

// Beside the sources, because the bundle finds its packages and the app's folder from where it stands.
const program = fileURLToPath(new URL('../dist/main.test.js', import.meta.url));

beforeAll(async () => {
  await bundle(fileURLToPath(new URL('../src/main.ts', import.meta.url)), program, serverOptions);
});

const run = (env: Record<string, string>) =>
  spawnSync(process.execPath, [program], {
    encoding: 'utf8',
    timeout: 20_000,
    env: { ...process.env, ...env },
  });

it('refuses a port that is none, and one that is taken, in one line', async () => {
  const wrong = run({ PORT: 'eighty' });
  expect(wrong.status).toBe(2);
  expect(wrong.stderr.trim()).toBe('PORT: must be a whole number from 0 to 65535 (got "eighty")');
  const blocker = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => blocker.once('listening', resolve));
  const { port } = blocker.address() as { port: number };
  const taken = run({ PORT: String(port) });
  expect(taken.status).toBe(1);
  expect(taken.stderr).toContain(`port ${port} is taken; set PORT to another one`);
  blocker.close();
});

it('tells its address, listens on the loopback only, and stops when told', async () => {
  const server = spawn(process.execPath, [program], {
    env: { ...process.env, PORT: '0' },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const line = await new Promise<string>((resolve) =>
    server.stdout.once('data', (d: Buffer) => resolve(d.toString())),
  );
  const address = /^Ditch is at (http:\/\/127\.0\.0\.1:\d+)\n$/.exec(line)?.[1];
  expect(address).toBeDefined();
  expect(await (await fetch(`${address}/health`)).json()).toEqual({ ok: true });
  const ended = new Promise((resolve) => server.once('exit', resolve));
  server.kill('SIGTERM');
  expect(await ended).toBe(0);
});
