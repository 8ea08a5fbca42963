import type { CrossSection, Medium, MediumId, Shape } from './contract';
import { coplanarOnSlab, coplanarOverGround } from './coplanar';
import { microstrip, stripInMicrostrip } from './microstrip';
import { pairInMicrostrip, pairInStripline } from './pair';
import { stripInStripline, stripline } from './stripline';

/** What may surround the copper, by id. */
export const media: Readonly<Record<MediumId, Medium>> = { microstrip, stripline };
/** Shapes that a board's copper may have. */
export type BoardShape = Extract<Shape, 'strip' | 'pair'>;
/** Each of them in every medium. A further one is a file and a row here. */
export const crossSections: { readonly [S in BoardShape]: Readonly<Record<MediumId, CrossSection<S>>> } = {
  strip: { microstrip: stripInMicrostrip, stripline: stripInStripline },
  pair: { microstrip: pairInMicrostrip, stripline: pairInStripline },
};

/** Every kind of line there is, by name. */
export const lineKinds = {
  microstrip: stripInMicrostrip,
  stripline: stripInStripline,
  'coupled-microstrip': pairInMicrostrip,
  'coupled-stripline': pairInStripline,
  coplanar: coplanarOnSlab,
  'grounded-coplanar': coplanarOverGround,
} as const;
export type LineKind = keyof typeof lineKinds;
