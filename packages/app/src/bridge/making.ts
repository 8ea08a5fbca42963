import { NotSolvable } from '@ditch/core/levels';
import {
  boardWriters,
  planOf,
  writeDesignCopper,
  writeGerber,
  type BoardFile,
  type BoardPlan,
} from '@ditch/core/making';
import { resolveDesign, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import type { Reading } from './turns';
import { bytes, zipped } from './zipped';

export type BoardFormat = BoardFile | 'gerber' | 'copper';

/** The file of a format, with its suffix. */
function written(
  format: BoardFormat,
  plan: BoardPlan,
  resolved: ResolvedDesign,
): { readonly suffix: string; readonly content: Uint8Array } {
  if (format === 'gerber') return { suffix: 'gerber.zip', content: zipped(writeGerber(plan)) };
  if (format === 'copper') return { suffix: 'copper.json', content: bytes(writeDesignCopper(resolved)!) };
  const { suffix, write } = boardWriters[format];
  const content = write(plan);
  return { suffix, content: typeof content === 'string' ? bytes(content) : content };
}

/** The copper of a design as a file for a shop or another program. */
export function board({
  project,
  design,
  format,
}: {
  readonly project: Project;
  readonly design: Design;
  readonly format: BoardFormat;
}): Promise<Reading<{ readonly suffix: string; readonly content: Uint8Array }>> {
  const resolved = resolveDesign(project, design);
  const plan = planOf(design.name, resolved);
  const wrong = resolved.pieces.find((p) => !p.values);
  if (!plan || wrong)
    return Promise.resolve({ problem: wrong ? `${wrong.name} has an error` : 'there is no copper' });
  try {
    return Promise.resolve({ value: written(format, plan, resolved) });
  } catch (error) {
    if (error instanceof NotSolvable || error instanceof RangeError)
      return Promise.resolve({ problem: error.message });
    throw error;
  }
}
