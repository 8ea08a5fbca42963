import {
  cascade,
  changingSlowly,
  idealJoint,
  symmetricPair,
  uniformLine,
  type Electrical,
} from '../../electrical';
import { linePoint } from '../../lines';
import { C0, gaussLegendre } from '../../numeric';
import {
  realValues,
  valueOf,
  type ElectricalContext,
  type PartDefinition,
  type PartValues,
  type Property,
} from '../contract';
import { armsFit, lineAt, otherSide, sideOf } from '../junction';
import { secondStrip } from '../line-pair';
import { stepBetween } from '../step/model';

const ARMS = ['w1', 'w1', 'w2', 'w2'];

const property = (name: string, label: string, help: string): Property => ({
  id: name,
  otherwise: 'that of the coupled lines it meets',
  faces: [{ name, label, help, side: 'physical', rule: { kind: 'length', min: 0, exclusive: true } }],
});

/** By how much the first strip moves towards the second from the near pair to the far one, m. */
const offset = (values: PartValues): number =>
  (valueOf(values, 'w1') + valueOf(values, 'g1') - valueOf(values, 'w2') - valueOf(values, 'g2')) / 2;

/** Places along each half of a slant and how much of it each stands for (Gauss-Legendre). */
const { nodes: PLACES, weights: SHARES } = gaussLegendre(3);
/** Way along a slant over that along the pair, and how much narrower the strip is across its own way: it rises by a half. */
const SLANT = Math.sqrt(5) / 2;
/** Cosine of the angle between the strips there. */
const TURNED = 0.6;

/**
 * One mode of two strips that slant away from one another: short coupled lines of the width and gap at each place, less what the
 * pairs on both sides count of it, whose lengths reach to the middle. Currents that are not parallel induce the less in one
 * another (Neumann 1845). Without loss, which counts with the pairs.
 */
function slantOf(
  values: PartValues,
  reach: number,
  mode: 0 | 1,
  { section }: ElectricalContext,
): { before: Electrical[]; behind: Electrical[] } {
  const points = [linePoint(), linePoint()];
  /** @param turned cosine of the angle between the strips: inductances couple by as much, capacitances all the same */
  const line = (width: number, gap: number, length: number, turned = 1): Electrical => {
    const pair = section('pair', width, gap);
    return uniformLine((f, out) => {
      pair.at(f, points);
      // Inductance and capacitance of each mode, in those of the wave in free space.
      const [even, odd] = points.map(({ z0, eeff }) => z0 * Math.sqrt(eeff));
      const l = (even + odd) / 2 + ((mode === 0 ? 1 : -1) * turned * (even - odd)) / 2;
      const c = Math.sqrt(points[mode].eeff) / points[mode].z0;
      out.z0 = Math.sqrt(l / c);
      out.alpha = 0;
      out.beta = (2 * Math.PI * f * length * Math.sqrt(l * c)) / C0;
    });
  };
  const [w1, g1, w2, g2] = ['w1', 'g1', 'w2', 'g2'].map((face) => values[face].re);
  /** A half that begins at a share of the way from the near pair to the far one. */
  const half = (from: number) =>
    Array.from(PLACES, (t, i) => {
      // The places descend from 1.
      const share = from + (1 - t) / 4;
      return line(
        (w1 + (w2 - w1) * share) / SLANT,
        g1 + (g2 - g1) * share,
        (SLANT * reach * SHARES[i]) / 2,
        TURNED,
      );
    });
  return { before: [line(w1, g1, -reach), ...half(0)], behind: [...half(0.5), line(w2, g2, -reach)] };
}

/** Where coupled lines of one width and gap go over into those of another. */
export const pairStep: PartDefinition = {
  kind: 'pair-step',
  field: 'copper',
  name: 'pair step',
  group: 'junction',
  fits: true,
  about:
    'Where coupled lines of one width and gap go over into those of another: both strips slant symmetrically about the middle between them, over as long a way as they move to the side. ' +
    'Ideal: nothing. Modelled: the strips couple along the slant as their gap is at each place, and not as the pairs do, whose lengths reach to the middle of it; and a step in width in each strip.',
  source:
    'The slant as six short pairs of coupled lines, whose inductances couple by the cosine of the angle between them (Neumann 1845); each strip as a step in width (table of the field solution, Altschuler & Oliner 1960; Hammerstad 1981).',
  variants: (['left', 'right'] as const).map((side) => ({
    id: `pair-step-${side}`,
    label: `step of coupled lines, second strip ${side}`,
    held: {},
    settings: { side },
  })),
  properties: [
    property('w1', 'Near width', 'Width of the two strips at pins 1 and 2.'),
    property('g1', 'Near gap', 'Gap between the two strips at pins 1 and 2.'),
    property('w2', 'Far width', 'Width of the two strips at pins 3 and 4.'),
    property('g2', 'Far gap', 'Gap between the two strips at pins 3 and 4.'),
  ],
  choices: [secondStrip],
  pins: () => 4,
  alikePins: 'aaaa',

  resolve(held, { neighbour, beside }) {
    const met = (face: string, at: (pin: number) => number | undefined, pin: number) =>
      held[face]?.re ?? at(pin) ?? at(pin + 1);
    const [w1, w2] = [met('w1', neighbour, 0), met('w2', neighbour, 2)];
    const [g1, g2] = [met('g1', beside, 0), met('g2', beside, 2)];
    const [width, gap] = [w1 ?? w2, g1 ?? g2];
    if (width === undefined || gap === undefined) return {};
    return realValues({ w1: w1 ?? width, g1: g1 ?? gap, w2: w2 ?? width, g2: g2 ?? gap });
  },

  etches: { w1: 1, w2: 1, g1: -1, g2: -1 },
  widths: (values) => ARMS.map((name) => values[name]?.re),
  gaps: ({ g1, g2 }) => [g1?.re, g1?.re, g2?.re, g2?.re],
  setbacks: (values) => ARMS.map(() => Math.abs(offset(values))),

  models: {
    ideal: { reads: [], electrical: () => symmetricPair(idealJoint(2), idealJoint(2)) },
    modelled: {
      reads: ['w1', 'g1', 'w2', 'g2'],
      electrical({ values }, context) {
        if (!values.w1) return symmetricPair(idealJoint(2), idealJoint(2));
        const [near, far] = ['w1', 'w2'].map((name) => lineAt(context, values[name].re));
        const step = stepBetween(context, near, far);
        const reach = Math.abs(offset(values));
        if (reach === 0) return symmetricPair(step, step);
        const [even, odd] = ([0, 1] as const).map((mode) => {
          const { before, behind } = slantOf(values, reach, mode, context);
          return cascade([...before, step, ...behind]);
        });
        return changingSlowly(symmetricPair(even, odd));
      },
    },
  },

  artwork(values, { settings, width }) {
    const side = sideOf(settings);
    const [w1, w2] = [valueOf(values, 'w1', width(0)), valueOf(values, 'w2', width(2))];
    const [g1, g2] = [valueOf(values, 'g1', w1), valueOf(values, 'g2', w2)];
    const moved = (w1 + g1 - w2 - g2) / 2;
    const reach = Math.abs(moved);
    /** From a centre at the near end to one at the far end. */
    const slant = (from: number, to: number) => [
      { x: -reach, y: from - w1 / 2 },
      { x: reach, y: to - w2 / 2 },
      { x: reach, y: to + w2 / 2 },
      { x: -reach, y: from + w1 / 2 },
    ];
    const centres = [0, w1 + g1, moved, moved + w2 + g2].map((y) => side * y + 0);
    return {
      copper: reach === 0 ? [] : [slant(centres[0], centres[2]), slant(centres[1], centres[3])],
      pins: centres.map((y, i) => ({ x: 0, y, angle: i < 2 ? Math.PI : 0 })),
    };
  },

  review: (values, { neighbour }) => armsFit(values, ARMS, neighbour),
  mirrored: (held, settings) => ({ held, settings: otherSide(settings) }),
};

export default [pairStep];
