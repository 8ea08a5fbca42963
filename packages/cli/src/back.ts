import type { Command } from 'commander';
import { writeProject } from '@ditch/core/formats';
import { NotSolvable } from '@ditch/core/levels';
import {
  resolveDesign,
  solvableSizes,
  standOn,
  type SizeRange,
  type SolvableSize,
} from '@ditch/core/network';
import { accuracies, CopperError } from '@ditch/core/planar';
import { RetuneError } from '@ditch/core/studies';
import { backingSteps, SizeError } from '@ditch/core/studies/solved';
import { formatNumber, formatQuantity, QuantityError, readQuantity } from '@ditch/core/units';
import { optionError, UsageError } from './errors';
import { print, writeWhole } from './files';
import { choice, nameAndRest, repeated, type Options } from './options';
import { table, watched } from './print';
import { openProject, pick } from './simulate';

export function addBack(program: Command): void {
  program
    .command('back')
    .description('have pieces solved over ranges of their sizes, for the modelled level to stand on')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design that is meant (default: the only one)')
    .option('--piece <name>', 'piece to be solved; several are solved as one', repeated, [])
    .option(
      '--over <size=from..to>',
      'PIECE.FACE, or of the board er, height, thickness; may be repeated. Sizes that are equal go together',
      repeated,
      [],
    )
    .option('--accuracy <accuracy>', 'draft, normal (default) or fine')
    .option('--tolerance <number>', 'error of S between what was solved that is good enough (default 0.002)')
    .option('--out <file>', 'project file to write (required)')
    .option('--json', 'print {data, pieces, states, solves, error} as one JSON object')
    .action((file: string, options: Options) => run(file, options));
}

const shown = ({ value, board }: SolvableSize): string =>
  board === 'er' ? formatNumber(value) : formatQuantity(value, 'length', { digits: 4, typed: true });

function rangeOf(text: string, sizes: readonly SolvableSize[]): SizeRange {
  const [name, range] = nameAndRest('over', text, 'SIZE=FROM..TO');
  const size = sizes.find((s) => s.key === name);
  if (!size)
    return optionError(
      'over',
      `nothing to be solved over is called "${name}"; there are ${sizes.map((s) => s.key).join(', ')}`,
    );
  const ends = range.split('..');
  if (ends.length !== 2) return optionError('over', `needs SIZE=FROM..TO (got "${text}")`);
  const [from, to] = ends.map((end) => {
    try {
      return readQuantity(end.trim(), { kind: size.board === 'er' ? 'number' : 'length' }).re;
    } catch (error) {
      if (error instanceof QuantityError)
        return optionError('over', `${name}: ${error.message} (got "${end}")`);
      throw error;
    }
  });
  return { key: name, from, to };
}

function run(file: string, options: Options): void {
  const { out } = options;
  if (typeof out !== 'string' || out === '')
    return optionError('out', 'is required: the project file to write');
  const project = openProject(file);
  const design = pick(project, options);
  const accuracy = choice(options, 'accuracy', accuracies, 'normal');
  const asked = options.tolerance === undefined ? undefined : Number(options.tolerance);
  if (asked !== undefined && !(asked > 0 && asked < 1))
    return optionError('tolerance', `needs a number between 0 and 1 (got "${String(options.tolerance)}")`);
  const resolved = resolveDesign(project, design);
  const named = options.piece as string[];
  if (named.length === 0) return optionError('piece', 'is required: at least one piece to be solved');
  const ids = named.map((name) => {
    const piece = design.pieces.find((p) => p.id === name) ?? design.pieces.find((p) => p.name === name);
    return (
      piece?.id ??
      optionError(
        'piece',
        `no piece is called "${name}"; there are ${design.pieces.map((p) => p.id).join(', ')}`,
      )
    );
  });
  const sizes = solvableSizes(resolved, ids);
  const given = options.over as string[];
  if (given.length === 0)
    return optionError(
      'over',
      `is required; these pieces have ${sizes.map((s) => `${s.key} (${s.label}, ${shown(s)})`).join(', ')}`,
    );
  const ranges = given.map((text) => rangeOf(text, sizes));
  if (new Set(ranges.map((r) => r.key)).size < ranges.length)
    return optionError('over', 'names one size twice');
  const found = (() => {
    try {
      return watched(
        backingSteps(project, design, {
          ids: [...new Set(ids)],
          ranges,
          accuracy,
          ...(asked !== undefined && { tolerance: asked }),
        }),
      );
    } catch (error) {
      if (error instanceof SizeError) return optionError('over', `${error.key}: ${error.message}`);
      if (error instanceof NotSolvable || error instanceof CopperError)
        return optionError('piece', `cannot be solved: ${error.message}`);
      if (error instanceof RetuneError) throw new UsageError(error.message);
      throw error;
    }
  })();
  const { block, backed, solves } = found;
  const after = standOn(project, design.id, block, backed);
  writeWhole(out, writeProject(after));
  const { error, states } = block.over!;
  const pieces = backed.flatMap((b) => b.pieces);
  if (options.json)
    print(`${JSON.stringify({ data: block.id, pieces, states: states.length, solves, error })}\n`);
  else
    print(
      `${design.name}: ${pieces.join(', ')} ${pieces.length === 1 ? 'stands' : 'stand'} on ${states.length} states; S within ${formatNumber(error, 2)} between them; ${solves} solutions; written to ${out}\n${table(
        [
          ['size', 'from', 'to'],
          ...block.over!.axes.map((a) => [
            a.label,
            ...[a.from, a.to].map((x) =>
              a.board === 'er' ? formatNumber(x) : formatQuantity(x, 'length', { digits: 4, typed: true }),
            ),
          ]),
        ],
      )}`,
    );
}
