export type { Ends } from './among';
export * from './contract';
export { skinDepth, thicknessFactor, roughnessFactor, surfaceResistance } from './loss';
export { thinStripImpedance } from './stripline';
export { inRoom } from './edges';
export * from './kinds';
export * from './sections';
export * from './analysis';
export * from './synthesis';

/** Length in m of `theta` radians at guided wavelength `wavelength`. */
export const lengthOf = (theta: number, wavelength: number): number => (theta / (2 * Math.PI)) * wavelength;
/** Electrical length in radians of `length` at guided wavelength `wavelength`. */
export const angleOf = (length: number, wavelength: number): number => (length / wavelength) * 2 * Math.PI;
