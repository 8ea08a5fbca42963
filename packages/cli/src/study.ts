import type { Command } from 'commander';
import { writeProject } from '@ditch/core/formats';
import {
  inDesign,
  resolveDesign,
  type Design,
  type Limit,
  type Plot,
  type Project,
} from '@ditch/core/network';
import { drive } from '@ditch/core/numeric';
import { NotSolvable } from '@ditch/core/levels';
import { CopperError } from '@ditch/core/planar';
import { parseFormula } from '@ditch/core/plots';
import {
  freeOf,
  limitSteps,
  RetuneError,
  retuneSteps,
  tunables,
  type FreeValue,
  type Retuned,
} from '@ditch/core/studies';
import { retuneSolvedSteps, type SolvedRetuned, type SolvedRetuneOptions } from '@ditch/core/studies/solved';
import { formatNumber, QuantityError, readQuantity } from '@ditch/core/units';
import { optionError, UsageError } from './errors';
import { print, writeWhole } from './files';
import { count, levelOf, repeated, type Options } from './options';
import { table, watched } from './print';
import { openProject, pick } from './simulate';

/** Exit code of a search that found nothing better. */
const NOTHING_BETTER = 3;

/** What `--limit` takes. */
export const LIMIT_HELP =
  'instead of those of the plots, such as "S21 above -3 dB from 0 to 6 GHz"; may be repeated';

export function addStudies(program: Command): void {
  const searching = (name: string, about: string) =>
    program
      .command(name)
      .description(about)
      .argument('<file>', 'project file')
      .option('--out <file>', 'project file to write (required)')
      .option('--design <name>', 'design that is meant (default: the only one)')
      .option('--json', 'print {before, after (the worst miss in dB), values, solves} as one JSON object');
  searching('retune', 'bring a design\u2019s copper back to its ideal response')
    .option('--level <level>', 'modelled (default), or solved: by at most four field solutions')
    .option('--accuracy <accuracy>', 'of the solved level: draft, normal (default) or fine')
    .action((file: string, options: Options) => retune(file, options));
  searching('meet', 'search values that keep the limits of a design\u2019s plots')
    .option('--level <level>', 'modelled (default), ideal, or solved: by at most four field solutions')
    .option('--accuracy <accuracy>', 'of the solved level: draft, normal (default) or fine')
    .option('--limit <limit>', LIMIT_HELP, repeated, [])
    .option(
      '--free <name[=low..high]>',
      'value that may move, a named one or PIECE.FACE; may be repeated (default: what the design marks)',
      repeated,
      [],
    )
    .option('--global', 'search the whole ranges first')
    .option('--seed <number>', 'of the global search (default 1)')
    .action((file: string, options: Options) => meet(file, options));
}

function open(file: string, options: Options): { project: Project; design: Design; out: string } {
  const { out } = options;
  if (typeof out !== 'string' || out === '')
    return optionError('out', 'is required: the project file to write');
  const project = openProject(file);
  return { project, design: pick(project, options), out };
}

/** What two states of a design differ in: named values, and what pieces hold as PIECE.FACE. */
function changed(from: Design, to: Design): Record<string, string> {
  const out: Record<string, string> = {};
  to.values.forEach(({ name, value }) => {
    if (from.values.find((v) => v.name === name)?.value !== value) out[name] = value;
  });
  for (const piece of to.pieces) {
    const before = from.pieces.find((p) => p.id === piece.id);
    for (const [face, text] of Object.entries(piece.held))
      if (before?.held[face] !== text) out[`${piece.id}.${face}`] = text;
  }
  return out;
}

/** What a search came to, written where it is better than what was there. */
function finish(
  project: Project,
  design: Design,
  found: Design,
  result: { before: number; after: number; solves: number },
  out: string,
  options: Options,
): void {
  const values = changed(design, found);
  const better = result.after < result.before && Object.keys(values).length > 0;
  if (better) writeWhole(out, writeProject(inDesign(project, design.id, () => found)));
  else process.exitCode = NOTHING_BETTER;
  const { before, after, solves } = result;
  if (options.json)
    print(
      `${JSON.stringify({ before, after: better ? after : before, values: better ? values : {}, solves })}\n`,
    );
  else
    print(
      better
        ? `${design.name}: worst miss ${formatNumber(before, 4)} dB before, ${formatNumber(after, 4)} dB after; ${solves} networks solved; written to ${out}\n${table([['value', 'now'], ...Object.entries(values)])}`
        : `${design.name}: worst miss ${formatNumber(before, 4)} dB; nothing better was found in ${solves} networks, and nothing is written\n`,
    );
}

/** Runs a search, whose refusals are errors of what was asked. */
function searched<R extends Retuned>(work: () => R, option?: string): R {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof RetuneError)) throw error;
    return option ? optionError(option, error.message) : fail(error.message);
  }
}

/** Has a design's copper solved again and again until its response is what is asked for. */
function bySolving(
  project: Project,
  design: Design,
  options: SolvedRetuneOptions,
  option?: string,
): SolvedRetuned {
  try {
    return searched(() => watched(retuneSolvedSteps(project, design, options)), option);
  } catch (error) {
    if (error instanceof NotSolvable || error instanceof CopperError)
      return optionError('level', `design "${design.name}" cannot be solved: ${error.message}`);
    throw error;
  }
}
const fail = (message: string): never => {
  throw new UsageError(message);
};

/** An amplitude in dB; nothing at all is told as very little. */
const decibels = (amplitude: number): number => 20 * Math.log10(Math.max(amplitude, 1e-15));

function retune(file: string, options: Options): void {
  const { project, design, out } = open(file, options);
  const { level, accuracy } = levelOf(options, ['modelled', 'solved']);
  const result =
    level === 'solved'
      ? bySolving(project, design, { accuracy })
      : searched(() => drive(retuneSteps(project, design)));
  finish(
    project,
    design,
    result.design,
    { before: decibels(result.before), after: decibels(result.after), solves: result.solves },
    out,
    options,
  );
}

const LIMIT =
  /^\s*(.+?)\s+(above|below|at)\s+([-+]?[\d.]+(?:e[-+]?\d+)?)\s*((?!within\b)\S*)(?:\s+within\s+([\d.]+(?:e[-+]?\d+)?)(?:\s+\3)?)?\s+from\s+(.+?)\s+to\s+(.+?)\s*$/i;

/** Limits of the command line as plots of their own. */
export function plotsOf(options: Options): Plot[] {
  return (options.limit as string[]).map((text, i): Plot => {
    const m = LIMIT.exec(text);
    if (!m) return optionError('limit', `must read like "S21 above -3 dB from 0 to 6 GHz" (got "${text}")`);
    const [, what, side, level, unit, within, from, to] = m;
    if (side.toLowerCase() === 'at' && within === undefined)
      return optionError(
        'limit',
        `at a level needs how near: at ${level} ${unit} within 0.5 (got "${text}")`,
      );
    if (side.toLowerCase() !== 'at' && within !== undefined)
      return optionError('limit', `within belongs to at, not to ${side} (got "${text}")`);
    const formula = `${what} in ${unit || '1'}`;
    const frequency = (name: string, value: string): string => {
      // A bare number shares the unit of the other end: from 0 to 6 GHz.
      const unit = /^[\d.]+$/.test(value) ? /[a-zA-Z]+\s*$/.exec(to)?.[0] : undefined;
      if (unit) return frequency(name, `${value} ${unit}`);
      try {
        readQuantity(value, { kind: 'frequency', min: 0 });
        return value;
      } catch (error) {
        if (error instanceof QuantityError)
          return optionError('limit', `${name} ${error.message} (got "${value}" in "${text}")`);
        throw error;
      }
    };
    try {
      parseFormula(formula);
    } catch (error) {
      if (error instanceof QuantityError) return optionError('limit', `${error.message} (in "${text}")`);
      throw error;
    }
    const limit: Limit = {
      id: `limit${i + 1}`,
      side: side.toLowerCase() as Limit['side'],
      level,
      ...(within !== undefined && { tolerance: within }),
      from: frequency('from', from),
      to: frequency('to', to),
    };
    return { id: `asked${i + 1}`, show: 'formula', formulas: [formula], limits: [limit] };
  });
}

/** Samples of a sweep that limits are looked at in, at least. */
const POINTS = 401;

/** The design with limits in place of its plots, swept over all of them. */
export function limited(design: Design, plots: readonly Plot[]): Design {
  const ends = plots
    .flatMap((p) => p.limits!.flatMap((l) => [l.from, l.to]))
    .map((text) => ({
      text,
      hz: readQuantity(text, { kind: 'frequency' }).re,
    }));
  const least = ends.reduce((a, b) => (b.hz < a.hz ? b : a));
  const most = ends.reduce((a, b) => (b.hz > a.hz ? b : a));
  return { ...design, plots, sweep: { start: least.text, stop: most.text, points: POINTS } };
}

function freeFrom(project: Project, design: Design, options: Options): FreeValue[] | undefined {
  const given = options.free as string[];
  if (given.length === 0) return undefined;
  const all = tunables(project, design, resolveDesign(project, design));
  const nameOf = (key: string) => key.replace(/^value:/, '').replace(/^piece:(.*):(.*)$/, '$1.$2');
  return given.map((text) => {
    const [name, range] = text.split('=').map((t) => t.trim());
    const tunable = all.find((t) => nameOf(t.key) === name);
    if (!tunable)
      return optionError(
        'free',
        `nothing that can move is called "${name}"; there are ${all.map((t) => nameOf(t.key)).join(', ')}`,
      );
    if (range === undefined) return freeOf(project, design, tunable);
    const ends = range.split('..');
    if (ends.length !== 2) return optionError('free', `needs NAME=LOW..HIGH (got "${text}")`);
    const [low, high] = ends.map((end) => {
      try {
        return readQuantity(end, { kind: tunable.kind }).re;
      } catch (error) {
        if (error instanceof QuantityError)
          return optionError('free', `${name}: ${error.message} (got "${end}")`);
        throw error;
      }
    });
    if (!(low < high)) return optionError('free', `${name}: the range must rise (got "${range}")`);
    return freeOf(project, design, tunable, [low, high]);
  });
}

function meet(file: string, options: Options): void {
  const { project, design, out } = open(file, options);
  const { level, accuracy } = levelOf(options, ['modelled', 'ideal', 'solved']);
  if (level === 'solved' && options.global) optionError('global', 'is not for --level solved');
  if (options.seed !== undefined && !options.global) return optionError('seed', 'belongs to --global');
  const seed = options.global ? count(options, 'seed', 0, 2 ** 32 - 1, 1) : undefined;
  const plots = plotsOf(options);
  const own = plots.length > 0 ? limited(design, plots) : design;
  const alone = inDesign(project, design.id, () => own);
  const free = freeFrom(alone, own, options);
  const blamed = plots.length > 0 ? 'limit' : undefined;
  const result =
    level === 'solved'
      ? bySolving(alone, own, { towards: 'limits', accuracy, ...(free && { free }) }, blamed)
      : searched(
          () =>
            drive(
              limitSteps(alone, own, {
                model: level,
                ...(free && { free }),
                ...(seed !== undefined && { seed }),
              }),
            ),
          blamed,
        );
  // The plots of the file stay what they are.
  const found: Design = {
    ...result.design,
    ...(design.plots ? { plots: design.plots } : {}),
    sweep: design.sweep,
  };
  if (!design.plots) delete (found as { plots?: unknown }).plots;
  finish(project, design, found, result, out, options);
}
