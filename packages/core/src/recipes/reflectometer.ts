import { formatNumber, type QuantityRule } from '../units';
import type { Piece } from '../network';
import type { Recipe } from './contract';
import coupler from './coupler';
import { coupledWanted, read, resistanceRule } from './shared';

const loadRule: QuantityRule = { kind: 'impedance', complex: true, min: 0 };
const [couple] = coupler;

/** A coupler closed by what is looked at: reverse over forward is its reflection. */
export const reflectometer: Recipe = {
  id: 'reflectometer',
  name: 'Reflectometer',
  order: 47,
  goal: 'couple',
  blame: 'coupling',
  about: 'Tells forward from reverse power at a load: a coupler whose two coupled ports are both read.',
  source: `Parzen & Yalow 1947. The coupler: ${couple.source}`,
  fields: [
    ...couple.fields,
    {
      name: 'zl',
      label: 'Looked at',
      help: 'Impedance behind the coupler whose reflection is measured, for example 30+20j ohm.',
      initial: '75 ohm',
      type: 'quantity',
      rule: loadRule,
    },
  ],

  coupled: coupledWanted,

  design(inputs, context) {
    read('zl', inputs.zl, loadRule);
    const made = couple.design(inputs, context);
    const numbers: Readonly<Record<string, string>> = { '1': '1', '3': '2', '4': '3' };
    const names: Readonly<Record<string, string>> = { '2': 'port 2, forward', '3': 'port 3, reverse' };
    const pieces = made.pieces.map((piece): Piece => {
      if (piece.kind !== 'port') return piece;
      const { settings = {}, nodes } = piece;
      if (settings.number === '2')
        return { id: 'load', name: 'looked at', kind: 'load', held: { z: 'zl' }, nodes };
      const number = numbers[settings.number];
      return { ...piece, name: names[number] ?? piece.name, settings: { ...settings, number } };
    });
    const [f0, z0, ...rest] = made.values;
    return {
      ...made,
      recipe: 'reflectometer',
      name: made.name.replace('Coupler', 'Reflectometer'),
      values: [
        f0,
        z0,
        { name: 'zl', value: inputs.zl, note: 'looked at' },
        { name: 'rho', value: 'abs((zl - z0)/(zl + z0))', note: 'its reflection, to be read' },
        ...rest,
      ],
      pieces,
      plots: [
        { id: 'ports', show: 'driven' },
        { id: 'reading', show: 'formula', formulas: ['S31/S21 in dB', 'rho in dB'] },
      ],
    };
  },

  explain(inputs, context) {
    const zl = read('zl', inputs.zl, loadRule);
    const z0 = read('z0', inputs.z0, resistanceRule).re;
    const rho = Math.hypot(zl.re - z0, zl.im) / Math.hypot(zl.re + z0, zl.im);
    return [
      `Port 2 reads the wave that goes to the load, port 3 the one that comes back: their ratio is the load\u2019s reflection, ${formatNumber(rho, 3)} or ${formatNumber(20 * Math.log10(rho), 3)} dB for ${inputs.zl}.`,
      'What leaks from the forward wave to port 3 adds to it: with D dB of directivity, reflections near \u2212D dB are not told from none.',
      ...couple.explain(inputs, context),
    ];
  },
};

export default [reflectometer];
