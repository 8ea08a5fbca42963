import { NotSolvable } from '@ditch/core/levels';
import {
  boardWriters,
  checkPlan,
  etchOf,
  layersOf,
  limitsFor,
  madeOf,
  writeBill,
  writeDesignCopper,
  writeGerber,
  type BoardFile,
  type BoardPlan,
  type Finding,
  type Layers,
  type Made,
  type What,
} from '@ditch/core/making';
import { resolveDesign, type Project } from '@ditch/core/network';
import { QuantityError } from '@ditch/core/units';
import type { Reading } from './turns';
import { bytes, zipped } from './zipped';

export type BoardFormat = BoardFile | 'gerber' | 'copper' | 'bill';

/** A board with what its shop would send back. */
export interface MadeAnswer extends Made {
  readonly findings: readonly Finding[];
  readonly layers?: Layers;
  /** Why the shop's limits cannot be read. */
  readonly shop?: string;
}

/** What is made, and checked. */
export function made({ project, what }: { project: Project; what: What }): Promise<MadeAnswer> {
  const answer = { ...madeOf(project, what), layers: layersOf(project, what) };
  try {
    const findings = answer.plan ? checkPlan(answer.plan, limitsFor(project, what)) : [];
    return Promise.resolve({ ...answer, findings });
  } catch (error) {
    if (error instanceof QuantityError)
      return Promise.resolve({ ...answer, findings: [], shop: error.message });
    throw error;
  }
}

/** The file of a format, with its suffix. */
function written(
  format: BoardFormat,
  plan: BoardPlan,
  project: Project,
  what: What,
): { readonly suffix: string; readonly content: Uint8Array } {
  if (format === 'gerber') return { suffix: 'gerber.zip', content: zipped(writeGerber(plan)) };
  if (format === 'bill') return { suffix: 'parts.csv', content: bytes(writeBill(plan)) };
  if (format === 'copper') {
    const design = 'design' in what ? project.designs.find((d) => d.id === what.design) : undefined;
    if (!design) throw new NotSolvable('a panel is not solved; its designs are');
    return { suffix: 'copper.json', content: bytes(writeDesignCopper(resolveDesign(project, design))!) };
  }
  const { suffix, write } = boardWriters[format];
  const content = write(plan);
  return { suffix, content: typeof content === 'string' ? bytes(content) : content };
}

/** A board as a file for a shop or another program. */
export function board({
  project,
  what,
  format,
}: {
  readonly project: Project;
  readonly what: What;
  readonly format: BoardFormat;
}): Promise<Reading<{ readonly name: string; readonly suffix: string; readonly content: Uint8Array }>> {
  const { plan, problems } = madeOf(project, what, etchOf(project));
  const [problem] = problems;
  if (!plan || problem) return Promise.resolve({ problem: problem?.message ?? 'there is no copper' });
  try {
    return Promise.resolve({ value: { name: plan.name, ...written(format, plan, project, what) } });
  } catch (error) {
    if (error instanceof NotSolvable || error instanceof RangeError)
      return Promise.resolve({ problem: error.message });
    throw error;
  }
}
