import type { Command } from 'commander';
import { readTouchstone, portsOfName, TouchstoneError, writeProject } from '@ditch/core/formats';
import {
  dataBlock,
  emptyProject,
  newId,
  resolveDesign,
  type DataBlock,
  type Design,
  type Project,
  type ResolvedDesign,
} from '@ditch/core/network';
import { dataLoad, RecipeError, recipes } from '@ditch/core/recipes';
import { formatComplex, formatQuantity } from '@ditch/core/units';
import { basename } from 'node:path';
import { optionError } from './errors';
import { readText, writeWhole } from './files';
import { addSubstrateOptions, choice, count, quantity, stackFrom, type Options } from './options';
import { table } from './print';

/** Narrowest line that is taken for a line at all, m. */
const NARROWEST = 1e-6;

export function addDesign(program: Command): void {
  const design = program
    .command('design')
    .description('design a network by a recipe and write a project file with it');
  const quarterWave = common(
    design
      .command('quarter-wave')
      .description('quarter-wave match: port 1 is the source side, the load closes the far end')
      .option(
        '--load <impedance|file>',
        'load impedance, real or complex, or a one-port Touchstone file (.s1p)',
      )
      .option('--sections <count>', 'number of quarter waves, 1 to 20 (default 1)')
      .option(
        '--profile <profile>',
        'binomial (default, exactly maximally flat) or chebyshev (exactly equal ripple)',
      )
      .option('--max-reflection <magnitude>', 'chebyshev: greatest |S11| inside the band, e.g. 0.05'),
  );
  quarterWave.action((options: Options) => runQuarterWave(options));
}

function common(command: Command): Command {
  command
    .option('--out <file>', 'project file to write (required)')
    .option('--freq <frequency>', 'design frequency')
    .option('--z0 <impedance>', 'system impedance (default 50ohm)')
    .option(
      '--substrate <name>',
      'a laminate that ships ("ditch substrates" lists them), instead of the substrate options',
    )
    .option('--medium <medium>', 'microstrip (default) or stripline');
  return addSubstrateOptions(command).option('--json', 'print the electrical and physical values as JSON');
}

/** One-port data of a load given as a file. */
function readLoad(path: string): DataBlock {
  const text = readText(path);
  try {
    const { data } = readTouchstone(text, portsOfName(path));
    if (data.ports !== 1) return optionError('load', `${path} has ${data.ports} ports; a load needs one`);
    return dataBlock(basename(path), 'imported', data);
  } catch (error) {
    if (error instanceof TouchstoneError) return optionError('load', `${path}: ${error.message}`);
    throw error;
  }
}

function runQuarterWave(options: Options): void {
  if (typeof options.out !== 'string' || options.out === '')
    optionError('out', 'is required: the project file to write');
  const medium = choice(options, 'medium', ['microstrip', 'stripline'] as const, 'microstrip');
  const { stack } = stackFrom(options, medium);
  quantity(options, 'freq', { kind: 'frequency', min: 0, exclusive: true });
  const profile = choice(options, 'profile', ['binomial', 'chebyshev'] as const, 'binomial');
  const sections = count(options, 'sections', 1, 20, 1);
  if (options.z0 !== undefined) quantity(options, 'z0', { kind: 'impedance', min: 0, exclusive: true });
  if (profile === 'chebyshev')
    quantity(options, 'max-reflection', { kind: 'number', min: 0, max: 1, exclusive: true });
  else if (options.maxReflection !== undefined)
    optionError('max-reflection', 'belongs to --profile chebyshev');

  let load = typeof options.load === 'string' ? options.load : optionError('load', 'is required');
  const data: DataBlock[] = [];
  if (/\.(s\d+p|ts)$/i.test(load)) {
    const block = readLoad(load);
    data.push(block);
    load = dataLoad(block.id);
  } else quantity(options, 'load', { kind: 'impedance', complex: true, min: 0 });

  const recipe = recipes.get('quarter-wave')!;
  const inputs = {
    freq: String(options.freq),
    z0: typeof options.z0 === 'string' ? options.z0 : '50 ohm',
    load,
    sections: String(sections),
    profile,
    maxReflection: typeof options.maxReflection === 'string' ? options.maxReflection : '',
  };
  let design: Design;
  try {
    design = recipe.design(inputs, { stack: stack.id, medium, newId, data });
  } catch (error) {
    if (error instanceof RecipeError) return optionError(key2option(error.field), error.message);
    throw error;
  }
  const project: Project = { ...emptyProject(design.name, stack), designs: [design], data };
  finish(project, design, options);
}

const key2option = (field: string): string => field.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`);

/** Checks that the design can be made, writes it, and tells what it is. */
function finish(project: Project, design: Design, options: Options): void {
  const resolved = resolveDesign(project, design);
  const problem = resolved.problems[0];
  if (problem) {
    const place = problem.place.kind === 'piece' ? `${problem.place.piece}: ` : '';
    optionError('load', `${place}${problem.message}; change --load, --z0 or the substrate`);
  }
  for (const piece of resolved.pieces)
    if (piece.values?.width && piece.values.width.re < NARROWEST)
      optionError(
        'load',
        `${piece.name} would be a line of ${formatQuantity(piece.values.z0.re, 'impedance')} narrower than 1 um on this substrate; change --load, --z0, --sections or the substrate`,
      );
  writeWhole(String(options.out), writeProject(project));
  report(design, resolved, options);
}

function report(design: Design, resolved: ResolvedDesign, options: Options): void {
  const sections = resolved.pieces
    .filter((p) => p.kind === 'line' && p.values)
    .map((p) => ({
      id: p.id,
      role: p.role ?? 'line',
      z0: p.values!.z0.re,
      thetaDeg: (p.values!.theta.re * 180) / Math.PI,
      width: p.values!.width.re,
      length: p.values!.length.re,
    }));
  if (options.json) {
    process.stdout.write(
      `${JSON.stringify({ recipe: design.recipe, design: design.name, file: options.out, freq: resolved.f0, medium: design.medium, sections })}\n`,
    );
    return;
  }
  const load = resolved.values.get('zl');
  process.stdout.write(
    `${design.name} at ${formatQuantity(resolved.f0!, 'frequency', { digits: 6 })}${load ? `, load ${formatComplex(load.re, load.im)}` : ''}\n` +
      table([
        ['section', 'impedance', 'angle', 'width', 'length'],
        ...sections.map((s) => [
          s.id,
          formatQuantity(s.z0, 'impedance', { digits: 5 }),
          formatQuantity((s.thetaDeg * Math.PI) / 180, 'angle', { digits: 5 }),
          formatQuantity(s.width, 'length', { digits: 5 }),
          formatQuantity(s.length, 'length', { digits: 5 }),
        ]),
      ]) +
      `written to ${String(options.out)}\n`,
  );
}
