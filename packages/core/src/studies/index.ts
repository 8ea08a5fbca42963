export { movable, type Moved } from './free';
export * from './retune';
export * from './close';
export * from './path';
export * from './tune';
export * from './attempts';
export * from './limits';
export { alike } from './symmetry';
