import { designStepped } from '../theory';
import { formatNumber, formatQuantity } from '../units';
import type { Recipe, RecipeInputs } from './contract';
import {
  cutoffField,
  designed,
  finishedFilter,
  mirrored,
  readFilter,
  shapeFields,
  shapeWords,
} from './filters';
import { FEED, ohm, read, resistanceRule, Sketch, z0Field } from './shared';

function specify(inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  const low = read('zLow', inputs.zLow, resistanceRule).re;
  const high = read('zHigh', inputs.zHigh, resistanceRule).re;
  const first = inputs.first === 'high' ? 'high' : 'low';
  const angles = designed(() =>
    designStepped({ ...goal.shape, low: low / goal.z0, high: high / goal.z0, first }),
  );
  const wide = (i: number) => (i % 2 === 1) === (first === 'low');
  return { goal, low, high, first, angles, wide };
}

export const lowpassStepped: Recipe = {
  id: 'lowpass-stepped',
  name: 'Stepped-impedance low-pass',
  order: 60,
  goal: 'filter',
  blame: 'zLow',
  about: 'Passes what is below a cutoff: wide and narrow lines in turn, nothing beside them.',
  source:
    'Matthaei, Young & Jones 1964, section 7.03; the angles are not its small-angle ones but meet the shape exactly.',
  fields: [
    cutoffField,
    z0Field,
    ...shapeFields('5'),
    {
      name: 'zLow',
      label: 'Low impedance',
      help: 'Of the wide lines, well below the system\u2019s. They must stay narrower than half a wavelength.',
      initial: '30 ohm',
      type: 'quantity',
      rule: resistanceRule,
    },
    {
      name: 'zHigh',
      label: 'High impedance',
      help: 'Of the narrow lines, well above the system\u2019s: as narrow as the shop etches. The further apart the two are, the shorter the filter and the better it stops.',
      initial: '100 ohm',
      type: 'quantity',
      rule: resistanceRule,
    },
    {
      name: 'first',
      label: 'First line',
      help: 'Whether it begins with a wide line or with a narrow one.',
      initial: 'low',
      type: 'choice',
      options: [
        { id: 'low', label: 'Wide' },
        { id: 'high', label: 'Narrow' },
      ],
    },
  ],

  design(inputs, context) {
    const { goal, first, wide } = specify(inputs);
    const { order } = goal.shape;
    const odd = order % 2 === 1;
    const at = (i: number) => (odd ? mirrored(i, order) : i);
    const values = [
      ...goal.values,
      { name: 'zlow', value: inputs.zLow, note: 'wide lines' },
      { name: 'zhigh', value: inputs.zHigh, note: 'narrow lines' },
    ];
    for (let i = 1; i <= (odd ? (order + 1) / 2 : order); i++)
      values.push({
        name: `t${i}`,
        value: `steppedline(z0, zlow, zhigh, ${order}, ripple, ${first === 'low' ? 1 : 2}, ${i})`,
        note: `section ${i}${odd && i !== (order + 1) / 2 ? ` and ${order + 1 - i}` : ''}`,
      });
    values.push(FEED);
    const sketch = new Sketch().fed(1, 'n0');
    for (let i = 1; i <= order; i++)
      sketch
        .step(`step${i}`, `n${i - 1}`, `a${i}`)
        .add(
          'line',
          `section${i}`,
          `section ${i}, ${wide(i) ? 'wide' : 'narrow'}`,
          [`a${i}`, `n${i}`],
          { z0: wide(i) ? 'zlow' : 'zhigh', theta: `t${at(i)}` },
          { role: 'section' },
        );
    sketch.step(`step${order + 1}`, `n${order}`, 'out').fed(2, 'out');
    return finishedFilter('lowpass-stepped', 'Stepped low-pass', goal, context, values, sketch.pieces);
  },

  explain(inputs) {
    const { goal, low, high, angles } = specify(inputs);
    const f = formatQuantity(goal.f0, 'frequency', { digits: 5 });
    return [
      shapeWords(goal.shape, f),
      `A short wide line is nearly a capacitor across, a short narrow one a coil in series: about g z\u2097/z\u2080 and g z\u2080/z\u2095 long at the cutoff. From there the angles are moved until the loss of the lines themselves has the shape exactly: ${angles.map((t) => formatNumber((t * 180) / Math.PI, 4)).join(', ')} deg.`,
      `With ${ohm(low)} and ${ohm(high)}, the lines become half a wave long, and pass again, at about ${formatNumber(Math.PI / Math.max(...angles), 2)} times the cutoff.`,
    ];
  },
};

export default [lowpassStepped];
