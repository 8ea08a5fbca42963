export * from './sparameters';
export * from './match';
export * from './convert';
