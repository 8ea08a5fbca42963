export * from './tolerance';
export * from './varied';
export * from './run';
export * from './corners';
export * from './centre';
