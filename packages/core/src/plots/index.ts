export * from './roles';
export * from './measures';
export * from './filter';
export * from './formula';
export * from './defaults';
export * from './curves';
export * from './proposal';
export * from './readings';
