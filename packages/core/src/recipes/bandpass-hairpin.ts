import type { Design } from '../network';
import { C0 } from '../numeric';
import { resolveStack } from '../stack';
import { designHairpin } from '../theory';
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
import {
  angleOnBoard,
  BACK,
  boardLines,
  FEED,
  onBoard,
  read,
  resistanceRule,
  Sketch,
  z0Field,
} from './shared';

const foldRule: QuantityRule = { kind: 'length', min: 0, exclusive: true };

/** Folded in two, or bent to a loop whose ends face one another across a slit. */
type Form = 'hairpin' | 'loop';

function specify(form: Form, inputs: RecipeInputs, context: RecipeContext) {
  const goal = readFilter(inputs);
  const zr = read('zLine', inputs.zLine, resistanceRule).re;
  const lines = boardLines(context, goal.f0);
  const width = onBoard('zLine', () => lines.width(zr));
  // Arms three widths apart hardly couple across the fold, but the fold must leave them most of the quarter wave.
  const most = onBoard('zLine', () => C0 / (12 * goal.f0 * Math.sqrt(lines.line(width).eeff)));
  const height = onBoard('zLine', () => resolveStack(context.stack, context.medium).value!.substrate.height);
  // Ends so far apart hardly see one another, which the models do not know.
  const apart = Math.max(width, height);
  const slitText =
    form === 'loop' ? inputs.slit.trim() || `${Number((apart * 1e3).toPrecision(2))} mm` : '0 mm';
  const slit = form === 'loop' ? read('slit', slitText, foldRule).re : 0;
  // A square: a fold, two arms and two ends are half of a wave.
  const usual = form === 'loop' ? 1.5 * most + slit / 4 : Math.max(1.5 * width, Math.min(3 * width, most));
  const text = inputs.fold.trim() || `${Number((usual * 1e3).toPrecision(2))} mm`;
  const fold = read('fold', text, foldRule).re;
  if (fold <= width)
    throw new RecipeError(
      'fold',
      `must be more than the width of the arms, ${formatQuantity(width, 'length', { digits: 3 })}`,
    );
  const angle = angleOnBoard(context, fold, zr, goal.f0);
  if (form === 'loop' && (fold - slit) / 2 < 0.75 * width)
    throw new RecipeError(
      'slit',
      'leaves the ends of the loops no length: take a narrower one, or a wider loop',
    );
  const tail = form === 'loop' ? (angle * (fold - slit)) / (2 * fold) : 0;
  const by = (feed: 'tapped' | 'coupled') =>
    designed(() =>
      designHairpin({
        ...goal.shape,
        bandwidth: goal.band,
        fold: angle,
        tail,
        resonator: zr / goal.z0,
        feed,
      }),
    );
  const found = { goal, zr, text, slitText, angle, tail };
  if (inputs.feed !== 'fitting') {
    const feed = inputs.feed === 'coupled' ? 'coupled' : 'tapped';
    return { ...found, feed, filter: by(feed) } as const;
  }
  try {
    const filter = by('tapped');
    // The tee of the tap and the bend into the fold each take half a width of the arm.
    const room = (filter.inner / angle) * fold;
    if (room > 0.5 * onBoard('z0', () => lines.width(goal.z0)) + 0.6 * width)
      return { ...found, feed: 'tapped', filter } as const;
  } catch (error) {
    if (!(error instanceof RecipeError)) throw error;
  }
  return { ...found, feed: 'coupled', filter: by('coupled') } as const;
}

/** The other side, seen from the way back. */
const turned = (side: 'left' | 'right'): 'left' | 'right' => (side === 'left' ? 'right' : 'left');

/** The copper of either form: what differs is how the arms end. */
function design(form: Form, inputs: RecipeInputs, context: RecipeContext): Design {
  const { goal, text, slitText, feed, filter } = specify(form, inputs, context);
  const { order } = goal.shape;
  const tapped = feed === 'tapped';
  const count = filter.arms.length;
  const of = (what: string, i: number) =>
    form === 'hairpin'
      ? `hairpin${what}(z0, zr, ${order}, ripple, band, foldangle, ${tapped ? 1 : 2}, ${i})`
      : `loop${what}(z0, zr, ${order}, ripple, band, foldangle, tailangle, ${tapped ? 1 : 2}, ${i})`;
  const values = [
    ...goal.values,
    { name: 'zr', value: inputs.zLine, note: 'resonators' },
    { name: 'fold', value: text, note: 'between the arms' },
    { name: 'foldangle', value: '360 deg*fold/guided(zr)', note: 'of the fold' },
    ...(form === 'hairpin'
      ? []
      : [
          { name: 'slit', value: slitText, note: 'between the ends' },
          { name: 'tail', value: '(fold - slit)/2', note: 'arm to open end' },
          { name: 'tailangle', value: 'foldangle*tail/fold', note: 'of it' },
        ]),
  ];
  for (let i = 1; i <= Math.ceil(count / 2); i++) {
    const note = `arms ${i}${count + 1 - i > i ? ` and ${count + 1 - i}` : ''}`;
    values.push(
      { name: `ze${i}`, value: of('even', i), note: `even, ${note}` },
      { name: `zo${i}`, value: of('odd', i), note: `odd, ${note}` },
      { name: `t${i}`, value: of('arm', i), note: `angle, ${note}` },
    );
  }
  if (tapped)
    values.push(
      { name: 'topen', value: of('arm', 0), note: 'open end to tap' },
      { name: 'tin', value: of('arm', -1), note: 'tap to fold' },
    );
  values.push(FEED);
  // An arm ends beside the feed's step to its strip, towards which the feed stands out; a loop turns away from it.
  const besideFeed = form === 'hairpin' && !tapped ? { trim: '-back' } : undefined;
  if (besideFeed) values.push(BACK);

  const sketch = new Sketch();
  let node = 0;
  const next = () => `n${++node}`;
  /** The line that joins two arms, turned to a side twice; returns where it ends. */
  const folded = (number: number, from: string, side: 'left' | 'right'): string => {
    const [a, b, c, d, to] = [next(), next(), next(), next(), next()];
    sketch
      // A bend is as wide as what its first pin meets: the arm. One of another width would stand out towards the neighbour's open end.
      .bend(`bend${number}a`, [from, a], side)
      .step(`step${number}a`, a, b)
      .add(
        'line',
        `fold${number}`,
        `fold ${number}`,
        [b, c],
        { z0: 'zr', length: 'fold' },
        // What its folds are is decided by where the arms have room, not by a search.
        { role: 'fold', marks: { retune: 'stay' } },
      )
      .step(`step${number}b`, c, d)
      .bend(`bend${number}b`, [to, d], turned(side));
    return to;
  };
  /** What an arm ends with at a node, told which way its own resonator lies. */
  const ended = (
    id: string,
    name: string,
    from: string,
    inside: 'left' | 'right',
    stepped = true,
    held = {},
  ): void => {
    let at = from;
    if (form === 'loop') {
      const [turn, end] = [next(), next()];
      sketch.bend(`${id}bend`, [from, turn], inside);
      // Coupled arms are of another width than the line that goes on from them.
      let on = turn;
      if (stepped) sketch.step(`${id}step`, turn, (on = next()));
      sketch.add(
        'line',
        `${id}tail`,
        `${name}, tail`,
        [on, end],
        { z0: 'zr', length: 'tail' },
        { role: 'fold', marks: { retune: 'stay' } },
      );
      at = end;
    }
    sketch.add('open-end', id, name, [at], held);
  };
  /** An outer arm with its tap, from its open end to the fold or back. */
  const arm = (number: 1 | 2, fold: string, side: 'left' | 'right') => {
    const [open, tap, on, feedAt] = [next(), next(), next(), next()];
    const outer = () => {
      sketch.add(
        'line',
        `open${number}`,
        `outer arm ${number}, open`,
        [open, tap],
        { z0: 'zr', theta: 'topen' },
        { role: 'arm' },
      );
      ended(`end${number}`, `open end of arm ${number}`, open, side, false);
    };
    const inner = () =>
      sketch.add(
        'line',
        `in${number}`,
        `outer arm ${number}, inner`,
        [on, fold],
        { z0: 'zr', theta: 'tin' },
        { role: 'arm' },
      );
    if (number === 1) sketch.fed(1, feedAt);
    outer();
    sketch.tee(`tap${number}`, [tap, on, feedAt], side, `tap ${number}`);
    inner();
    if (number === 2) sketch.fed(2, feedAt);
  };

  let side: 'left' | 'right' = 'left';
  let at: string;
  let resonator = 1;
  if (tapped) {
    // The first arm runs to its fold with the feed on its outer side.
    const start = next();
    arm(1, start, 'right');
    at = folded(resonator++, start, 'left');
    side = 'right';
  } else {
    at = next();
    sketch.fed(1, 'f1').step('step-in', 'f1', at);
  }
  for (let i = 1; i <= count; i++) {
    const [near, far, out] = [next(), next(), next()];
    const k = mirrored(i, count);
    sketch.add(
      'line-pair',
      `pair${i}`,
      `coupled arms ${i}`,
      [at, near, far, out],
      { ze: `ze${k}`, zo: `zo${k}`, theta: `t${k}` },
      { role: 'coupled', settings: { side } },
    );
    const isFed = { near: !tapped && i === 1, far: !tapped && i === count };
    // The strip that goes on as the feed ends where it is; the one beside the feed ends as an arm does.
    if (isFed.far) sketch.add('open-end', `near${i}`, `open end ${i}a`, [near]);
    else ended(`near${i}`, `open end ${i}a`, near, turned(side), true, isFed.near ? besideFeed : {});
    if (isFed.near) sketch.add('open-end', `far${i}`, `open end ${i}b`, [far]);
    else ended(`far${i}`, `open end ${i}b`, far, turned(side), true, isFed.far ? besideFeed : {});
    if (tapped || i < count) {
      at = folded(resonator++, out, side);
      side = turned(side);
    } else at = out;
  }
  if (tapped) arm(2, at, turned(side));
  else sketch.step('step-out', at, 'f2').fed(2, 'f2');
  const title = form === 'hairpin' ? 'Hairpin band-pass' : 'Open-loop band-pass';
  return finishedFilter(`bandpass-${form}`, title, goal, context, values, sketch.pieces);
}

const zLineField: RecipeField = {
  name: 'zLine',
  label: 'Resonators',
  help: 'Impedance of the resonators\u2019 lines.',
  initial: '50 ohm',
  type: 'quantity',
  rule: resistanceRule,
};
const feedField: RecipeField = {
  name: 'feed',
  label: 'Feed',
  help: 'The feeds meet the outer arms at a tap, or run beside them. A tap needs a fold that leaves it room on the arm.',
  initial: 'fitting',
  type: 'choice',
  options: [
    { id: 'fitting', label: 'Tapped where that fits' },
    { id: 'tapped', label: 'Tapped' },
    { id: 'coupled', label: 'Coupled' },
  ],
};

function explain(form: Form, inputs: RecipeInputs, context: RecipeContext): string[] {
  const { goal, zr, text, slitText, angle, tail, filter, feed } = specify(form, inputs, context);
  const deg = (x: number) => formatNumber((x * 180) / Math.PI, 3);
  const arms = filter.arms
    .slice(0, Math.ceil(filter.arms.length / 2))
    .map(
      ({ even, odd, theta }) =>
        `${formatNumber(even * goal.z0, 4)}/${formatNumber(odd * goal.z0, 4)} \u03A9 of ${deg(theta)} deg`,
    );
  return [
    shapeWords(goal.shape, edgeWords(goal)),
    form === 'hairpin'
      ? `Each resonator is half a wave of ${formatNumber(zr)} \u03A9 folded in two: two arms and a fold of ${text}, ${deg(angle)} deg. Neighbours stand the other way round, so that arms couple between opposite open ends.`
      : `Each resonator is half a wave of ${formatNumber(zr)} \u03A9 bent to a loop: two arms, a side of ${text}, ${deg(angle)} deg, and opposite it two ends of ${deg(tail)} deg with a slit of ${slitText} between them. Neighbours stand the other way round, so that electric and magnetic coupling of the arms add.`,
    ...(arms.length > 0 ? [`Coupled arms from an end to the middle: ${arms.join(', ')}.`] : []),
    feed === 'tapped'
      ? `The tap lies ${deg(filter.open)} deg from the open end: nearer to it, it loads the resonator more.`
      : 'The feeds run along the outer arms as one more coupled section at each end.',
    'Lengths and couplings begin with narrow-band formulas and are moved until the ripple is equal and the edges stand.',
  ];
}

export const bandpassHairpin: Recipe = {
  id: 'bandpass-hairpin',
  name: 'Hairpin band-pass',
  order: 65,
  goal: 'filter',
  blame: 'bandwidth',
  about: 'Passes a band of up to some 20 % on little board: half-wave lines folded in two, side by side.',
  source:
    'Cristal & Frankel 1972; tapped, Cohn 1974, Wong 1979; from there on to equal ripple between exact edges.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('5%', 'Between the edges of the pass band.'),
    {
      name: 'fold',
      label: 'Fold',
      help: 'Distance between the middles of a resonator\u2019s two arms. Left out, three widths, or a twelfth of a wave where that is less: closer arms couple within the resonator, which the models do not know.',
      initial: '',
      type: 'text',
      placeholder: 'three widths of the arms',
    },
    zLineField,
    feedField,
  ],

  design: (inputs, context) => design('hairpin', inputs, context),

  explain: (inputs, context) => explain('hairpin', inputs, context),
};

export const bandpassLoop: Recipe = {
  id: 'bandpass-loop',
  name: 'Open-loop band-pass',
  order: 65.5,
  goal: 'filter',
  blame: 'bandwidth',
  about:
    'Passes a narrow band on the least board: half-wave lines bent to square loops with a slit, side by side.',
  source:
    'Hong & Lancaster 1996 for the resonators; coupled lines with their open ends, from there on to equal ripple between exact edges.',
  fields: [
    centreField,
    z0Field,
    ...shapeFields('3'),
    bandField('5%', 'Between the edges of the pass band.'),
    {
      name: 'fold',
      label: 'Side',
      help: 'Length of the sides that are not coupled. Left out, the loops are about square.',
      initial: '',
      type: 'text',
      placeholder: 'about square',
    },
    {
      name: 'slit',
      label: 'Slit',
      help: 'Between the open ends of a loop. Closer ones would see one another, which the models do not know.',
      initial: '',
      type: 'text',
      placeholder: 'as wide as the line',
    },
    { ...zLineField, initial: '70 ohm' },
    feedField,
  ],

  design: (inputs, context) => design('loop', inputs, context),
  explain: (inputs, context) => explain('loop', inputs, context),
};

export default [bandpassHairpin, bandpassLoop];
