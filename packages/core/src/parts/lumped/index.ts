import { seriesImpedance } from '../../network/electrical';
import { bar } from '../shapes';
import { realValues, type PartDefinition } from '../contract';
import type { QuantityKind } from '../../units';

/** Distance between the pins of a mounted part whose size is not given: that of a common small chip. */
const SPAN = 1e-3;

/** A mounted two-pin part: a body across the distance between its pads. */
const mounted = (
  kind: string,
  name: string,
  face: string,
  label: string,
  quantity: QuantityKind,
  initial: string,
  impedance: (value: number, f: number, out: { re: number; im: number }) => void,
): PartDefinition => ({
  kind,
  name,
  group: 'mounted',
  bridges: true,
  about: `An ideal ${name} mounted between two pins. Where both pins are placed already it bridges them.`,
  variants: [{ id: kind, label: name, held: { [face]: initial } }],
  properties: [
    {
      id: 'value',
      faces: [
        {
          name: face,
          label,
          help: `${label} between the two pins.`,
          side: 'electrical',
          rule: { kind: quantity, min: 0 },
        },
      ],
    },
    {
      id: 'span',
      otherwise: '1 mm',
      faces: [
        {
          name: 'span',
          label: 'Span',
          help: 'Distance between the two pins on the copper, from pad to pad. Left out, it is 1 mm.',
          side: 'physical',
          rule: { kind: 'length', min: 0, exclusive: true },
        },
      ],
    },
  ],
  pins: () => 2,
  resolve: (held) => ({ ...held, ...realValues({ span: held.span?.re ?? SPAN }) }),
  electrical(values) {
    const value = values[face].re;
    return seriesImpedance((f, out) => impedance(value, f, out));
  },
  artwork(values) {
    const span = values.span.re;
    return {
      copper: [],
      body: [bar(0, span, Math.min(0.6 * span, 0.8e-3))],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: span, y: 0, angle: 0 },
      ],
    };
  },
});

export const resistor = mounted(
  'resistor',
  'resistor',
  'r',
  'Resistance',
  'impedance',
  '100 ohm',
  (r, _f, out) => {
    out.re = r;
    out.im = 0;
  },
);

export const capacitor = mounted(
  'capacitor',
  'capacitor',
  'c',
  'Capacitance',
  'capacitance',
  '1 pF',
  (c, f, out) => {
    out.re = 0;
    out.im = c === 0 || f === 0 ? -Infinity : -1 / (2 * Math.PI * f * c);
  },
);

export const inductor = mounted(
  'inductor',
  'inductor',
  'l',
  'Inductance',
  'inductance',
  '1 nH',
  (l, f, out) => {
    out.re = 0;
    out.im = 2 * Math.PI * f * l;
  },
);

export default [resistor, capacitor, inductor];
