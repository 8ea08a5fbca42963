import { fromScattering } from '../../electrical';
import type { SData } from '../../results';
import { alike, type PartDefinition, type Point } from '../contract';

/** Writes data's S-matrix at any frequency, linear between samples and constant outside them. */
export function dataFill(data: SData): (f: number, re: Float64Array, im: Float64Array) => void {
  const { freq, ports } = data;
  const size = ports * ports;
  const last = freq.length - 1;
  let a = 0;
  return (f, re, im) => {
    if (f < freq[a]) a = 0;
    while (a < last - 1 && freq[a + 1] <= f) a++;
    const b = Math.min(a + 1, last);
    const t = b === a ? 0 : Math.min(1, Math.max(0, (f - freq[a]) / (freq[b] - freq[a])));
    for (let i = 0; i < size; i++) {
      const p = a * size + i;
      const q = b * size + i;
      re[i] = data.re[p] + t * (data.re[q] - data.re[p]);
      im[i] = data.im[p] + t * (data.im[q] - data.im[p]);
    }
  };
}

/** A block of measured or imported S-parameters. */
export const block: PartDefinition = {
  kind: 'block',
  field: 'joined',
  name: 'data block',
  group: 'other',
  asks: 'data',
  variants: [{ id: 'block', label: 'imported data', held: {} }],
  about:
    'A part given by imported S-parameters: linear between the samples, held constant outside them. Both levels use the data as it is.',
  properties: [],
  pins: (settings, data) => data(settings.data ?? '')?.ports ?? 2,
  resolve: (held) => held,
  models: alike({
    reads: ['data'],
    electrical({ settings }, context) {
      const data = context.data(settings.data ?? '');
      if (!data) throw new RangeError('the data block has no data');
      return fromScattering(data.ports, data.z0, dataFill(data));
    },
  }),
  artwork(_values, { width: met, pins }) {
    const width = met(0);
    const left = Math.ceil(pins / 2);
    const side = 2 * width;
    const height = Math.max(1, left) * side;
    const body: Point[] = [
      { x: 0, y: -side / 2 },
      { x: 1.5 * side, y: -side / 2 },
      { x: 1.5 * side, y: height - side / 2 },
      { x: 0, y: height - side / 2 },
    ];
    return {
      copper: [],
      body: [body],
      pins: Array.from({ length: pins }, (_, i) =>
        i < left ? { x: 0, y: i * side, angle: Math.PI } : { x: 1.5 * side, y: (i - left) * side, angle: 0 },
      ),
    };
  },
};

export default [block];
