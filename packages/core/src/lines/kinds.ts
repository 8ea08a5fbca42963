import type { CrossSection, Medium, MediumId, Shape } from './contract';
import { coplanarOnSlab, coplanarOverGround } from './coplanar';
import { microstrip, stripInMicrostrip } from './microstrip';
import { pairInMicrostrip, pairInStripline } from './pair';
import { stripInStripline, stripline } from './stripline';

/** What may surround the copper, by id. */
export const media: Readonly<Record<MediumId, Medium>> = { microstrip, stripline };
/** Every shape that a board's copper may have, in every medium. A further one is a file and a row here. */
export const crossSections = {
  strip: { microstrip: stripInMicrostrip, stripline: stripInStripline },
  pair: { microstrip: pairInMicrostrip, stripline: pairInStripline },
} satisfies { readonly [S in Shape]?: Readonly<Record<MediumId, CrossSection<S>>> };
/** Shapes that a board's copper may have. */
export type BoardShape = keyof typeof crossSections;

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
