import { across, attached, changingSlowly, idealJoint, seriesImpedance } from '../../electrical';
import { bar, MOUNTED_SPAN, mountedWidth } from '../shapes';
import {
  lengthIn,
  realValues,
  scaled,
  type PartDefinition,
  type PartModel,
  type Property,
} from '../contract';
import { gapOf } from '../gap/model';
import { endOf } from '../open-end/model';
import type { QuantityKind } from '../../units';

/** What a real capacitor or coil has besides its value: series resistance at f0 (ohm), self-resonance (Hz). */
interface Imperfection {
  readonly f0: number;
  readonly esr: number;
  readonly srf: number | undefined;
}

/** Stands for a value without end: what a part begins from where a larger value is less of a way. */
const ENDLESS = 1e9;

/** Loss and self-resonance, which act at the modelled level. */
const imperfections: readonly Property[] = [
  {
    id: 'loss',
    otherwise: 'none',
    faces: [
      {
        name: 'q',
        label: 'Q',
        help: 'Quality at the design frequency: reactance over series resistance. Acts at the modelled level. Left out, the part has no loss.',
        side: 'electrical',
        rule: { kind: 'number', min: 0, exclusive: true },
      },
      {
        name: 'esr',
        label: 'Series resistance',
        help: 'Resistance in series at the design frequency. Acts at the modelled level. A coil\u2019s grows with the root of frequency, as the skin effect has it.',
        side: 'electrical',
        rule: { kind: 'impedance', min: 0 },
      },
    ],
  },
  {
    id: 'resonance',
    otherwise: 'none',
    faces: [
      {
        name: 'srf',
        label: 'Self-resonance',
        help: 'Frequency at which the part resonates with itself: a capacitor with its inductance in series, a coil with its capacitance across. Acts at the modelled level.',
        side: 'electrical',
        rule: { kind: 'frequency', min: 0, exclusive: true },
      },
    ],
  },
];

const reactanceOf = (kind: string, value: number, f: number): number =>
  kind === 'capacitor' ? -1 / (2 * Math.PI * f * value) : kind === 'inductor' ? 2 * Math.PI * f * value : 0;

/** Whether a part is less of a way the larger its value. */
const isInverse = (kind: string, across: boolean): boolean => (kind === 'capacitor' ? !across : across);

/** What retuning moves of a capacitor that brings a resonator to its frequency. */
const correction: Property = {
  id: 'correction',
  otherwise: 'none',
  adjusts: 'mounted',
  asked: true,
  reach: (values) => 0.5 * values.c.re,
  faces: [
    {
      name: 'correction',
      label: 'Correction',
      help: 'Added to the capacitance that is mounted, to make up for vias and pads. The ideal level does not see it.',
      side: 'physical',
      rule: { kind: 'capacitance' },
    },
  ],
};

/** Facts: width of the copper that ends at each pin, m; beside them `apart`, how far these ends are from one another. */
const PADS = ['pad1', 'pad2'] as const;

/**
 * The open ends of the copper that a part is mounted on, which face one another where there are two: they store charge, however
 * the current goes on.
 */
const padsOf: PartModel['ends'] = ({ facts }, context) => {
  const [first, second] = PADS.map((name) => lengthIn(facts, name));
  const apart = lengthIn(facts, 'apart');
  if (first !== undefined && second !== undefined && apart !== undefined)
    return [
      {
        pins: [0],
        beside: [1],
        electrical: changingSlowly(attached(idealJoint(3), 0, gapOf([first, second], apart, context), 0)),
      },
    ];
  return [first, second].flatMap((width, pin) =>
    width === undefined
      ? []
      : [{ pins: [pin], beside: [], electrical: changingSlowly(across(endOf(width, context))) }],
  );
};

/** A mounted two-pin part: a body across the distance between its pads. */
const mounted = (
  kind: string,
  name: string,
  face: string,
  label: string,
  quantity: QuantityKind,
  initial: string,
  about: string,
  impedance: (value: number, f: number, out: { re: number; im: number }, real?: Imperfection) => void,
): PartDefinition => ({
  kind,
  field: 'joined',
  name,
  group: 'mounted',
  bridges: true,
  about: `A ${name} mounted between two pins. Where both pins are placed already it bridges them. ${about} Lines that end at its pins have open ends there at the modelled level, or a gap as wide as its span between them.`,
  variants: [{ id: kind, label: name, held: { [face]: initial } }],
  properties: [
    {
      id: 'value',
      faces: [
        {
          name: face,
          label,
          help: `${label} between the two pins.`,
          side: 'electrical',
          rule: { kind: quantity, min: 0 },
        },
      ],
    },
    ...(kind === 'resistor' ? [] : imperfections),
    ...(kind === 'capacitor' ? [correction] : []),
    {
      id: 'span',
      otherwise: '1 mm',
      faces: [
        {
          name: 'span',
          label: 'Span',
          help: 'Distance between the two pins on the copper, from pad to pad. Left out, it is 1 mm.',
          side: 'physical',
          rule: { kind: 'length', min: 0, exclusive: true },
        },
      ],
    },
  ],
  pins: () => 2,
  resolve(held, { f0 }) {
    const reactance = Math.abs(reactanceOf(kind, held[face].re, f0));
    // Of no reactance, or an infinite one, there is no quality to speak of.
    const lossy = reactance > 0 && Number.isFinite(reactance);
    const { q, esr } = held;
    return {
      ...held,
      ...realValues({
        span: held.span?.re ?? MOUNTED_SPAN,
        ...(q && lossy ? { esr: reactance / q.re } : {}),
        ...(esr && lossy && esr.re > 0 ? { q: reactance / esr.re } : {}),
      }),
    };
  },
  facts(held, { pad }) {
    const pads = [pad(0), pad(1)];
    return {
      ...Object.fromEntries(PADS.flatMap((name, pin) => (pads[pin] ? [[name, [pads[pin]]]] : []))),
      ...(pads[0] && pads[1] ? { apart: [held.span?.re ?? MOUNTED_SPAN] } : {}),
    };
  },
  etches: { pad1: 1, pad2: 1, apart: -1 },
  swaps: [PADS],
  tells: [{ face, as: quantity === 'impedance' ? 'resistance' : quantity }],
  grows: {
    faces: [face],
    inverse: (across) => isInverse(kind, across),
    at(values, share, across) {
      const inverse = share === 0 ? ENDLESS : 1 / share;
      const grown = scaled(values, [face], isInverse(kind, across) ? inverse : share);
      // The quality stays, so that the resistance goes along with the reactance.
      return scaled(grown, ['esr'], across ? inverse : share);
    },
  },
  models: {
    ideal: {
      reads: [face],
      electrical: ({ values }) => seriesImpedance((f, out) => impedance(values[face].re, f, out)),
    },
    modelled: {
      reads: [
        face,
        ...(kind === 'resistor' ? [] : ['esr', 'srf']),
        ...(kind === 'capacitor' ? ['correction'] : []),
        ...PADS,
        'apart',
      ],
      ends: padsOf,
      electrical({ values: { [face]: nominal, esr, srf, correction: added } }, { f0 }) {
        const value = { re: Math.max(0, nominal.re + (added?.re ?? 0)), im: 0 };
        const real: Imperfection | undefined =
          esr || srf ? { f0, esr: esr?.re ?? 0, srf: srf?.re } : undefined;
        return seriesImpedance((f, out) => impedance(value.re, f, out, real));
      },
    },
  },
  artwork(values) {
    const span = values.span.re;
    return {
      copper: [],
      body: [bar(0, span, mountedWidth(span))],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: span, y: 0, angle: 0 },
      ],
    };
  },
});

export const resistor = mounted(
  'resistor',
  'resistor',
  'r',
  'Resistance',
  'impedance',
  '100 ohm',
  'Ideal at both levels.',
  (r, _f, out) => {
    out.re = r;
    out.im = 0;
  },
);

export const capacitor = mounted(
  'capacitor',
  'capacitor',
  'c',
  'Capacitance',
  'capacitance',
  '1 pF',
  'Ideal: its capacitance alone. Modelled: with its series resistance and, where its self-resonance is given, its series inductance.',
  (c, f, out, real) => {
    out.re = real?.esr ?? 0;
    out.im = c === 0 || f === 0 ? -Infinity : reactanceOf('capacitor', c, f);
    // The inductance that resonates at srf has there the reactance of the capacitance.
    if (real?.srf !== undefined && Number.isFinite(out.im)) out.im *= 1 - (f / real.srf) ** 2;
  },
);

export const inductor = mounted(
  'inductor',
  'inductor',
  'l',
  'Inductance',
  'inductance',
  '1 nH',
  'Ideal: its inductance alone. Modelled: with its series resistance, which grows with the root of frequency, and, where its self-resonance is given, its capacitance across.',
  (l, f, out, real) => {
    out.re = real ? real.esr * Math.sqrt(f / real.f0) : 0;
    out.im = reactanceOf('inductor', l, f);
    // Without inductance there is nothing to resonate; what it would take is a short.
    if (real?.srf === undefined || l === 0) return;
    // (R + jX) in parallel with -j X (srf/f)^2: over 1 - (f/srf)^2 + j R (f/srf)^2 / X.
    const share = (f / real.srf) ** 2;
    const dr = 1 - share;
    const di = out.im === 0 ? 0 : (out.re * share) / out.im;
    const d = dr * dr + di * di;
    [out.re, out.im] =
      d === 0 ? [Infinity, 0] : [(out.re * dr + out.im * di) / d, (out.im * dr - out.re * di) / d];
  },
);

export default [resistor, capacitor, inductor];
