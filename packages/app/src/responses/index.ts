export * from './react';
export { simulation, ResponseStore, type Result, type Snapshot, type Task, type Wanted } from './store';
