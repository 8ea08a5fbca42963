import { defineConfig } from '@playwright/test';
import { launchOptions } from '../scripts/browser.mjs';

const port = 4499;

export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  timeout: 150_000,
  expect: { timeout: 15_000 },
  workers: 2,
  // A shared machine may stall for seconds; a test that needed its second try is said to be flaky in the summary.
  retries: process.env.CI ? 1 : 0,
  fullyParallel: true,
  reporter: process.env.DITCH_E2E_REPORT
    ? [['list'], ['json', { outputFile: process.env.DITCH_E2E_REPORT }]]
    : [['list']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions,
    // Files kept by the page answer for the server; only the test of that wants them.
    serviceWorkers: 'block',
  },
  webServer: {
    command: 'node packages/server/dist/main.js',
    cwd: '..',
    env: { PORT: String(port) },
    url: `http://127.0.0.1:${port}/health`,
    reuseExistingServer: false,
  },
});
