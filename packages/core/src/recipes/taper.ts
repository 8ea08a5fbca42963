import type { NamedValue } from '../network';
import { klopfensteinEdge, TaperError, taperImpedance, type TaperProfile } from '../theory';
import { formatComplex, formatNumber, formatQuantity } from '../units';
import { RecipeError, type Recipe, type RecipeContext, type RecipeInputs } from './contract';
import { loadField, madeReal, readLoad } from './load';
import { FEED, finished, freqField, ohm, read, resistanceRule, Sketch, z0Field } from './shared';

const PROFILES: readonly TaperProfile[] = ['klopfenstein', 'exponential', 'linear'];

function specify(inputs: RecipeInputs, context: RecipeContext) {
  const f0 = read('freq', inputs.freq, { kind: 'frequency', min: 0, exclusive: true }).re;
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const load = readLoad(inputs, context, f0);
  const profile = PROFILES.find((p) => p === inputs.profile);
  if (!profile) throw new RecipeError('profile', `must be ${PROFILES.join(' or ')}`);
  const length = read('length', inputs.length, { kind: 'angle', min: 0, exclusive: true }).re;
  const reflection = read('maxReflection', inputs.maxReflection, {
    kind: 'number',
    min: 0,
    max: 1,
    exclusive: true,
  }).re;
  const loadReal = madeReal(load, z0);
  const { turn, real } = loadReal;
  if (Math.abs(real / z0 - 1) < 1e-9)
    throw new RecipeError('load', 'has the resistance of the source already, so there is nothing to taper');
  try {
    taperImpedance(profile, z0, real, reflection);
  } catch (error) {
    if (error instanceof TaperError) throw new RecipeError('maxReflection', error.message);
    throw error;
  }
  return { z0, load, loadReal, profile, length, reflection, turn, real };
}

export const taperMatch: Recipe = {
  id: 'taper',
  name: 'Tapered match',
  order: 11,
  goal: 'match',
  blame: 'load',
  family: 'match',
  about:
    'Leads from one impedance to another by a line whose width changes: from its lowest frequency on, all are matched.',
  source: 'Klopfenstein 1956; exponential and linear tapers for comparison.',
  fields: [
    { ...freqField, help: 'Frequency at which the length is counted and a complex load is turned real.' },
    { ...z0Field, label: 'Source' },
    { ...loadField, initial: '120 ohm' },
    {
      name: 'profile',
      label: 'Profile',
      help: 'How the impedance goes over along the taper.',
      initial: 'klopfenstein',
      type: 'choice',
      options: [
        { id: 'klopfenstein', label: 'Klopfenstein, least reflection' },
        { id: 'exponential', label: 'Exponential' },
        { id: 'linear', label: 'Linear' },
      ],
    },
    {
      name: 'length',
      label: 'Length',
      help: 'Electrical length at the design frequency. The longer, the lower the frequency from which on it matches.',
      initial: '180 deg',
      type: 'quantity',
      rule: { kind: 'angle', min: 0, exclusive: true },
    },
    {
      name: 'maxReflection',
      label: 'Largest reflection',
      help: 'Greatest |S11| of a Klopfenstein taper in its band, a magnitude such as 0.05.',
      initial: '0.05',
      type: 'quantity',
      rule: { kind: 'number', min: 0, max: 1, exclusive: true },
      when: (inputs) => inputs.profile === 'klopfenstein',
      needs: 'it belongs to --profile klopfenstein',
    },
  ],

  alternatives: (inputs) =>
    (['klopfenstein', 'exponential'] as const).map((profile) => ({
      label: `${profile === 'klopfenstein' ? 'Klopfenstein' : profile} taper, ${inputs.length ?? '180 deg'}`,
      inputs: { ...inputs, profile },
    })),

  design(inputs, context) {
    const { z0, load, loadReal, profile } = specify(inputs, context);
    const values: NamedValue[] = [
      { name: 'f0', value: inputs.freq, note: 'design' },
      { name: 'z0', value: inputs.z0, note: 'source' },
      load.value,
      ...loadReal.values,
    ];
    values.push({ name: 'run', value: inputs.length, note: 'length' });
    if (profile === 'klopfenstein')
      values.push({ name: 'ripple', value: inputs.maxReflection, note: 'largest |S11|' });
    values.push(FEED);
    const sketch = new Sketch().fed(1, 'in').add(
      'taper',
      'taper',
      'taper',
      ['in', 'on'],
      {
        z1: 'z0',
        z2: loadReal.target,
        theta: 'run',
        ...(profile === 'klopfenstein' ? { reflection: 'ripple' } : {}),
      },
      { role: 'taper', settings: { profile } },
    );
    if (!load.plain)
      sketch
        .step('step', 'on', 'off')
        .add('line', 'turn', 'turning line', ['off', 'far'], { z0: 'z0', theta: 'turn' }, { role: 'turn' });
    return finished(
      'taper',
      `${formatNumber(z0, 3)} to ${load.label}, ${profile === 'klopfenstein' ? 'Klopfenstein' : profile} taper`,
      context,
      values,
      [...sketch.pieces, { ...load.piece, nodes: [load.plain ? 'on' : 'far'] }],
    );
  },

  explain(inputs, context) {
    const { z0, load, profile, length, reflection, turn, real } = specify(inputs, context);
    const out: string[] = [];
    if (!load.plain)
      out.push(
        `A line of ${ohm(z0)} and ${formatQuantity(turn, 'angle')} turns ${formatComplex(load.z.re, load.z.im)} into ${ohm(real)}, which is real at the design frequency only.`,
      );
    if (profile === 'klopfenstein') {
      const edge = klopfensteinEdge(z0, real, reflection);
      out.push(
        `From an electrical length of ${formatQuantity(edge, 'angle')} on the reflection stays within ${formatNumber(reflection)}; this taper reaches that at ${formatNumber(edge / length, 3)} of the design frequency.`,
      );
    } else
      out.push(
        `A taper of half a wave and more lets the reflections along it cancel; at its first zero the ${profile} one is ${profile === 'exponential' ? 'exactly' : 'about'} half a wave long.`,
      );
    out.push(
      'Its impedance is that of small reflections along a line; at the ends a Klopfenstein taper steps.',
    );
    return out;
  },
};

export default [taperMatch];
