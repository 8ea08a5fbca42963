// How Chromium and the server are started here, as root and without a network; for tests, bench and pictures alike.
import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
export const launchOptions = {
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--no-first-run',
    '--disable-quic',
  ],
};

/** Serves the built app at `port` and opens a browser. */
export async function openBrowser(port) {
  const { chromium } = await import('@playwright/test');
  const server = spawn(process.execPath, ['packages/server/dist/main.js'], {
    cwd: fileURLToPath(new URL('..', import.meta.url)),
    env: { ...process.env, PORT: String(port) },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((resolve) => server.stdout.once('data', resolve));
  const browser = await chromium.launch(launchOptions).catch((error) => {
    server.kill();
    throw error;
  });
  return {
    browser,
    async close() {
      await browser.close();
      server.kill();
    },
  };
}
