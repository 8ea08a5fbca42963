export * from './retune';
export * from './close';
