import { extname } from 'node:path';
import type { Command } from 'commander';
import { NotSolvable } from '@ditch/core/levels';
import {
  boardWriters,
  checkPlan,
  checkRules,
  etchOf,
  limitsFor,
  madeOf,
  writeBill,
  writeDesignCopper,
  writeGerber,
  type BoardPlan,
  type What,
} from '@ditch/core/making';
import { resolveDesign, type Project } from '@ditch/core/network';
import { formatQuantity, QuantityError } from '@ditch/core/units';
import { optionError } from './errors';
import { FolderWriter, print, writeWhole } from './files';
import { choice, quantity, type Options } from './options';
import { table } from './print';
import { openProject, pick } from './simulate';

const FORMATS = ['gerber', 'dxf', 'gdsii', 'svg', 'drill', 'copper', 'bill'] as const;
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
  '.csv': 'bill',
};

export function addArtwork(program: Command): void {
  program
    .command('artwork')
    .description('write the copper of a design for a shop or another program')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design that is meant (default: the only one)')
    .option('--panel <name>', 'panel of several designs that is meant instead')
    .option('--out <path>', 'file to write, of gerber a folder (required)')
    .option('--format <format>', `${FORMATS.join(', ')} (default: by the suffix)`)
    .option(
      '--etch <length>',
      'widen every line by this to make up for etching, each edge by half of it (default: what the shop asks for)',
    )
    .option('--json', 'print {files, area, width, height, narrowest, narrowestGap} as one JSON object')
    .action((file: string, options: Options) => run(file, options));
}

/** The copper as the field solution takes it. */
function copperOf(project: Project, what: What): string {
  if ('panel' in what) return optionError('format', 'copper is written of one design');
  const design = project.designs.find((d) => d.id === what.design)!;
  try {
    return (
      writeDesignCopper(resolveDesign(project, design)) ??
      optionError('design', `"${design.name}" has errors`)
    );
  } catch (error) {
    if (error instanceof NotSolvable)
      return optionError('format', `"${design.name}" cannot be solved: ${error.message}`);
    throw error;
  }
}

/** The design or the panel that is meant. */
function whatOf(project: Project, options: Options): What {
  if (options.panel === undefined) return { design: pick(project, options).id };
  if (options.design !== undefined) return optionError('panel', 'give either a design or a panel');
  const panels = project.panels ?? [];
  const found = panels.filter((p) => p.name === options.panel || p.id === options.panel);
  if (found.length > 1)
    return optionError('panel', `several are named so; use an id: ${found.map((p) => p.id).join(', ')}`);
  if (found.length === 0)
    return optionError(
      'panel',
      `there is no panel "${String(options.panel)}"; the file has ${panels.map((p) => `"${p.name}"`).join(', ') || 'none'}`,
    );
  return { panel: found[0].id };
}

/** What is made, ready to be written; exits at the option where it cannot be. */
function planned(project: Project, what: What, etch: number): BoardPlan {
  const option = 'panel' in what ? 'panel' : 'design';
  const { plan, problems } = madeOf(project, what, etch);
  const [problem] = problems;
  if (problem?.field === 'etch') return optionError('etch', problem.message);
  if (!plan || problem) {
    const panel = 'panel' in what ? project.panels?.find((p) => p.id === what.panel) : undefined;
    const placed = panel?.placed.find((p) => p.id === problem?.placed);
    const own = 'panel' in what ? panel?.name : project.designs.find((d) => d.id === what.design)?.name;
    const of = project.designs.find((d) => d.id === placed?.design)?.name;
    return optionError(
      option,
      `"${own ?? ''}" cannot be drawn: ${of === undefined ? '' : `${of} `}${problem?.field ? `(${problem.field}) ` : ''}${problem?.message ?? 'it has no copper'}`,
    );
  }
  return plan;
}

const shown = (value: number, digits = 4) => formatQuantity(value, 'length', { digits, typed: true });

function run(file: string, options: Options): void {
  const { out } = options;
  if (typeof out !== 'string' || out === '')
    return optionError('out', 'is required: the file or folder to write');
  const suffix = extname(out).toLowerCase();
  if (options.format === undefined && SUFFIXES[suffix] === undefined)
    return optionError('format', `"${suffix}" says no format; give one of ${FORMATS.join(', ')}`);
  const format = choice(options, 'format', FORMATS, SUFFIXES[suffix] ?? 'gerber');
  const asked =
    options.etch === undefined ? undefined : quantity(options, 'etch', { kind: 'length', min: 0 }).re;
  if (asked && format === 'copper')
    return optionError('etch', 'is for what is made, not for --format copper');
  const project = openProject(file);
  const what = whatOf(project, options);
  const plan = planned(project, what, asked ?? etchOf(project));
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
    writeWhole(
      out,
      format === 'copper'
        ? copperOf(project, what)
        : format === 'bill'
          ? writeBill(plan)
          : boardWriters[format].write(plan),
    );
  }
  const { name, area, width, height, narrowest = null, narrowestGap = null } = plan;
  if (options.json) print(`${JSON.stringify({ files, area, width, height, narrowest, narrowestGap })}\n`);
  else
    print(
      `${name}: written to ${out}\n${table([
        ['files', files.join(', ')],
        ['copper', `${Number((area * 1e6).toPrecision(5))} mm2, ${shown(width, 5)} by ${shown(height, 5)}`],
        ['narrowest line', narrowest === null ? 'none' : shown(narrowest)],
        ['narrowest gap', narrowestGap === null ? 'none near' : shown(narrowestGap)],
      ])}`,
    );
}

export function addCheck(program: Command): void {
  program
    .command('check')
    .description('check a board against what its shop can make; ends with 1 where something is found')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design that is meant (default: the only one)')
    .option('--panel <name>', 'panel of several designs that is meant instead')
    .option('--json', 'print {findings: [{rule, at, to, text, remedy}]} as one JSON object, places in metres')
    .action((file: string, options: Options) => {
      const project = openProject(file);
      const what = whatOf(project, options);
      const plan = planned(project, what, 0);
      const limits = (() => {
        try {
          return limitsFor(project, what);
        } catch (error) {
          if (error instanceof QuantityError)
            return optionError(
              'panel' in what ? 'panel' : 'design',
              `the shop of the file: ${error.message}`,
            );
          throw error;
        }
      })();
      const findings = checkPlan(plan, limits);
      if (options.json) print(`${JSON.stringify({ findings })}\n`);
      else if (findings.length === 0)
        print(`${plan.name}: nothing to say (${checkRules.map((r) => r.label).join(', ')})\n`);
      else
        print(
          `${plan.name}\n${table(
            findings.map((f) => [
              `${shown(f.at[0])}, ${shown(f.at[1])}`,
              `${f.text
                .replaceAll('\u00B5', 'u')
                .replaceAll('\u00B0', ' deg')
                .replace(/[\u201C\u201D]/g, '"')}: ${f.remedy}`,
            ]),
          )}`,
        );
      process.exitCode = findings.length > 0 ? 1 : 0;
    });
}
