export * from './tolerance';
export * from './varied';
export * from './run';
