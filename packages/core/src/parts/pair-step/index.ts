import { cascade, idealJoint, symmetricPair, uniformLine } from '../../electrical';
import { realValues, valueOf, type PartDefinition, type PartValues, type Property } from '../contract';
import { armsFit, lineAt, otherSide, perHertz, sideOf } from '../junction';
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

/** Where coupled lines of one width and gap go over into those of another. */
export const pairStep: PartDefinition = {
  kind: 'pair-step',
  field: 'copper',
  name: 'pair step',
  group: 'junction',
  fits: true,
  about:
    'Where coupled lines of one width and gap go over into those of another: both strips slant symmetrically about the middle between them, over as long a way as they move to the side. ' +
    'Ideal: nothing. Modelled: a step in width in each strip and the length that the slant adds; that the strips couple on the way counts with the pairs, whose lengths reach to the middle of the slant.',
  source:
    'Each strip as a step in width (Altschuler & Oliner 1960; Hammerstad 1981); the slant as a length of line.',
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
        const excess = Math.abs(offset(values)) * (Math.sqrt(5) - 2);
        if (excess === 0) return symmetricPair(step, step);
        const slant = uniformLine((f, out) => {
          out.z0 = Math.sqrt(near.z0 * far.z0);
          out.alpha = 0;
          out.beta = (f * excess * (perHertz(near) + perHertz(far))) / 2;
        });
        const strip = cascade([step, slant]);
        return symmetricPair(strip, strip);
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
