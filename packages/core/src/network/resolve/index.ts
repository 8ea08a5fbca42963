import { resolveStack, type ResolvedStack } from '../../stack';
import { dataFinder } from '../data';
import type { Design, Project } from '../document';
import { Problems, type Overrides, type ResolvedDesign } from './contract';
import { fitPieces } from './fitting';
import { readPlots } from './plots';
import { checkPorts } from './ports';
import { readValues } from './values';

export type { Overrides, Place, PlotPlane, Problem, ResolvedDesign, ResolvedPiece } from './contract';

/**
 * Works a design out: named values, the stack, every piece with both faces, the sweep. Wrong entries become problems
 * at their place; everything that does not depend on them is still worked out.
 */
export function resolveDesign(project: Project, design: Design, overrides: Overrides = {}): ResolvedDesign {
  const problems = new Problems();
  const data = dataFinder(project.data);
  const stack = readStack(project, design, problems);
  const values = readValues(design, stack, data, overrides, problems);
  const pieces = fitPieces(design, values, stack, data, problems);
  const shown = readPlots(design, values.scope, problems);
  checkPorts(pieces, problems);
  return {
    stack,
    medium: design.medium,
    f0: values.f0,
    values: values.values,
    pieces,
    backed: backedOf(project, design),
    ...shown,
    problems: problems.list,
  };
}

/** What stands on solved data; of what is gone nothing is left. */
function backedOf(project: Project, design: Design): ResolvedDesign['backed'] {
  const ids = new Set(design.pieces.map((p) => p.id));
  return (design.backed ?? []).flatMap((backed) => {
    const block = project.data.find((d) => d.id === backed.data);
    return block?.over && backed.pieces.every((id) => ids.has(id)) ? [{ ...backed, block }] : [];
  });
}

function readStack(project: Project, design: Design, problems: Problems): ResolvedStack | undefined {
  const document = project.stacks.find((s) => s.id === design.stack);
  if (!document) {
    problems.say({ kind: 'design' }, `its stack "${design.stack}" is not in the project`);
    return undefined;
  }
  const read = resolveStack(document, design.medium);
  for (const p of read.problems) problems.say({ kind: 'stack', field: p.field }, p.message);
  return read.value;
}
