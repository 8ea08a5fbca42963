export * from './document';
export * from './grow';
export * from './branch';
export * from './hold';
export * from './couple';
export * from './launch';
export * from './outline';
