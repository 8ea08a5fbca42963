import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createServer } from 'node:net';
import { fileURLToPath } from 'node:url';
import { expect, expectAccessible, levels, test } from './fixtures';

const hasRedis = spawnSync('redis-server', ['--version']).status === 0;
const root = fileURLToPath(new URL('..', import.meta.url));
const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });

test('copper is solved on a server of one’s own, nameless, and stopped there', async ({ page }) => {
  test.skip(!hasRedis, 'redis-server is not installed');
  const [queue, port] = [await freePort(), await freePort()];
  const url = `redis://127.0.0.1:${queue}`;
  const token = 'a-token-of-this-test-alone';
  const running: ChildProcess[] = [];
  const begin = async (command: string, args: readonly string[], env: Record<string, string> = {}) => {
    const own = spawn(command, args, {
      cwd: root,
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    running.push(own);
    await new Promise((resolve) => own.stdout.once('data', resolve));
  };
  try {
    await begin('redis-server', ['--port', String(queue), '--save', '', '--dir', '/tmp']);
    const env = { DITCH_QUEUE: url, DITCH_TOKEN: token, PORT: String(port) };
    await begin(process.execPath, ['packages/server/dist/main.js'], env);
    await begin(process.execPath, ['packages/server/dist/worker.js'], env);

    const at = `http://127.0.0.1:${port}`;
    await page.goto(at);
    await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toBeVisible();
    await page.goto(`${at}/p/ditchwater/design/detector-match`);
    const details = levels(page).getByRole('button', { name: /^the solved level/ });
    await details.click();
    await page.getByRole('radio', { name: 'on the server' }).click();
    await expect(page.getByText('it needs a token')).toBeVisible();
    await page.getByLabel('token of the server').fill(token);
    await expect(
      page.getByText(/1 worker, 0 waiting\. Sent are the copper, the board and the ports; no names\./),
    ).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('radio', { name: /^draft/ }).press('Space');
    const sent = page.waitForRequest((r) => r.url().endsWith('/api/farm/solutions') && r.method() === 'POST');
    await page
      .getByRole('button', { name: /^Solve/ })
      .last()
      .click();
    const body = (await sent).postData()!;
    expect(Object.keys(JSON.parse(body) as object).sort()).toEqual(['accuracy', 'copper', 'start', 'stop']);
    expect(body).not.toMatch(/detector|Ditchwater|PTFE|stub/i);
    await expect(
      levels(page)
        .getByText(/solved/)
        .first(),
    ).toBeVisible();
    await details.click();
    await expect(page.getByText(/^draft, \d+ unknowns/)).toBeVisible({ timeout: 60_000 });
  } finally {
    for (const own of running) own.kill('SIGKILL');
  }
});
