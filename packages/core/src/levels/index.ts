import { layOut } from '../artwork';
import { dataFinder, resolveDesign, type Design, type Overrides, type Project } from '../network';
import { drive } from '../numeric';
import type { SData } from '../results';
import { answerOf } from './answers';
import type { Level, LevelId } from './contract';
import { ideal } from './ideal';
import { modelled } from './modelled';

export * from './answers';
export * from './contract';
export * from './solved';

/** Every level by its id. A further one is a file and a row here. */
export const levelById: Readonly<Record<LevelId, Level>> = { ideal, modelled };

/** Every level, the least true to the copper first. */
export const levels: readonly Level[] = Object.values(levelById).sort((a, b) => a.fidelity - b.fidelity);

/** The level that a design means: all others are judged against it. */
export const intended: Level = levels[0];

/** The one of those at hand that is truest to the copper; undefined of none. */
export const truest = (ids: Iterable<LevelId>): LevelId | undefined =>
  [...ids].sort((a, b) => levelById[b].fidelity - levelById[a].fidelity)[0];

/**
 * The S-parameters of a design at one level at all of `freq` (Hz).
 * @returns undefined while the design has errors
 */
export function responseOf(
  project: Project,
  design: Design,
  level: LevelId,
  freq: Float64Array,
  overrides?: Overrides,
): SData | undefined {
  const resolved = resolveDesign(project, design, overrides);
  const subject = levelById[level].subject(resolved, () => layOut(resolved));
  return subject && drive(answerOf[level](subject, dataFinder(project.data)).sample(freq));
}
