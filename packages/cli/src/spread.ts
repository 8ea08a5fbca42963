import type { Command } from 'commander';
import { writeCsv } from '@ditch/core/formats';
import type { Design, Project } from '@ditch/core/network';
import { RetuneError, spreadSteps, ToleranceError, yieldOf, type Wanted } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { keyNamed } from './family';
import { optionError } from './errors';
import { print, writeWhole } from './files';
import { choice, count, nameAndRest, repeated, type Options } from './options';
import { table, watched } from './print';
import { openProject, pick } from './simulate';
import { LIMIT_HELP, limited, plotsOf } from './study';

/** Samples that are a table still, and not a burden. */
const MOST = 1_000_000;

export function addSpread(program: Command): void {
  program
    .command('spread')
    .description('how many of a design keep its limits as they come out of the shop')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design that is meant (default: the only one)')
    .option(
      '--vary <name=spread>',
      'plus and minus 5% or 20um, with :uniform or :normal (default, three standard deviations): a named value, PIECE.FACE, width (etching of all lines together), height, er, thickness; may be repeated (default: what the file says)',
      repeated,
      [],
    )
    .option('--samples <number>', 'samples to take (default 1000)')
    .option('--seed <number>', 'the same seed gives the same samples on every machine (default 1)')
    .option('--level <level>', 'modelled (default) or ideal')
    .option('--limit <limit>', LIMIT_HELP, repeated, [])
    .option('--out <file>', '.csv file with a row per sample')
    .option('--json', 'print {samples, pass, yield, low, high, causes} as one JSON object')
    .action((file: string, options: Options) => run(file, options));
}

/** What `--vary` asks for, and the names it gave. */
function wantedFrom(
  design: Design,
  options: Options,
): { wanted: Wanted[]; names: Map<string, string> } | undefined {
  const given = options.vary as string[];
  if (given.length === 0) return undefined;
  const names = new Map<string, string>();
  const wanted = given.map((text) => {
    const [name, spread] = nameAndRest('vary', text, 'NAME=SPREAD, such as er=1.5%');
    const key = keyNamed(design, name);
    if (key === undefined || key === 'board:tand')
      return optionError(
        'vary',
        `nothing that spreads is called "${name}"; there are ${[...design.values.map((v) => v.name), 'width', 'height', 'er', 'thickness'].join(', ')}, and PIECE.FACE`,
      );
    names.set(key, name);
    return { key, text: spread };
  });
  return { wanted, names };
}

/** What something that spreads is called in a file, where no option named it. */
const plainName = (key: string): string => {
  const [what, id, face] = key.split(':');
  return what === 'board' ? (id === 'etch' ? 'width' : id) : what === 'piece' ? `${id}.${face}` : id;
};

function run(file: string, options: Options): void {
  const model = choice(options, 'level', ['modelled', 'ideal'] as const, 'modelled');
  const samples = count(options, 'samples', 1, MOST, 1000);
  const seed = count(options, 'seed', 0, 2 ** 32 - 1, 1);
  const out = typeof options.out === 'string' ? options.out : undefined;
  if (out !== undefined && !/\.csv$/i.test(out)) optionError('out', `"${out}" must end in .csv`);
  const project = openProject(file);
  const design = pick(project, options);
  const plots = plotsOf(options);
  const own = plots.length > 0 ? limited(design, plots) : design;
  if (!own.plots?.some((p) => p.limits?.length))
    optionError(
      'limit',
      'the design\u2019s plots have no limits; give some, such as "S11 below -20 dB from 10 to 11 GHz"',
    );
  const alone: Project = { ...project, designs: project.designs.map((d) => (d.id === design.id ? own : d)) };
  const asked = wantedFrom(design, options);
  const nameOf = (key: string) => asked?.names.get(key) ?? plainName(key);

  const found = (() => {
    try {
      return watched(
        spreadSteps(alone, own, { ...(asked && { wanted: asked.wanted }), model, seed, samples }),
      );
    } catch (error) {
      if (error instanceof ToleranceError)
        return optionError('vary', `${nameOf(error.key)}: ${error.message}`);
      if (error instanceof RetuneError)
        return optionError(plots.length > 0 ? 'limit' : 'design', error.message);
      throw error;
    }
  })();
  const { varied, off, miss } = found;
  if (varied.length === 0)
    optionError('vary', 'nothing spreads: neither an option nor the file says what comes out how');
  const m = varied.length;
  const told = yieldOf(miss);
  const causes = varied
    .map((v, i) => ({ name: nameOf(v.key), share: found.causes[i] }))
    .sort((a, b) => b.share - a.share);
  if (out !== undefined)
    writeWhole(
      out,
      writeCsv([
        { name: 'sample', values: Array.from(miss, (_x, k) => k + 1) },
        ...varied.map((v, i) => ({
          name: nameOf(v.key),
          values: Float64Array.from(miss, (_x, k) => v.nominal + off[k * m + i]),
        })),
        { name: 'miss_dB', values: miss },
        { name: 'pass', values: Array.from(miss, (x) => (x <= 0 ? 1 : 0)) },
      ]),
    );
  if (options.json)
    return print(`${JSON.stringify({ ...told, causes, ...(out === undefined ? {} : { file: out }) })}\n`);
  const percent = (x: number) => `${formatNumber(100 * x, 4)} %`;
  print(
    `${design.name}: ${told.pass} of ${told.samples} keep their limits, ${percent(told.yield)}, between ${percent(told.low)} and ${percent(told.high)} with 95 % confidence\n${table(
      [
        ['spreads', 'nominal', 'plus and minus', 'costs of what is missed'],
        ...causes.map(({ name, share }) => {
          const v = varied.find((x) => nameOf(x.key) === name)!;
          return [
            name,
            v.key === 'board:etch' ? 'as drawn' : formatQuantity(v.nominal, v.kind, { digits: 5 }),
            `${formatQuantity(v.half, v.kind, { digits: 4 })}${v.shape === 'uniform' ? ', uniform' : ''}`,
            percent(share),
          ];
        }),
      ],
    )}${out === undefined ? '' : `a row per sample written to ${out}\n`}`,
  );
}
