// The errors of every model and solution against exact values, limits and published results: computed anew, printed, and
// written to docs/validation.md. The same cases are held by the unit tests.
import { build } from 'esbuild';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { format } from 'prettier';
import { setup } from './setup.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
await setup();
const out = join(root, '.cache', 'validation.mjs');
await build({
  absWorkingDir: root,
  entryPoints: ['packages/core/test/validation/index.ts'],
  outfile: out,
  bundle: true,
  platform: 'node',
  format: 'esm',
  logLevel: 'error',
});
const { groups } = await import(pathToFileURL(out).href);

// What is rounding comes out otherwise on another machine.
const ROUNDING = 1e-13;
const figure = (x, absolute) =>
  x < ROUNDING
    ? 'rounding'
    : absolute || x < 1e-5
      ? x.toExponential(1)
      : `${Number((100 * x).toPrecision(2))} %`;
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];

const text = [
  '# Validation',
  '',
  'Written by `npm run validate`, which computes all of it anew. Errors are relative, or absolute where they stand as a',
  'power of ten; the bound is what the tests hold. Sources and ranges of the models: [models.md](models.md).',
  '',
];
let missed = 0;
for (const { name, cases } of groups) {
  process.stdout.write(`\n${name}\n`);
  text.push(
    `## ${name}`,
    '',
    '| what | against | over | median | worst | bound |',
    '| --- | --- | --- | --- | --- | --- |',
  );
  for (const { what, against, over, bound, absolute, errors } of cases) {
    const list = errors();
    const worst = Math.max(...list);
    const cells = [median(list), worst, bound].map((x) => figure(x, absolute));
    if (!(worst <= bound)) missed++;
    process.stdout.write(
      `${worst <= bound ? ' ' : '!'} ${what.padEnd(48)} ${cells.map((c) => c.padStart(10)).join('')}  ${against}\n`,
    );
    text.push(`| ${[what, against, over, ...cells].map((c) => c.replaceAll('|', '\\|')).join(' | ')} |`);
  }
  text.push('');
}
const file = join(root, 'docs', 'validation.md');
writeFileSync(file, await format(text.join('\n'), { parser: 'markdown', printWidth: 120 }));
process.stdout.write(
  `\nwritten to docs/validation.md${missed > 0 ? `; ${missed} beyond their bounds` : ''}\n`,
);
process.exitCode = missed > 0 ? 1 : 0;
