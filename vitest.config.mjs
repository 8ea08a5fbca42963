import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // No test is a stopwatch: a busy machine may take its time.
    testTimeout: 60_000,
    setupFiles: ['scripts/seed.mjs'],
    include: ['packages/*/test/**/*.test.ts'],
    reporters: process.env.DITCH_REPORT
      ? ['default', ['json', { outputFile: process.env.DITCH_REPORT }]]
      : ['default'],
  },
});
