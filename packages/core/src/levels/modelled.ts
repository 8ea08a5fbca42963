import { networkLevel } from './network';

/** The copper by published models of its lines and junctions. */
export const modelled = networkLevel('modelled', {
  name: 'modelled',
  about:
    'The copper by published models of its parts: lines with dispersion and loss, junctions, ends, gaps and holes. What stands apart does not know of one another.',
  fidelity: 1,
});
