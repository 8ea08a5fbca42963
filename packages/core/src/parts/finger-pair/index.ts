import { brent } from '../../numeric';
import { UnreachablePair } from '../../lines';
import { neighboursOf, ofFourFingers } from '../../theory';
import { formatNumber } from '../../units';
import {
  FaceError,
  realValues,
  type PartDefinition,
  type PartValues,
  type ResolveContext,
} from '../contract';
import { otherSide, sideOf } from '../junction';
import { brief, resolveAlong, sizeOf, trims } from '../line/properties';
import { pairAcross, pairAlong, secondStrip } from '../line-pair';
import { pairModels, wavelength } from '../line-pair/model';
import { bar } from '../shapes';

/** Fingers, every other of which is one line. */
const FINGERS = 4;
/** Dimensions over the height between which a missing one is looked for. */
const [LEAST, MOST] = [1e-3, 20];

/** The dimension at which one of the impedances is what is held. @throws FaceError */
function missing(
  face: string,
  wanted: number,
  { substrate, pair }: ResolveContext,
  strips: (free: number) => readonly [number, number],
  mode: 0 | 1,
): number {
  const h = substrate.height;
  const miss = (x: number) => {
    const { ze, zo } = pair.at(...strips(h * Math.exp(x)));
    return Math.log(ofFourFingers(ze, zo)[mode] / wanted);
  };
  const [low, high] = [Math.log(LEAST), Math.log(MOST)];
  if (miss(low) * miss(high) > 0)
    throw new FaceError(face, 'is out of reach for fingers of this size on this substrate');
  return h * Math.exp(brent(miss, low, high, { tolerance: 1e-12 }));
}

/** Width of the fingers and gap between them. @throws FaceError */
function across(held: PartValues, context: ResolveContext): [width: number, gap: number] {
  const { width, gap, ze, zo } = held;
  if (width && gap) return [width.re, gap.re];
  try {
    if (width) return [width.re, missing('zo', zo.re, context, (g) => [width.re, g], 1)];
    if (gap) return [missing('ze', ze.re, context, (w) => [w, gap.re], 0), gap.re];
    if (ze.re <= zo.re) throw new FaceError('zo', 'must be less than the even impedance: the fingers couple');
    return context.pair.strips(...neighboursOf(ze.re, zo.re));
  } catch (error) {
    if (!(error instanceof UnreachablePair)) throw error;
    throw new FaceError(zo ? 'zo' : 'ze', `${error.message} of neighbouring fingers`);
  }
}

/** Four fingers, every other of which is joined by bonds: two lines that couple more than two strips side by side. */
export const interdigitated: PartDefinition = {
  kind: 'finger-pair',
  name: 'interdigitated lines',
  group: 'line',
  about:
    'Four fingers side by side; the first and third are one line and the second and fourth the other, joined at both ends by bonds over the finger between them. ' +
    'They couple more than two strips can: 3 dB with gaps that can be etched. Pins 1 and 2 are the near ends of the outer fingers, 3 and 4 their far ends. ' +
    'Ideal: an even and an odd mode of one electrical length. Modelled: impedances of four fingers from those of two neighbours, with their velocities, dispersion and loss; the bonds have no length.',
  source:
    'Lange 1969; impedances by Ou 1975, who lets neighbours couple and no others; neighbours as coupled lines are.',
  variants: [
    {
      id: 'interdigitated',
      label: 'interdigitated lines',
      held: { ze: '120 ohm', zo: '21 ohm', theta: '90 deg' },
    },
  ],
  properties: [...pairAcross, pairAlong, ...trims.filter((p) => p.adjusts === 'length')],
  choices: [secondStrip],
  pins: () => 4,
  alikePins: 'aaaa',

  local(name, held, context) {
    if (name !== 'lambda' || !(held.ze || held.width) || !(held.zo || held.gap)) return undefined;
    return wavelength(across(held, context), context);
  },

  resolve(held, context) {
    const [width, gap] = across(held, context);
    const neighbours = context.pair.at(width, gap);
    const [ze, zo] = ofFourFingers(neighbours.ze, neighbours.zo);
    return realValues({
      ze: held.ze?.re ?? ze,
      zo: held.zo?.re ?? zo,
      width,
      gap,
      ...resolveAlong(held, wavelength([width, gap], context)),
    });
  },

  etches: { width: 1, gap: -1 },
  widths: ({ width }) => [width.re, width.re, width.re, width.re],
  gaps: ({ gap }) => [gap.re, gap.re, gap.re, gap.re],
  label: ({ ze, zo, width, gap, length }) => ({
    what: `${formatNumber(ze.re, 3)} / ${brief(zo.re, 'impedance')}`,
    size: `4 fingers ${sizeOf(length.re, width.re)}, gap ${brief(gap.re, 'length')}`,
  }),
  tells: ['ze', 'zo', 'theta', 'width', 'gap', 'length'].map((face) => ({ face })),

  models: pairModels([], ofFourFingers),

  artwork(values, { settings, setback }) {
    const [width, gap, whole] = [values.width.re, values.gap.re, values.length.re];
    const pitch = width + gap;
    const side = sideOf(settings);
    const [near, far] = [Math.max(setback(0), setback(1)), whole - Math.max(setback(2), setback(3))].map(
      (x) => Math.min(whole, Math.max(0, x)),
    );
    /** The outer fingers reach to what meets them, the inner ones end short of it. */
    const finger = (i: number) => {
      const outer = [0, undefined, undefined, 1][i];
      const [from, to] =
        outer === undefined
          ? [near + width / 2, far - width / 2]
          : [setback(outer), whole - setback(outer + 2)];
      return bar(Math.min(from, to), Math.max(from, to), width).map((p) => ({
        x: p.x,
        y: p.y + side * i * pitch,
      }));
    };
    /** A bond from a finger over its neighbour to the one behind it. */
    const bond = (x: number, from: number) => {
      const half = Math.min(width, 25e-6);
      return bar(x - half, x + half, 2 * pitch).map((p) => ({ x: p.x, y: p.y + side * (from + 1) * pitch }));
    };
    const outer = side * (FINGERS - 1) * pitch;
    return {
      copper: Array.from({ length: FINGERS }, (_, i) => finger(i)),
      body: [near + width, far - width].flatMap((x) => [bond(x, 0), bond(x, 1)]),
      centre: [
        { x: 0, y: 0 },
        { x: whole, y: 0 },
      ],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: 0, y: outer, angle: Math.PI },
        { x: whole, y: 0, angle: 0 },
        { x: whole, y: outer, angle: 0 },
      ],
    };
  },

  mirrored: (held, settings) => ({ held, settings: otherSide(settings) }),
};

export default [interdigitated];
