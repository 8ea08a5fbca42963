import type { NamedValue } from '../network';
import { formatQuantity } from '../units';
import { reachOf } from '../theory';
import {
  RecipeError,
  type Recipe,
  type RecipeContext,
  type RecipeField,
  type RecipeInputs,
} from './contract';
import {
  boardLines,
  FEED,
  finished,
  freqField,
  frequencyRule,
  ohm,
  onBoard,
  read,
  resistanceRule,
  Sketch,
  z0Field,
} from './shared';
import { angleField, angleRule } from './stubs';

const ENDS = ['radial', 'open', 'pair'] as const;

const zHighField: RecipeField = {
  name: 'zHigh',
  label: 'Feed impedance',
  help: 'Impedance of the quarter wave that leads the supply to the line. Higher disturbs the line less; the board and the current set the limit.',
  initial: '100 ohm',
  type: 'quantity',
  rule: resistanceRule,
};

function specify(inputs: RecipeInputs, context: RecipeContext) {
  const f0 = read('freq', inputs.freq, frequencyRule).re;
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const zHigh = read('zHigh', inputs.zHigh, resistanceRule).re;
  if (!(zHigh > z0))
    throw new RecipeError(
      'zHigh',
      `must be above the impedance of the line, ${ohm(z0)}, to disturb it little`,
    );
  const end = ENDS.find((e) => e === inputs.end);
  if (!end) throw new RecipeError('end', `must be one of ${ENDS.join(', ')}`);
  const lines = boardLines(context, f0);
  const width = onBoard('zHigh', () => lines.width(zHigh));
  if (end !== 'radial') return { f0, z0, zHigh, end, zStub: read('zStub', inputs.zStub, resistanceRule).re };
  const angle = read('angle', inputs.angle, angleRule).re;
  const reach = reachOf(Infinity, width, angle, f0, (w) => lines.line(w));
  if (reach === undefined)
    throw new RecipeError(
      'angle',
      'has no radial stub that is a short circuit at this frequency; take another',
    );
  return { f0, z0, zHigh, end, reach };
}

/** A supply brought to a line that must not notice. */
export const biasFeed: Recipe = {
  id: 'bias-feed',
  name: 'Bias feed',
  order: 70,
  goal: 'feed',
  blame: 'zHigh',
  about:
    'Brings a supply to a line through a quarter wave of high impedance whose far end a stub shorts at the design frequency, so that the line hardly notices.',
  source:
    'A shorted quarter wave is an open circuit; the stub is a quarter wave long, or a sector of the same reactance.',
  fields: [
    freqField,
    z0Field,
    zHighField,
    {
      name: 'end',
      label: 'Shorted by',
      help: 'A radial stub is short and holds its place over a wide band; an open stub is a quarter wave; two of them opposite each other are wider still in band and symmetric.',
      initial: 'radial',
      type: 'choice',
      options: [
        { id: 'radial', label: 'A radial stub' },
        { id: 'open', label: 'An open stub' },
        { id: 'pair', label: 'Two open stubs' },
      ],
    },
    {
      ...angleField,
      when: (inputs) => inputs.end === 'radial',
      needs: 'it belongs to --end radial',
    },
    {
      name: 'zStub',
      label: 'Stub impedance',
      help: 'Impedance of open stubs. A lower one is wider and decouples over a wider band.',
      initial: '30 ohm',
      type: 'quantity',
      rule: resistanceRule,
      when: (inputs) => inputs.end !== 'radial',
      needs: 'it belongs to --end open or pair',
    },
  ],

  design(inputs, context) {
    const { end, z0 } = specify(inputs, context);
    const values: NamedValue[] = [
      { name: 'f0', value: inputs.freq, note: 'design' },
      { name: 'z0', value: inputs.z0, note: 'system' },
      { name: 'zhigh', value: inputs.zHigh, note: 'quarter wave' },
      ...(end === 'radial'
        ? [
            { name: 'opening', value: inputs.angle, note: 'of the radial stub' },
            {
              name: 'reach',
              value: 'radialreach(z0, 0 ohm, opening, width(zhigh))',
              note: 'its radial length',
            },
          ]
        : [{ name: 'zstub', value: inputs.zStub, note: 'open stubs' }]),
      FEED,
      { name: 'supply', value: '3 mm', note: 'line to the supply' },
    ];
    const sketch = new Sketch()
      .fed(1, 'in')
      .tee('tee', ['in', 'out', 'up'], 'left', 'tee on the line')
      .fed(2, 'out')
      .add(
        'line',
        'quarter',
        'quarter wave',
        ['up', 'short'],
        { z0: 'zhigh', theta: '90 deg' },
        { role: 'quarter' },
      );
    const stub = { z0: 'zstub', theta: '90 deg' };
    const role = { role: 'stub' };
    if (end === 'pair')
      sketch
        .add('cross', 'cross', 'cross at the stubs', ['short', 'on', 'left', 'right'])
        .add('open-stub', 'stub1', 'stub, left', ['left'], stub, role)
        .add('open-stub', 'stub2', 'stub, right', ['right'], stub, role);
    else {
      sketch.tee('tee2', ['short', 'on', 'side'], 'left', 'tee at the stub');
      if (end === 'open') sketch.add('open-stub', 'stub', 'stub', ['side'], stub, role);
      else
        sketch.add(
          'radial-stub',
          'stub',
          'radial stub',
          ['side'],
          { reach: 'reach', angle: 'opening', entry: 'width(zhigh)' },
          role,
        );
    }
    sketch
      .add(
        'line',
        'supply',
        'line to the supply',
        ['on', 'p3'],
        { z0: 'zhigh', length: 'supply' },
        { role: 'feed' },
      )
      .add('port', 'port3', 'supply', ['p3'], { z: 'z0' }, { settings: { number: '3' } });
    return finished(
      'bias-feed',
      `bias feed on ${ohm(z0)}, ${end === 'radial' ? 'radial stub' : end === 'open' ? 'open stub' : 'two open stubs'}`,
      context,
      values,
      sketch.pieces,
    );
  },

  explain(inputs, context) {
    const s = specify(inputs, context);
    return [
      s.reach === undefined
        ? `${s.end === 'pair' ? 'Two open quarter waves' : 'An open quarter wave'} of ${ohm(s.zStub)} ${s.end === 'pair' ? 'are' : 'is'} a short circuit at the design frequency: \u2212j z cot \u03B8${s.end === 'pair' ? '/2' : ''} = 0. What lies beyond, the supply, is not seen there.`
        : `A radial stub of ${formatQuantity(s.reach, 'length', { digits: 4 })} is a short circuit at its entry at the design frequency: rings of line as wide as their arcs, in cascade. What lies beyond, the supply, is not seen there.`,
      `A quarter wave of ${ohm(s.zHigh)} turns the short into an open on the line. Beside the design frequency by \u03B4 its susceptance there is about (\u03C0/2)(\u03B4/f\u2080)/z\u2095, which returns (\u03C0/4)(z\u2080/z\u2095)(\u03B4/f\u2080) of a wave: ${formatQuantity(-20 * Math.log10((Math.PI / 4) * (s.z0 / s.zHigh) * 0.1), 'level', { digits: 3 })} of return loss 10 % beside it, and the stub\u2019s own reactance adds to that.`,
      'Port 3 is the supply. What reaches it at the design frequency is what the short lets through; the response shows it beside the match and the loss of the line.',
    ];
  },
};

export default [biasFeed];
