import type { Design, Project } from '../network';
import type { Steps } from '../numeric';
import type { MeetOptions } from './limits';
import type { Retuned } from './retune';

export type StudyId = 'retune' | 'limits';

/** What a study is called. */
export interface StudyWords {
  /** Its result in the history. */
  readonly edit: string;
  /** What stands before the reason when it cannot be done. */
  readonly refused: string;
}

/** How a search is run, and watched. */
export type StudyOptions = Pick<MeetOptions, 'seed' | 'watch' | 'enough'>;

/** A search that changes a design. */
export interface Study extends StudyWords {
  /** @throws RetuneError in words */
  steps(project: Project, design: Design, options?: StudyOptions): Steps<Retuned>;
}

/** The words apart from the searches, for those who do not run them. */
export const studyWords: Readonly<Record<StudyId, StudyWords>> = {
  /** Towards the ideal response, by the copper. */
  retune: { edit: 'retune', refused: 'Retuning is not possible' },
  /** Into the limits of the plots, by the values on the tuning strip. */
  limits: { edit: 'meet limits', refused: 'The limits cannot be met' },
};
