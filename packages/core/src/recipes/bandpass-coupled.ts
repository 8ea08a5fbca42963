import { designCoupledResonators } from '../theory';
import { formatNumber } from '../units';
import type { Recipe, RecipeInputs } from './contract';
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
import { BACK, FEED, Sketch, z0Field } from './shared';

function specify(inputs: RecipeInputs) {
  const goal = readFilter(inputs);
  return { goal, filter: designed(() => designCoupledResonators(goal.shape, goal.band)) };
}

export const bandpassCoupled: Recipe = {
  id: 'bandpass-coupled',
  name: 'Edge-coupled band-pass',
  order: 64,
  goal: 'filter',
  blame: 'bandwidth',
  about: 'Passes a band of up to some 20 %: half-wave lines side by side, each along half of its neighbours.',
  source: 'Cohn 1958 for narrow bands; from there on to equal ripple between exact edges.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('8%', 'Between the edges of the pass band. Wide bands take narrow gaps.'),
  ],

  design(inputs, context) {
    const { goal } = specify(inputs);
    const { order } = goal.shape;
    const sections = order + 1;
    const values = [...goal.values];
    for (let i = 1; i <= Math.ceil(sections / 2); i++) {
      const both = mirrored(sections + 1 - i, sections) === i && sections + 1 - i !== i;
      const note = `section ${i}${both ? ` and ${sections + 1 - i}` : ''}`;
      values.push(
        { name: `ze${i}`, value: `edgeeven(z0, ${order}, ripple, band, ${i})`, note: `even, ${note}` },
        { name: `zo${i}`, value: `edgeodd(z0, ${order}, ripple, band, ${i})`, note: `odd, ${note}` },
      );
    }
    values.push(FEED, BACK);
    const sketch = new Sketch().fed(1, 'n0');
    for (let i = 1; i <= sections; i++)
      sketch
        .step(`step${i}`, `n${i - 1}`, `a${i}`)
        .add(
          'line-pair',
          `pair${i}`,
          `coupled section ${i}`,
          [`a${i}`, `near${i}`, `far${i}`, `n${i}`],
          { ze: `ze${mirrored(i, sections)}`, zo: `zo${mirrored(i, sections)}`, theta: '90 deg' },
          { role: 'coupled', settings: { side: 'left' } },
        )
        .add('open-end', `near${i}`, `open end ${i}a`, [`near${i}`], { trim: '-back' })
        .add('open-end', `far${i}`, `open end ${i}b`, [`far${i}`], { trim: '-back' });
    sketch.step(`step${sections + 1}`, `n${sections}`, 'out').fed(2, 'out');
    return finishedFilter('bandpass-coupled', 'Edge-coupled band-pass', goal, context, values, sketch.pieces);
  },

  explain(inputs) {
    const { goal, filter } = specify(inputs);
    const pairs = filter.even
      .slice(0, Math.ceil(filter.even.length / 2))
      .map((ze, i) => `${formatNumber(ze * goal.z0, 4)}/${formatNumber(filter.odd[i] * goal.z0, 4)}`);
    return [
      shapeWords(goal.shape, edgeWords(goal)),
      `A coupled quarter wave between opposite open ends is an inverter between two quarter waves of line; J = \u221A(\u03C0\u0394/2g) at the ends and \u03C0\u0394/(2\u221A(gg)) between resonators, so z\u2091 = z\u2080(1 + J + J\u00B2) and z\u2092 = z\u2080(1 \u2212 J + J\u00B2) for narrow bands. From there the sections are moved until ${goal.shape.ripple > 0 ? 'the ripple is equal' : 'all dips lie at the centre'} and the edges stand.`,
      `Even and odd impedances from an end to the middle: ${pairs.join(', ')} \u03A9.`,
      'In microstrip the odd mode runs ahead, which opens a pass band at twice the centre.',
    ];
  },
};

export default [bandpassCoupled];
