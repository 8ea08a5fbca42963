import type { Design, NamedValue, Piece } from '../network';
import { edgeOf, FilterError, lowpassElements, type FilterShape } from '../theory';
import { formatNumber, formatQuantity } from '../units';
import { RecipeError, type RecipeContext, type RecipeField, type RecipeInputs } from './contract';
import {
  FEED,
  finished,
  freqField,
  frequencyRule,
  levelRule,
  read,
  readBand,
  resistanceRule,
  Sketch,
} from './shared';

const MOST = 15;

export const cutoffField: RecipeField = {
  ...freqField,
  label: 'Cutoff',
  help: 'Edge of the pass band: half the power there where the response is maximally flat, the ripple where it is equal.',
};
export const centreField: RecipeField = {
  ...freqField,
  label: 'Centre',
  help: 'Middle of the band: its edges lie half of the bandwidth to either side.',
};

/** The entries that say what response is wanted. */
export const shapeFields = (order: string): readonly RecipeField[] => [
  {
    name: 'order',
    label: 'Order',
    help: `Number of resonators, or of elements: 1 to ${MOST}. More of them fall off faster.`,
    initial: order,
    type: 'count',
    min: 1,
    max: MOST,
  },
  {
    name: 'shape',
    label: 'Shape',
    help: 'Maximally flat has no ripple; equal ripple falls off faster for the same order.',
    initial: 'butterworth',
    type: 'choice',
    options: [
      { id: 'butterworth', label: 'Maximally flat (Butterworth)' },
      { id: 'chebyshev', label: 'Equal ripple (Chebyshev)' },
    ],
  },
  {
    name: 'ripple',
    label: 'Ripple',
    help: 'By how much the loss swings in the pass band, for example 0.1 dB.',
    initial: '0.1 dB',
    type: 'quantity',
    rule: levelRule,
    needs: 'it belongs to --shape chebyshev',
    when: (inputs) => inputs.shape === 'chebyshev',
  },
];

export const bandField = (initial: string, help: string): RecipeField => ({
  name: 'bandwidth',
  label: 'Bandwidth',
  help: `${help} A frequency, or a percentage of the centre.`,
  initial,
  type: 'text',
  placeholder: 'share of the centre',
});

export interface FilterGoal {
  readonly f0: number;
  readonly z0: number;
  readonly shape: FilterShape;
  /** Over the centre; 0 of a low-pass. */
  readonly band: number;
  /** What every filter's design names, its band among them. */
  readonly values: readonly NamedValue[];
}

/** The entries that every filter has. @throws RecipeError */
export function readFilter(inputs: RecipeInputs): FilterGoal {
  const f0 = read('freq', inputs.freq, frequencyRule).re;
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const order = Number(inputs.order);
  if (!/^\d+$/.test(inputs.order.trim()) || order < 1 || order > MOST)
    throw new RecipeError('order', `must be a whole number from 1 to ${MOST}`);
  if (inputs.shape !== 'butterworth' && inputs.shape !== 'chebyshev')
    throw new RecipeError('shape', 'must be butterworth or chebyshev');
  const rippled = inputs.shape === 'chebyshev';
  const ripple = rippled ? read('ripple', inputs.ripple, levelRule).re : 0;
  const text = inputs.bandwidth?.trim();
  const band = text === undefined ? 0 : readBand('bandwidth', text, f0);
  const values: NamedValue[] = [
    { name: 'f0', value: inputs.freq, note: text === undefined ? 'cutoff' : 'centre' },
    { name: 'z0', value: inputs.z0, note: 'system' },
    { name: 'ripple', value: rippled ? inputs.ripple : '0 dB', note: rippled ? 'of the loss' : 'flat' },
  ];
  if (text !== undefined)
    values.push({ name: 'band', value: /[a-zA-Z]/.test(text) ? `${text}/f0` : text, note: 'of the centre' });
  return { f0, z0, shape: { order, ripple }, band, values };
}

/** Runs a filter's design, and names the entry at fault. */
export function designed<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof FilterError) throw new RecipeError(error.field, error.message);
    throw error;
  }
}

/** Return loss in the pass band, dB, as the goal that its plots are drawn with. */
const goalOf = ({ ripple }: FilterShape): string =>
  ripple > 0 ? `${formatNumber(-10 * Math.log10(-Math.expm1((-ripple * Math.LN10) / 10)), 3)} dB` : '10 dB';

/** A filter's design, swept over its band and what it stops beside it. */
export function finishedFilter(
  recipe: string,
  title: string,
  { shape, band }: FilterGoal,
  context: RecipeContext,
  values: readonly NamedValue[],
  pieces: readonly Piece[],
): Design {
  const reach = formatNumber(Math.min(0.9, Math.max(0.1, 2.5 * band)), 2);
  return {
    ...finished(
      recipe,
      `${title}, ${shape.order} ${shape.ripple > 0 ? `at ${formatQuantity(shape.ripple, 'level', { digits: 2 })}` : 'flat'}`,
      context,
      values,
      pieces,
      goalOf(shape),
    ),
    sweep:
      band === 0
        ? { start: 'f0/20', stop: '3*f0', points: 401 }
        : { start: `f0*(1 - ${reach})`, stop: `f0*(1 + ${reach})`, points: 401 },
  };
}

/** What the shape is, in words. */
export function shapeWords(shape: FilterShape, edge: string): string {
  const { order, ripple } = shape;
  const g = lowpassElements(shape)
    .slice(0, order)
    .map((x) => formatNumber(x, 4))
    .join(', ');
  const loss =
    ripple > 0
      ? `swings by ${formatQuantity(ripple, 'level', { digits: 3 })} in the pass band and is back at that at ${edge}`
      : `is flat and 3 dB at ${edge}`;
  return `The loss ${loss}: the ladder of ${order} with g = ${g}${ripple > 0 ? `, \u03B5 = ${formatNumber(edgeOf(shape), 4)}` : ''}.`;
}

/** The two edges of a band, in words. */
export const edgeWords = ({ f0, band }: FilterGoal): string =>
  [1 - band / 2, 1 + band / 2].map((x) => formatQuantity(f0 * x, 'frequency', { digits: 5 })).join(' and ');

/** The places of a chain that is its own mirror image share their values: which one stands at i, from 1. */
export const mirrored = (i: number, count: number): number => Math.min(i, count + 1 - i);

/** A length of line by the name of its impedance. */
interface Length {
  readonly z0: string;
  readonly theta: string;
}

/** Feeds, and between them stubs with the lines that join them, each by its place from 1: on either side in turn, or opposite one another. */
export function combOfStubs(
  order: number,
  kind: 'open-stub' | 'shorted-stub' | 'radial-stub',
  stub: (i: number) => Readonly<Record<string, string>>,
  link: (i: number) => Length,
  paired = false,
): readonly Piece[] {
  const sketch = new Sketch().fed(1, 'n1');
  const add = (id: string, name: string, node: string, i: number) =>
    sketch.add(kind, id, name, [node], { ...stub(i) }, { role: 'stub' });
  for (let i = 1; i <= order; i++) {
    if (paired) {
      sketch.add('cross', `cross${i}`, `cross at stubs ${i}`, [`n${i}`, `m${i}`, `s${i}`, `t${i}`]);
      add(`stub${i}`, `stub ${i}, left`, `s${i}`, i);
      add(`stub${i}b`, `stub ${i}, right`, `t${i}`, i);
    } else {
      sketch.tee(`tee${i}`, [`n${i}`, `m${i}`, `s${i}`], i % 2 === 1 ? 'left' : 'right', `tee at stub ${i}`);
      add(`stub${i}`, `stub ${i}`, `s${i}`, i);
    }
    if (i < order)
      sketch.add('line', `line${i}`, `line ${i}`, [`m${i}`, `n${i + 1}`], { ...link(i) }, { role: 'line' });
  }
  return sketch.fed(2, `m${order}`).pieces;
}

/** A feed that reaches past the junction with the first stub. */
export const STUB_FEED: NamedValue = { ...FEED, value: `max(${FEED.value}, 0.7*width(s1))` };
