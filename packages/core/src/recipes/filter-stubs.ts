import { designStubFilter, stopEdge } from '../theory';
import { formatNumber, formatQuantity } from '../units';
import {
  RecipeError,
  type Recipe,
  type RecipeContext,
  type RecipeField,
  type RecipeInputs,
} from './contract';
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
} from './filters';
import { FEED, z0Field } from './shared';
import { angleField } from './stubs';

const SOURCE = 'Richards 1948; Ozaki & Ishii 1958; Matthaei, Young & Jones 1964: exact at every frequency.';

function specify(inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  const edge = goal.band === 0 ? Math.PI / 4 : stopEdge(goal.band);
  return { goal, edge, filter: designed(() => designStubFilter(goal.shape, edge)) };
}

type Ending = 'open' | 'paired' | 'radial';

const stubField = (radial: boolean): RecipeField => ({
  name: 'stub',
  label: 'Stubs',
  help: `How each shunt branch is made. Two stubs opposite one another, each of twice the impedance, are narrower and do the same.${radial ? ' A radial one is what the open stub is at the cutoff, short and well-defined at its entry; elsewhere the response is another.' : ''}`,
  initial: 'open',
  type: 'choice',
  options: [
    { id: 'open', label: 'One open stub' },
    { id: 'paired', label: 'Two opposite' },
    ...(radial ? [{ id: 'radial', label: 'Radial' }] : []),
  ],
});

function endingOf(inputs: RecipeInputs): Ending {
  const { stub } = inputs;
  if (stub === 'open' || stub === 'paired') return stub;
  if (stub === 'radial' && inputs.angle !== undefined) return stub;
  throw new RecipeError(
    'stub',
    `must be open${inputs.angle === undefined ? ' or' : ','} paired${inputs.angle === undefined ? '' : ' or radial'}`,
  );
}

/** Open stubs and the lines between them, all of one angle. */
function made(
  recipe: string,
  title: string,
  inputs: RecipeInputs,
  context: RecipeContext,
  theta: string,
  edge: string,
) {
  const { goal } = specify(inputs);
  const ending = endingOf(inputs);
  const { order } = goal.shape;
  // An odd number of stubs is its own mirror image; of an even one the lines enter from one side more than from the other.
  const odd = order % 2 === 1;
  const stub = (i: number) => (odd ? mirrored(i, order) : i);
  const link = (i: number) => (odd ? mirrored(i, order - 1) : i);
  // Stubs that differ.
  const own = odd ? (order + 1) / 2 : order;
  const values = [...goal.values, { name: 'edge', value: edge, note: 'angle at the edge' }];
  for (let i = 1; i <= own; i++)
    values.push({ name: `s${i}`, value: `stubz(z0, ${order}, ripple, edge, ${i})`, note: `stub ${i}` });
  for (let i = 1; i <= (odd ? (order - 1) / 2 : order - 1); i++)
    values.push({
      name: `l${i}`,
      value: `stublink(z0, ${order}, ripple, edge, ${i})`,
      note: `line ${i}`,
    });
  if (ending === 'radial') {
    const entry = order > 1 ? 'width(l1)' : 'width(2*z0)';
    values.push({ name: 'opening', value: inputs.angle, note: 'of radial stubs' });
    values.push({ name: 'entry', value: entry, note: 'of radial stubs' });
    for (let i = 1; i <= own; i++)
      values.push({
        name: `r${i}`,
        value: `radialreach(z0, 1/(1/z0 + 1j*tan(${theta})/s${i}), opening, entry)`,
        note: `radial stub ${i}`,
      });
    const widest = Array.from({ length: own }, (_, i) => `r${i + 1}`);
    values.push({ ...STUB_FEED, value: `max(${FEED.value}, ${widest.join(', ')})` });
  } else
    values.push(
      ending === 'paired' ? { ...STUB_FEED, value: `max(${FEED.value}, 0.7*width(2*s1))` } : STUB_FEED,
    );
  const pieces = combOfStubs(
    order,
    ending === 'radial' ? 'radial-stub' : 'open-stub',
    (i): Readonly<Record<string, string>> =>
      ending === 'radial'
        ? { reach: `r${stub(i)}`, angle: 'opening', entry: 'entry' }
        : { z0: `${ending === 'paired' ? '2*' : ''}s${stub(i)}`, theta },
    (i) => ({ z0: `l${link(i)}`, theta }),
    ending === 'paired',
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
  fields: [cutoffField, z0Field, ...shapeFields('3'), stubField(true), angleField],

  design: (inputs, context) => made('lowpass-stub', 'Stub low-pass', inputs, context, '45 deg', '45 deg'),

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
    stubField(false),
  ],

  design: (inputs, context) =>
    made('bandstop-stub', 'Stub band stop', inputs, context, '90 deg', '90 deg*(1 - band/2)'),

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
