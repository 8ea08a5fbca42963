export * from './transformer';
export * from './divider';
