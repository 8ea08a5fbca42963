// Compiles the grammar of expressions to a parser, so that the page carries a few kilobytes instead of a whole algebra system.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import peggy from 'peggy';

const units = new URL('../packages/core/src/units/', import.meta.url);
const folder = new URL('generated/', units);
const source = readFileSync(new URL('expression.peggy', units), 'utf8');
mkdirSync(folder, { recursive: true });
// Remembering what was read at each place keeps the time in proportion to the text, however deeply it is nested.
const parser = peggy.generate(source, { output: 'source', format: 'es', cache: true });
writeFileSync(new URL('grammar.js', folder), parser);
writeFileSync(
  new URL('grammar.d.ts', folder),
  "import type { Node } from '../grammar';\n\nexport declare function parse(text: string): Node;\n",
);
