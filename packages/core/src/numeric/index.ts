export * from './constants';
export * from './elliptic';
export * from './root';
export * as cx from './complex';
export type { Complex } from './complex';
export * from './matrix';
export * from './quadrature';
export * from './least-squares';
export * from './sparse';
