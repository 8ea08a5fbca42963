import { C0 } from '../../numeric';
import { changingSlowly, fromReflection } from '../../electrical';
import { linePoint } from '../../lines';
import { FaceError, realValues, scaled, type PartDefinition, type Point } from '../contract';
import { armProperty, lineAt, perHertz } from '../junction';
import { trims } from '../line/properties';
import { openEndLength } from '../open-end/model';
import { radii, RINGS, ringWidths, throughRings, type Ring } from '../../theory';
import { sidesOfArc } from '../shapes';

const GROWING = ['length', 'reach'];

/** An open stub that widens as a sector of a circle. */
export const radialStub: PartDefinition = {
  kind: 'radial-stub',
  field: 'copper',
  name: 'radial stub',
  group: 'stub',
  fits: true,
  about:
    'An open stub that widens as a sector: a low impedance at a well-defined point over a wide band. Rings of uniform line in cascade at both levels; ideal without loss and dispersion, modelled with them and with the fringing field at the outer edge.',
  source: 'Cascade of rings, each as wide as its arc; a narrow angle is a uniform stub.',
  variants: [{ id: 'radial-stub', label: 'radial stub', held: { reach: '3 mm', angle: '60 deg' } }],
  properties: [
    {
      id: 'reach',
      faces: [
        {
          name: 'reach',
          label: 'Radial length',
          help: 'From the entry to the outer edge.',
          side: 'physical',
          rule: { kind: 'length', min: 0, exclusive: true },
        },
      ],
    },
    {
      id: 'angle',
      faces: [
        {
          name: 'angle',
          label: 'Angle',
          help: 'Opening of the sector, 1 to 160 deg.',
          side: 'physical',
          rule: { kind: 'angle', min: Math.PI / 180, max: (160 / 180) * Math.PI },
        },
      ],
    },
    trims[0],
    armProperty('entry', 'Entry width'),
  ],
  pins: () => 1,
  resolve(held, { neighbour, substrate }) {
    const length = held.reach.re + (held.trim?.re ?? 0);
    if (!(length > 0)) throw new FaceError('trim', 'takes away the whole length');
    return realValues({
      reach: held.reach.re,
      // The copper's own, with its trim.
      length,
      ...(held.trim ? { trim: held.trim.re } : {}),
      angle: held.angle.re,
      entry: held.entry?.re ?? neighbour(0) ?? substrate.height / 2,
    });
  },
  etches: { entry: 1, length: 0.5 },
  widths: (values) => [values.entry.re],
  tells: [{ face: 'entry', as: 'width' }, { face: 'reach' }, { face: 'angle' }],
  grows: { faces: GROWING, at: (values, share) => scaled(values, GROWING, Math.max(share, 1e-6)) },
  models: {
    ideal: {
      reads: ['angle', 'entry', 'reach'],
      electrical({ values }, context) {
        const { angle, entry, reach } = values;
        const fixed = ringWidths(entry.re, reach.re, angle.re).map((w) => lineAt(context, w));
        const rings = fixed.map(({ z0 }): Ring => ({ z0, turn: 0, size: 1 }));
        const double = (4 * Math.PI * reach.re) / (RINGS * C0);
        return fromReflection((f, out) => {
          rings.forEach((ring, i) => (ring.turn = double * f * Math.sqrt(fixed[i].eeff)));
          throughRings(rings, 0, out);
        });
      },
    },
    modelled: {
      reads: ['angle', 'entry', 'length'],
      electrical({ values }, context) {
        const { angle, entry, length } = values;
        const reach = length.re;
        const sections = ringWidths(entry.re, reach, angle.re).map((w) => context.section('strip', w));
        const edge = lineAt(context, radii(entry.re, reach, angle.re).outer * angle.re);
        const extension = openEndLength(context.medium, context.substrate, edge) * perHertz(edge);
        const rings = sections.map((): Ring => ({ z0: 0, turn: 0, size: 1 }));
        const double = (4 * Math.PI * reach) / (RINGS * C0);
        const point = linePoint();
        const points = [point];
        const seen = fromReflection((f, out) => {
          rings.forEach((ring, i) => {
            sections[i].at(f, points);
            ring.z0 = point.z0;
            ring.size = Math.exp((-2 * (point.alphaConductor + point.alphaDielectric) * reach) / RINGS);
            ring.turn = double * f * Math.sqrt(point.eeff);
          });
          throughRings(rings, 2 * extension * f, out);
        });
        return changingSlowly(seen);
      },
    },
  },
  artwork(values, { setback, chord }) {
    const { length, angle, entry } = values;
    const { inner, outer } = radii(entry.re, length.re, angle.re);
    const start = inner * Math.cos(angle.re / 2);
    const usual = Math.max(4, Math.ceil(angle.re / (Math.PI / 24)));
    const steps = sidesOfArc(outer, angle.re, usual, chord);
    const rim: Point[] = Array.from({ length: steps + 1 }, (_, i) => {
      const a = -angle.re / 2 + (angle.re * i) / steps;
      return { x: outer * Math.cos(a) - start, y: outer * Math.sin(a) };
    });
    const sector = [{ x: 0, y: -entry.re / 2 }, ...rim, { x: 0, y: entry.re / 2 }];
    const back = setback(0);
    const moved = (p: Point) => ({ x: p.x + back, y: p.y });
    return {
      copper: [sector.map(moved)],
      pins: [{ x: 0, y: 0, angle: Math.PI }],
    };
  },
};

export default [radialStub];
