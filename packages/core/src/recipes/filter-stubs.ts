import { designStubFilter, stopEdge } from '../theory';
import { formatNumber, formatQuantity } from '../units';
import type { Recipe, RecipeContext, RecipeInputs } from './contract';
import {
  bandField,
  centreField,
  combOfStubs,
  cutoffField,
  designed,
  edgeWords,
  finishedFilter,
  mirrored,
  readFilter,
  shapeFields,
  shapeWords,
  STUB_FEED,
  type FilterGoal,
} from './filters';
import { z0Field } from './shared';

const SOURCE = 'Richards 1948; Ozaki & Ishii 1958; Matthaei, Young & Jones 1964: exact at every frequency.';

function specify(inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  const edge = goal.band === 0 ? Math.PI / 4 : stopEdge(goal.band);
  return { goal, edge, filter: designed(() => designStubFilter(goal.shape, edge)) };
}

/** Open stubs and the lines between them, all of one angle. */
function made(
  recipe: string,
  title: string,
  goal: FilterGoal,
  context: RecipeContext,
  theta: string,
  edge: string,
) {
  const { order } = goal.shape;
  // An odd number of stubs is its own mirror image; of an even one the lines enter from one side more than from the other.
  const odd = order % 2 === 1;
  const stub = (i: number) => (odd ? mirrored(i, order) : i);
  const link = (i: number) => (odd ? mirrored(i, order - 1) : i);
  const values = [...goal.values, { name: 'edge', value: edge, note: 'angle at the edge' }];
  for (let i = 1; i <= (odd ? (order + 1) / 2 : order); i++)
    values.push({ name: `s${i}`, value: `stubz(z0, ${order}, ripple, edge, ${i})`, note: `stub ${i}` });
  for (let i = 1; i <= (odd ? (order - 1) / 2 : order - 1); i++)
    values.push({
      name: `l${i}`,
      value: `stublink(z0, ${order}, ripple, edge, ${i})`,
      note: `line ${i}`,
    });
  values.push(STUB_FEED);
  const pieces = combOfStubs(
    order,
    'open-stub',
    (i) => ({ z0: `s${stub(i)}`, theta }),
    (i) => ({ z0: `l${link(i)}`, theta }),
  );
  return finishedFilter(recipe, title, goal, context, values, pieces);
}

const impedances = (list: readonly number[], z0: number): string =>
  list.map((z) => formatNumber(z * z0, 4)).join(', ');

const KURODA =
  'Ladder elements in series are turned into stubs across by lines of the system impedance that enter from both ends; these change nothing but the phase.';

export const lowpassStub: Recipe = {
  id: 'lowpass-stub',
  name: 'Open-stub low-pass',
  order: 61,
  goal: 'filter',
  blame: 'order',
  about:
    'Passes what is below a cutoff and stops an octave above it entirely: open stubs and lines of one length.',
  source: SOURCE,
  fields: [cutoffField, z0Field, ...shapeFields('3')],

  design: (inputs, context) =>
    made('lowpass-stub', 'Stub low-pass', specify(inputs).goal, context, '45 deg', '45 deg'),

  explain(inputs) {
    const { goal, filter } = specify(inputs);
    return [
      shapeWords(goal.shape, formatQuantity(goal.f0, 'frequency', { digits: 5 })),
      `With every line an eighth of a wave at the cutoff, tan \u03B8 takes the place of the frequency. ${KURODA}`,
      `Stubs of ${impedances(filter.stubs, goal.z0)} \u03A9 and lines of ${impedances(filter.lines, goal.z0)} \u03A9. Nothing passes at twice the cutoff; the response mirrors itself there and passes again from three times the cutoff on.`,
    ];
  },
};

export const bandstopStub: Recipe = {
  id: 'bandstop-stub',
  name: 'Open-stub band stop',
  order: 62,
  goal: 'filter',
  blame: 'bandwidth',
  about: 'Stops a band and passes what lies beside it: open stubs a quarter wave long, a quarter wave apart.',
  source: SOURCE,
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('100%', 'Between the edges of the two pass bands.'),
  ],

  design: (inputs, context) =>
    made('bandstop-stub', 'Stub band stop', specify(inputs).goal, context, '90 deg', '90 deg*(1 - band/2)'),

  explain(inputs) {
    const { goal, filter, edge } = specify(inputs);
    return [
      shapeWords(goal.shape, edgeWords(goal)),
      `With every line a quarter wave at the centre, tan \u03B8/tan ${formatNumber((edge * 180) / Math.PI, 4)} deg takes the place of the frequency. ${KURODA}`,
      `Stubs of ${impedances(filter.stubs, goal.z0)} \u03A9 and lines of ${impedances(filter.lines, goal.z0)} \u03A9. A narrow band takes stubs of high impedance.`,
    ];
  },
};

export default [lowpassStub, bandstopStub];
