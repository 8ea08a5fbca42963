import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['packages/*/test/**/*.test.ts'],
    reporters: process.env.DITCH_REPORT
      ? ['default', ['json', { outputFile: process.env.DITCH_REPORT }]]
      : ['default'],
  },
});
