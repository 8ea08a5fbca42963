import { idealJoint, uniformLine, type Electrical } from '../../electrical';
import { realValues, valueOf, type PartDefinition, type Property } from '../contract';
import { armsFit, lineAt, otherSide, perHertz, sideOf } from '../junction';
import { secondStrip } from '../line-pair';

const ARMS = ['width', 'width', 'width', 'width'];
/** Two paths that know nothing of one another, from pins 1 to 4 and 2 to 3. */
function crossed(one: Electrical, other: Electrical): Electrical {
  const [ar, ai, br, bi] = Array.from({ length: 4 }, () => new Float64Array(4));
  const ways = [
    [0, 3],
    [1, 2],
  ];
  return {
    pins: 4,
    scatter(f, zn, re, im) {
      one.scatter(f, zn, ar, ai);
      other.scatter(f, zn, br, bi);
      re.fill(0);
      im.fill(0);
      ways.forEach((pins, way) => {
        const [sr, si] = way === 0 ? [ar, ai] : [br, bi];
        for (let i = 0; i < 2; i++)
          for (let j = 0; j < 2; j++) {
            re[pins[i] * 4 + pins[j]] = sr[2 * i + j];
            im[pins[i] * 4 + pins[j]] = si[2 * i + j];
          }
      });
    },
  };
}

const property = (name: string, label: string, help: string, otherwise: string): Property => ({
  id: name,
  otherwise,
  faces: [{ name, label, help, side: 'physical', rule: { kind: 'length', min: 0, exclusive: true } }],
});

/** Where the two strips of a pair change sides: one as copper, the other by a ribbon over it. */
export const pairCross: PartDefinition = {
  kind: 'pair-cross',
  name: 'crossover',
  group: 'junction',
  fits: true,
  about:
    'Where the two strips of coupled lines change sides: the strip from pin 1 slants over to pin 4 as copper, that from pin 2 passes over it to pin 3 as a bonded ribbon. ' +
    'With one in its middle a coupler has through and coupled port on the same side, as couplers in tandem need. Ideal: nothing but the change. Modelled: the length that crossing adds to each; how high the ribbon stands and that the two pass one another does not count.',
  variants: (['left', 'right'] as const).map((side) => ({
    id: `pair-cross-${side}`,
    label: `crossover, second strip ${side}`,
    held: {},
    settings: { side },
  })),
  properties: [
    property('width', 'Width', 'Width of the strips that meet here.', 'that of the coupled lines it meets'),
    property('gap', 'Gap', 'Gap between the strips that meet here.', 'that of the coupled lines it meets'),
    property(
      'ribbon',
      'Ribbon',
      'Width of the ribbon that bridges the other strip. Left out, it is as wide as the strips; a thin wire is an inductance that spoils the match.',
      'as wide as the strips',
    ),
  ],
  choices: [secondStrip],
  pins: () => 4,
  alikePins: 'aaaa',

  resolve(held, { neighbour, beside }) {
    const met = (at: (pin: number) => number | undefined) => at(0) ?? at(1) ?? at(2) ?? at(3);
    const width = held.width?.re ?? met(neighbour);
    const gap = held.gap?.re ?? met(beside);
    if (width === undefined || gap === undefined) return {};
    return realValues({ width, gap, ribbon: held.ribbon?.re ?? width });
  },
  etches: { width: 1, gap: -1 },
  widths: (values) => ARMS.map((name) => values[name]?.re),
  gaps: ({ gap }) => ARMS.map(() => gap?.re),
  setbacks: (values) => ARMS.map(() => (valueOf(values, 'width') + valueOf(values, 'gap')) / 2),

  models: {
    ideal: { reads: [], electrical: () => crossed(idealJoint(2), idealJoint(2)) },
    modelled: {
      reads: ['width', 'gap', 'ribbon'],
      electrical({ values }, context) {
        if (!values.width) return crossed(idealJoint(2), idealJoint(2));
        const excess = (Math.SQRT2 - 1) * (values.width.re + values.gap.re);
        const way = (width: number) => {
          const line = lineAt(context, width);
          return uniformLine((f, out) => {
            out.z0 = line.z0;
            out.alpha = 0;
            out.beta = perHertz(line) * f * excess;
          });
        };
        return crossed(way(values.width.re), way(values.ribbon.re));
      },
    },
  },

  artwork(values, { settings, width: met }) {
    const side = sideOf(settings);
    const width = valueOf(values, 'width', met(0));
    const pitch = width + valueOf(values, 'gap', width);
    const reach = pitch / 2;
    const half = width / 2;
    const up = side * pitch;
    /** From (-reach, a) to (reach, b), as high as `h` to each side. */
    const slant = (a: number, b: number, h: number) => [
      { x: -reach, y: a - h },
      { x: reach, y: b - h },
      { x: reach, y: b + h },
      { x: -reach, y: a + h },
    ];
    return {
      copper: [slant(0, up, half)],
      body: [slant(up, 0, valueOf(values, 'ribbon', width) / 2)],
      pins: [0, up, 0, up].map((y, i) => ({ x: 0, y: y + 0, angle: i < 2 ? Math.PI : 0 })),
    };
  },

  review: (values, { neighbour }) => armsFit(values, ARMS, neighbour),
  mirrored: (held, settings) => ({ held, settings: otherSide(settings) }),
};

export default [pairCross];
