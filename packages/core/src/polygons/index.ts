export * from './ring';
export * from './shapes';
export * from './union';
