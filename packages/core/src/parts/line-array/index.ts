import { C0, brent } from '../../numeric';
import { UnreachablePair } from '../../lines';
import { formatNumber } from '../../units';
import {
  FaceError,
  realValues,
  valueOf,
  type PartDefinition,
  type PartValues,
  type Property,
  type ResolveContext,
} from '../contract';
import { across, along, brief, resolveAlong, sizeOf, trims } from '../line/properties';
import { bar } from '../shapes';
import { arrayModels, couplingsOf, gapsOf } from './model';

/** Lines that stand side by side, at most. */
const MOST = 9;

/** Lines of an array that menus offer. */
const COMMON = 4;

const WORDS = ['three', 'four', 'five', 'six', 'seven', 'eight', 'nine'];

const gapProperty = (i: number): Property => ({
  id: `between${i}`,
  faces: [
    {
      name: `k${i}`,
      label: `Coupling ${i}`,
      help: `Coupling between line ${i} and the next, (ze - zo)/(ze + zo) of these two by themselves. The gap follows.`,
      side: 'electrical',
      rule: { kind: 'number', min: 0, exclusive: true, max: 0.95 },
    },
    {
      name: `gap${i}`,
      label: `Gap ${i}`,
      help: `Distance between line ${i} and the next. The coupling follows.`,
      side: 'physical',
      rule: { kind: 'length', min: 0, exclusive: true },
    },
  ],
});
const spreadProperty = (i: number): Property => ({
  id: `spread${i}`,
  otherwise: 'none',
  adjusts: 'width',
  addsTo: `gap${i}`,
  faces: [
    {
      name: `spread${i}`,
      label: `Spread ${i}`,
      help: `Added to gap ${i} of the copper, to make up for what the ends do to the coupling. The ideal level does not see it.`,
      side: 'physical',
      rule: { kind: 'length' },
    },
  ],
});

/** Gaps between which one is looked for, over the height of the board. */
const GAPS = [1e-3, 12] as const;

/** Gap at which two strips of a width couple by k. @throws UnreachablePair */
function gapFor(width: number, k: number, { pair, substrate }: ResolveContext): number {
  const miss = (x: number) => {
    const { ze, zo } = pair.at(width, substrate.height * Math.exp(x));
    // Far apart the modes are equal to rounding, so that no logarithm is taken.
    return (ze - zo) / (ze + zo) / k - 1;
  };
  const [least, most] = GAPS.map(Math.log);
  if (!(miss(least) > 0 && miss(most) < 0))
    throw new UnreachablePair(`no gap couples strips of this width by ${formatNumber(k, 3)}`);
  return substrate.height * Math.exp(brent(miss, least, most, { tolerance: 1e-10 }));
}

/** As many equal lines side by side, each coupled to its neighbours. */
function lineArray(n: number): PartDefinition {
  const [couplings, gaps] = [couplingsOf(n), gapsOf(n)];
  const spreads = gaps.map((_, i) => `spread${i + 1}`);
  const name = `${WORDS[n - 3]} coupled lines`;
  const widthOf = (held: PartValues, context: ResolveContext) => held.width?.re ?? context.width(held.z0.re);
  const wavelength = (held: PartValues, context: ResolveContext) =>
    C0 / (context.f0 * Math.sqrt(context.line(widthOf(held, context)).eeff));
  return {
    kind: `line-array-${n}`,
    field: 'copper',
    name,
    group: 'line',
    about:
      `${name[0].toUpperCase()}${name.slice(1)} of one width side by side, each coupled to its neighbours. Pins are the near ends in order, then the far ends. ` +
      'Ideal: one velocity, no loss; what a line is beside its neighbours is what the pairs that they form would be, added up. Modelled: all modes of their capacitances, with dispersion and loss of the pairs. ' +
      'Lines that are not neighbours do not couple.',
    source:
      'Capacitances of neighbours from the field solution of pairs, Getsinger 1962 for the superposition; modes of the capacitance matrices, Paul 1994.',
    variants: [
      {
        id: `array-${n}`,
        label: name,
        ...(n > COMMON ? { seldom: true as const } : {}),
        held: {
          z0: '50 ohm',
          theta: '90 deg',
          ...Object.fromEntries(couplings.map((k) => [k, '0.1'])),
        },
      },
    ],
    properties: [
      across,
      ...couplings.map((_, i) => gapProperty(i + 1)),
      along,
      trims[0],
      ...spreads.map((_, i) => spreadProperty(i + 1)),
    ],
    choices: [
      {
        name: 'side',
        label: 'Further lines',
        help: 'On which side of the first line the others lie, seen from pin 1 along it.',
        options: [
          { id: 'left', label: 'left' },
          { id: 'right', label: 'right' },
        ],
      },
    ],
    pins: () => 2 * n,

    local: (local, held, context) =>
      local === 'lambda' && (held.z0 || held.width) ? wavelength(held, context) : undefined,

    resolve(held, context) {
      const width = widthOf(held, context);
      const between: Record<string, number> = {};
      couplings.forEach((k, i) => {
        const spread = valueOf(held, spreads[i]);
        try {
          const bare = held[gaps[i]] ? held[gaps[i]].re - spread : gapFor(width, held[k].re, context);
          if (!(bare > 0)) throw new FaceError(spreads[i], 'is more than the whole gap');
          const { ze, zo } = context.pair.at(width, bare);
          between[k] = held[k]?.re ?? (ze - zo) / (ze + zo);
          between[gaps[i]] = held[gaps[i]]?.re ?? bare + spread;
        } catch (error) {
          if (error instanceof UnreachablePair) throw new FaceError(k, error.message);
          throw error;
        }
        if (!(between[gaps[i]] > 0)) throw new FaceError(spreads[i], 'takes away the whole gap');
        if (held[spreads[i]]) between[spreads[i]] = spread;
      });
      return realValues({
        z0: held.z0?.re ?? context.line(width).z0,
        width,
        ...between,
        ...resolveAlong(held, wavelength(held, context)),
      });
    },

    etches: { width: 1, ...Object.fromEntries(gaps.map((gap) => [gap, -1])) },
    widths: ({ width }) => new Array<number>(2 * n).fill(width.re),
    gaps(values) {
      const near = Array.from({ length: n }, (_, i) =>
        Math.min(...[values[gaps[i - 1]], values[gaps[i]]].flatMap((g) => (g ? [g.re] : []))),
      );
      return [...near, ...near];
    },
    label: ({ z0, width, length: whole }) => ({
      what: `${n} of ${brief(z0.re, 'impedance')}`,
      size: sizeOf(whole.re, width.re),
    }),
    tells: ['z0', 'theta', ...couplings, 'width', ...gaps, 'length'].map((face) => ({ face })),

    models: arrayModels(n),

    artwork(values, { settings, setback }) {
      const [width, whole] = [values.width.re, values.length.re];
      const sign = settings.side === 'right' ? -1 : 1;
      const places = [0];
      gaps.forEach((gap, i) => places.push(places[i] + sign * (width + values[gap].re)));
      return {
        copper: places.map((y, i) => {
          const from = Math.min(setback(i), whole);
          const to = Math.max(from, whole - setback(n + i));
          return bar(from, to, width).map((p) => ({ x: p.x, y: y + p.y }));
        }),
        centre: [
          { x: 0, y: 0 },
          { x: whole, y: 0 },
        ],
        pins: [
          ...places.map((y) => ({ x: 0, y, angle: Math.PI })),
          ...places.map((y) => ({ x: whole, y, angle: 0 })),
        ],
      };
    },

    mirrored: (held, settings) => ({
      held,
      settings: { ...settings, side: settings.side === 'right' ? 'left' : 'right' },
    }),
  };
}

export default Array.from({ length: MOST - 2 }, (_, i) => lineArray(i + 3));
