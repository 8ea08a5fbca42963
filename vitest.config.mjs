import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // No test is a stopwatch: a busy machine may take its time.
    testTimeout: 60_000,
    hookTimeout: 60_000,
    // One worker per core; by default one core stays free, which is half of a small machine.
    maxWorkers: '100%',
    setupFiles: ['scripts/seed.mjs'],
    include: ['packages/*/test/**/*.test.ts'],
    reporters: process.env.DITCH_REPORT
      ? ['default', ['json', { outputFile: process.env.DITCH_REPORT }]]
      : ['default'],
  },
});
