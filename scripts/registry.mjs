// Writes the lists of parts and recipes from the folders and files that are there, so that adding one changes nothing
// else. A part is a folder of `parts` with an index.ts, a recipe a file of `recipes`; each exports by
// default what it adds, and what exports nothing so is shared by the others.
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';

const source = new URL('../packages/core/src/', import.meta.url);

function write(room, names, from, type) {
  const list = names.map((name, i) => ({ name, id: `m${i}` }));
  const text = [
    `import type { ${type} } from '../contract';`,
    ...list.map(({ name, id }) => `import ${id} from '${from(name)}';`),
    '',
    `const all: readonly ${type}[] = [${list.map(({ id }) => `...${id}`).join(', ')}];`,
    'export default all;',
    '',
  ].join('\n');
  const folder = new URL(`${room}/generated/`, source);
  const file = new URL('registry.ts', folder);
  mkdirSync(folder, { recursive: true });
  if (!existsSync(file) || readFileSync(file, 'utf8') !== text) writeFileSync(file, text);
}

const folders = readdirSync(new URL('parts/', source), { withFileTypes: true })
  .filter((e) => e.isDirectory() && existsSync(new URL(`parts/${e.name}/index.ts`, source)))
  .map((e) => e.name)
  .sort();
write('parts', folders, (name) => `../${name}`, 'PartDefinition');

const files = readdirSync(new URL('recipes/', source))
  .filter(
    (name) =>
      /^[\w-]+\.ts$/.test(name) &&
      /^export default /m.test(readFileSync(new URL(`recipes/${name}`, source), 'utf8')),
  )
  .map((name) => name.slice(0, -3))
  .sort();
write('recipes', files, (name) => `../${name}`, 'Recipe');
