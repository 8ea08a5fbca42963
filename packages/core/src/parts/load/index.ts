import { fromScattering, termination } from '../../network/electrical';
import { dataFill } from '../block';
import { FaceError, type PartDefinition } from '../contract';
import { bar } from '../shapes';

/** What closes a line: a complex impedance, the same at all frequencies, or one-port data over frequency. */
export const load: PartDefinition = {
  kind: 'load',
  name: 'load',
  group: 'end',
  variants: [{ id: 'load', label: 'load', held: { z: '50 ohm' } }],
  about:
    'A termination to ground: a complex impedance that is the same at all frequencies, or imported one-port data over frequency.',
  properties: [
    {
      id: 'impedance',
      otherwise: 'the imported data',
      faces: [
        {
          name: 'z',
          label: 'Impedance',
          help: 'Complex impedance to ground, for example 23-41j ohm.',
          side: 'electrical',
          rule: { kind: 'impedance', complex: true, min: 0 },
        },
      ],
    },
  ],
  pins: () => 1,
  resolve(held, { settings }) {
    if (!held.z && !settings.data) throw new FaceError('z', 'needs impedance');
    return held;
  },
  electrical(values, settings, _level, context) {
    const data = settings.data ? context.data(settings.data) : undefined;
    if (data) return fromScattering(1, data.z0, dataFill(data));
    const z = values.z;
    return termination((_f, out) => {
      out.re = z.re;
      out.im = z.im;
    });
  },
  artwork: (_values, { width }) => ({
    copper: [],
    body: [bar(0, 0.8 * width(0), width(0))],
    pins: [{ x: 0, y: 0, angle: Math.PI }],
  }),
};

export default [load];
