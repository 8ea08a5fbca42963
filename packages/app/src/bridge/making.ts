import { zipSync } from 'fflate';
import { layOut } from '@ditch/core/artwork';
import { writeCopper } from '@ditch/core/formats';
import { NotSolvable, solvedSubject } from '@ditch/core/levels';
import {
  planOf,
  writeBoardDxf,
  writeBoardSvg,
  writeGdsii,
  writeGerber,
  type BoardPlan,
} from '@ditch/core/making';
import { resolveDesign, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import type { Reading } from './turns';

export type BoardFormat = 'gerber' | 'dxf' | 'gdsii' | 'svg' | 'copper';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** How each file is made of a design and its plan, with its suffix. */
const written: Readonly<
  Record<
    BoardFormat,
    {
      readonly suffix: string;
      readonly make: (plan: BoardPlan, resolved: ResolvedDesign) => Uint8Array;
    }
  >
> = {
  gerber: {
    suffix: 'gerber.zip',
    make: (plan) =>
      zipSync(
        Object.fromEntries(Object.entries(writeGerber(plan)).map(([name, text]) => [name, bytes(text)])),
      ),
  },
  dxf: { suffix: 'dxf', make: (plan) => bytes(writeBoardDxf(plan)) },
  gdsii: { suffix: 'gds', make: writeGdsii },
  svg: { suffix: 'svg', make: (plan) => bytes(writeBoardSvg(plan)) },
  copper: {
    suffix: 'copper.json',
    make(_plan, resolved) {
      const { copper } = solvedSubject(resolved, layOut(resolved))!;
      return bytes(writeCopper(copper, { medium: resolved.medium, substrate: resolved.stack!.substrate }));
    },
  },
};

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
    const { suffix, make } = written[format];
    return Promise.resolve({ value: { suffix, content: make(plan, resolved) } });
  } catch (error) {
    if (error instanceof NotSolvable || error instanceof RangeError)
      return Promise.resolve({ problem: error.message });
    throw error;
  }
}
