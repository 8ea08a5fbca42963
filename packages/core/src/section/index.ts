export * from './boundary';
