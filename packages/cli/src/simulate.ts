import type { Command } from 'commander';
import { layOut } from '@ditch/core/artwork';
import { ProjectFileError, readProject } from '@ditch/core/formats';
import {
  answer,
  closest,
  levels,
  liveLevels,
  NotSolvable,
  solvedSteps,
  solvedSubject,
  type LevelId,
} from '@ditch/core/levels';
import {
  dataFinder,
  resolveDesign,
  type Design,
  type Problem,
  type Project,
  type ResolvedDesign,
} from '@ditch/core/network';
import { drive } from '@ditch/core/numeric';
import { CopperError, type Accuracy } from '@ditch/core/planar';
import { decibels, type SData } from '@ditch/core/results';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { optionError, UsageError } from './errors';
import { print, readText } from './files';
import { levelOf, nameAndRest, repeated, type Options } from './options';
import { addOutputOptions, readOutput, sweepOf, writeResponse, type Output } from './output';
import { table, watched } from './print';

/** The level that `--level` names; the copper, as far as models know it, where it names none. */
export const levelAsked = (options: Options): { level: LevelId; accuracy: Accuracy } =>
  levelOf(
    options,
    levels.map((l) => l.id),
    'modelled',
  );

export function addSimulate(program: Command): void {
  const command = program
    .command('simulate')
    .description('simulate a design of a project file')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design to simulate (default: the only one)')
    .option(
      '--level <level>',
      'ideal (lossless lines, ideal joints), modelled (dispersion, loss, physical dimensions) or solved (the planar field solution of the copper); default modelled',
    )
    .option('--accuracy <accuracy>', 'of the solved level: draft, normal (default) or fine')
    .option(
      '--set <name=value>',
      'override one of the design\u2019s named values; may be repeated',
      repeated,
      [],
    )
    .option('--json', 'print the result as one JSON object')
    .action((file: string, options: Options) => run(file, options));
  addOutputOptions(command, ' (default: the design\u2019s sweep)');
}

/** A project file as it is; what is wrong with it is said with its name. */
export function openProject(file: string): Project {
  try {
    return readProject(readText(file));
  } catch (error) {
    if (error instanceof ProjectFileError) throw new UsageError(`${file}: ${error.message}`);
    throw error;
  }
}

/** The design that is meant: the one named, or the only one. */
export function pick(project: Project, options: Options): Design {
  const { designs } = project;
  const names = designs.map((d) => `"${d.name}"`).join(', ');
  if (typeof options.design === 'string') {
    const found = designs.filter((d) => d.name === options.design || d.id === options.design);
    if (found.length === 0)
      return optionError('design', `there is no design "${options.design}"; the file has ${names || 'none'}`);
    if (found.length > 1)
      return optionError(
        'design',
        `${found.length} designs are named "${options.design}"; use an id: ${found.map((d) => d.id).join(', ')}`,
      );
    return found[0];
  }
  if (designs.length === 0) return optionError('design', 'the file holds no design');
  if (designs.length > 1)
    return optionError('design', `the file holds several designs; name one of ${names}`);
  return designs[0];
}

export function overridesFrom(options: Options, design: Design): Record<string, string> {
  const overrides: Record<string, string> = {};
  for (const text of options.set as string[]) {
    const [name, value] = nameAndRest('set', text, 'NAME=VALUE');
    if (!design.values.some((v) => v.name === name))
      optionError(
        'set',
        `the design has no value named "${name}"; it has ${design.values.map((v) => v.name).join(', ')}`,
      );
    overrides[name] = value;
  }
  return overrides;
}

/** Where a problem stands, and what it is. */
function placed({ place, message }: Problem): string {
  const where =
    place.kind === 'value'
      ? `value "${place.name}"`
      : place.kind === 'piece'
        ? `piece "${place.piece}"${place.face ? `, ${place.face}` : ''}`
        : place.kind === 'stack'
          ? `stack, ${place.field}`
          : place.kind === 'sweep'
            ? `sweep, ${place.field}`
            : place.kind === 'enclosure'
              ? `enclosure, ${place.side}`
              : place.kind;
  return `${where}: ${message}`;
}

/** Why a design has no response. */
export const whyNot = ({ problems }: ResolvedDesign, design: Design): string =>
  placed(
    problems.find((p) => p.place.kind === 'value') ??
      problems[0] ?? { place: { kind: 'design' }, message: `"${design.name}" has an error` },
  );

function explain(problem: Problem, design: Design, overrides: Record<string, string>): never {
  const { place, message } = problem;
  if (place.kind === 'value' && place.name in overrides)
    return optionError('set', `${place.name}: ${message}`);
  if (Object.keys(overrides).length > 0)
    return optionError(
      'set',
      `with ${Object.entries(overrides)
        .map(([n, v]) => `${n}=${v}`)
        .join(', ')} the design fails: ${'name' in place ? `${place.name} ` : ''}${message}`,
    );
  throw new UsageError(`design "${design.name}": ${placed(problem)}`);
}

function run(file: string, options: Options): void {
  const { level, accuracy } = levelAsked(options);
  const output = readOutput(options);

  const project = openProject(file);
  const design = pick(project, options);
  const overrides = overridesFrom(options, design);
  const resolved = resolveDesign(project, design, overrides);
  if (!subjectOf(resolved, level)) {
    const blocking = resolved.problems.find((p) => p.place.kind === 'value') ?? resolved.problems[0];
    return explain(blocking, design, overrides);
  }

  const given = options.start !== undefined || options.stop !== undefined || options.points !== undefined;
  if (!given && !resolved.sweep)
    return explain(
      resolved.problems.find((p) => p.place.kind === 'sweep')!,
      design,
      overrides,
    );
  const swept = sweepOf(options, resolved.sweep);
  const data = responseAt({ project, design, resolved }, level, accuracy, swept);
  if (typeof data === 'string')
    throw new UsageError(`--level: design "${design.name}" cannot be solved: ${data}`);
  if (!data.re.every(Number.isFinite) || !data.im.every(Number.isFinite))
    throw new UsageError(`design "${design.name}": the network has no finite solution for these values`);
  writeResponse(data, output, {
    who: 'the design',
    comments: [`${project.name}: ${design.name}, level ${level}`],
    report: (written) => report(written, design, level, output, options),
  });
}

/** What a level answers from, undefined while the design has errors: the field solution is told from the same design as the models. */
const subjectOf = (resolved: ResolvedDesign, level: LevelId) =>
  (liveLevels.find((l) => l.id === level) ?? closest).subject(resolved);

/** The response of a design at a level, or in words why it has none. */
export function responseAt(
  of: { readonly project: Project; readonly design: Design; readonly resolved: ResolvedDesign },
  level: LevelId,
  accuracy: Accuracy,
  freq: Float64Array,
): SData | string {
  const { resolved } = of;
  const find = dataFinder(of.project.data);
  const subject = subjectOf(resolved, level);
  if (!subject) return whyNot(resolved, of.design);
  if (level !== 'solved') return drive(answer(subject, find).sample(freq));
  try {
    return watched(solvedSteps(solvedSubject(resolved, layOut(resolved))!, find, freq, { accuracy })).data;
  } catch (error) {
    if (error instanceof NotSolvable || error instanceof CopperError) return error.message;
    throw error;
  }
}

function report(
  data: SData,
  design: Design,
  level: string,
  { parameter, out }: Output,
  options: Options,
): void {
  const { ports: n, freq } = data;
  if (options.json) {
    const matrix = (part: Float64Array, k: number) =>
      Array.from({ length: n }, (_, i) => Array.from(part.subarray((k * n + i) * n, (k * n + i + 1) * n)));
    print(
      `${JSON.stringify({
        design: design.name,
        level,
        ports: n,
        z0: data.z0.map((z) => [z.re, z.im]),
        freq: [...freq],
        re: Array.from(freq, (_f, k) => matrix(data.re, k)),
        im: Array.from(freq, (_f, k) => matrix(data.im, k)),
        ...(out === undefined ? {} : { file: out }),
      })}\n`,
    );
    return;
  }
  if (out !== undefined) {
    print(
      `${design.name}, ${level}: ${freq.length} point${freq.length > 1 ? 's' : ''}, ${n} port${n > 1 ? 's' : ''}, ${parameter.toUpperCase()} written to ${out}\n`,
    );
    return;
  }
  const step = Math.max(1, Math.ceil(freq.length / 21));
  const heads = Array.from({ length: n * n }, (_, e) => `|S${Math.floor(e / n) + 1}${(e % n) + 1}| dB`);
  const rows = [];
  for (let k = 0; k < freq.length; k += step)
    rows.push([
      formatQuantity(freq[k], 'frequency', { digits: 6 }),
      ...heads.map((_, e) => formatNumber(decibels(data.re[k * n * n + e], data.im[k * n * n + e]))),
    ]);
  print(`${design.name}, ${level}\n${table([['frequency', ...heads], ...rows])}`);
}
