import type { Design } from '../network';
import { designComb } from '../theory';
import { formatNumber, formatQuantity, type QuantityRule } from '../units';
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
  designed,
  edgeWords,
  finishedFilter,
  mirrored,
  readFilter,
  shapeFields,
  shapeWords,
} from './filters';
import { FEED, read, resistanceRule, Sketch, z0Field } from './shared';

/** From short lines with large capacitors to nearly a quarter wave, which takes none. */
const angleRule: QuantityRule = { kind: 'angle', min: Math.PI / 18, max: (80 / 180) * Math.PI };

type Kind = 'interdigital' | 'combline';

/** Resonators whose lines, with the two that feed, an array has. */
const MOST = 7;

const zLineField: RecipeField = {
  name: 'zLine',
  label: 'Lines',
  help: 'Impedance of one line by itself.',
  initial: '60 ohm',
  type: 'quantity',
  rule: resistanceRule,
};

function specify(kind: Kind, inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  const { order } = goal.shape;
  if (order > MOST)
    throw new RecipeError('order', `must be at most ${MOST}: an array has nine lines, two of them feeds`);
  if (kind === 'combline' && order < 2) throw new RecipeError('order', 'must be at least 2');
  const zr = read('zLine', inputs.zLine, resistanceRule).re;
  const theta = kind === 'interdigital' ? Math.PI / 2 : read('angle', inputs.angle, angleRule).re;
  const filter = designed(() =>
    designComb({ ...goal.shape, bandwidth: goal.band, resonator: zr / goal.z0, kind, theta }),
  );
  return { goal, zr, theta, filter };
}

function design(kind: Kind, inputs: RecipeInputs, context: RecipeContext): Design {
  const { goal } = specify(kind, inputs);
  const { order } = goal.shape;
  const lines = order + 2;
  const crossed = kind === 'interdigital';
  const values = [...goal.values, { name: 'zr', value: inputs.zLine, note: 'lines' }];
  if (!crossed) values.push({ name: 'theta', value: inputs.angle, note: 'of the lines' });
  const of = (what: string, i: number) =>
    `${crossed ? 'inter' : 'comb'}${what}(z0, zr, ${order}, ripple, band, ${crossed ? '' : 'theta, '}${i})`;
  for (let i = 1; i <= Math.ceil((order + 1) / 2); i++)
    values.push({ name: `k${i}`, value: of('k', i), note: `coupling ${i}` });
  if (!crossed)
    for (let i = 1; i <= Math.ceil(order / 2); i++)
      values.push({ name: `c${i}`, value: `${of('load', i)}/(2*pi*f0)`, note: `capacitor ${i}` });
  values.push(FEED);
  // The end at which each line is not grounded: near ones first, then far ones, of a comb all far.
  const far = (i: number) => (crossed ? i % 2 === 1 : true);
  const near = Array.from({ length: lines }, (_, i) => `near${i}`);
  const ends = Array.from({ length: lines }, (_, i) => `far${i}`);
  const open = (i: number) => (far(i) ? ends : near)[i];
  const grounded = (i: number) => (far(i) ? near : ends)[i];
  const held = {
    z0: 'zr',
    theta: crossed ? '90 deg' : 'theta',
    ...Object.fromEntries(
      Array.from({ length: lines - 1 }, (_, i) => [`k${i + 1}`, `k${mirrored(i + 1, lines - 1)}`]),
    ),
  };
  // Beside the capacitors and the pads of holes there is no room for the feeds: they leave sideways, in bends as wide as the lines,
  // which do not stand out towards the next line.
  const sketch = new Sketch()
    .fed(1, 'in')
    .step('step1', 'in', 'turn1')
    .bend('bend1', [open(0), 'turn1'], crossed ? 'left' : 'right');
  sketch.add(
    `line-array-${lines}`,
    'lines',
    crossed ? 'interdigital lines' : 'comb of lines',
    [...near, ...ends],
    held,
    { role: 'coupled' },
  );
  for (let i = 0; i < lines; i++) {
    const told = i === 0 ? 'feed line 1' : i === lines - 1 ? 'feed line 2' : `resonator ${i}`;
    sketch.add('via', `via${i}`, `via of ${told}`, [grounded(i)]);
    if (i === 0 || i === lines - 1) continue;
    if (crossed)
      sketch.add(
        'open-end',
        `open${i}`,
        `open end of ${told}`,
        [open(i)],
        {},
        // Each resonator by itself is brought to its frequency.
        { marks: { retune: 'move' } },
      );
    else
      sketch
        .add(
          'capacitor',
          `c${i}`,
          `capacitor of ${told}`,
          [open(i), `g${i}`],
          { c: `c${mirrored(i, order)}` },
          { marks: { retune: 'move' } },
        )
        .add('via', `ground${i}`, `via of capacitor ${i}`, [`g${i}`]);
  }
  sketch
    .bend('bend2', [open(lines - 1), 'turn2'], far(lines - 1) ? 'left' : 'right')
    .step('step2', 'turn2', 'out')
    .fed(2, 'out');
  const title = crossed ? 'Interdigital band-pass' : 'Combline band-pass';
  return finishedFilter(`bandpass-${kind}`, title, goal, context, values, sketch.pieces);
}

function explain(kind: Kind, inputs: RecipeInputs): string[] {
  const { goal, zr, theta, filter } = specify(kind, inputs);
  const half = (list: readonly number[]) => list.slice(0, Math.ceil(list.length / 2));
  const k = half(filter.couplings).map((x) => formatNumber(x, 4));
  const loads = half(filter.loads).map((b) =>
    formatQuantity(b / (goal.z0 * 2 * Math.PI * goal.f0), 'capacitance', { digits: 3 }),
  );
  return [
    shapeWords(goal.shape, edgeWords(goal)),
    kind === 'interdigital'
      ? `Quarter waves of ${formatNumber(zr)} \u03A9 side by side, grounded at opposite ends in turn; the first and the last of the array are the feeds.`
      : `Lines of ${formatNumber(zr)} \u03A9 and ${formatNumber((theta * 180) / Math.PI, 3)} deg side by side, all grounded at the same end, with a capacitor at the other that brings them to resonance; the first and the last of the array are the feeds. Shorter lines put the next pass band further up.`,
    `Couplings from an end to the middle: ${k.join(', ')}${loads.length > 0 ? `; capacitors of ${loads.join(', ')}` : ''}.`,
    'Couplings begin with narrow-band formulas and are moved until the ripple is equal and the edges stand. Lines that are not neighbours are taken not to couple.',
  ];
}

export const bandpassInterdigital: Recipe = {
  id: 'bandpass-interdigital',
  name: 'Interdigital band-pass',
  order: 67,
  goal: 'filter',
  blame: 'bandwidth',
  about:
    'Passes a band of up to some 20 % without a second one at twice the centre: quarter waves grounded at opposite ends in turn.',
  source: 'Matthaei 1962; from there on to equal ripple between exact edges.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('8%', 'Between the edges of the pass band.'),
    zLineField,
  ],
  design: (inputs, context) => design('interdigital', inputs, context),
  explain: (inputs) => explain('interdigital', inputs),
};

export const bandpassCombline: Recipe = {
  id: 'bandpass-combline',
  name: 'Combline band-pass',
  order: 68,
  goal: 'filter',
  blame: 'bandwidth',
  about: 'Passes a band with short lines and a wide stop band above it: grounded lines loaded by capacitors.',
  source: 'Matthaei 1963; from there on to equal ripple between exact edges.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('8%', 'Between the edges of the pass band.'),
    {
      name: 'angle',
      label: 'Angle',
      help: 'Of the lines at the centre: 45 deg and less are short, more of them is line than capacitor above.',
      initial: '50 deg',
      type: 'quantity',
      rule: angleRule,
    },
    zLineField,
  ],
  design: (inputs, context) => design('combline', inputs, context),
  explain: (inputs) => explain('combline', inputs),
};

export default [bandpassInterdigital, bandpassCombline];
