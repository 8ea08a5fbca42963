import { cascade, idealJoint, uniformLine, type Electrical } from '../../electrical';
import { crossSections, linePoint, surfaceResistance, type PreparedSection } from '../../lines';
import { C0, ETA0 } from '../../numeric';
import { FaceError, realValues, valueOf, type PartDefinition, type Property } from '../contract';
import { bar } from '../shapes';

const size = (name: string, label: string, help: string, otherwise?: string, exclusive = true): Property => ({
  id: name,
  ...(otherwise === undefined ? {} : { otherwise }),
  faces: [{ name, label, help, side: 'physical', rule: { kind: 'length', min: 0, exclusive } }],
});

/** Length of coaxial line, and of pin over the strip, where none are given, m. */
const DEPTH = 4e-3;
const PIN = 1e-3;

/** Impedance of a coaxial line, ohm. */
const coaxial = (inner: number, outer: number, er: number): number =>
  ((ETA0 / (2 * Math.PI)) * Math.log(outer / inner)) / Math.sqrt(er);

/** A length of a cross-section without its loss; a negative one takes it back. */
function lossless(section: PreparedSection, length: number): Electrical {
  const point = linePoint();
  const points = [point];
  return uniformLine((f, out) => {
    section.impedanceAt(f, points);
    out.z0 = point.z0;
    out.alpha = 0;
    out.beta = (2 * Math.PI * f * Math.sqrt(point.eeff) * length) / C0;
  });
}

/** Where a coaxial connector goes over into the line of the board. */
export const launch: PartDefinition = {
  kind: 'launch',
  field: 'joined',
  name: 'coaxial launch',
  group: 'other',
  fits: true,
  connects: true,
  about:
    'A connector at the edge of the board: a length of coaxial line whose pin lies on the strip. Ideal: nothing. ' +
    'Modelled: the coaxial line with its own impedance and loss, and the strip under the pin as one conductor as thick as both, which is a short line of lower impedance; its cross-section is solved like any other. What the opening of the coaxial line stores does not count.',
  source:
    'Coaxial line exactly; strip and pin by the field solution of a strip of their joint thickness, in which the round pin is a square one.',
  variants: [
    { id: 'launch-sma', label: 'launch, SMA class', held: { inner: '1.27 mm', outer: '4.13 mm', er: '2.0' } },
    { id: 'launch-3.5', label: 'launch, 3.5 mm class', held: { inner: '1.52 mm', outer: '3.5 mm', er: '1' } },
    {
      id: 'launch-2.92',
      label: 'launch, 2.92 mm class',
      held: { inner: '1.27 mm', outer: '2.92 mm', er: '1' },
    },
  ],
  properties: [
    size('inner', 'Inner conductor', 'Diameter of the coaxial line\u2019s inner conductor.'),
    size('outer', 'Outer conductor', 'Inner diameter of its outer conductor.'),
    {
      id: 'er',
      faces: [
        {
          name: 'er',
          label: 'Permittivity',
          help: 'Relative permittivity between the two: 1 for air.',
          side: 'physical',
          rule: { kind: 'number', min: 1 },
        },
      ],
    },
    size(
      'depth',
      'Coaxial length',
      'From the port to the edge of the board. Left out, it is 4 mm.',
      '4 mm',
      false,
    ),
    size(
      'pin',
      'Pin on the strip',
      'Length of the pin that lies on the strip. Left out, it is 1 mm.',
      '1 mm',
      false,
    ),
    size(
      'diameter',
      'Pin diameter',
      'Of the pin on the strip. Left out, it is half of the inner conductor\u2019s.',
      'half the inner conductor',
    ),
  ],
  pins: () => 2,

  resolve(held) {
    const [inner, outer] = [held.inner.re, held.outer.re];
    if (!(outer > inner)) throw new FaceError('outer', 'must be larger than the inner conductor');
    return realValues({
      inner,
      outer,
      er: held.er.re,
      depth: held.depth?.re ?? DEPTH,
      pin: held.pin?.re ?? PIN,
      diameter: held.diameter?.re ?? inner / 2,
    });
  },
  etches: { strip: 1 },
  facts: (_held, { neighbour }) => ({ strip: [neighbour(1) ?? 0] }),

  models: {
    ideal: { reads: [], electrical: () => idealJoint(2) },
    modelled: {
      reads: ['inner', 'outer', 'er', 'depth', 'pin', 'diameter', 'strip'],
      electrical({ values, facts }, { medium, substrate }) {
        const [inner, outer, er] = ['inner', 'outer', 'er'].map((face) => values[face].re);
        const z0 = coaxial(inner, outer, er);
        const k = (2 * Math.PI * Math.sqrt(er) * values.depth.re) / C0;
        const coax = uniformLine((f, out) => {
          out.z0 = z0;
          // Skin resistance of both conductors over twice the impedance.
          const r = (surfaceResistance(f, substrate.conductivity, 0, 0) / Math.PI) * (1 / inner + 1 / outer);
          out.alpha = (r * values.depth.re) / (2 * z0);
          out.beta = k * f;
        });
        const [strip] = facts.strip as readonly number[];
        const pin = values.pin.re;
        if (!(strip > 0) || pin === 0) return coax;
        const room = medium.grounds === 2 ? 0.9 * substrate.height : 0.9 * substrate.cover;
        const thickness = Math.min(substrate.thickness + values.diameter.re, room);
        const joint = crossSections.strip[medium.id].prepare({ ...substrate, thickness }, [
          Math.max(strip, values.diameter.re),
        ]);
        const along = crossSections.strip[medium.id].prepare(substrate, [strip]);
        // The strip below the pin is part of the line that begins here: it is taken back and put in again with the pin.
        return cascade([coax, lossless(joint, pin), lossless(along, -pin)]);
      },
    },
  },

  artwork(values) {
    const [outer, depth, pin] = ['outer', 'depth', 'pin'].map((face) => valueOf(values, face));
    return {
      copper: [],
      body: [bar(0, depth, outer), bar(depth, depth + pin, valueOf(values, 'diameter'))],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: depth, y: 0, angle: 0 },
      ],
    };
  },

  review(values) {
    const z0 = coaxial(values.inner.re, values.outer.re, values.er.re);
    return Math.abs(z0 - 50) > 5 && Math.abs(z0 - 75) > 5
      ? [
          {
            face: 'outer',
            message: `its coaxial line has ${Number(z0.toPrecision(3))} ohm; connectors have 50 or 75.`,
          },
        ]
      : [];
  },
};

export default [launch];
