import { fromScattering, type Electrical } from '../electrical';
import { createSolver, networkOf, samplingSteps, sweptOver, type NetworkSolver } from '../network';
import { rationalThrough } from '../numeric';
import { REFERENCE, type Answer, type SolvedCopper } from './contract';

/** Solved copper as a part; beyond its samples it is what it is at their ends. */
function electricalOf({ nodes, samples }: SolvedCopper): Electrical {
  const through = rationalThrough(samples);
  const places = samples.map((s) => s.x);
  const [lowest, highest] = [Math.min(...places), Math.max(...places)];
  return fromScattering(
    nodes.length,
    nodes.map(() => ({ re: REFERENCE, im: 0 })),
    (f, re, im) => through(Math.min(highest, Math.max(lowest, f)), re, im),
  );
}

/** How every level answers: the parts of a circuit joined and solved, with the copper that was solved as one of them. */
export const answer: Answer = ({ solved, ...circuit }, data) => {
  const parts = networkOf(circuit, data);
  const network = solved
    ? { ...parts, parts: [...parts.parts, { electrical: electricalOf(solved), nodes: solved.nodes }] }
    : parts;
  let solver: NetworkSolver | undefined;
  return {
    sample(freq) {
      const over = sweptOver(network, freq);
      // What is asked afterwards lies in the sweep, where all that is dear is known by then.
      if (!solver || over !== network) solver = createSolver(over);
      return samplingSteps(network, freq, solver);
    },
    at: (f, re, im) => (solver ??= createSolver(network)).solve(f, re, im, 0),
  };
};
