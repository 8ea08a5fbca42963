export * from './dimension';
export * from './expression';
export * from './format';
export { COPPER_OUNCE } from './table';
export * from './entry';
