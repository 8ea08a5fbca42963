import { termination } from '../../electrical';
import { realValues, type PartDefinition, type Property } from '../contract';
import { disc, pinsAt, sidesOfArc } from '../shapes';
import { viaInductance, viaResistance } from './model';

export const holeProperty: Property = {
  id: 'hole',
  otherwise: '0.3 mm',
  faces: [
    {
      name: 'hole',
      label: 'Hole',
      help: 'Diameter of the plated hole. Left out, it is 0.3 mm.',
      side: 'physical',
      rule: { kind: 'length', min: 0, exclusive: true },
    },
  ],
};
export const HOLE = 0.3e-3;

/** A plated hole to ground. */
export const via: PartDefinition = {
  kind: 'via',
  field: 'joined',
  name: 'via to ground',
  group: 'end',
  about:
    'A plated hole from the strip to ground. Ideal: a short circuit. Modelled: its inductance and the resistance of its wall.',
  source: 'Goldfarb & Pucel 1991, stated for heights from 0.1 to 1 mm and holes to 0.6 of the height.',
  variants: [{ id: 'via', label: 'via to ground', held: {} }],
  properties: [holeProperty],
  pins: () => 1,
  resolve: (held) => realValues({ hole: held.hole?.re ?? HOLE }),
  models: {
    ideal: { reads: [], electrical: () => termination((_f, out) => ((out.re = 0), (out.im = 0))) },
    modelled: {
      reads: ['hole'],
      electrical({ values }, { medium, substrate }) {
        const l = viaInductance(medium, substrate, values.hole.re);
        return termination((f, out) => {
          out.re = viaResistance(medium, substrate, values.hole.re, f);
          out.im = 2 * Math.PI * f * l;
        });
      },
    },
  },
  artwork(values, { width, chord }) {
    const radius = values.hole.re / 2;
    const pad = Math.max(radius + 0.15e-3, width(0) / 2);
    return {
      copper: [disc(0, 0, pad, sidesOfArc(pad, 2 * Math.PI, 32, chord))],
      body: [disc(0, 0, radius)],
      pins: pinsAt(Math.PI),
    };
  },
  review: (values, { substrate }) =>
    values.hole.re > 1.5 * substrate.height
      ? [
          {
            face: 'hole',
            message:
              'is wider than one and a half heights, where the model of a hole (Goldfarb & Pucel 1991) ends.',
          },
        ]
      : [],
};

export default [via];
