export * from './contract';
export { meshOf, solveSteps, type Solution, type SolvedPort, type SolveOptions } from './solve';
export { layersOf } from './layers';
export { outlinesOf } from './outline';
