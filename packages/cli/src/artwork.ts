import { extname } from 'node:path';
import type { Command } from 'commander';
import { NotSolvable } from '@ditch/core/levels';
import { boardWriters, planOf, writeDesignCopper, writeGerber } from '@ditch/core/making';
import { resolveDesign, type ResolvedDesign } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { optionError } from './errors';
import { FolderWriter, print, writeWhole } from './files';
import { choice, quantity, type Options } from './options';
import { table } from './print';
import { openProject, pick } from './simulate';

const FORMATS = ['gerber', 'dxf', 'gdsii', 'svg', 'drill', 'copper'] as const;
type Format = (typeof FORMATS)[number];

/** Formats that a suffix makes clear; without one it is a folder. */
const SUFFIXES: Readonly<Record<string, Format>> = {
  '': 'gerber',
  '.dxf': 'dxf',
  '.gds': 'gdsii',
  '.gdsii': 'gdsii',
  '.gds2': 'gdsii',
  '.svg': 'svg',
  '.drl': 'drill',
  '.xln': 'drill',
  '.json': 'copper',
};

export function addArtwork(program: Command): void {
  program
    .command('artwork')
    .description('write the copper of a design for a shop or another program')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design that is meant (default: the only one)')
    .option('--out <path>', 'file to write, of gerber a folder (required)')
    .option('--format <format>', `${FORMATS.join(', ')} (default: by the suffix)`)
    .option('--etch <length>', 'widen every line by this to make up for etching, each edge by half of it')
    .option('--json', 'print {files, area, width, height, narrowest, narrowestGap} as one JSON object')
    .action((file: string, options: Options) => run(file, options));
}

/** The copper as the field solution takes it. */
function copperOf(design: string, resolved: ResolvedDesign): string {
  try {
    return writeDesignCopper(resolved) ?? optionError('design', `"${design}" has errors`);
  } catch (error) {
    if (error instanceof NotSolvable)
      return optionError('format', `"${design}" cannot be solved: ${error.message}`);
    throw error;
  }
}

function run(file: string, options: Options): void {
  const { out } = options;
  if (typeof out !== 'string' || out === '')
    return optionError('out', 'is required: the file or folder to write');
  const suffix = extname(out).toLowerCase();
  if (options.format === undefined && SUFFIXES[suffix] === undefined)
    return optionError('format', `"${suffix}" says no format; give one of ${FORMATS.join(', ')}`);
  const format = choice(options, 'format', FORMATS, SUFFIXES[suffix] ?? 'gerber');
  const etch = options.etch === undefined ? 0 : quantity(options, 'etch', { kind: 'length', min: 0 }).re;
  if (etch > 0 && format === 'copper')
    return optionError('etch', 'is for what is made, not for --format copper');
  const project = openProject(file);
  const design = pick(project, options);
  const resolved = resolveDesign(project, design);
  const plan = (() => {
    try {
      return planOf(design.name, resolved, { etch });
    } catch (error) {
      if (error instanceof RangeError) return optionError('etch', error.message);
      throw error;
    }
  })();
  const [problem] = resolved.problems.filter(
    (p) => p.place.kind === 'piece' || p.place.kind === 'value' || p.place.kind === 'stack',
  );
  if (!plan || problem)
    return optionError(
      'design',
      `"${design.name}" cannot be drawn: ${problem?.message ?? 'it has no copper'}`,
    );
  let files: string[];
  if (format === 'gerber') {
    const all = writeGerber(plan);
    files = Object.keys(all);
    const folder = new FolderWriter(out, (name) => files.includes(name));
    try {
      for (const [name, text] of Object.entries(all)) folder.write(name, text);
      folder.keep();
    } catch (error) {
      folder.discard();
      throw error;
    }
  } else {
    files = [out];
    writeWhole(out, format === 'copper' ? copperOf(design.name, resolved) : boardWriters[format].write(plan));
  }
  const { area, width, height, narrowest = null, narrowestGap = null } = plan;
  if (options.json) print(`${JSON.stringify({ files, area, width, height, narrowest, narrowestGap })}\n`);
  else
    print(
      `${design.name}: written to ${out}\n${table([
        ['files', files.join(', ')],
        [
          'copper',
          `${Number((area * 1e6).toPrecision(5))} mm2, ${formatQuantity(width, 'length', { digits: 5, typed: true })} by ${formatQuantity(height, 'length', { digits: 5, typed: true })}`,
        ],
        [
          'narrowest line',
          narrowest === null ? 'none' : formatQuantity(narrowest, 'length', { digits: 4, typed: true }),
        ],
        [
          'narrowest gap',
          narrowestGap === null
            ? 'none near'
            : formatQuantity(narrowestGap, 'length', { digits: 4, typed: true }),
        ],
      ])}`,
    );
}
