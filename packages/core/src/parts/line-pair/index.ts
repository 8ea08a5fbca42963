import { C0 } from '../../numeric';
import { symmetricPair, uniformLine, type Electrical, type Propagation } from '../../electrical';
import { linePoint, UnreachablePair } from '../../lines';
import {
  FaceError,
  realValues,
  valueOf,
  type Choice,
  type PartDefinition,
  type PartValues,
  type Property,
  type ResolveContext,
} from '../contract';
import { formatNumber } from '../../units';
import { along, brief, resolveAlong, sizeOf, trims } from '../line/properties';
import { bar } from '../shapes';

const impedances: readonly Property[] = [
  {
    id: 'even',
    faces: [
      {
        name: 'ze',
        label: 'Even impedance',
        help: 'Impedance of each strip at the design frequency while both carry the same. With the odd impedance it says how strongly the strips couple: (ze - zo)/(ze + zo). Width and gap follow from both.',
        side: 'electrical',
        rule: { kind: 'impedance', min: 0, exclusive: true },
      },
      {
        name: 'width',
        label: 'Width',
        help: 'Width of each of the two strips.',
        side: 'physical',
        rule: { kind: 'length', min: 0, exclusive: true },
      },
    ],
  },
  {
    id: 'odd',
    faces: [
      {
        name: 'zo',
        label: 'Odd impedance',
        help: 'Impedance of each strip at the design frequency while the two carry opposite currents; below the even one. The pair is matched to the root of ze zo.',
        side: 'electrical',
        rule: { kind: 'impedance', min: 0, exclusive: true },
      },
      {
        name: 'gap',
        label: 'Gap',
        help: 'Distance between the two strips. The closer they are, the more they couple.',
        side: 'physical',
        rule: { kind: 'length', min: 0, exclusive: true },
      },
    ],
  },
];

const length: Property = {
  ...along,
  faces: along.faces.map((face) => ({
    ...face,
    help:
      face.name === 'theta'
        ? 'Phase along the pair at the design frequency, the mean of both modes; a quarter wave, 90 deg, couples most. The length follows.'
        : 'Length of both strips. lambda stands for the mean guided wavelength of the two modes: lambda/4 is a quarter wave.',
  })),
};

const side: Choice = {
  name: 'side',
  label: 'Second strip',
  help: 'On which side of the first strip the second one lies, seen from pin 1 along it.',
  options: [
    { id: 'left', label: 'left' },
    { id: 'right', label: 'right' },
  ],
};

/** Width and gap of the copper from what is held. @throws FaceError */
function across(held: PartValues, { pair }: ResolveContext): [width: number, gap: number] {
  try {
    if (held.width && held.gap) return [held.width.re, held.gap.re];
    if (held.width) return [held.width.re, pair.gap(held.zo.re, held.width.re)];
    if (held.gap) return [pair.width(held.ze.re, held.gap.re), held.gap.re];
    if (held.ze.re <= held.zo.re)
      throw new FaceError('zo', 'must be less than the even impedance: strips side by side couple');
    return pair.strips(held.ze.re, held.zo.re);
  } catch (error) {
    if (!(error instanceof UnreachablePair)) throw error;
    throw new FaceError(held.zo ? 'zo' : 'ze', error.message);
  }
}

/** Mean guided wavelength of the two modes, m. */
function wavelength([width, gap]: readonly [number, number], { pair, f0 }: ResolveContext): number {
  const { eeffEven, eeffOdd } = pair.at(width, gap);
  return (2 * C0) / (f0 * (Math.sqrt(eeffEven) + Math.sqrt(eeffOdd)));
}

/** A pair whose modes propagate as `at` says: it fills the even and the odd one. */
function coupled(at: (f: number, even: Propagation, odd: Propagation) => void): Electrical {
  const points = [0, 1].map((): Propagation => ({ z0: 1, alpha: 0, beta: 0 }));
  let last = NaN;
  const [even, odd] = points.map((point) =>
    uniformLine((f, out) => {
      if (f !== last) at((last = f), points[0], points[1]);
      out.z0 = point.z0;
      out.alpha = point.alpha;
      out.beta = point.beta;
    }),
  );
  return symmetricPair(even, odd);
}

/** Two equal lines side by side. */
export const coupledLines: PartDefinition = {
  kind: 'line-pair',
  name: 'coupled lines',
  group: 'line',
  about:
    'Two equal lines side by side, close enough to couple. Pins 1 and 2 are the near ends of the first and of the second strip, 3 and 4 their far ends. ' +
    'Ideal: an even and an odd mode without loss and dispersion, both of the same electrical length. Modelled: both modes of the cross-section ' +
    'with their own velocity, dispersion and loss.',
  source:
    'Even and odd mode of a symmetric structure, Reed & Wheeler 1956; cross-section by the field solution, dispersion by Kirschning & Jansen 1984. What bends and steps at the four pins add belongs to the parts there.',
  variants: [
    { id: 'coupled', label: 'coupled lines', held: { ze: '60 ohm', zo: '40 ohm', theta: '90 deg' } },
  ],
  properties: [...impedances, length, ...trims.filter((p) => p.adjusts === 'length')],
  choices: [side],
  pins: () => 4,

  local(name, held, context) {
    if (name !== 'lambda' || !(held.ze || held.width) || !(held.zo || held.gap)) return undefined;
    return wavelength(across(held, context), context);
  },

  resolve(held, context) {
    const strips = across(held, context);
    const [width, gap] = strips;
    const { ze, zo } = context.pair.at(width, gap);
    return realValues({
      ze: held.ze?.re ?? ze,
      zo: held.zo?.re ?? zo,
      width,
      gap,
      ...resolveAlong(held, wavelength(strips, context)),
    });
  },

  widths: ({ width }) => [width.re, width.re, width.re, width.re],
  label: ({ ze, zo, width, gap, length: whole }) => ({
    what: `${formatNumber(ze.re, 3)} / ${brief(zo.re, 'impedance')}`,
    size: `${sizeOf(whole.re, width.re)}, gap ${brief(gap.re, 'length')}`,
  }),
  tells: ['ze', 'zo', 'theta', 'width', 'gap', 'length'].map((face) => ({ face })),

  models: {
    ideal: {
      reads: ['ze', 'zo', 'theta'],
      electrical({ values }, { f0 }) {
        const perHertz = values.theta.re / f0;
        return coupled((f, even, odd) => {
          even.z0 = values.ze.re;
          odd.z0 = values.zo.re;
          even.beta = odd.beta = perHertz * f;
        });
      },
    },
    modelled: {
      reads: ['width', 'gap', 'length'],
      electrical({ values }, context) {
        const prepared = context.section('pair', values.width.re, values.gap.re);
        const whole = values.length.re;
        const k = (2 * Math.PI * whole) / C0;
        const points = [linePoint(), linePoint()];
        return coupled((f, ...modes) => {
          prepared.at(f, points);
          points.forEach((point, m) => {
            modes[m].z0 = point.z0;
            modes[m].alpha = (point.alphaConductor + point.alphaDielectric) * whole;
            modes[m].beta = k * f * Math.sqrt(point.eeff);
          });
        });
      },
    },
  },

  artwork(values, { settings, setback }) {
    const [width, gap, whole] = [values.width.re, values.gap.re, values.length.re];
    const apart = (settings.side === 'right' ? -1 : 1) * (width + gap);
    const strip = (y: number, near: number, far: number) => {
      const from = Math.min(setback(near), whole);
      const to = Math.max(from, whole - setback(far));
      return bar(from, to, width).map((p) => ({ x: p.x, y: y + p.y }));
    };
    return {
      copper: [strip(0, 0, 2), strip(apart, 1, 3)],
      centre: [
        { x: 0, y: 0 },
        { x: whole, y: 0 },
      ],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: 0, y: apart, angle: Math.PI },
        { x: whole, y: 0, angle: 0 },
        { x: whole, y: apart, angle: 0 },
      ],
    };
  },

  review(values, { setback }) {
    const covered = Math.max(setback(0) + setback(2), setback(1) + setback(3));
    return valueOf(values, 'length') < covered
      ? [
          {
            face: 'length',
            message:
              'is shorter than the junctions at its ends reach into it, so their models overlap. A longer pair or narrower arms keep them apart.',
          },
        ]
      : [];
  },

  mirrored: (held, settings) => ({
    held,
    settings: { ...settings, side: settings.side === 'right' ? 'left' : 'right' },
  }),
};

export default [coupledLines];
