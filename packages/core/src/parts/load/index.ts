import { fromScattering, termination } from '../../network/electrical';
import { dataFill } from '../block';
import { bar, type PartDefinition } from '../contract';

/** What closes a line: a complex impedance, the same at all frequencies, or one-port data over frequency. */
export const load: PartDefinition = {
  kind: 'load',
  name: 'load',
  about:
    'A termination to ground: a complex impedance that is the same at all frequencies, or imported one-port data over frequency.',
  properties: [
    {
      id: 'impedance',
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
  optional: ['impedance'],
  pins: () => 1,
  resolve: (held) => held,
  electrical(values, settings, _level, context) {
    const data = settings.data ? context.data(settings.data) : undefined;
    if (data) return fromScattering(1, data.z0, dataFill(data));
    const z = values.z;
    return termination((_f, out) => {
      out.re = z.re;
      out.im = z.im;
    });
  },
  artwork: (_values, width) => ({
    copper: [],
    body: [bar(0.8 * width, width)],
    pins: [{ x: 0, y: 0, angle: Math.PI }],
  }),
};
