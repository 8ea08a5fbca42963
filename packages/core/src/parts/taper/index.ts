import { C0 } from '../../numeric';
import { cascade, changingSlowly, uniformLine } from '../../electrical';
import { linePoint } from '../../lines';
import { TaperError, taperImpedance, type TaperProfile } from '../../theory';
import {
  FaceError,
  realValues,
  valueOf,
  type PartDefinition,
  type PartSettings,
  type PartValues,
  type Property,
  type ResolveContext,
} from '../contract';
import { along, trims } from '../line/properties';

/** Lengths of uniform line that stand for the taper. */
const SLICES = 24;
/** Largest reflection of a Klopfenstein taper where none is given. */
const REFLECTION = 0.02;

const end = (n: 1 | 2): Property => ({
  id: `end${n}`,
  faces: [
    {
      name: `z${n}`,
      label: `Impedance at pin ${n}`,
      help: 'Impedance that the taper leads from or to, at the design frequency.',
      side: 'electrical',
      rule: { kind: 'impedance', min: 0, exclusive: true },
    },
    {
      name: `w${n}`,
      label: `Width at pin ${n}`,
      help: 'Width whose impedance the taper leads from or to.',
      side: 'physical',
      rule: { kind: 'length', min: 0, exclusive: true },
    },
  ],
});

const profileOf = (settings: PartSettings): TaperProfile =>
  settings.profile === 'exponential' || settings.profile === 'linear' ? settings.profile : 'klopfenstein';

const impedanceAlong = (values: PartValues, settings: PartSettings) =>
  taperImpedance(profileOf(settings), values.z1.re, values.z2.re, valueOf(values, 'reflection', REFLECTION));

/** Impedances in the middle of the slices, ohm. */
const slices = (values: PartValues, settings: PartSettings): number[] => {
  const at = impedanceAlong(values, settings);
  return Array.from({ length: SLICES }, (_, i) => at((i + 0.5) / SLICES));
};

/** Widths at the slices' ends and in their middles, m, with the guided wavelengths in the middle. */
function shape(held: PartValues, context: ResolveContext) {
  const z = [1, 2].map((n) => held[`z${n}`]?.re ?? context.line(held[`w${n}`].re).z0);
  let at: (t: number) => number;
  try {
    at = impedanceAlong({ ...held, ...realValues({ z1: z[0], z2: z[1] }) }, context.settings);
  } catch (error) {
    if (error instanceof TaperError) throw new FaceError('reflection', error.message);
    throw error;
  }
  const widths = Array.from({ length: SLICES + 1 }, (_, i) => context.width(at(i / SLICES)));
  const middles = Array.from({ length: SLICES }, (_, i) => context.width(at((i + 0.5) / SLICES)));
  let perWave = 0;
  for (const width of middles) perWave += (context.f0 * Math.sqrt(context.line(width).eeff)) / C0 / SLICES;
  return { z, widths, middles, wavelength: 1 / perWave };
}

/** A line whose width goes over from one to another. */
export const taper: PartDefinition = {
  kind: 'taper',
  field: 'copper',
  name: 'taper',
  group: 'line',
  about:
    'A line that goes over from one impedance to another along its length: the longer, the less it reflects, at all higher frequencies. ' +
    'Both levels are slices of uniform line; ideal without loss and dispersion, modelled with them.',
  source: 'Cascade of uniform slices. Klopfenstein 1956: the least reflection for a given length.',
  variants: [{ id: 'taper', label: 'taper', held: { z1: '50 ohm', z2: '80 ohm', theta: '180 deg' } }],
  choices: [
    {
      name: 'profile',
      label: 'Profile',
      help: 'How the impedance goes over: with the least reflection for its length, evenly in ratio, or evenly in ohms.',
      options: [
        { id: 'klopfenstein', label: 'Klopfenstein' },
        { id: 'exponential', label: 'exponential' },
        { id: 'linear', label: 'linear' },
      ],
    },
  ],
  properties: [
    end(1),
    end(2),
    along,
    trims[0],
    {
      id: 'reflection',
      otherwise: '0.02',
      faces: [
        {
          name: 'reflection',
          label: 'Largest reflection',
          help: 'Largest |S11| of a Klopfenstein taper in its band, a magnitude.',
          side: 'electrical',
          rule: { kind: 'number', min: 0, max: 1, exclusive: true },
        },
      ],
    },
  ],
  pins: () => 2,
  local(name, held, context) {
    return name === 'lambda' && (held.z1 ?? held.w1) && (held.z2 ?? held.w2)
      ? shape(held, context).wavelength
      : undefined;
  },
  resolve(held, context) {
    const { z, widths, wavelength } = shape(held, context);
    const trim = held.trim?.re ?? 0;
    const length = held.length ? held.length.re : (held.theta.re / (2 * Math.PI)) * wavelength + trim;
    if (!(length > 0) || length < trim) throw new FaceError('trim', 'takes away the whole length');
    return realValues({
      z1: z[0],
      z2: z[1],
      w1: widths[0],
      w2: widths[SLICES],
      theta: held.theta ? held.theta.re : ((length - trim) / wavelength) * 2 * Math.PI,
      length,
      ...(held.trim ? { trim } : {}),
      ...(held.reflection ? { reflection: held.reflection.re } : {}),
    });
  },
  facts(held, context) {
    const { widths, middles } = shape(held, context);
    return { widths, middles };
  },
  etches: { w1: 1, w2: 1, widths: 1, middles: 1 },
  widths: (values) => [values.w1.re, values.w2.re],
  models: {
    ideal: {
      reads: ['z1', 'z2', 'reflection', 'profile', 'theta'],
      electrical({ values, settings }, context) {
        const perHertz = values.theta.re / SLICES / context.f0;
        return cascade(
          slices(values, settings).map((z) =>
            uniformLine((f, out) => {
              out.z0 = z;
              out.beta = perHertz * f;
            }),
          ),
        );
      },
    },
    modelled: {
      reads: ['length', 'middles'],
      electrical({ values, facts }, context) {
        const step = values.length.re / SLICES;
        const k = (2 * Math.PI * step) / C0;
        const point = linePoint();
        const points = [point];
        const slices = (facts.middles as readonly number[]).map((width) => {
          const section = context.section('strip', width);
          return uniformLine((f, out) => {
            section.at(f, points);
            out.z0 = point.z0;
            out.beta = k * f * Math.sqrt(point.eeff);
            out.alpha = (point.alphaConductor + point.alphaDielectric) * step;
          });
        });
        return changingSlowly(cascade(slices));
      },
    },
  },
  artwork(values, { facts }) {
    const step = values.length.re / SLICES;
    const half = (i: number) => (facts.widths as readonly number[])[i] / 2;
    return {
      copper: Array.from({ length: SLICES }, (_, i) => [
        { x: i * step, y: -half(i) },
        { x: (i + 1) * step, y: -half(i + 1) },
        { x: (i + 1) * step, y: half(i + 1) },
        { x: i * step, y: half(i) },
      ]),
      centre: [
        { x: 0, y: 0 },
        { x: values.length.re, y: 0 },
      ],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: values.length.re, y: 0, angle: 0 },
      ],
    };
  },
};

export default [taper];
