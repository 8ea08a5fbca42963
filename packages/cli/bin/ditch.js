#!/usr/bin/env node
import { existsSync } from 'node:fs';

const built = new URL('../dist/ditch.js', import.meta.url);
if (existsSync(built)) {
  await import(built.href);
} else {
  process.stderr.write('ditch: not built yet; run "npm run setup" in the repository root first\n');
  process.exitCode = 2;
}
