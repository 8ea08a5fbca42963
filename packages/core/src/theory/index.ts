export * from './transformer';
