export * from './csv';
export * from './project';
export * from './touchstone';
export * from './write-project';
