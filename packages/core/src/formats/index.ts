export * from './copper';
export * from './csv';
export * from './members';
export { upToDate } from './migrate';
export * from './project';
export * from './response-formats';
export * from './touchstone';
export * from './write-project';
export * from './writers';
