import { layOut } from '../artwork';
import { writeCopper } from '../formats';
import { solvedSubject } from '../levels';
import type { ResolvedDesign } from '../network';
import { writeGdsii } from './gdsii';
import type { BoardPlan } from './board';
import { writeBoardDxf, writeBoardSvg, writeDrill } from './text';

/** What a board is written as in one file. */
export type BoardFile = 'dxf' | 'gdsii' | 'svg' | 'drill';

export const boardWriters: Readonly<
  Record<BoardFile, { readonly suffix: string; readonly write: (plan: BoardPlan) => string | Uint8Array }>
> = {
  dxf: { suffix: 'dxf', write: writeBoardDxf },
  gdsii: { suffix: 'gds', write: writeGdsii },
  svg: { suffix: 'svg', write: writeBoardSvg },
  drill: { suffix: 'drl', write: writeDrill },
};

/** The copper of a design as the file that can be solved without it; undefined while the design has errors. @throws NotSolvable */
export function writeDesignCopper(resolved: ResolvedDesign): string | undefined {
  const { medium, stack } = resolved;
  const subject = solvedSubject(resolved, layOut(resolved));
  return subject && stack && writeCopper(subject.copper, { medium, substrate: stack.substrate });
}
