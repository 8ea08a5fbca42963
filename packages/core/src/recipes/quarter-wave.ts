import type { Design, NamedValue, Piece } from '../network';
import { designTransformer, TransformerError, type Transformer } from '../theory';
import { formatComplex, formatNumber, formatQuantity, type QuantityRule } from '../units';
import { RecipeError, type Recipe, type RecipeContext, type RecipeInputs } from './contract';
import { loadField, madeReal, readLoad, type Load, type RealLoad } from './load';
import { finished, frequencyRule, read, resistanceRule } from './shared';

const reflectionRule: QuantityRule = { kind: 'number', min: 0, max: 1, exclusive: true };

/** The specification in numbers. */
interface Specification {
  readonly f0: number;
  readonly z0: number;
  readonly load: Load;
  readonly loadReal: RealLoad;
  readonly sections: number;
  readonly profile: 'binomial' | 'chebyshev';
  readonly maxReflection?: number;
  /** Angle of the line that turns a complex load real, radians; 0 for a real load. */
  readonly phase: number;
  /** Real impedance the transformer works into. */
  readonly real: number;
  readonly transformer: Transformer;
}

function specify(inputs: RecipeInputs, context: RecipeContext): Specification {
  const f0 = read('freq', inputs.freq, frequencyRule).re;
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const load = readLoad(inputs, context, f0);
  if (!/^\d+$/.test(inputs.sections))
    throw new RecipeError('sections', 'must be a whole number from 1 to 20');
  const sections = Number(inputs.sections);
  const { profile } = inputs;
  if (profile !== 'binomial' && profile !== 'chebyshev')
    throw new RecipeError('profile', 'must be binomial or chebyshev');
  const maxReflection =
    profile === 'chebyshev' ? read('maxReflection', inputs.maxReflection, reflectionRule).re : undefined;
  const loadReal = madeReal(load, z0);
  const { turn: phase, real } = loadReal;
  try {
    const transformer = designTransformer({ source: z0, load: real, sections, profile, maxReflection });
    return { f0, z0, load, loadReal, sections, profile, maxReflection, phase, real, transformer };
  } catch (error) {
    if (error instanceof TransformerError) {
      const field = error.field === 'source' ? 'z0' : error.field;
      throw new RecipeError(field, error.message);
    }
    throw error;
  }
}

export const quarterWave: Recipe = {
  id: 'quarter-wave',
  name: 'Quarter-wave match',
  order: 10,
  goal: 'match',
  blame: 'load',
  family: 'match',
  about: 'Matches a load to a source with one or several quarter-wave sections of line between them.',
  source: 'Collin 1955; Riblet 1957: exact polynomials, not the theory of small reflections.',
  fields: [
    {
      name: 'freq',
      label: 'Design frequency',
      help: 'Centre of the match, where every section is a quarter wave.',
      initial: '10.55 GHz',
      type: 'quantity',
      rule: frequencyRule,
    },
    {
      name: 'z0',
      label: 'Source',
      help: 'Impedance to match to: the system impedance at port 1.',
      initial: '50 ohm',
      type: 'quantity',
      rule: resistanceRule,
    },
    {
      ...loadField,
      initial: '120 ohm',
      help: `${loadField.help} A complex load first gets a short line of the source impedance that makes it real.`,
    },
    {
      name: 'sections',
      label: 'Sections',
      help: 'Number of quarter waves, 1 to 20. More sections, more bandwidth, more length.',
      initial: '1',
      type: 'count',
      min: 1,
      max: 20,
    },
    {
      name: 'profile',
      label: 'Profile',
      help: 'Maximally flat keeps the match best at the centre; equal ripple spreads a given reflection over the widest band.',
      initial: 'binomial',
      type: 'choice',
      options: [
        { id: 'binomial', label: 'Maximally flat (binomial)' },
        { id: 'chebyshev', label: 'Equal ripple (Chebyshev)' },
      ],
    },
    {
      name: 'maxReflection',
      label: 'Largest reflection',
      help: 'Greatest |S11| inside the band, a magnitude such as 0.05 (26 dB return loss).',
      initial: '0.05',
      type: 'quantity',
      rule: reflectionRule,
      when: (inputs) => inputs.profile === 'chebyshev',
      needs: 'it belongs to --profile chebyshev',
    },
  ],

  alternatives: (inputs) => [
    { label: 'one quarter wave', inputs: { ...inputs, sections: '1', profile: 'binomial' } },
    { label: 'two quarter waves, maximally flat', inputs: { ...inputs, sections: '2', profile: 'binomial' } },
  ],

  design(inputs, context): Design {
    const spec = specify(inputs, context);
    const { sections, profile } = spec;
    const { target } = spec.loadReal;
    const values: NamedValue[] = [
      { name: 'f0', value: inputs.freq, note: 'design' },
      { name: 'z0', value: inputs.z0, note: 'source' },
      spec.load.value,
      ...spec.loadReal.values,
    ];
    // One section has no ripple to choose.
    if (profile === 'chebyshev' && sections > 1)
      values.push({ name: 'ripple', value: inputs.maxReflection, note: 'largest |S11|' });
    const sectionValue = (i: number): string => {
      if (sections === 1) return `sqrt(z0*${target})`;
      return profile === 'binomial'
        ? `binomial(z0, ${target}, ${sections}, ${i})`
        : `chebyshev(z0, ${target}, ${sections}, ripple, ${i})`;
    };
    for (let i = 1; i <= sections; i++)
      values.push({ name: `z${i}`, value: sectionValue(i), note: `section ${i}` });

    const pieces: Piece[] = [
      {
        id: 'port1',
        name: 'source',
        kind: 'port',
        held: { z: 'z0' },
        settings: { number: '1' },
        nodes: ['n0'],
      },
    ];
    let node = 'n0';
    /** A line on from the last one, with the step between their widths. */
    const goOn = (id: string, name: string, role: string, held: Piece['held']) => {
      if (pieces.length > 1) {
        pieces.push({ id: `step-${id}`, name: 'step', kind: 'step', held: {}, nodes: [node, `${node}s`] });
        node = `${node}s`;
      }
      pieces.push({ id, name, kind: 'line', role, held, nodes: [node, `after-${id}`] });
      node = `after-${id}`;
    };
    for (let i = 1; i <= sections; i++)
      goOn(`section${i}`, sections === 1 ? 'quarter wave' : `section ${i}`, 'section', {
        z0: `z${i}`,
        theta: '90 deg',
      });
    if (!spec.load.plain) goOn('turn', 'turning line', 'turn', { z0: 'z0', theta: 'turn' });
    pieces.push({ ...spec.load.piece, nodes: [node] });
    return finished(
      'quarter-wave',
      `${formatNumber(spec.z0, 3)} to ${spec.load.label}, ${sections === 1 ? 'quarter wave' : `${sections} sections`}`,
      context,
      values,
      pieces,
    );
  },

  explain(inputs, context) {
    const spec = specify(inputs, context);
    const ohm = (x: number) => formatQuantity(x, 'impedance');
    const out: string[] = [];
    if (spec.phase > 0)
      out.push(
        `A line of ${ohm(spec.z0)} and ${formatQuantity(spec.phase, 'angle')} turns ${formatComplex(spec.load.z.re, spec.load.z.im)} into ${ohm(spec.real)}, which is real.`,
      );
    if (spec.sections === 1) {
      out.push(
        `A quarter wave of impedance z\u2081 shows z\u2081\u00B2/z at its other end, so z\u2081 = \u221A(z\u2080\u00B7z) = \u221A(${formatNumber(spec.z0)} \u00B7 ${formatNumber(spec.real)}) = ${ohm(spec.transformer.impedances[0])}.`,
      );
    } else if (spec.profile === 'binomial') {
      out.push(
        `Power loss 1 + k\u00B2 cos\u00B2\u1D3A\u03B8 with N = ${spec.sections} and k = |R \u2212 1|/(2\u221AR), R = ${formatNumber(spec.real / spec.z0)}: flat at the centre, exact at every frequency.`,
      );
    } else {
      out.push(
        `Power loss 1 + k\u00B2 T\u00B2(cos \u03B8 / cos \u03B8\u2098) with the Chebyshev polynomial T of order ${spec.sections}: |S11| stays within ${formatNumber(spec.maxReflection!)} over ${formatNumber((spec.transformer.bandwidth ?? 2) * 100, 3)} % of the centre frequency.`,
      );
    }
    if (spec.sections > 1)
      out.push(
        `Sections from source to load: ${spec.transformer.impedances.map((z) => formatNumber(z)).join(', ')} \u03A9.`,
      );
    if (spec.phase > 0 && spec.sections > 1)
      out.push(
        'That holds for a load that is real at every frequency. This one is turned real at the design frequency only, so its band is narrower, as the preview shows.',
      );
    return out;
  },
};

export default [quarterWave];
