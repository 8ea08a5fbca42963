import type { DataBlock, Project, SolvedOver } from '../network';
import validate from './generated/validate-project';
import type { KeptSolution } from '../planar';
import { migrated } from './migrate';
import { solutionFrom, type FileSolution } from './solutions';
import { invalid } from './invalid';
import { encodingProblem } from './text';

/** A file that cannot be read; the message names the place and what is wrong, for the engineer. */
export class ProjectFileError extends Error {}

/** The version of the project format that is written. Older ones are migrated on reading, newer ones refused. */
export const PROJECT_VERSION = 2;

/** What a project file holds. */
export interface ProjectFile {
  readonly project: Project;
  readonly solutions: readonly KeptSolution[];
}

const MAX_LENGTH = 200_000_000;

/** The same of what data was solved over. */
function checkOver({ ports }: DataBlock, over: SolvedOver, at: string): void {
  const { pieces, pins, axes, places, states } = over;
  const refuse = (why: string) => {
    throw new ProjectFileError(`${at} > ${why}`);
  };
  if (pins.length !== ports) refuse('pins: needs one for every port');
  if (pins.some(([piece, pin]) => pieces[piece]?.nodes[pin] === undefined))
    refuse('pins: there is no such pin');
  axes.forEach((axis, j) => {
    if (!(axis.to > axis.from)) refuse(`axes[${j}]: must go upwards`);
    if (!axis.board === !axis.sizes) refuse(`axes[${j}]: is either a size of pieces or of the board`);
    if (axis.sizes?.some(([piece, face]) => !(pieces[piece] && Object.hasOwn(pieces[piece].values, face))))
      refuse(`axes[${j}] > sizes: there is no such face`);
  });
  if (new Set(places).size !== places.length) refuse('places: one stands twice');
  const known = new Set<string>();
  states.forEach((index, s) => {
    if (index.length !== axes.length || index.some((i) => i >= places.length))
      refuse(`states[${s}]: needs a place along every axis`);
    const below = index.flatMap((i, j) => (i > 0 ? [index.map((x, k) => (k === j ? x - 1 : x))] : []));
    if (known.has(String(index)) || below.some((b) => !known.has(String(b))))
      refuse(`states[${s}]: comes before what lies below it, or twice`);
    known.add(String(index));
  });
}

/** What the schema cannot say: references and array lengths. */
function checkConsistency(project: Project): void {
  const unique = (list: readonly { id: string }[], at: string) => {
    const seen = new Set<string>();
    list.forEach((item, i) => {
      if (seen.has(item.id)) throw new ProjectFileError(`${at}[${i}] > id: "${item.id}" is used twice`);
      seen.add(item.id);
    });
    return seen;
  };
  const stacks = unique(project.stacks, 'stacks');
  unique(project.data, 'data');
  unique(project.designs, 'designs');
  if (!stacks.has(project.line.stack))
    throw new ProjectFileError(`line > stack: there is no stack "${project.line.stack}"`);
  project.designs.forEach((design, i) => {
    if (!stacks.has(design.stack))
      throw new ProjectFileError(`designs[${i}] > stack: there is no stack "${design.stack}"`);
    unique(design.pieces, `designs[${i}] > pieces`);
    unique(design.markers, `designs[${i}] > markers`);
  });
  unique(project.panels ?? [], 'panels');
  project.panels?.forEach((panel, i) => unique(panel.placed, `panels[${i}] > placed`));
  project.data.forEach((block, i) => {
    const states = block.over?.states.length ?? 1;
    const values = block.freq.length * block.ports * block.ports * states;
    if (block.over) checkOver(block, block.over, `data[${i}] > over`);
    if (block.re.length !== values || block.im.length !== values)
      throw new ProjectFileError(
        `data[${i}]: needs ${values} values for ${block.ports} ports at ${block.freq.length} frequencies${block.over ? ` of ${states} states` : ''}`,
      );
    if (block.z0.length !== block.ports)
      throw new ProjectFileError(`data[${i}] > z0: needs one reference per port`);
    if (block.z0.some(([re]) => !(re > 0)))
      throw new ProjectFileError(`data[${i}] > z0: a reference must have a positive real part`);
    if (block.freq.some((f, k) => k > 0 && f <= block.freq[k - 1]))
      throw new ProjectFileError(`data[${i}] > freq: must ascend`);
  });
}

/**
 * Reads a project file. Nothing is taken from a file with an error anywhere.
 * @throws ProjectFileError
 */
export const readProject = (text: string): Project => readProjectFile(text).project;

/**
 * Reads a project file with what it carries beside the project: field solutions of its copper.
 * @throws ProjectFileError
 */
export function readProjectFile(text: string): ProjectFile {
  if (text.length > MAX_LENGTH)
    throw new ProjectFileError('the file is too large for a project (over 200 MB)');
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new ProjectFileError(encodingProblem(text) ?? 'the file is not JSON, so it is not a Ditch project');
  }
  if (typeof json !== 'object' || json === null || (json as { format?: unknown }).format !== 'ditch-project')
    throw new ProjectFileError('the file is not a Ditch project (its "format" is not "ditch-project")');
  const { version } = json as { version?: unknown };
  if (typeof version === 'number' && version > PROJECT_VERSION)
    throw new ProjectFileError(
      `the file was written by a newer Ditch (format version ${version}; this one reads up to ${PROJECT_VERSION}). Nothing was changed; open it with the newer one.`,
    );
  const present = migrated(json);
  if (!validate(present)) throw new ProjectFileError(invalid(validate.errors![0]));
  const { solutions = [], ...project } = present as Project & {
    readonly solutions?: readonly FileSolution[];
  };
  checkConsistency(project);
  solutions.forEach((s, i) => {
    const values = s.freq.length * s.copper.ports.length ** 2;
    if (s.re.length !== values || s.im.length !== values)
      throw new ProjectFileError(`solutions[${i}]: needs ${values} values`);
  });
  return { project, solutions: solutions.map(solutionFrom) };
}
