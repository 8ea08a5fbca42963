import { designGapResonators } from '../theory';
import { formatNumber, formatQuantity } from '../units';
import { RecipeError, type Recipe, type RecipeInputs } from './contract';
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

function specify(inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  const zr = read('zLine', inputs.zLine, resistanceRule).re;
  const filter = designed(() =>
    designGapResonators({ ...goal.shape, bandwidth: goal.band, resonator: zr / goal.z0 }),
  );
  const { ends } = inputs;
  if (ends !== 'mounted' && ends !== 'gap') throw new RecipeError('ends', 'must be mounted or gap');
  return { goal, zr, ends, filter };
}

export const bandpassGap: Recipe = {
  id: 'bandpass-gap',
  name: 'End-coupled band-pass',
  order: 66,
  goal: 'filter',
  blame: 'bandwidth',
  about:
    'Passes a band of a few per cent in one straight line: half-wave lines end to end, gaps between them.',
  source: 'Cohn 1957 for narrow bands; from there on to equal ripple between exact edges.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField(
      '2%',
      'Between the edges of the pass band. Gaps in thin copper couple little: a few per cent at most.',
    ),
    {
      name: 'zLine',
      label: 'Resonators',
      help: 'Impedance of the resonators\u2019 lines. Wide ones couple more over the same gap.',
      initial: '50 ohm',
      type: 'quantity',
      rule: resistanceRule,
    },
    {
      name: 'ends',
      label: 'Ends',
      help: 'The ends couple most, by a few tenths of a picofarad, more than a gap in thin copper has: there a small capacitor is mounted. A gap does where the band is a fraction of a per cent.',
      initial: 'mounted',
      type: 'choice',
      options: [
        { id: 'mounted', label: 'Mounted capacitors' },
        { id: 'gap', label: 'Gaps' },
      ],
    },
  ],

  design(inputs, context) {
    const { goal, ends } = specify(inputs);
    const { order } = goal.shape;
    const of = (what: string, i: number) => `end${what}(z0, zr, ${order}, ripple, band, ${i})`;
    const values = [...goal.values, { name: 'zr', value: inputs.zLine, note: 'resonators' }];
    for (let i = 1; i <= Math.floor(order / 2) + 1; i++)
      values.push({ name: `c${i}`, value: `${of('gap', i)}/(2*pi*f0)`, note: `gap ${i}` });
    for (let i = 1; i <= Math.ceil(order / 2); i++)
      values.push({ name: `t${i}`, value: of('line', i), note: `angle, line ${i}` });
    values.push(FEED);
    const sketch = new Sketch().fed(1, 'n0');
    for (let i = 1; i <= order + 1; i++) {
      const outer = i === 1 || i === order + 1;
      sketch.add(
        outer && ends === 'mounted' ? 'capacitor' : 'gap',
        `gap${i}`,
        outer && ends === 'mounted' ? `end capacitor ${i === 1 ? 1 : 2}` : `gap ${i}`,
        [`n${i - 1}`, `m${i}`],
        { c: `c${mirrored(i, order + 1)}` },
      );
      if (i <= order)
        sketch.add(
          'line',
          `line${i}`,
          `resonator ${i}`,
          [`m${i}`, `n${i}`],
          { z0: 'zr', theta: `t${mirrored(i, order)}` },
          { role: 'resonator' },
        );
    }
    sketch.fed(2, `m${order + 1}`);
    return finishedFilter('bandpass-gap', 'End-coupled band-pass', goal, context, values, sketch.pieces);
  },

  explain(inputs) {
    const { goal, zr, ends, filter } = specify(inputs);
    const half = (list: readonly number[]) => list.slice(0, Math.ceil(list.length / 2));
    const c = half(filter.gaps).map((b) =>
      formatQuantity(b / (goal.z0 * 2 * Math.PI * goal.f0), 'capacitance', { digits: 3 }),
    );
    const angles = half(filter.lines).map((t) => formatNumber((t * 180) / Math.PI, 4));
    return [
      shapeWords(goal.shape, edgeWords(goal)),
      `A capacitance in series with the piece of line that it shortens at either side is an inverter: B = J/(1 \u2212 J\u00B2), and the line is shorter by half of atan 2B. From there capacitances and lengths are moved until ${goal.shape.ripple > 0 ? 'the ripple is equal' : 'all dips lie together'} and the edges stand.`,
      `Gaps of ${c.join(', ')} from an end to the middle, lines of ${formatNumber(zr)} \u03A9 and ${angles.join(', ')} deg.`,
      ends === 'mounted'
        ? 'The ends couple most, more than a gap can: mounted capacitors do.'
        : 'The end gaps couple most: where a gap cannot, wider lines or mounted capacitors do.',
    ];
  },
};

export default [bandpassGap];
