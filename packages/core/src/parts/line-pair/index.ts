import { UnreachablePair } from '../../lines';
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
import { endsEtched, factsOf } from './ends';
import { lineModels, wavelength } from './model';

/** Across a pair: the impedance of each mode, or width and gap. */
export const pairAcross: readonly Property[] = [
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

/** Along a pair. */
export const pairAlong: Property = {
  ...along,
  faces: along.faces.map((face) => ({
    ...face,
    help:
      face.name === 'theta'
        ? 'Phase along the pair at the design frequency, the mean of both modes; a quarter wave, 90 deg, couples most. The length follows.'
        : 'Length of both strips. lambda stands for the mean guided wavelength of the two modes: lambda/4 is a quarter wave.',
  })),
};

/** What retuning moves of the gap. */
const spread: Property = {
  id: 'spread',
  otherwise: 'none',
  adjusts: 'width',
  addsTo: 'gap',
  faces: [
    {
      name: 'spread',
      label: 'Spread',
      help: 'Added to the gap of the copper, to make up for what bends and steps do to the coupling. The ideal level does not see it.',
      side: 'physical',
      rule: { kind: 'length' },
    },
  ],
};

/** What holds back the odd mode, which runs ahead in microstrip. */
const bridge: Property = {
  id: 'bridge',
  otherwise: 'none',
  faces: [
    {
      name: 'bridge',
      label: 'End capacitance',
      help: 'Capacitance across the gap at each end, as two tabs that reach into it have: it slows the odd mode down to the even one, which mends the directivity. The electrical length is then that of the even mode. The ideal level, whose modes are equally fast, does not see it. evened(ze, zo) evens a quarter wave.',
      side: 'physical',
      rule: { kind: 'capacitance', min: 0 },
    },
  ],
};

/** On which side of the first strip the second one lies. */
export const secondStrip: Choice = {
  name: 'side',
  label: 'Second strip',
  help: 'On which side of the first strip the second one lies, seen from pin 1 along it.',
  options: [
    { id: 'left', label: 'left' },
    { id: 'right', label: 'right' },
  ],
};

/** What couples more than two strips side by side can. */
const FURTHER =
  'interdigitated strips, or two looser couplers in tandem, couple more than two strips side by side';

/** Width and gap that the electrical faces stand for: those of the copper without its adjustments. @throws FaceError */
function across(held: PartValues, { pair }: ResolveContext): [width: number, gap: number] {
  const width = held.width && held.width.re - valueOf(held, 'widen');
  const gap = held.gap && held.gap.re - valueOf(held, 'spread');
  if (width !== undefined && !(width > 0)) throw new FaceError('widen', 'is more than the whole width');
  if (gap !== undefined && !(gap > 0)) throw new FaceError('spread', 'is more than the whole gap');
  try {
    if (width !== undefined && gap !== undefined) return [width, gap];
    if (width !== undefined) return [width, pair.gap(held.zo.re, width)];
    if (gap !== undefined) return [pair.width(held.ze.re, gap), gap];
    if (held.ze.re <= held.zo.re)
      throw new FaceError('zo', 'must be less than the even impedance: strips side by side couple');
    return pair.strips(held.ze.re, held.zo.re);
  } catch (error) {
    if (!(error instanceof UnreachablePair)) throw error;
    throw new FaceError(held.zo ? 'zo' : 'ze', `${error.message}; ${FURTHER}`);
  }
}

/** Two equal lines side by side. */
export const coupledLines: PartDefinition = {
  kind: 'line-pair',
  field: 'copper',
  name: 'coupled lines',
  group: 'line',
  about:
    'Two equal lines side by side, close enough to couple. Pins 1 and 2 are the near ends of the first and of the second strip, 3 and 4 their far ends. ' +
    'Ideal: an even and an odd mode without loss and dispersion, both of the same electrical length. Modelled: both modes of the cross-section ' +
    'with their own velocity, dispersion and loss.',
  source:
    'Even and odd mode of a symmetric structure, Reed & Wheeler 1956; cross-section by the field solution, dispersion by Kirschning & Jansen 1984. What bends and steps at the four pins add belongs to the parts there; where a strip ends open beside the other, or both bend away by mitred right angles, modelled has what tables of the field solution say of the end as a whole (width to height 0.2 to 5, gap 0.05 to 2.5).',
  variants: [
    { id: 'coupled', label: 'coupled lines', held: { ze: '60 ohm', zo: '40 ohm', theta: '90 deg' } },
  ],
  properties: [...pairAcross, pairAlong, ...trims, spread, bridge],
  choices: [secondStrip],
  pins: () => 4,
  alikePins: 'aaaa',

  local(name, held, context) {
    if (name !== 'lambda' || !(held.ze || held.width) || !(held.zo || held.gap)) return undefined;
    return wavelength(across(held, context), context, held);
  },

  resolve(held, context) {
    const strips = across(held, context);
    const { ze, zo } = context.pair.at(...strips);
    const [widen, spread] = [valueOf(held, 'widen'), valueOf(held, 'spread')];
    const width = held.width?.re ?? strips[0] + widen;
    const gap = held.gap?.re ?? strips[1] + spread;
    if (!(width > 0)) throw new FaceError('widen', 'takes away the whole width');
    if (!(gap > 0)) throw new FaceError('spread', 'takes away the whole gap');
    return realValues({
      ze: held.ze?.re ?? ze,
      zo: held.zo?.re ?? zo,
      width,
      gap,
      ...resolveAlong(held, wavelength(strips, context, held)),
      ...(held.bridge ? { bridge: held.bridge.re } : {}),
      ...(held.widen ? { widen } : {}),
      ...(held.spread ? { spread } : {}),
    });
  },

  facts: (_held, context) => factsOf(context),

  etches: { width: 1, gap: -1, ...endsEtched },
  differences: Object.keys(endsEtched),
  widths: ({ width }) => [width.re, width.re, width.re, width.re],
  gaps: ({ gap }) => [gap.re, gap.re, gap.re, gap.re],
  label: ({ ze, zo, width, gap, length: whole }) => ({
    what: `${formatNumber(ze.re, 3)} / ${brief(zo.re, 'impedance')}`,
    size: `${sizeOf(whole.re, width.re)}, gap ${brief(gap.re, 'length')}`,
  }),
  tells: ['ze', 'zo', 'theta', 'width', 'gap', 'length'].map((face) => ({ face })),

  unsolved: (values) => (valueOf(values, 'bridge') > 0 ? 'the end capacitance' : undefined),
  models: lineModels,

  artwork(values, { settings, setback }) {
    const [width, gap, whole] = [values.width.re, values.gap.re, values.length.re];
    const apart = (settings.side === 'right' ? -1 : 1) * (width + gap);
    const strip = (y: number, near: number, far: number) => {
      const from = Math.min(setback(near), whole);
      const to = Math.max(from, whole - setback(far));
      return bar(from, to, width).map((p) => ({ x: p.x, y: y + p.y }));
    };
    const middle = apart / 2;
    const tab = Math.min(gap, 0.2 * whole) / 2;
    const tabs = (x: number) => bar(x - tab / 2, x + tab / 2, gap).map((p) => ({ x: p.x, y: middle + p.y }));
    return {
      copper: [strip(0, 0, 2), strip(apart, 1, 3)],
      ...(valueOf(values, 'bridge') > 0
        ? {
            body: [
              tabs(tab / 2 + Math.min(setback(0), whole / 3)),
              tabs(whole - tab / 2 - Math.min(setback(2), whole / 3)),
            ],
          }
        : {}),
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
