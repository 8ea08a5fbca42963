export * from './layout';
export * from './check';
export * from './alongside';
export * from './enclosure';
