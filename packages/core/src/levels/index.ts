import { dataFinder, resolveDesign, type Design, type Overrides, type Project } from '../network';
import { drive } from '../numeric';
import type { SData } from '../results';
import { answer } from './answers';
import type { Level, LevelId, LiveId, LiveLevel } from './contract';
import { ideal } from './ideal';
import { modelled } from './modelled';
import { solved } from './solved';

export * from './answers';
export * from './contract';
export * from './copper';
export * from './driven';
export * from './excerpt';
export { costOf } from './network';
export * from './solution';
export { sweepOf } from './sweep';

/** Every level that follows by itself, by its id. */
export const liveById: Readonly<Record<LiveId, LiveLevel>> = { ideal, modelled };

/** Every level by its id. A further one is a file and a row here. */
export const levelById: Readonly<Record<LevelId, Level>> = { ...liveById, solved };

const byFidelity = (a: Level, b: Level) => a.fidelity - b.fidelity;

/** Every level, the least true to the copper first. */
export const levels: readonly Level[] = Object.values(levelById).sort(byFidelity);

/** Those that follow by themselves, in the same order. */
export const liveLevels: readonly LiveLevel[] = Object.values(liveById).sort(byFidelity);

/** The level that a design means: all others are judged against it. */
export const intended: LiveLevel = liveLevels[0];

/** The truest level that follows by itself. */
export const closest: LiveLevel = liveLevels[liveLevels.length - 1];

/** The one of those at hand that is truest to the copper; undefined of none. */
export const truest = <Id extends LevelId>(ids: Iterable<Id>): Id | undefined =>
  [...ids].sort((a, b) => levelById[b].fidelity - levelById[a].fidelity)[0];

/**
 * The S-parameters of a design at a level that follows by itself, at all of `freq` (Hz).
 * @returns undefined while the design has errors
 */
export function responseOf(
  project: Project,
  design: Design,
  level: LiveId,
  freq: Float64Array,
  overrides?: Overrides,
): SData | undefined {
  const subject = liveById[level].subject(resolveDesign(project, design, overrides));
  return subject && drive(answer(subject, dataFinder(project.data)).sample(freq));
}
