import { formatNumber } from '../units';
import type { Recipe, RecipeInputs } from './contract';
import {
  coupledBy,
  coupledWanted,
  CURVED_FEED,
  curvedFeed,
  finished,
  freqField,
  frequencyRule,
  goalValues,
  levelRule,
  ohm,
  read,
  resistanceRule,
  Sketch,
  z0Field,
} from './shared';

/** Coupling in dB of each of two couplers in tandem that together couple `coupling` dB: half the angle. */
const halfOf = (coupling: number): number =>
  -20 * Math.log10(Math.sin(Math.asin(Math.pow(10, -coupling / 20)) / 2));

function specify(inputs: RecipeInputs) {
  read('freq', inputs.freq, frequencyRule);
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const coupling = read('coupling', inputs.coupling, levelRule).re;
  const each = halfOf(coupling);
  return { z0, coupling, each, even: z0 * coupledBy({ coupling: each, sections: 1 }).even[0] };
}

export const tandem: Recipe = {
  id: 'tandem-coupler',
  name: 'Couplers in tandem',
  order: 46,
  goal: 'couple',
  blame: 'coupling',
  about:
    'Splits power evenly in quadrature with two loose couplers, through both of which the signal passes.',
  source: 'Shelton, Wolfe & Van Wagoner 1965; each coupler crossed over in its middle.',
  fields: [
    freqField,
    z0Field,
    {
      name: 'coupling',
      label: 'Coupling',
      help: 'How far the power at port 3 lies below that at port 1. Each of the two couplers has half the angle: 8.34 dB for 3.01 dB.',
      initial: '3.0103 dB',
      type: 'quantity',
      rule: levelRule,
    },
  ],

  coupled: coupledWanted,

  design(inputs, context) {
    const { coupling } = specify(inputs);
    const values = [
      ...goalValues(inputs),
      { name: 'coupling', value: inputs.coupling, note: 'of the power, below port 1' },
      { name: 'angle', value: 'asin(10^(-(coupling/1 dB)/20))', note: 'of both together' },
      { name: 'c', value: 'sin(angle/2)', note: 'voltage coupling of each' },
      { name: 'ze', value: 'z0*sqrt((1 + c)/(1 - c))', note: 'even' },
      { name: 'zo', value: 'z0^2/ze', note: 'odd' },
      { name: 'link', value: '1.6*width(z0) + 1 mm', note: 'from one to the other' },
      CURVED_FEED,
    ];
    const sketch = new Sketch();
    /** A way out from a coupler's pin at a corner: a bend, a step, a feed that looks along the board. */
    const end = (port: number, at: string, side: 'left' | 'right', turn: string) => {
      sketch.bend(`bend${port}`, [at, `b${port}`], side);
      if (port === 1) sketch.step(`step${port}`, `f${port}`, `b${port}`);
      else sketch.step(`step${port}`, `b${port}`, `f${port}`);
      sketch.fed(port, `f${port}`, 'z0', curvedFeed(port, turn));
    };
    /** A coupler of two eighth waves with a crossover between them; nodes: its corners. */
    const crossed = (name: string, [lowLeft, upLeft, lowRight, upRight]: readonly string[]) => {
      const half = (part: string, nodes: readonly string[]) =>
        sketch.add(
          'line-pair',
          `${name}${part}`,
          `coupler ${name}, ${part === '1' ? 'first' : 'second'} half`,
          nodes,
          { ze: 'ze', zo: 'zo', theta: '45 deg' },
          { role: 'coupled', settings: { side: 'left' } },
        );
      half('1', [lowLeft, upLeft, `${name}l`, `${name}u`]);
      sketch.add(
        'pair-cross',
        `cross-${name}`,
        `crossover ${name}`,
        [`${name}l`, `${name}u`, `${name}m`, `${name}v`],
        {},
        { settings: { side: 'left' } },
      );
      half('2', [`${name}m`, `${name}v`, lowRight, upRight]);
    };
    /** From an upper corner of the first coupler to the lower one of the second. */
    const link = (name: 'left' | 'right', from: string, to: string) => {
      const side = name === 'left' ? 'right' : 'left';
      // Turned so that each takes the width of the coupler it meets first.
      sketch.bend(`corner-${name}-1`, [from, `${name}1`], side);
      sketch.step(`step-${name}-1`, `${name}1`, `${name}2`);
      sketch.add('line', `link-${name}`, `link, ${name}`, [`${name}2`, `${name}3`], {
        z0: 'z0',
        length: 'link',
      });
      sketch.step(`step-${name}-2`, `${name}3`, `${name}4`);
      sketch.bend(`corner-${name}-2`, [to, `${name}4`], name);
    };
    end(1, 'a1', 'left', '90 deg');
    crossed('a', ['a1', 'a3', 'a4', 'a2']);
    end(4, 'a4', 'right', '90 deg');
    link('left', 'a3', 'c1');
    crossed('b', ['c1', 'c3', 'c4', 'c2']);
    link('right', 'a2', 'c4');
    end(2, 'c3', 'right', '90 deg');
    end(3, 'c2', 'left', '-90 deg');
    return finished(
      'tandem-coupler',
      `Couplers in tandem, ${formatNumber(coupling, 3)} dB`,
      context,
      values,
      sketch.pieces,
    );
  },

  explain(inputs) {
    const { z0, coupling, each, even } = specify(inputs);
    return [
      `A coupler turns the power by an angle between its two outputs, sin of which is its voltage coupling; two of them in tandem turn it by the sum. So each couples ${formatNumber(each)} dB for ${formatNumber(coupling)} dB together: ${formatNumber(even)} / ${ohm((z0 * z0) / even)}, a gap that can be etched.`,
      'Through and coupled port of the first feed the second. A crossover in the middle of each brings both to the same side, so that the two links are equally long and cross nothing.',
      'Port 2 gets what has passed both straight or both coupled, port 3 the rest, a quarter period apart.',
    ];
  },
};

export default [tandem];
