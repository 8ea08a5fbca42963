import { idealJoint } from '../../electrical';
import {
  alike,
  FaceError,
  realValues,
  type PartDefinition,
  type PartSettings,
  type Property,
} from '../contract';
import { flawOf, outlinesIn, ringsOf, sideAt, sidesOf } from '../outlines';

const coordinate = (axis: 'x' | 'y', corner: number): Property => ({
  id: `${axis}${corner}`,
  faces: [
    {
      name: `${axis}${corner}`,
      label: `${axis} of corner ${corner}`,
      help: 'Where a corner of the outline lies, in the coordinates of the piece.',
      side: 'physical',
      rule: { kind: 'length' },
    },
  ],
});

const corners = (settings: PartSettings): number => ringsOf(settings).reduce((sum, n) => sum + n, 0);

/** Copper of any outline. */
export const freeCopper: PartDefinition = {
  kind: 'free-copper',
  field: 'copper',
  outlined: true,
  name: 'free copper',
  group: 'other',
  about:
    'Copper of any outline, with pins at sides of it. What it does only the field solution can tell: at the solved level it is solved as it is drawn; to the other levels its pins are one node.',
  variants: [
    {
      id: 'free-copper',
      label: 'free copper',
      held: {
        ...{ x1: '0 mm', y1: '-0.6 mm', x2: '5 mm', y2: '-0.6 mm' },
        ...{ x3: '5 mm', y3: '0.6 mm', x4: '0 mm', y4: '0.6 mm' },
      },
      settings: { rings: '4', sides: '4 2' },
    },
  ],
  properties: [],
  more: (settings) =>
    Array.from({ length: corners(settings) }, (_, i) => [
      coordinate('x', i + 1),
      coordinate('y', i + 1),
    ]).flat(),
  pins: (settings) => Math.max(1, sidesOf(settings).length),

  resolve(held, { settings }) {
    const rings = outlinesIn(held, settings);
    let first = 1;
    for (const ring of rings) {
      const flaw = flawOf(ring);
      if (flaw) throw new FaceError(`x${first + flaw.corner}`, flaw.message);
      first += ring.length;
    }
    if (rings.length === 0) throw new FaceError('x1', 'it has no outline');
    const sides = sidesOf(settings);
    if (sides.length === 0) throw new FaceError('sides', 'it has no pin; say at which side');
    sides.forEach((side, i) => {
      if (!sideAt(held, settings, side)) throw new FaceError('sides', `there is no side ${side}`);
      if (sides.indexOf(side) !== i) throw new FaceError('sides', `there is a pin at side ${side} already`);
    });
    return realValues(Object.fromEntries(Object.entries(held).map(([face, { re }]) => [face, re])));
  },
  widths: (values, settings) =>
    sidesOf(settings).map((side) => {
      const ends = sideAt(values, settings, side);
      return ends && Math.hypot(ends[1].x - ends[0].x, ends[1].y - ends[0].y);
    }),
  models: alike({
    reads: ['sides'],
    electrical: ({ settings }) => idealJoint(Math.max(1, sidesOf(settings).length)),
  }),
  artwork(values, { settings }) {
    return {
      copper: outlinesIn(values, settings),
      pins: sidesOf(settings).map((side) => {
        const [a, b] = sideAt(values, settings, side) ?? [
          { x: 0, y: 0 },
          { x: 0, y: 1 },
        ];
        // With the copper to the left of the side, out is to its right.
        return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, angle: Math.atan2(a.x - b.x, b.y - a.y) };
      }),
    };
  },
  review: () => [
    {
      face: '',
      message: 'only the solved level knows what this copper does; to the others its pins are one node.',
    },
  ],
};

export default [freeCopper];
