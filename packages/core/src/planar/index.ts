export * from './contract';
export {
  meshErrorSteps,
  meshOf,
  prepareSteps,
  solveSteps,
  toleranceOf,
  type Prepared,
  type Solution,
  type SolvedPort,
  type SolveOptions,
} from './solve';
export { estimateSteps, trial, type Estimate, type Estimates } from './estimate';
export * from './kept';
export { extended } from './extend';
export { cornersOf, type Flow } from './flow';
export { sweepPlan, type Wish } from './sweep';
export { layersOf } from './layers';
export { boxResonances } from './resonance';
