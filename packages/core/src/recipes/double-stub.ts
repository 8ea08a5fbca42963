import {
  conductance,
  doubleStubPlanes,
  forbiddenRegion,
  largestConductance,
  seenThrough,
  StubError,
} from '../theory';
import { formatComplex, formatNumber, formatQuantity } from '../units';
import { RecipeError, type Recipe, type RecipeContext, type RecipeInputs } from './contract';
import { matchFields } from './load';
import { FEED, finished, ohm, read, readCount, Sketch } from './shared';
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

const angle = (x: number): string => formatQuantity(x, 'angle', { digits: 4 });
const half = (x: number): number => x - Math.PI * Math.floor(x / Math.PI);

/** The spacing cannot reach the load: what can. */
function unreachable(region: NonNullable<ReturnType<typeof forbiddenRegion>>, spacing: number): RecipeError {
  let offset = '';
  if (region.offset) {
    const [from, to] = [half(region.offset.from), half(region.offset.to)];
    offset =
      from < to
        ? `, or an offset from ${angle(from)} to ${angle(to)}`
        : `, or an offset up to ${angle(to)} or from ${angle(from)} on`;
  }
  return new RecipeError(
    'spacing',
    `the load lies in the forbidden region: its conductance at the first stub is ${formatNumber(region.conductance, 4)} times the source's, and stubs ${angle(spacing)} apart match ${formatNumber(region.largest, 4)} at most; use a spacing up to ${angle(region.spacing)} or from ${angle(Math.PI - region.spacing)} on${offset}`,
  );
}

/** Where the stubs stand, and what the first one meets. */
function places(inputs: RecipeInputs, context: RecipeContext) {
  const goal = readStubGoal(inputs, context);
  const spacing = read('spacing', inputs.spacing, { kind: 'angle', min: 0, exclusive: true }).re;
  const offset = read('offset', inputs.offset, { kind: 'angle', min: 0 }).re;
  return { goal, spacing, offset, seen: seenThrough(goal.load.z, goal.zLine, offset) };
}

function specify(inputs: RecipeInputs, context: RecipeContext) {
  const { goal, spacing, offset, seen } = places(inputs, context);
  const wanted = readCount('solution', inputs.solution, [1, 2] as const);
  const region = forbiddenRegion(goal.load.z, goal.zLine, goal.z0, spacing, offset);
  const planes = matching(() => {
    try {
      return doubleStubPlanes(seen, goal.zLine, goal.z0, spacing);
    } catch (error) {
      if (error instanceof StubError && region) throw unreachable(region, spacing);
      throw error;
    }
  });
  const both = planes
    .map((plane, i) => ({
      root: i + 1,
      ...plane,
      first: goal.size(seen, plane.wanted),
      second: completed(goal, plane.wanted, spacing).stub,
    }))
    .sort((a, b) => a.first - b.first);
  return { goal, wanted, spacing, offset, seen, both, own: both[wanted - 1] };
}

export const doubleStub: Recipe = {
  id: 'double-stub',
  name: 'Double-stub match',
  order: 14,
  goal: 'match',
  blame: 'load',
  family: 'match',
  about:
    'Matches a load with two shunt stubs at fixed places: only their lengths depend on the load, so that both can be trimmed.',
  source: 'Admittances at both stubs, in closed form; Collin, Foundations for Microwave Engineering.',
  fields: [
    ...matchFields,
    stubField,
    {
      name: 'spacing',
      label: 'Spacing',
      help: 'Line between the two stubs. The nearer to 0 or 180 deg the more loads it reaches, and the narrower the match; 45 deg and 135 deg are usual.',
      initial: '45 deg',
      type: 'quantity',
      rule: { kind: 'angle', min: 0, exclusive: true },
    },
    {
      name: 'offset',
      label: 'Offset',
      help: 'Line between the load and the first stub.',
      initial: '0 deg',
      type: 'quantity',
      rule: { kind: 'angle', min: 0 },
    },
    {
      name: 'solution',
      label: 'Solution',
      help: 'Two pairs of lengths match: 1 is the one with the shorter first stub.',
      initial: '1',
      type: 'choice',
      options: [
        { id: '1', label: '1: the shorter first stub' },
        { id: '2', label: '2: the longer first stub' },
      ],
    },
    angleField,
    zStubField,
    zLineField,
  ],

  alternatives: (inputs) =>
    stubAlternatives(
      inputs,
      (ending, solution) => `two ${ending} stubs ${inputs.spacing ?? '45 deg'} apart, ${solution}`,
    ),

  forbidden(inputs, context) {
    const { goal, spacing, seen } = places(inputs, context);
    return {
      z0: goal.z0,
      // Conductance over the source's that the spacing still reaches.
      conductance: largestConductance(goal.zLine, goal.z0, spacing),
      at: seen,
    };
  },

  design(inputs, context) {
    const { goal, wanted, offset, own } = specify(inputs, context);
    const shifted = offset > 0;
    const first = shifted ? 'za' : 'zl';
    const values = [
      ...goal.values,
      { name: 'spacing', value: inputs.spacing, note: 'between the stubs' },
      ...(shifted
        ? [
            { name: 'offset', value: inputs.offset, note: 'load to stub 1' },
            { name: 'za', value: `seen(zl, ${goal.line}, offset)`, note: 'at stub 1' },
          ]
        : []),
      {
        name: 'zb',
        value: `doublestub(${first}, ${goal.line}, z0, spacing, ${own.root})`,
        note: 'behind stub 1',
      },
      { name: 'stub1', value: stubText(goal, first, 'zb'), note: 'its length' },
      { name: 'zc', value: `seen(zb, ${goal.line}, spacing)`, note: 'at stub 2' },
      { name: 'stub2', value: stubText(goal, 'zc', 'resonated(zc)'), note: 'its length' },
      FEED,
    ];
    const sketch = new Sketch().fed(1, 'in');
    const stub = (n: 1 | 2, from: string, to: string) =>
      addStub(
        sketch,
        goal,
        {
          id: `stub${n}`,
          name: `stub ${n}`,
          size: `stub${n}`,
          pair: false,
          side: n === 1 ? 'right' : 'left',
        },
        from,
        to,
      );
    const line = (id: string, name: string, from: string, to: string) =>
      sketch.add('line', id, name, [from, to], { z0: goal.line, theta: id }, { role: 'line' });
    stub(2, 'in', 'a');
    line('spacing', 'spacing', 'a', 'b');
    stub(1, 'b', 'c');
    if (shifted) line('offset', 'offset', 'c', 'd');
    return finished(
      'double-stub',
      `${goal.load.label} to ${ohm(goal.z0)}, two ${endingWords[goal.ending]} stubs${wanted === 2 ? ', long first' : ''}`,
      context,
      values,
      [...sketch.pieces, { ...goal.load.piece, nodes: [shifted ? 'd' : 'c'] }],
    );
  },

  explain(inputs, context) {
    const { goal, seen, spacing, both, own } = specify(inputs, context);
    const limit = largestConductance(goal.zLine, goal.z0, spacing);
    const g = conductance(seen) * goal.z0;
    return [
      `The first stub can change only the susceptance of what it meets, ${formatComplex(seen.re, seen.im)}: ${formatNumber(g, 3)} times the source\u2019s conductance. Stubs ${angle(spacing)} apart reach up to 1/sin\u00B2 = ${formatNumber(limit, 4)}.`,
      `Two susceptances bring the line to the source\u2019s conductance at the second stub; the first stub is then ${both.map((s) => goal.told(s.first)).join(' or ')} long. This design makes of it ${formatComplex(own.wanted.re, own.wanted.im)}.`,
      `The second stub cancels what is left: ${goal.told(own.second)} of ${ohm(goal.zStub)}${goal.ending === 'radial' ? ' at its entry' : ''}.`,
    ];
  },
};

export default [doubleStub];
