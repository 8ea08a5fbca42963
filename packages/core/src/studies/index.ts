export * from './retune';
export * from './close';
export * from './path';
