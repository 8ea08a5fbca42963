import { brent } from '../../numeric';
import { FaceError, realValues, type PartDefinition, type ResolveContext } from '../contract';
import { armProperty, armsFit, type LineAtFrequency } from '../junction';
import { TABLED } from '../tabled';
import { capacitances, gapElements, gapOf } from './model';

const ARMS = ['w1', 'w2'];

const acrossGap = (context: ResolveContext, w1: number, w2: number) => {
  const at = (width: number): LineAtFrequency => ({ width, ...context.line(width) });
  return (gap: number) => gapElements(context.medium, context.substrate, at(w1), at(w2), gap);
};

/** One whose edges store nothing to ground. */
const plain = (across: number) => capacitances({ across, first: 0, second: 0 });

/** A gap across a line. */
export const gap: PartDefinition = {
  kind: 'gap',
  field: 'copper',
  name: 'gap',
  group: 'junction',
  fits: true,
  about:
    'A slot across the line. Ideal: the capacitance across it. Modelled: with the capacitances of its two edges to ground as well.',
  source:
    TABLED +
    'Microstrip: Kirschning, Jansen & Koster 1983 (w/h 0.1 to 3, gap from 0.2 heights). Stripline: Altschuler & Oliner 1960.',
  variants: [{ id: 'gap', label: 'gap', held: { gap: '0.2 mm' } }],
  properties: [
    {
      id: 'across',
      faces: [
        {
          name: 'c',
          label: 'Capacitance',
          help: 'Capacitance across the gap. The gap follows from the lines beside it.',
          side: 'electrical',
          rule: { kind: 'capacitance', min: 0, exclusive: true },
        },
        {
          name: 'gap',
          label: 'Gap',
          help: 'Distance between the two ends. The capacitance follows from the lines beside it.',
          side: 'physical',
          rule: { kind: 'length', min: 0, exclusive: true },
        },
      ],
    },
    armProperty('w1', 'First width'),
    armProperty('w2', 'Second width'),
  ],
  pins: () => 2,

  resolve(held, context) {
    const n1 = held.w1?.re ?? context.neighbour(0);
    const n2 = held.w2?.re ?? context.neighbour(1);
    const any = n1 ?? n2;
    if (any === undefined) {
      if (held.c) throw new FaceError('c', 'needs a line beside the gap; hold the gap until there is one');
      return realValues({ gap: held.gap.re, c: 0 });
    }
    const [w1, w2] = [n1 ?? any, n2 ?? any];
    const elements = acrossGap(context, w1, w2);
    if (held.gap) return realValues({ gap: held.gap.re, c: elements(held.gap.re).across, w1, w2 });
    const wanted = held.c.re;
    const h = context.substrate.height;
    const error = (x: number) => Math.log(elements(h * Math.exp(x)).across / wanted);
    const [least, most] = [Math.log(1e-4), Math.log(5)];
    if (error(least) < 0 || error(most) > 0)
      throw new FaceError(
        'c',
        'cannot be reached by a gap between these lines; wider lines or a lumped capacitor reach further',
      );
    return realValues({ gap: h * Math.exp(brent(error, least, most)), c: wanted, w1, w2 });
  },

  etches: { gap: -1, w1: 1, w2: 1 },
  widths: (values) => ARMS.map((name) => values[name]?.re),

  models: {
    ideal: { reads: ['c'], electrical: ({ values }) => plain(values.c.re) },
    modelled: {
      reads: ['c', 'gap', ...ARMS],
      electrical({ values }, context) {
        if (!values.w1 || !values.w2) return plain(values.c.re);
        return gapOf([values.w1.re, values.w2.re], values.gap.re, context, values.c.re);
      },
    },
  },

  artwork: (values) => ({
    copper: [],
    pins: [
      { x: 0, y: 0, angle: Math.PI },
      { x: values.gap.re, y: 0, angle: 0 },
    ],
  }),
  review: (values, { neighbour }) => armsFit(values, ARMS, neighbour),
};

export default [gap];
