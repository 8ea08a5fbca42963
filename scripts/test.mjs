// The whole check of the project: formatting, lint, types, dependency directions, unit, property and browser tests.
// `npm test -- --fast` leaves the browser out.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { setup } from './setup.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const reports = join(root, '.cache');
const fast = process.argv.includes('--fast');
const bin = (name) => join(root, 'node_modules', '.bin', name);
const run = (command, args, env = {}) =>
  spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } }).status === 0;

const started = Date.now();
await setup();
mkdirSync(reports, { recursive: true });
const install = (name) =>
  run('apt-get', ['update', '-qq']) &&
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', name]);
if (!fast && !existsSync('/usr/bin/chromium')) {
  process.stdout.write('installing Chromium\n');
  if (!install('chromium')) {
    process.stderr.write('Chromium could not be installed; the browser tests need /usr/bin/chromium.\n');
    process.exit(1);
  }
}
// The farm is tested on a real queue where there can be one; its tests say so where there is none.
if (spawnSync('redis-server', ['--version']).status !== 0) {
  process.stdout.write('installing Redis for the tests of the farm\n');
  if (!install('redis-server'))
    process.stdout.write('Redis could not be installed; the tests of the farm are skipped\n');
}

const unitReport = join(reports, 'unit.json');
const browserReport = join(reports, 'browser.json');
/** The same beside others: what it prints comes when it has ended. */
const runBeside = (command, args) =>
  new Promise((resolve) => {
    const own = spawn(command, args, { cwd: root, env: process.env });
    let said = '';
    for (const stream of [own.stdout, own.stderr]) stream.on('data', (d) => (said += d));
    own.on('close', (code) => resolve({ ok: code === 0, said }));
  });
// Looked at beside one another, in two rows: nothing of it is timed.
const looked = [
  [
    ['formatting', bin('prettier'), ['--check', '--log-level', 'warn', '.']],
    ['lint', bin('eslint'), ['--max-warnings', '0', '.']],
  ],
  [
    ...['core', 'app', 'server', 'cli']
      .flatMap((p) => [`packages/${p}`, `packages/${p}/test`])
      .concat('e2e')
      .map((p) => [`types of ${p}`, bin('tsc'), ['-p', p]]),
    ['dependency directions', bin('depcruise'), ['--config', '.dependency-cruiser.mjs', 'packages', 'e2e']],
  ],
];
const stages = [
  ['unit and property tests', () => run(bin('vitest'), ['run'], { DITCH_REPORT: unitReport })],
  ...(fast
    ? []
    : [
        [
          'browser tests',
          () =>
            run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts'], {
              DITCH_E2E_REPORT: browserReport,
            }),
        ],
      ]),
];

const failed = [];
await Promise.all(
  looked.map(async (row) => {
    for (const [name, command, args] of row) {
      const { ok, said } = await runBeside(command, args);
      process.stdout.write(`\n== ${name}\n${said}`);
      if (!ok) failed.push(name);
    }
  }),
);
for (const [name, stage] of stages) {
  process.stdout.write(`\n== ${name}\n`);
  if (!stage()) failed.push(name);
}

let passed = 0;
let broken = 0;
let skipped = 0;
let flaky = 0;
const unit = JSON.parse(readFileSync(unitReport, 'utf8'));
passed += unit.numPassedTests;
broken += unit.numFailedTests;
skipped += unit.numPendingTests;
if (!fast) {
  const { stats } = JSON.parse(readFileSync(browserReport, 'utf8'));
  passed += stats.expected + stats.flaky;
  flaky = stats.flaky;
  broken += stats.unexpected;
  skipped += stats.skipped;
}
process.stdout.write(
  `\n${Math.round((Date.now() - started) / 1000)} s${flaky > 0 ? `; ${flaky} passed only at the second try` : ''}${failed.length > 0 ? `; failed: ${failed.join(', ')}` : ''}\n`,
);
process.stdout.write(`${passed} passed, ${broken} failed, ${skipped} skipped\n`);
process.exit(failed.length > 0 ? 1 : 0);
