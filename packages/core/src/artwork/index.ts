export * from './layout';
export * from './check';
