import { seriesImpedance } from '../../network/electrical';
import { bar, type PartDefinition } from '../contract';
import type { QuantityKind } from '../../units';

/** A mounted two-pin part: pads of the line's width with a body across the gap between them. */
const mounted = (
  kind: string,
  name: string,
  face: string,
  label: string,
  quantity: QuantityKind,
  impedance: (value: number, f: number, out: { re: number; im: number }) => void,
): PartDefinition => ({
  kind,
  name,
  about: `An ideal ${name} between two pins.`,
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
  ],
  pins: () => 2,
  resolve: (held) => held,
  electrical(values) {
    const value = values[face].re;
    return seriesImpedance((f, out) => impedance(value, f, out));
  },
  artwork: (_values, width) => ({
    copper: [],
    body: [bar(width, 0.6 * width)],
    pins: [
      { x: 0, y: 0, angle: Math.PI },
      { x: width, y: 0, angle: 0 },
    ],
  }),
});

export const resistor = mounted('resistor', 'resistor', 'r', 'Resistance', 'impedance', (r, _f, out) => {
  out.re = r;
  out.im = 0;
});

export const capacitor = mounted('capacitor', 'capacitor', 'c', 'Capacitance', 'capacitance', (c, f, out) => {
  out.re = 0;
  out.im = c === 0 || f === 0 ? -Infinity : -1 / (2 * Math.PI * f * c);
});

export const inductor = mounted('inductor', 'inductor', 'l', 'Inductance', 'inductance', (l, f, out) => {
  out.re = 0;
  out.im = 2 * Math.PI * f * l;
});
