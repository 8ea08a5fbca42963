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
import { parts } from '@ditch/core/parts';
import { dataLoad, RecipeError, recipes, type Recipe, type RecipeField } from '@ditch/core/recipes';
import { formatComplex, formatQuantity, type QuantityKind } from '@ditch/core/units';
import { basename } from 'node:path';
import { optionError } from './errors';
import { print, readText, writeWhole } from './files';
import { addSubstrateOptions, choice, count, quantity, stackFrom, type Options } from './options';
import { table } from './print';

/** Narrowest line that is taken for a line at all, m. */
const NARROWEST = 1e-6;
/** Narrowest gap that coupled lines can have: less than a sheet of copper is thick, which nothing cuts through, m. */
const NARROWEST_GAP = 10e-6;

/** The option a recipe's entry has on the command line. */
const optionOf = (field: string): string => field.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`);

/** Entries that `common` offers, or that have a rule of their own below. */
const COMMON = new Set(['freq', 'z0']);

/** How the help shows what an entry takes. */
function placeholder(field: RecipeField): string {
  switch (field.type) {
    case 'quantity':
      return field.rule.kind === 'number' ? 'number' : field.rule.kind;
    case 'load':
      return 'impedance|file';
    case 'count':
      return 'count';
    case 'choice':
      return field.options.map((o) => o.id).join('|');
    case 'text':
      return 'value';
  }
}

export function addDesign(program: Command): void {
  const design = program
    .command('design')
    .description('design a network by a recipe and write a project file with it');
  for (const recipe of recipes.values()) {
    const command = design.command(recipe.id).description(recipe.about);
    for (const field of recipe.fields) {
      if (COMMON.has(field.name)) continue;
      const flags = `--${optionOf(field.name)}`;
      if (field.type === 'choice' && field.flag !== undefined) command.option(flags, field.flag);
      else
        command.option(
          `${flags} <${placeholder(field)}>`,
          `${field.help}${field.initial === '' || field.type === 'load' ? '' : ` Default ${field.initial}.`}${field.type === 'load' ? ' Or a one-port Touchstone file (.s1p).' : ''}`,
        );
    }
    common(command).action((options: Options) => runRecipe(recipe, options));
  }
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

/** The text of one entry, each checked by its own rule so that an error names its option. */
function entry(field: RecipeField, options: Options, data: DataBlock[]): string {
  const option = optionOf(field.name);
  const text = options[field.name];
  if (field.type === 'choice' && field.flag !== undefined)
    return text === true ? field.options[0].id : field.options[field.options.length - 1].id;
  if (text === undefined && field.type === 'load') return optionError(option, 'is required');
  if (text === undefined) return field.initial;
  if (typeof text !== 'string') return optionError(option, 'is given twice or has no value');
  switch (field.type) {
    case 'quantity':
      quantity(options, option, field.rule);
      return text;
    case 'count':
      return String(count(options, option, field.min, field.max));
    case 'choice':
      return choice(
        options,
        option,
        field.options.map((o) => o.id),
        field.initial,
      );
    case 'load': {
      if (/^\s*(series|parallel)\b/i.test(text)) return text;
      if (!/\.(s\d+p|ts)$/i.test(text)) {
        quantity(options, option, { kind: 'impedance', complex: true, min: 0 });
        return text;
      }
      const block = readLoad(text);
      data.push(block);
      return dataLoad(block.id);
    }
    case 'text':
      return text;
  }
}

function runRecipe(recipe: Recipe, options: Options): void {
  if (typeof options.out !== 'string' || options.out === '')
    optionError('out', 'is required: the project file to write');
  const medium = choice(options, 'medium', ['microstrip', 'stripline'] as const, 'microstrip');
  const { stack } = stackFrom(options, medium);
  quantity(options, 'freq', { kind: 'frequency', min: 0, exclusive: true });
  const data: DataBlock[] = [];
  const inputs: Record<string, string> = {};
  for (const field of recipe.fields) inputs[field.name] = entry(field, options, data);
  for (const field of recipe.fields)
    if (field.when && options[field.name] !== undefined && !field.when(inputs))
      optionError(
        optionOf(field.name),
        `does not belong to this choice of options; ${field.needs ?? 'leave it out'}`,
      );
  let design: Design;
  try {
    design = recipe.design(inputs, { stack, medium, newId, data });
  } catch (error) {
    if (error instanceof RecipeError) return optionError(optionOf(error.field), error.message);
    throw error;
  }
  const project: Project = { ...emptyProject(design.name, stack), designs: [design], data };
  finish(project, design, recipe, options);
}

/** Checks that the design can be made, writes it, and tells what it is. */
function finish(project: Project, design: Design, recipe: Recipe, options: Options): void {
  const resolved = resolveDesign(project, design);
  const blame = optionOf(recipe.blame);
  const change = [...new Set([`--${blame}`, '--z0'])].join(', ');
  const problem = resolved.problems.find((p) => !p.follows) ?? resolved.problems[0];
  if (problem) {
    const place =
      problem.place.kind === 'piece'
        ? `${problem.place.piece}: `
        : problem.place.kind === 'value'
          ? `${problem.place.name}: `
          : '';
    optionError(blame, `${place}${problem.message}; change ${change} or the substrate`);
  }
  for (const piece of resolved.pieces) {
    const line = piece.values && parts.get(piece.kind)?.line?.(piece.values);
    if (line && line.width < NARROWEST)
      optionError(
        blame,
        `${piece.name} would be a line of ${formatQuantity(line.z0, 'impedance')} narrower than 1 um on this substrate; change ${change} or the substrate`,
      );
    const gap =
      piece.values &&
      Math.min(...(parts.get(piece.kind)?.gaps?.(piece.values) ?? []).map((g) => g ?? Infinity));
    if (gap !== undefined && gap < NARROWEST_GAP)
      optionError(
        blame,
        `${piece.name} would need a gap of ${formatQuantity(gap, 'length', { digits: 3 })}, which edge-coupled lines on this substrate cannot have; change ${change} or the substrate`,
      );
  }
  writeWhole(String(options.out), writeProject(project));
  report(design, resolved, options);
}

/** A piece that says what it is: each figure with its name, as the JSON output has it, and its kind. */
interface Section {
  readonly id: string;
  readonly role: string;
  readonly figures: readonly {
    readonly name: string;
    readonly kind: QuantityKind;
    /** SI. */
    readonly value: number;
  }[];
}

function sectionsOf(resolved: ResolvedDesign): Section[] {
  return resolved.pieces.flatMap((p): Section[] => {
    const { values } = p;
    const part = parts.get(p.kind);
    if (!values || !part?.tells) return [];
    const faces = part.properties.flatMap((property) => property.faces);
    return [
      {
        id: p.id,
        role: p.role ?? (part.line ? 'line' : part.kind),
        figures: part.tells.map(({ face, as = face }) => ({
          name: as,
          kind: faces.find((f) => f.name === face)!.rule.kind,
          value: values[face].re,
        })),
      },
    ];
  });
}

/** A section as JSON has it: angles in degrees, and said so. */
const asJson = ({ id, role, figures }: Section) => ({
  id,
  role,
  ...Object.fromEntries(
    figures.map(({ name, kind, value }) =>
      kind === 'angle' ? [`${name}Deg`, (value * 180) / Math.PI] : [name, value],
    ),
  ),
});

/** A section as a row of a table: what it is, its angle, its width, how long it is, and its gap where there are any. */
function asRow({ id, figures }: Section, gaps: boolean): string[] {
  const told = (wanted: (figure: Section['figures'][number]) => boolean) =>
    figures
      .filter(wanted)
      .map(({ value, kind }) => formatQuantity(value, kind, { digits: 5 }))
      .join(' / ');
  return [
    id,
    told((f) => f.kind !== 'angle' && f.kind !== 'length'),
    told((f) => f.kind === 'angle'),
    told((f) => f.name === 'width'),
    told((f) => f.kind === 'length' && f.name !== 'width' && f.name !== 'gap'),
    ...(gaps ? [told((f) => f.name === 'gap')] : []),
  ];
}

function report(design: Design, resolved: ResolvedDesign, options: Options): void {
  const sections = sectionsOf(resolved);
  if (options.json) {
    print(
      `${JSON.stringify({ recipe: design.recipe, design: design.name, file: options.out, freq: resolved.f0, medium: design.medium, sections: sections.map(asJson) })}\n`,
    );
    return;
  }
  const load = resolved.values.get('zl');
  const gaps = sections.some(({ figures }) => figures.some((f) => f.name === 'gap'));
  print(
    `${design.name} at ${formatQuantity(resolved.f0!, 'frequency', { digits: 6 })}${load ? `, load ${formatComplex(load.re, load.im)}` : ''}\n` +
      table([
        ['section', 'impedance', 'angle', 'width', 'length', ...(gaps ? ['gap'] : [])],
        ...sections.map((s) => asRow(s, gaps)),
      ]) +
      `written to ${String(options.out)}\n`,
  );
}
