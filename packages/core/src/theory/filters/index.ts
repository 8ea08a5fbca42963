export * from './prototype';
export * from './stubs';
export * from './stepped';
export * from './bandpass';
export * from './hairpin';
export * from './gaps';
export * as lossless from './lossless';
export * from './approximation';
export * from './specification';
