import { fromReflection } from '../../electrical';
import { realValues, type PartDefinition } from '../contract';
import { armProperty, armsFit, lineAt, perHertz } from '../junction';
import { pinsAt } from '../shapes';
import { openEndLength } from './model';

const open = () => fromReflection((_f, out) => ((out.z0 = 50), (out.re = 1), (out.im = 0)));

/** The open end of a line. */
export const openEnd: PartDefinition = {
  kind: 'open-end',
  name: 'open end',
  group: 'end',
  fits: true,
  about:
    'The end of a line that is left open. Ideal: an open circuit. Modelled: the fringing field makes the line look longer by a fraction of the height.',
  source:
    'Microstrip: Kirschning, Jansen & Koster 1981 (w/h 0.01 to 100, er to 50). Stripline: Altschuler & Oliner 1960.',
  variants: [{ id: 'open-end', label: 'open end', held: {} }],
  properties: [armProperty('width', 'Width')],
  pins: () => 1,
  resolve(held, { neighbour }) {
    const width = held.width?.re ?? neighbour(0);
    return width === undefined ? {} : realValues({ width });
  },
  widths: (values) => [values.width?.re],
  models: {
    ideal: { reads: [], electrical: open },
    modelled: {
      reads: ['width'],
      electrical({ values }, context) {
        if (!values.width) return open();
        const line = lineAt(context, values.width.re);
        const turn = -2 * perHertz(line) * openEndLength(context.medium, context.substrate, line);
        return fromReflection((f, out) => {
          out.z0 = line.z0;
          out.re = Math.cos(turn * f);
          out.im = Math.sin(turn * f);
        });
      },
    },
  },
  artwork: () => ({ copper: [], pins: pinsAt(Math.PI) }),
  review: (values, { neighbour }) => armsFit(values, ['width'], neighbour),
};

export default [openEnd];
