export * from './strips';
export { chargesOf, type Charges, type Symmetry } from './conductors';
export { solveSlots, type SlotSurroundings } from './slots';
export type { Estimate } from './galerkin';
export type { Filling, Heights } from './layers';
export { fieldSteps, type Copper, type SectionField, type Surface } from './field';
export { slotFieldSteps } from './slot-field';
