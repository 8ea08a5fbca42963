import { designPassStubs } from '../theory';
import { formatNumber } from '../units';
import type { Recipe, RecipeInputs } from './contract';
import {
  bandField,
  centreField,
  combOfStubs,
  designed,
  edgeWords,
  finishedFilter,
  mirrored,
  readFilter,
  shapeFields,
  shapeWords,
  STUB_FEED,
} from './filters';
import { z0Field } from './shared';

function specify(inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  return { goal, filter: designed(() => designPassStubs(goal.shape, goal.band)) };
}

export const bandpassStub: Recipe = {
  id: 'bandpass-stub',
  name: 'Shorted-stub band-pass',
  order: 63,
  goal: 'filter',
  blame: 'bandwidth',
  about: 'Passes a wide band: shorted stubs a quarter wave long, a quarter wave apart.',
  source:
    'Matthaei, Young & Jones 1964, section 10.03; made exact by the characteristic function of Horton & Wenzel 1965.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('50%', 'Between the edges of the pass band. Below a third the stubs become very wide.'),
  ],

  design(inputs, context) {
    const { goal } = specify(inputs);
    const { order } = goal.shape;
    const values = [...goal.values];
    for (let i = 1; i <= Math.ceil(order / 2); i++)
      values.push({ name: `s${i}`, value: `shortz(z0, ${order}, ripple, band, ${i})`, note: `stub ${i}` });
    for (let i = 1; i <= Math.floor(order / 2); i++)
      values.push({
        name: `l${i}`,
        value: `shortlink(z0, ${order}, ripple, band, ${i})`,
        note: `line ${i}`,
      });
    values.push(STUB_FEED);
    const pieces = combOfStubs(
      order,
      'shorted-stub',
      (i) => ({ z0: `s${mirrored(i, order)}`, theta: '90 deg' }),
      (i) => ({ z0: `l${mirrored(i, order - 1)}`, theta: '90 deg' }),
    );
    return finishedFilter('bandpass-stub', 'Stub band-pass', goal, context, values, pieces);
  },

  explain(inputs) {
    const { goal, filter } = specify(inputs);
    const list = (z: readonly number[]) => z.map((x) => formatNumber(x * goal.z0, 4)).join(', ');
    return [
      shapeWords(goal.shape, edgeWords(goal)),
      `A quarter wave between two stubs makes the second look like a resonator in series. The lines take part in the response: with x = cos \u03B8 it is a polynomial of the order ${goal.shape.order} in x over sin \u03B8, which the stubs and lines have exactly, at the edges of wide bands too.`,
      `Stubs of ${list(filter.stubs)} \u03A9 and lines of ${list(filter.lines)} \u03A9. It passes again at three times the centre.`,
    ];
  },
};

export default [bandpassStub];
