import type { Command } from 'commander';
import { MEMBER_INDEX, memberIndex, memberName } from '@ditch/core/formats';
import { resolveDesign, type Design, type Project } from '@ditch/core/network';
import type { SData } from '@ditch/core/results';
import {
  combinations,
  familyKeys,
  FamilyError,
  memberAt,
  readFamily,
  type FamilyValues,
} from '@ditch/core/studies';
import { formatQuantity } from '@ditch/core/units';
import { optionError } from './errors';
import { FolderWriter, print } from './files';
import { nameAndRest, repeated, type Options } from './options';
import { addSweepOptions, readFolderOutput, sweepOf, textOf } from './output';
import { table } from './print';
import { levelAsked, openProject, overridesFrom, pick, responseAt } from './simulate';

export function addFamily(program: Command): void {
  const command = program
    .command('family')
    .description('simulate a design once for every value of a range')
    .argument('<file>', 'project file')
    .option('--design <name>', 'design that is meant (default: the only one)')
    .option(
      '--over <name=start..stop:count>',
      'a named value, PIECE.FACE, or of the board with its copper as it is: er, height, thickness, tand, width (etching of all lines); a list with commas as well; twice: every combination',
      repeated,
      [],
    )
    .option('--level <level>', 'ideal, modelled (default) or solved')
    .option('--accuracy <accuracy>', 'of the solved level: draft, normal (default) or fine')
    .option(
      '--set <name=value>',
      'override one of the design\u2019s named values; may be repeated',
      repeated,
      [],
    )
    .option('--out <folder>', 'folder to make, with a file of each member and index.csv (required)')
    .option('--json', 'print what was made as one JSON object')
    .action((file: string, options: Options) => run(file, options));
  addSweepOptions(command, ' (default: the design\u2019s sweep)');
}

/** Words for what of the board comes out otherwise. */
const BOARD: Readonly<Record<string, string>> = {
  er: 'board:er',
  height: 'board:height',
  thickness: 'board:thickness',
  tand: 'board:tand',
  width: 'board:etch',
};

/** The key of what a name means in a design: a named value first, then a face of a piece, then the board, none of how it is driven. */
export function keyNamed(design: Design, name: string): string | undefined {
  if (design.values.some((v) => v.name === name)) return `value:${name}`;
  const at = name.lastIndexOf('.');
  const [id, face] = [name.slice(0, at), name.slice(at + 1)];
  const piece = at > 0 ? design.pieces.find((p) => p.id === id || p.name === id) : undefined;
  if (piece?.held[face] !== undefined) return `piece:${piece.id}:${face}`;
  return Object.hasOwn(BOARD, name) ? BOARD[name] : undefined;
}

/** What `--over` asks for, as it is named and as it was read. */
function axesFrom(
  project: Project,
  design: Design,
  options: Options,
): { names: string[]; axes: FamilyValues[] } {
  const given = options.over as string[];
  if (given.length === 0) return optionError('over', 'is required, such as --over gap=0.1mm..0.3mm:5');
  if (given.length > 2) return optionError('over', 'may be given twice at most');
  const axes = given.map((text) => {
    const [name, values] = nameAndRest('over', text, 'NAME=START..STOP:COUNT');
    const key = keyNamed(design, name);
    if (key === undefined)
      return optionError(
        'over',
        `nothing is called "${name}"; there are ${[...design.values.map((v) => v.name), ...Object.keys(BOARD)].join(', ')}, and PIECE.FACE`,
      );
    return { name, key, values };
  });
  const resolved = resolveDesign(project, design);
  const known = familyKeys(project, design, resolved);
  for (const { name, key } of axes)
    if (!known.some((k) => k.key === key))
      optionError('over', `"${name}" is no real value that a range could be taken of`);
  try {
    return { names: axes.map((a) => a.name), axes: readFamily(project, design, resolved, axes) };
  } catch (error) {
    if (error instanceof FamilyError)
      return optionError('over', `${axes[error.axis].name} ${error.message} (got "${given[error.axis]}")`);
    throw error;
  }
}

function run(file: string, options: Options): void {
  const { level, accuracy } = levelAsked(options);
  const output = readFolderOutput(options);
  const { out } = options;
  if (typeof out !== 'string' || out === '') return optionError('out', 'is required: the folder to make');
  const project = openProject(file);
  const picked = pick(project, options);
  const overrides = overridesFrom(options, picked);
  const design: Design = {
    ...picked,
    values: picked.values.map((v) => (v.name in overrides ? { ...v, value: overrides[v.name] } : v)),
  };
  const own: Project = { ...project, designs: project.designs.map((d) => (d.id === design.id ? design : d)) };
  const { names, axes } = axesFrom(own, design, options);
  const swept = sweepOf(options, resolveDesign(own, design).sweep);
  const members = combinations(axes);

  const folder = new FolderWriter(out, (name) => name === MEMBER_INDEX || /^\d+\.s\d+p$/.test(name));
  try {
    const files: string[] = [];
    members.forEach((values, i) => {
      const told = values.map((v, a) => `${names[a]}=${formatQuantity(v, axes[a].kind, { digits: 12 })}`);
      const fail = (reason: string): never =>
        optionError('over', `with ${told.join(', ')} the design fails: ${reason}`);
      let data: SData | string;
      try {
        data = responseAt(memberAt(own, design, axes, values), level, accuracy, swept);
      } catch (error) {
        if (!(error instanceof FamilyError)) throw error;
        data = error.message;
      }
      if (typeof data === 'string') return fail(data);
      if (!data.re.every(Number.isFinite) || !data.im.every(Number.isFinite))
        return fail('the network has no finite solution');
      const { suffix, text } = textOf(data, output, 'the design', [
        `${project.name}: ${design.name}, level ${level}, ${told.join(', ')}`,
      ]);
      const name = `${memberName(i, members.length)}.${suffix}`;
      folder.write(name, text);
      files.push(name);
    });
    folder.write(MEMBER_INDEX, memberIndex(names, members, files));
    folder.keep();
    if (options.json)
      print(
        `${JSON.stringify({
          design: design.name,
          level,
          members: members.map((values, i) => ({
            values: Object.fromEntries(names.map((n, a) => [n, values[a]])),
            file: files[i],
          })),
          folder: out,
        })}\n`,
      );
    else
      print(
        `${design.name}, ${level}: ${members.length} member${members.length > 1 ? 's' : ''} written to ${out}\n${table(
          [
            [...names, 'file'],
            ...members.map((values, i) => [
              ...values.map((v, a) => formatQuantity(v, axes[a].kind, { digits: 6 })),
              files[i],
            ]),
          ],
        )}`,
      );
  } catch (error) {
    folder.discard();
    throw error;
  }
}
