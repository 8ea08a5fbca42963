import { formatNumber } from '../units';
import type { Recipe, RecipeInputs } from './contract';
import { FEED, finished, freqField, goalValues, ohm, ratioField, readGoal, Sketch, z0Field } from './shared';

const matched = (inputs: RecipeInputs): boolean => inputs.match === 'yes';

export const teeDivider: Recipe = {
  id: 'tee-divider',
  name: 'T divider',
  order: 20,
  goal: 'divide',
  blame: 'ratio',
  about: 'Splits power between two lines at a tee: no isolation, but no resistor either.',
  source: 'Two conductances in parallel; Pozar, Microwave Engineering, lossless T-junction.',
  fields: [
    freqField,
    z0Field,
    ratioField,
    {
      name: 'match',
      label: 'Outputs',
      help: 'Ports at the impedances of the arms themselves, or at the system impedance behind a quarter wave each.',
      initial: 'yes',
      type: 'choice',
      flag: 'a quarter-wave section in each output, and ports of the system impedance',
      options: [
        { id: 'yes', label: 'Matched to the system' },
        { id: 'no', label: 'Arms as they are' },
      ],
    },
  ],

  design(inputs, context) {
    const { ratio } = readGoal(inputs);
    const match = matched(inputs);
    const values = [
      ...goalValues(inputs),
      { name: 'ratio', value: inputs.ratio, note: 'power 2 : 3' },
      { name: 'z2', value: 'z0*(1 + ratio)/ratio', note: 'towards port 2' },
      { name: 'z3', value: 'z0*(1 + ratio)', note: 'towards port 3' },
      FEED,
    ];
    const sketch = new Sketch().fed(1, 'in').tee('tee', ['down', 'up', 'in'], 'left');
    for (const [n, node] of [
      [2, 'up'],
      [3, 'down'],
    ] as const) {
      if (match)
        sketch
          .add(
            'line',
            `section${n}`,
            `section ${n}`,
            [node, `a${n}`],
            { z0: `sqrt(z0*z${n})`, theta: '90 deg' },
            {
              role: 'section',
            },
          )
          .step(`step${n}`, `a${n}`, `b${n}`)
          .fed(n, `b${n}`);
      else
        sketch
          .add(
            'line',
            `arm${n}`,
            `arm ${n}`,
            [node, `a${n}`],
            { z0: `z${n}`, theta: '90 deg' },
            { role: 'arm' },
          )
          .fed(n, `a${n}`, `z${n}`);
    }
    return finished(
      'tee-divider',
      `T divider${ratio === 1 ? '' : `, ${formatNumber(ratio, 3)} to 1`}${match ? ', matched' : ''}`,
      context,
      values,
      sketch.pieces,
    );
  },

  explain(inputs) {
    const { z0, ratio: r } = readGoal(inputs);
    const z2 = (z0 * (1 + r)) / r;
    const z3 = z0 * (1 + r);
    const out = [
      `Two arms in parallel at the junction share the power as their conductances: z\u2082 = z\u2080(1 + r)/r = ${ohm(z2)} and z\u2083 = z\u2080(1 + r) = ${ohm(z3)}, with r = ${formatNumber(r)}. Together they are z\u2080, so the input is matched.`,
    ];
    if (matched(inputs))
      out.push(
        `A quarter wave in each arm brings it back to the system: \u221A(z\u2080z\u2082) = ${ohm(Math.sqrt(z0 * z2))} and \u221A(z\u2080z\u2083) = ${ohm(Math.sqrt(z0 * z3))}.`,
      );
    out.push(
      'Three lossless ports cannot all be matched: from the outputs one sees a mismatch, and they are not isolated from one another.',
    );
    return out;
  },
};

export default [teeDivider];
