import type { Level } from './contract';

/** The copper as one piece of metal. Asked for, because it takes what it takes. */
export const solved: Level = {
  id: 'solved',
  name: 'solved',
  about:
    'The planar field solution of the copper as it is drawn: what stands close together couples, junctions are what they are, what radiates does. What is no copper is joined to it.',
  fidelity: 2,
};
