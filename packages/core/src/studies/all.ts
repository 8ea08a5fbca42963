import { limitSteps } from './limits';
import { retuneSteps } from './retune';
import { studyWords, type Study, type StudyId } from './study';

/** Every study by its id: the page, its jobs and whatever comes next map over them. */
export const studies: Readonly<Record<StudyId, Study>> = {
  retune: { ...studyWords.retune, steps: retuneSteps },
  limits: { ...studyWords.limits, steps: limitSteps },
};
