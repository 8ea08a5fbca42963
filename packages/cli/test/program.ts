import { spawnSync } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundle } from '../../../scripts/bundle.mjs';

const folder = mkdtempSync(join(tmpdir(), 'ditch-cli-'));
/** The bundled command line. */
export const program = join(folder, 'ditch.mjs');

/** A file of its own for each test run. */
export const file = (name: string): string => join(folder, name);

/** Bundles the sources as they are, not whatever was built last. */
export const buildProgram = (): Promise<unknown> =>
  bundle(fileURLToPath(new URL('../src/ditch.ts', import.meta.url)), program);

export function ditch(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [program, ...args], { encoding: 'utf8' });
  return { status, stdout, stderr };
}
