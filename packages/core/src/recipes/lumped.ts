import { cx } from '../numeric';
import {
  conductance,
  madeBySeries,
  madeByShunt,
  seenThrough,
  seriesPlanes,
  stubPlanes,
  type Link,
  type Pass,
} from '../theory';
import { formatComplex, formatNumber, formatQuantity } from '../units';
import { Chain, partFields, WORDS, type Station } from './chain';
import {
  RecipeError,
  type Recipe,
  type RecipeContext,
  type RecipeField,
  type RecipeInputs,
} from './contract';
import { matchFields } from './load';
import { angleOnBoard, ohm, ratioRule, read, readCount, resistanceRule } from './shared';
import { matching, zLineField } from './stubs';

const passField: RecipeField = {
  name: 'pass',
  label: 'Passes',
  help: 'Which way round: a low-pass section has coils in series and capacitors across, a high-pass one the reverse and blocks direct current where its capacitor is in series. A load with a reactance of its own may turn a part into the other kind.',
  initial: 'low',
  type: 'choice',
  options: [
    { id: 'low', label: 'Low frequencies' },
    { id: 'high', label: 'High frequencies' },
  ],
};
const qField: RecipeField = {
  name: 'q',
  label: 'Loaded Q',
  help: 'Of the side with the higher resistance. Higher is narrower and loses more in its parts.',
  initial: '2',
  type: 'quantity',
  rule: ratioRule,
};
const padField: RecipeField = {
  name: 'pad',
  label: 'Pads',
  help: 'Line of the system impedance between two parts and before the load, which the match takes into account. 0 mm for the parts alone.',
  initial: '0.5 mm',
  type: 'quantity',
  rule: { kind: 'length', min: 0 },
};
/** The chain at its beginning, and what its sections are made with. */
function begun(inputs: RecipeInputs, context: RecipeContext) {
  const chain = new Chain(inputs, context);
  const pass: Pass | undefined = (['low', 'high'] as const).find((p) => p === inputs.pass);
  if (!pass) throw new RecipeError('pass', 'must be low or high');
  const length = read('pad', inputs.pad, { kind: 'length', min: 0 }).re;
  const link: Link = { z0: chain.z0, theta: length && angleOnBoard(context, length, chain.z0, chain.f0) };
  const angle = length > 0 ? 'padturn' : '0 deg';
  if (length > 0)
    chain.values.push(
      { name: 'pad', value: inputs.pad, note: 'between the parts' },
      { name: 'padturn', value: '360 deg*pad/guided(z0)', note: 'its angle' },
    );
  let count = 0;
  const step = () => {
    if (length === 0) return;
    const n = count++;
    chain.line(
      `zpad${n}`,
      `pad${n}`,
      n === 0 ? 'pad of the load' : `pad ${n}`,
      { z0: 'z0', length: 'pad' },
      'pad',
      link,
      angle,
    );
  };
  step();
  const make = { shunt: madeByShunt, series: madeBySeries };
  const words = { shunt: 'toresistance', series: 'toparallel' };
  /** Where a part makes of a station what shows a resistance behind the pad; undefined where none does. */
  const towards = (
    way: 'shunt' | 'series',
    from: Station,
    wanted: { readonly value: number; readonly text: string },
  ) => {
    const z = make[way](from.z, wanted.value, pass, link);
    return (
      z && { z, text: `${words[way]}(${from.name}, ${wanted.text}, ${pass === 'low' ? 1 : 2}, z0, ${angle})` }
    );
  };
  const source: Station = { z: { re: chain.z0, im: 0 }, name: 'z0' };
  return { chain, pass, link, angle, step, towards, source };
}

const other = { shunt: 'series', series: 'shunt' } as const;
const passWords = { low: 'low-pass', high: 'high-pass' } as const;

function lSection(inputs: RecipeInputs, context: RecipeContext) {
  const { chain, pass, step, towards, source } = begun(inputs, context);
  const { form } = inputs;
  if (form !== 'shunt' && form !== 'series') throw new RecipeError('form', 'must be shunt or series');
  const { z } = chain.here;
  if (Math.hypot(z.re - chain.z0, z.im) < 1e-9 * chain.z0)
    throw new RecipeError('load', 'is matched as it is, so there is nothing for a section to do');
  const at = towards(form, chain.here, { value: chain.z0, text: 'z0' });
  if (!at)
    throw new RecipeError(
      'form',
      form === 'shunt'
        ? `shunt cannot match it: the conductance of the load is ${formatNumber(conductance(chain.here.z) * chain.z0, 3)} times the source\u2019s, and a part across only adds susceptance; put the part at the load in series`
        : `series cannot match it: the resistance of the load is ${formatNumber(chain.here.z.re / chain.z0, 3)} times the source\u2019s, and a part in series only adds reactance; put the part at the load across`,
    );
  chain.part(form, chain.named('zm', at.z, at.text, 'between the parts'));
  step();
  chain.part(other[form], source);
  return { chain, pass, form } as const;
}

/** Pi and T: two sections back to back around a resistance lower, or higher, than those of both sides. */
function threeParts(inputs: RecipeInputs, context: RecipeContext, outer: 'shunt' | 'series') {
  const { chain, pass, link, angle, step, towards, source } = begun(inputs, context);
  const q = read('q', inputs.q, ratioRule).re;
  const { here, z0 } = chain;
  const own = outer === 'shunt' ? 1 / conductance(here.z) : here.z.re;
  const [low, high] = [Math.min(own, z0), Math.max(own, z0)];
  const middle = outer === 'shunt' ? high / (1 + q * q) : low * (1 + q * q);
  const wanted = { value: middle, text: 'rm' };
  const first = towards(outer, here, wanted);
  const last = towards(outer, source, wanted);
  if (!first || !last)
    throw new RecipeError(
      'q',
      `is too low for these resistances: from ${ohm(own)} to ${ohm(z0)} takes at least ${formatNumber(Math.sqrt(high / low - 1) * 1.0005, 4)}`,
    );
  chain.values.push({ name: 'q', value: inputs.q, note: 'loaded Q' });
  chain.values.push({
    name: 'rm',
    value:
      outer === 'shunt' ? `max(1/re(1/${here.name}), z0)/(1 + q^2)` : `min(re(${here.name}), z0)*(1 + q^2)`,
    note: 'resistance in the middle',
  });
  chain.part(outer, chain.named('za', first.z, first.text, 'behind part 1'));
  step();
  // Seen from the source the last part and its pad make the same resistance; its conjugate is what they must meet.
  const back = chain.named('zs', last.z, last.text, 'source behind part 3');
  const met = seenThrough(back.z, link.z0, link.theta);
  chain.part(
    other[outer],
    chain.named('zb', cx.conj(met), `conj(seen(${back.name}, z0, ${angle}))`, 'behind part 2'),
  );
  step();
  chain.part(outer, source);
  return { chain, pass, q, own, middle } as const;
}

const WAYS = [
  ['shunt', 'low'],
  ['shunt', 'high'],
  ['series', 'low'],
  ['series', 'high'],
] as const;

const l: Recipe = {
  id: 'l-section',
  name: 'L section',
  order: 15,
  goal: 'match',
  blame: 'load',
  family: 'match',
  about: 'Matches any load with two mounted parts, small where a stub would be large.',
  source: 'Conductance and resistance circles, in closed form; Pozar, Microwave Engineering.',
  fields: [
    ...matchFields,
    {
      name: 'form',
      label: 'At the load',
      help: 'Whether the part next to the load is across it or in series with it. Across needs a load of less conductance than the source, in series one of less resistance; some loads take both.',
      initial: 'shunt',
      type: 'choice',
      options: [
        { id: 'shunt', label: 'A part across' },
        { id: 'series', label: 'A part in series' },
      ],
    },
    passField,
    padField,
    ...partFields,
  ],
  alternatives: (inputs) =>
    WAYS.map(([form, pass]) => ({
      label: `L, part ${form === 'shunt' ? 'across' : 'in series'} at the load, ${passWords[pass]}`,
      inputs: { ...inputs, form, pass },
    })),
  design(inputs, context) {
    const { chain, pass } = lSection(inputs, context);
    return chain.finished('l-section', `${passWords[pass]} L section`, context);
  },
  explain(inputs, context) {
    const { chain, form } = lSection(inputs, context);
    const seen = chain.values.some((v) => v.name === 'pad') ? ', behind its pad' : '';
    return [
      `${form === 'shunt' ? 'The part across gives the load' : 'The part in series gives the load'}${seen} the ${form === 'shunt' ? 'susceptance' : 'reactance'} at which the other part finds the ${form === 'shunt' ? 'resistance' : 'conductance'} of the source, ${ohm(chain.z0)}: with g and r over those of the source, ${form === 'shunt' ? 'b\u00B2 = g(1 \u2212 g)' : 'x\u00B2 = r(1 \u2212 r)'} without pads, and with a pad of angle \u03B8 and t = tan \u03B8, ${form === 'shunt' ? '(b + t)\u00B2 = g(1 + t\u00B2) \u2212 g\u00B2' : '(x + t)\u00B2 = r(1 + t\u00B2) \u2212 r\u00B2'}.`,
      ...chain.sum(),
    ];
  },
};

const three = (
  outer: 'shunt' | 'series',
  rest: Pick<Recipe, 'id' | 'name' | 'order' | 'goal' | 'about'>,
): Recipe => ({
  ...rest,
  blame: 'load',
  family: 'match',
  source: 'Two L sections back to back around a resistance that the loaded Q sets.',
  fields: [...matchFields, qField, passField, padField, ...partFields],
  alternatives: (inputs) =>
    (['low', 'high'] as const).map((pass) => ({
      label: `${rest.name.split(' ')[0]}, ${passWords[pass]}, Q ${inputs.q}`,
      inputs: { ...inputs, pass },
    })),
  design(inputs, context) {
    const { chain, pass } = threeParts(inputs, context, outer);
    return chain.finished(rest.id, `${passWords[pass]} ${rest.name}`, context);
  },
  explain(inputs, context) {
    const { chain, q, own, middle } = threeParts(inputs, context, outer);
    return [
      `A part ${outer === 'shunt' ? 'across' : 'in series with'} each side brings both, ${ohm(own)} and ${ohm(chain.z0)}, to the ${outer === 'shunt' ? 'resistance R/(1 + Q\u00B2)' : 'parallel resistance R(1 + Q\u00B2)'} = ${ohm(middle)} with R the ${outer === 'shunt' ? 'higher' : 'lower'} of the two and Q = ${formatNumber(q, 3)}.`,
      `The ${outer === 'shunt' ? 'part in series' : 'part across'} cancels the ${outer === 'shunt' ? 'reactances' : 'susceptances'} of both.`,
      ...chain.sum(),
    ];
  },
});

/** A line to where one part completes the match. */
function lineAndPart(inputs: RecipeInputs, context: RecipeContext) {
  const chain = new Chain(inputs, context);
  const { part: way } = inputs;
  if (way !== 'shunt' && way !== 'series') throw new RecipeError('part', 'must be shunt or series');
  const solution = readCount('solution', inputs.solution, [1, 2] as const);
  const own = (inputs.zLine ?? '').trim();
  const zLine = own === '' ? chain.z0 : read('zLine', own, resistanceRule).re;
  const name = own === '' ? 'z0' : 'zline';
  if (own !== '') chain.values.push({ name, value: own, note: 'line' });
  const planes = matching(() => (way === 'shunt' ? stubPlanes : seriesPlanes)(chain.load.z, zLine, chain.z0));
  const theta = planes[solution - 1];
  chain.values.push({
    name: 'plane',
    value: `${way === 'shunt' ? 'stubplane' : 'seriesplane'}(zl, ${name}, z0, ${solution})`,
    note: 'load to the part',
  });
  chain.line(
    'zp',
    'line',
    'line to the load',
    { z0: name, theta: 'plane' },
    'line',
    { z0: zLine, theta },
    'plane',
  );
  const { z } = chain.here;
  chain.part(way, { z: { re: chain.z0, im: 0 }, name: 'z0' });
  return { chain, way, solution, planes, seen: z };
}

const mixed: Recipe = {
  id: 'line-and-part',
  name: 'Line and one part',
  order: 18,
  goal: 'match',
  blame: 'load',
  family: 'match',
  about:
    'Matches any load with a line and one mounted part, across it or in series: a stub match where the stub is a chip.',
  source: 'Admittance and impedance along a line, in closed form.',
  fields: [
    ...matchFields,
    {
      name: 'part',
      label: 'Part',
      help: 'Across the line where its conductance is the source\u2019s, or in series where its resistance is.',
      initial: 'shunt',
      type: 'choice',
      options: [
        { id: 'shunt', label: 'Across' },
        { id: 'series', label: 'In series' },
      ],
    },
    {
      name: 'solution',
      label: 'Solution',
      help: 'There are two planes in every half wave, one of them for a capacitor and one for a coil: 1 is the one nearer to the load.',
      initial: '1',
      type: 'choice',
      options: [
        { id: '1', label: '1: the shorter line' },
        { id: '2', label: '2: the longer line' },
      ],
    },
    zLineField,
    ...partFields,
  ],
  alternatives: (inputs) =>
    (['shunt', 'series'] as const).flatMap((part) =>
      ['1', '2'].map((solution) => ({
        label: `line and a part ${part === 'shunt' ? 'across' : 'in series'}, ${solution === '1' ? 'near' : 'far'} plane`,
        inputs: { ...inputs, part, solution },
      })),
    ),
  design(inputs, context) {
    const { chain, way, solution } = lineAndPart(inputs, context);
    return chain.finished(
      'line-and-part',
      `line and ${way} ${WORDS[chain.mounted[0].kind]}${solution === 2 ? ', far plane' : ''}`,
      context,
    );
  },
  explain(inputs, context) {
    const { chain, way, solution, planes, seen } = lineAndPart(inputs, context);
    return [
      `Along a line the ${way === 'shunt' ? 'conductance' : 'resistance'} of the load takes the source\u2019s value twice in every half wave: ${planes.map((p) => formatQuantity(p, 'angle')).join(' and ')} from it. This design uses plane ${solution}, where one sees ${formatComplex(seen.re, seen.im)}; what is left is ${way === 'shunt' ? 'a susceptance' : 'a reactance'} that one part cancels.`,
      ...chain.sum(),
    ];
  },
};

export default [
  l,
  three('shunt', {
    id: 'pi-section',
    name: 'Pi section',
    order: 16,
    goal: 'match',
    about:
      'Matches a load with three mounted parts, two of them across, at a bandwidth of one\u2019s choice; takes capacitances at both ends into itself.',
  }),
  three('series', {
    id: 't-section',
    name: 'T section',
    order: 17,
    goal: 'match',
    about:
      'Matches a load with three mounted parts, two of them in series, at a bandwidth of one\u2019s choice.',
  }),
  mixed,
];
