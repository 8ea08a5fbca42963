export * from './document';
export * from './electrical';
export * from './resolve';
export * from './simulate';
export * from './solve';
export * from './create';
export * from './review';
export * from './sheet';
