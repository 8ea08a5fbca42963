export * from './transformer';
export * from './divider';
export * from './stubs';
export * from './lumped';
export * from './preferred';
export * from './taper';
export * from './radial';
export * from './elements';
