import { fromReflection } from '../../electrical';
import { realValues, valueOf, type PartDefinition } from '../contract';
import { armProperty, armsFit } from '../junction';
import { bar, pinsAt } from '../shapes';
import { TABLED } from '../tabled';
import { endOf } from './model';

const open = () => fromReflection((_f, out) => ((out.z0 = 50), (out.re = 1), (out.im = 0)));

/** The open end of a line. */
export const openEnd: PartDefinition = {
  kind: 'open-end',
  field: 'copper',
  name: 'open end',
  group: 'end',
  fits: true,
  about:
    'The end of a line that is left open. Ideal: an open circuit. Modelled: the fringing field makes the line look longer by a fraction of the height.',
  source:
    TABLED +
    'Microstrip: Kirschning, Jansen & Koster 1981 (w/h 0.01 to 100, er to 50). Stripline: Altschuler & Oliner 1960.',
  variants: [{ id: 'open-end', label: 'open end', held: {} }],
  properties: [
    armProperty('width', 'Width'),
    {
      id: 'trim',
      otherwise: 'none',
      adjusts: 'length',
      asked: true,
      reach: (values) => valueOf(values, 'width'),
      faces: [
        {
          name: 'trim',
          label: 'Trim',
          help: 'Copper added behind the end, or taken away from what ends here, to bring one resonator among others to its frequency. The ideal level does not see it.',
          side: 'physical',
          rule: { kind: 'length' },
        },
      ],
    },
  ],
  pins: () => 1,
  resolve(held, { neighbour }) {
    const width = held.width?.re ?? neighbour(0);
    return width === undefined ? {} : realValues({ width, ...(held.trim ? { trim: held.trim.re } : {}) });
  },
  etches: { width: 1, trim: 0.5 },
  widths: (values) => [values.width?.re],
  opens: (values) => valueOf(values, 'trim'),
  models: {
    ideal: { reads: [], electrical: open },
    modelled: {
      reads: ['width', 'trim'],
      electrical({ values }, context) {
        if (!values.width) return open();
        return endOf(values.width.re, context, valueOf(values, 'trim'));
      },
    },
  },
  // What is taken away is no copper of the line's any more.
  setbacks: (values) => [Math.max(0, -valueOf(values, 'trim'))],
  artwork(values) {
    const trim = valueOf(values, 'trim');
    return {
      copper: trim > 0 ? [bar(0, trim, valueOf(values, 'width'))] : [],
      pins: pinsAt(Math.PI),
    };
  },
  review: (values, { neighbour }) => armsFit(values, ['width'], neighbour),
};

export default [openEnd];
