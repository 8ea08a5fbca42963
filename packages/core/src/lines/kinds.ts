import type { CrossSection, LinePoint, Medium, MediumId, Shape } from './contract';
import { coplanarOnSlab, coplanarOverGround } from './coplanar';
import { microstrip, stripInMicrostrip } from './microstrip';
import { pairInMicrostrip, pairInStripline } from './pair';
import { stripInStripline, stripline } from './stripline';

/**
 * A cross-section of a board that may be bent along its lines: each length of what was flat has become longer or shorter,
 * and waves take as much more or less time over it.
 */
const bendable = <S extends Shape>(section: CrossSection<S>): CrossSection<S> => ({
  ...section,
  prepare(substrate, dimensions, level) {
    const flat = section.prepare(substrate, dimensions, level);
    const { stretch = 1 } = substrate;
    if (stretch === 1) return flat;
    const longer = (points: readonly LinePoint[]) => {
      for (const point of points) point.eeff *= stretch * stretch;
    };
    return {
      statics: flat.statics.map(({ z0, eeff }) => ({ z0, eeff: eeff * stretch * stretch })),
      impedanceAt(f, out) {
        flat.impedanceAt(f, out);
        longer(out);
      },
      at(f, out) {
        flat.at(f, out);
        longer(out);
        for (const point of out) {
          point.alphaConductor *= stretch;
          point.alphaDielectric *= stretch;
        }
      },
    };
  },
});

/** What may surround the copper, by id. */
export const media: Readonly<Record<MediumId, Medium>> = { microstrip, stripline };
/** Shapes that a board's copper may have. */
export type BoardShape = Extract<Shape, 'strip' | 'pair'>;
/** Each of them in every medium. A further one is a file and a row here. */
export const crossSections: { readonly [S in BoardShape]: Readonly<Record<MediumId, CrossSection<S>>> } = {
  strip: { microstrip: bendable(stripInMicrostrip), stripline: stripInStripline },
  pair: { microstrip: bendable(pairInMicrostrip), stripline: pairInStripline },
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
