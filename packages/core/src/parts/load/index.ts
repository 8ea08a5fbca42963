import type { Complex } from '../../numeric';
import { fromScattering, termination } from '../../electrical';
import { dataFill } from '../block';
import { alike, FaceError, type PartDefinition, type PartSettings, type Property } from '../contract';
import { bar } from '../shapes';
import { blockImpedance } from '../../results';
import { elements, type LoadCircuit } from '../../theory';

const element = (
  id: string,
  label: string,
  kind: 'impedance' | 'inductance' | 'capacitance',
  help: string,
): Property => ({
  id,
  otherwise: 'none',
  faces: [{ name: id, label, help, side: 'electrical', rule: { kind, min: 0, exclusive: true } }],
});

/** How the elements of a load are joined, or undefined for a constant impedance. */
const loadCircuit = ({ circuit }: PartSettings): LoadCircuit | undefined =>
  circuit === 'series' || circuit === 'parallel' ? circuit : undefined;

/** Impedance of a load's elements at one frequency, ohm. */
function elementsAt(circuit: LoadCircuit, read: (face: string) => Complex | undefined, f: number): Complex {
  const z = { re: 0, im: 0 };
  elements(circuit, { r: read('r'), l: read('l'), c: read('c') })(f, z);
  return z;
}

/** What closes a line: an impedance, the same at all frequencies; resistance, inductance and capacitance; or data. */
export const load: PartDefinition = {
  kind: 'load',
  field: 'joined',
  name: 'load',
  group: 'end',
  variants: [{ id: 'load', label: 'load', held: { z: '50 ohm' } }],
  about:
    'A termination to ground: a complex impedance that is the same at all frequencies, a resistance, inductance and capacitance in series or in parallel, or imported one-port data over frequency.',
  choices: [
    {
      name: 'circuit',
      label: 'Circuit',
      help: 'What the load is made of: one impedance at all frequencies, or elements in series or in parallel.',
      options: [
        { id: 'constant', label: 'constant' },
        { id: 'series', label: 'series' },
        { id: 'parallel', label: 'parallel' },
      ],
    },
  ],
  properties: [
    {
      id: 'impedance',
      otherwise: 'its elements or data',
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
    element('r', 'Resistance', 'impedance', 'Resistance of a series or parallel load.'),
    element('l', 'Inductance', 'inductance', 'Inductance of a series or parallel load.'),
    element('c', 'Capacitance', 'capacitance', 'Capacitance of a series or parallel load.'),
  ],
  pins: () => 1,
  resolve(held, { settings, f0 }) {
    if (settings.data) return held;
    const circuit = loadCircuit(settings);
    if (circuit) {
      if (!held.r && !held.l && !held.c)
        throw new FaceError('r', `needs a resistance, an inductance or a capacitance in ${circuit}`);
      return { ...held, z: elementsAt(circuit, (face) => held[face], f0) };
    }
    if (!held.z) throw new FaceError('z', 'needs impedance');
    return { z: held.z };
  },
  impedance(read, { settings, f0, data }) {
    const block = settings.data ? data(settings.data) : undefined;
    if (block) return blockImpedance(block, f0);
    const circuit = loadCircuit(settings);
    if (circuit) return elementsAt(circuit, read, f0);
    const z = read('z');
    if (!z) throw new FaceError('z', 'needs impedance');
    return z;
  },
  models: alike({
    reads: ['data', 'circuit', 'z', 'r', 'l', 'c'],
    electrical({ values, settings }, context) {
      const data = settings.data ? context.data(settings.data) : undefined;
      if (data) return fromScattering(1, data.z0, dataFill(data));
      const circuit = loadCircuit(settings);
      if (circuit) return termination(elements(circuit, values));
      const z = values.z;
      return termination((_f, out) => {
        out.re = z.re;
        out.im = z.im;
      });
    },
  }),
  artwork: (_values, { width }) => ({
    copper: [],
    body: [bar(0, 0.8 * width(0), width(0))],
    pins: [{ x: 0, y: 0, angle: Math.PI }],
  }),
};

export default [load];
