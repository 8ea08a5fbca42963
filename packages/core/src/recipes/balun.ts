import { formatNumber } from '../units';
import type { Recipe, RecipeInputs } from './contract';
import {
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

function specify(inputs: RecipeInputs) {
  read('freq', inputs.freq, frequencyRule);
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const load = read('zl', inputs.zl, resistanceRule).re;
  const c = 1 / Math.sqrt((2 * load) / z0 + 1);
  const turn = Math.sqrt((1 + c) / (1 - c));
  return { z0, load, c, even: z0 * turn, odd: z0 / turn };
}

export const balun: Recipe = {
  id: 'balun',
  name: 'Balun of two coupled sections',
  order: 55,
  goal: 'divide',
  blame: 'zl',
  about: 'Splits power into two outputs in opposite phase over a wide band.',
  source: 'Marchand 1944; planar, of two couplers: Ang & Robertson 2001.',
  fields: [
    freqField,
    z0Field,
    {
      name: 'zl',
      label: 'Load of each output',
      help: 'Resistance that closes each of the two outputs to ground; between them it is twice that.',
      initial: '50 ohm',
      type: 'quantity',
      rule: resistanceRule,
    },
    {
      name: 'strips',
      label: 'Strips',
      help: 'A balun couples tightly: four interdigitated fingers do it with gaps that can be etched, two strips with very narrow ones.',
      initial: 'fingers',
      type: 'choice',
      options: [
        { id: 'fingers', label: 'Four, interdigitated' },
        { id: 'pair', label: 'Two, side by side' },
      ],
    },
  ],

  design(inputs, context) {
    specify(inputs);
    const values = [
      ...goalValues(inputs),
      { name: 'zl', value: inputs.zl, note: 'load of each output' },
      { name: 'c', value: '1/sqrt(2*zl/z0 + 1)', note: 'voltage coupling' },
      { name: 'ze', value: 'z0*sqrt((1 + c)/(1 - c))', note: 'even' },
      { name: 'zo', value: 'z0^2/ze', note: 'odd' },
      { name: 'apart', value: 'width(zl) + 0.4 mm', note: 'between the outputs' },
      { name: 'lead', value: '0.4 mm', note: 'to the holes' },
      { ...FEED, value: `max(${FEED.value}, 2.2*width(zl))` },
    ];
    const sketch = new Sketch();
    const section = (name: string, nodes: readonly string[]) =>
      sketch.add(
        inputs.strips === 'pair' ? 'line-pair' : 'finger-pair',
        `section-${name}`,
        `section ${name}`,
        nodes,
        { ze: 'ze', zo: 'zo', theta: '90 deg' },
        { role: 'coupled', settings: { side: 'left' } },
      );
    /** An output from the middle, up and then away from the other one. */
    const output = (port: number, at: string, side: 'left' | 'right', turn: string) =>
      sketch
        .bend(`bend${port}`, [at, `b${port}`], side)
        .step(`step${port}`, `b${port}`, `f${port}`)
        .fed(port, `f${port}`, 'zl', { turn, radius: 'feed/2', lead: '0.1*feed' });
    sketch.fed(1, 'a').step('step1', 'a', 'b');
    section('a', ['b', 'ground1', 'm1', 'out2']);
    /** A hole, as far out that its pad leaves the strips beside it alone. */
    const grounded = (number: 1 | 2, name: string) =>
      sketch
        .step(`step${number + 5}`, `ground${number}`, `lead${number}`)
        .add('line', `lead${number}`, `lead to ${name}`, [`lead${number}`, `hole${number}`], {
          z0: '1.2*ze',
          theta: '0 deg',
          trim: 'lead',
        })
        .add('via', `via${number}`, name, [`hole${number}`]);
    grounded(1, 'via, section a');
    // Without length where nothing but the copper has any.
    sketch.step('step4', 'm1', 'l1');
    sketch.add('line', 'link', 'link', ['l1', 'l2'], { z0: 'z0', theta: '0 deg', trim: 'apart' });
    sketch.step('step5', 'l2', 'm2');
    section('b', ['m2', 'out3', 'open', 'ground2']);
    sketch.add('open-end', 'open', 'open end', ['open']);
    grounded(2, 'via, section b');
    output(2, 'out2', 'left', '90 deg');
    output(3, 'out3', 'right', '-90 deg');
    return finished('balun', 'Balun', context, values, sketch.pieces);
  },

  explain(inputs) {
    const { z0, load, c, even, odd } = specify(inputs);
    return [
      `A wave on the first strip meets an open end behind two quarter waves; each couples to a shorted quarter wave beside it. With couplings of C = 1/\u221A(2z\u2097/z\u2080 + 1) = ${formatNumber(c)}, ${formatNumber(-20 * Math.log10(c), 3)} dB, the input is matched to ${ohm(z0)} with ${ohm(load)} at each output.`,
      `So z\u2091 = z\u2080\u221A((1 + C)/(1 \u2212 C)) = ${ohm(even)} and z\u2092 = ${ohm(odd)}.`,
      'The outputs are equal and opposite at every frequency as long as both modes travel alike. Direct current reaches neither from port 1; both are grounded through their sections.',
    ];
  },
};

export default [balun];
