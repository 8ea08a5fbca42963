import { formatNumber, formatQuantity, type QuantityRule } from '../units';
import { RecipeError, type Recipe, type RecipeContext, type RecipeInputs } from './contract';
import {
  BACK,
  FEED,
  finished,
  freqField,
  frequencyRule,
  goalValues,
  ohm,
  read,
  resistanceRule,
  Sketch,
  z0Field,
} from './shared';

const ratioRule: QuantityRule = { kind: 'number', min: 1 };
const gapRule: QuantityRule = { kind: 'length', min: 0, exclusive: true };

function specify(inputs: RecipeInputs, context: RecipeContext) {
  const freq = read('freq', inputs.freq, frequencyRule).re;
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const load = read('zl', inputs.zl, resistanceRule).re;
  const ripple = read('vswr', inputs.vswr, ratioRule).re;
  const gap = inputs.gap.trim() || context.stack.minGap;
  read('gap', gap, gapRule);
  if (ripple > 3) throw new RecipeError('vswr', 'must be a standing wave ratio from 1 to 3');
  return { freq, z0, load, ripple, gap, image: Math.sqrt(ripple * z0 * load) };
}

export const dcBlock: Recipe = {
  id: 'dc-block',
  name: 'DC block of coupled lines',
  order: 19,
  goal: 'match',
  blame: 'gap',
  about:
    'Passes a band and stops direct current without a capacitor; with another load it transforms as well.',
  source: 'Open coupled quarter waves, Jones & Bolljahn 1956; as a DC block, Lacombe & Cohen 1972.',
  fields: [
    freqField,
    { ...z0Field, label: 'Source' },
    {
      name: 'zl',
      label: 'Load',
      help: 'Resistance at the other end, to which the pair transforms the source.',
      initial: '50 ohm',
      type: 'quantity',
      rule: resistanceRule,
    },
    {
      name: 'vswr',
      label: 'Standing wave at centre',
      help: 'Ratio that is allowed at the design frequency: 1 matches exactly there, more widens the band, which then has a match to each side.',
      initial: '1.1',
      type: 'quantity',
      rule: ratioRule,
    },
    {
      name: 'gap',
      label: 'Gap',
      help: 'Between the strips. The smaller it is, the wider they are for the same match, and the wider is the band. Left out, it is the least that the board\u2019s shop etches.',
      initial: '',
      type: 'text',
      placeholder: 'the least of the board',
    },
  ],

  design(inputs, context) {
    const { gap } = specify(inputs, context);
    const values = [
      ...goalValues(inputs),
      { name: 'zl', value: inputs.zl, note: 'load' },
      { name: 'vswr', value: inputs.vswr, note: 'at the centre' },
      { name: 'zi', value: 'sqrt(vswr*z0*zl)', note: 'image impedance' },
      { name: 'gap', value: gap, note: 'between the strips' },
      { name: 'ze', value: 'blockeven(zi, gap)', note: 'even' },
      { name: 'zo', value: 'ze - 2*zi', note: 'odd' },
      FEED,
      BACK,
    ];
    const sketch = new Sketch()
      .fed(1, 'a')
      .step('step1', 'a', 'b')
      .add(
        'line-pair',
        'pair',
        'coupled lines',
        ['b', 'o1', 'o2', 'c'],
        { ze: 'ze', zo: 'zo', theta: '90 deg' },
        { role: 'coupled', settings: { side: 'left' } },
      )
      .add('open-end', 'open1', 'open end, second strip', ['o1'], { trim: '-back' })
      .add('open-end', 'open2', 'open end, first strip', ['o2'], { trim: '-back' })
      .step('step2', 'c', 'd')
      .fed(2, 'd', 'zl');
    return finished('dc-block', 'DC block', context, values, sketch.pieces);
  },

  explain(inputs, context) {
    const { z0, load, ripple, image, gap } = specify(inputs, context);
    return [
      `A coupled quarter wave between opposite ends, the others open, has the image impedance (z\u2091 \u2212 z\u2092)/2 at its centre and turns z\u2097 into its square over z\u2097. So (z\u2091 \u2212 z\u2092)/2 = \u221A(s z\u2080 z\u2097) = ${ohm(image)}, with z\u2080 = ${ohm(z0)}, z\u2097 = ${ohm(load)} and s = ${formatNumber(ripple)} allowed at the centre.`,
      `The sum of the two is free: the wider the strips that still do this ${gap} apart, the lower it is and the wider the band.`,
      `Nothing passes at direct current and at ${formatQuantity(2, 'number')} times the centre.`,
    ];
  },
};

export default [dcBlock];
