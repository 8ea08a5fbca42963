import { networkLevel } from './network';

/** The intention: lossless lines of the impedances and angles asked for, joined without any effect of their own. */
export const ideal = networkLevel('ideal', {
  name: 'ideal',
  about:
    'Lossless lines of the impedances and angles that are asked for; junctions, ends and holes have no effect of their own. What the design is meant to be.',
  fidelity: 0,
});
