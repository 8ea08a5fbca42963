import { defineConfig } from '@playwright/test';
import { launchOptions } from '../scripts/browser.mjs';

const port = 4499;

export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  timeout: 150_000,
  expect: { timeout: 15_000 },
  workers: 2,
  fullyParallel: true,
  reporter: process.env.DITCH_E2E_REPORT
    ? [['list'], ['json', { outputFile: process.env.DITCH_E2E_REPORT }]]
    : [['list']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions,
  },
  webServer: {
    command: 'node packages/server/dist/main.js',
    cwd: '..',
    env: { PORT: String(port) },
    url: `http://127.0.0.1:${port}/health`,
    reuseExistingServer: false,
  },
});
