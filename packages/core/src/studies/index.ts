import type { Design, Project } from '../network';
import type { Steps } from '../numeric';
import { limitSteps } from './limits';
import { retuneSteps, type Retuned } from './retune';

export { movable, type Moved } from './free';
export * from './retune';
export * from './close';
export * from './path';
export * from './walk';
export * from './tune';
export * from './attempts';
export * from './limits';
export { alike } from './symmetry';

/** A search that changes a design, behind one contract: the page, its jobs and whatever comes next map over them. */
export interface Study {
  readonly id: StudyId;
  /** What its result is called in the history. */
  readonly edit: string;
  /** What it says before the reason when it cannot be done. */
  readonly refused: string;
  /** @throws RetuneError in words */
  steps(project: Project, design: Design): Steps<Retuned>;
}
export type StudyId = 'retune' | 'limits';

/** Every study by its id. */
export const studies: Readonly<Record<StudyId, Study>> = {
  /** Towards the ideal response, by the copper. */
  retune: { id: 'retune', edit: 'retune', refused: 'Retuning is not possible', steps: retuneSteps },
  /** Into the limits of the plots, by the values on the tuning strip. */
  limits: { id: 'limits', edit: 'meet limits', refused: 'The limits cannot be met', steps: limitSteps },
};
