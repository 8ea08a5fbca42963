import type { Sample } from '../numeric';
import type { Subject } from './contract';
import type { SolvedSubject } from './copper';

/** What a level is asked of solved copper with everything joined to it. @param key names the solution */
export const joinedSubject = (
  { nodes, rest }: Pick<SolvedSubject, 'nodes' | 'rest'>,
  samples: readonly Sample[],
  key: string,
): Subject => ({ ...rest, solved: { key: `${key} ${samples.length}`, nodes, samples } });
