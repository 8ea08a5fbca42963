export * from './csv';
export { upToDate } from './migrate';
export * from './project';
export * from './touchstone';
export * from './write-project';
