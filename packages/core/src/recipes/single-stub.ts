import { stubPlanes } from '../theory';
import { formatComplex, formatQuantity } from '../units';
import type { Recipe, RecipeContext, RecipeInputs } from './contract';
import { matchFields } from './load';
import { FEED, finished, ohm, readCount, Sketch } from './shared';
import {
  addStub,
  angleField,
  completed,
  endingWords,
  matching,
  readStubGoal,
  stubAlternatives,
  stubField,
  stubText,
  zLineField,
  zStubField,
} from './stubs';

function specify(inputs: RecipeInputs, context: RecipeContext) {
  const goal = readStubGoal(inputs, context);
  const solution = readCount('solution', inputs.solution, [1, 2] as const);
  const pair = inputs.pair === 'pair';
  const planes = matching(() => stubPlanes(goal.load.z, goal.zLine, goal.z0));
  const both = planes.map((line) => ({ line, ...completed(goal, goal.load.z, line, pair) }));
  return { goal, solution, pair, both, own: both[solution - 1] };
}

const angle = (x: number): string => formatQuantity(x, 'angle');

export const singleStub: Recipe = {
  id: 'single-stub',
  name: 'Single-stub match',
  order: 12,
  goal: 'match',
  blame: 'load',
  family: 'match',
  about: 'Matches any load that takes power with one line and one shunt stub.',
  source: 'Admittance along a line, in closed form; Collin, Foundations for Microwave Engineering.',
  fields: [
    ...matchFields,
    stubField,
    {
      name: 'solution',
      label: 'Solution',
      help: 'There are two planes in every half wave: 1 is the one nearer to the load, with the shorter line.',
      initial: '1',
      type: 'choice',
      options: [
        { id: '1', label: '1: the shorter line' },
        { id: '2', label: '2: the longer line' },
      ],
    },
    {
      name: 'pair',
      label: 'Stubs',
      help: 'One stub, or two of half the admittance opposite each other: symmetric, and narrower for the same match.',
      initial: 'one',
      type: 'choice',
      flag: 'two stubs of half the admittance each, one on either side of the line',
      options: [
        { id: 'pair', label: 'A pair, both sides' },
        { id: 'one', label: 'One' },
      ],
    },
    angleField,
    zStubField,
    zLineField,
  ],

  alternatives: (inputs) =>
    stubAlternatives(
      inputs,
      (ending, solution) =>
        `${ending} stub${inputs.pair === 'pair' ? 's' : ''}, ${solution === 1 ? 'near' : 'far'} plane`,
    ),

  design(inputs, context) {
    const { goal, solution, pair } = specify(inputs, context);
    const values = [
      ...goal.values,
      {
        name: 'plane',
        value: `stubplane(zl, ${goal.line}, z0, ${solution})`,
        note: 'load to stub',
      },
      { name: 'zp', value: `seen(zl, ${goal.line}, plane)`, note: 'at the stub' },
      { name: 'stub', value: stubText(goal, 'zp', 'resonated(zp)', pair), note: 'its length' },
      FEED,
    ];
    const sketch = new Sketch().fed(1, 'in');
    addStub(sketch, goal, { id: 'stub', name: 'stub', size: 'stub', pair, side: 'left' }, 'in', 'on');
    sketch.add(
      'line',
      'line',
      'line to the load',
      ['on', 'far'],
      { z0: goal.line, theta: 'plane' },
      { role: 'line' },
    );
    return finished(
      'single-stub',
      `${goal.load.label} to ${ohm(goal.z0)}, ${endingWords[goal.ending]} ${pair ? 'stub pair' : 'stub'}${solution === 2 ? ', far plane' : ''}`,
      context,
      values,
      [...sketch.pieces, { ...goal.load.piece, nodes: ['far'] }],
    );
  },

  explain(inputs, context) {
    const { goal, both, own, pair, solution } = specify(inputs, context);
    const { z } = goal.load;
    return [
      `Along a line the conductance of the load, ${formatComplex(z.re, z.im)}, takes the source\u2019s value twice in every half wave: ${both.map((s) => angle(s.line)).join(' and ')} from it. This design uses plane ${solution}, where one sees ${formatComplex(own.seen.re, own.seen.im)}.`,
      `${pair ? 'Two stubs of half the admittance' : 'A stub'} in parallel cancel${pair ? '' : 's'} the susceptance there${
        goal.ending === 'radial'
          ? `: rings of line as wide as their arcs, in cascade, show it from a radial length of ${goal.told(own.stub)}.`
          : `: ${goal.ending === 'open' ? 'tan \u03B8 = b' : 'cot \u03B8 = \u2212b'} of a stub of ${ohm(goal.zStub)}, so \u03B8 = ${goal.told(own.stub)}.`
      }`,
      'Line and stub turn with frequency, so the shorter they are together the wider the match.',
    ];
  },
};

export default [singleStub];
