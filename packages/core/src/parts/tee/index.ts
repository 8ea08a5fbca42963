import { attached, changingSlowly, seriesImpedance } from '../../electrical';
import { realValues, type PartDefinition, type PartRemark } from '../contract';
import {
  armProperty,
  armsFit,
  fromJunction,
  joint,
  lineAt,
  otherSide,
  sideChoice,
  sideOf,
} from '../junction';
import { bowed, bowsBeside } from '../curve';
import { bar, MOST_MOUNTED, pinsAt } from '../shapes';
import { TABLED, tabled } from '../tabled';
import { stepJunction, teeJunction } from './model';

const ARMS = ['w1', 'w2', 'w3'];
/** Half of the width of a mounted part, m: so far from the middle another one begins beside it. */
const MOUNTED = MOST_MOUNTED / 2;

/** A tee: two arms in line and one to the side. */
export const tee: PartDefinition = {
  kind: 'tee',
  field: 'copper',
  name: 'tee',
  group: 'junction',
  fits: true,
  about:
    'Two arms in line and a third to one side. Lengths are measured to where the centre lines meet. Ideal: the three pins are joined. ' +
    'Modelled: reference planes move into the arms, and a susceptance and turns ratios stand for the field that the junction stores.',
  source:
    TABLED +
    'Microstrip: Hammerstad 1981. Stripline: the same parallel-plate elements for each half of the line. Stated for side arms to half the main arms\u2019 cutoff of the second mode.',
  variants: [
    { id: 'tee-left', label: 'tee, side arm left', held: {}, settings: { side: 'left' } },
    { id: 'tee-right', label: 'tee, side arm right', held: {}, settings: { side: 'right' } },
    {
      id: 'tee-head',
      label: 'tee, entered from its side arm',
      held: {},
      settings: { side: 'left' },
      enter: 2,
    },
  ],
  properties: [armProperty('w1', 'Arm 1'), armProperty('w2', 'Arm 2'), armProperty('w3', 'Side arm')],
  choices: [sideChoice],
  alikePins: 'aab',
  swaps: [
    ['w1', 'w2'],
    ['bare1', 'bare2'],
    ['turns1', 'turns2'],
  ],
  pins: () => 3,

  resolve(held, { neighbour, bare }) {
    const met = ARMS.map((name, pin) => held[name]?.re ?? neighbour(pin));
    const any = met.find((w) => w !== undefined);
    // Between mounted parts alone there is no copper whose width could be told, only the place where they meet.
    if (any === undefined) return {};
    const w1 = met[0] ?? met[1] ?? any;
    const w2 = met[1] ?? w1;
    // A part mounted at the side of a line is no arm of copper.
    if (met[2] === undefined && bare(2)) return realValues({ w1, w2 });
    return realValues({ w1, w2, w3: met[2] ?? w1 });
  },
  facts(held, { neighbour, bare, turns, settings }) {
    const copper = ARMS.map((name, pin) => held[name] !== undefined || neighbour(pin) !== undefined);
    return {
      ...(bare(2) && !copper.includes(true) ? { mounted: true } : {}),
      // The arms that end in a pad of their own.
      ...(bare(0) ? { bare1: true } : {}),
      ...(bare(1) ? { bare2: true } : {}),
      ...bowsBeside(turns, sideOf(settings)),
    };
  },

  etches: Object.fromEntries(ARMS.map((name) => [name, 1])),
  widths: (values) => ARMS.map((name) => values[name]?.re),
  setbacks: (values) => {
    const [w1, w2, w3] = ARMS.map((name) => values[name]?.re ?? 0);
    return w3 === 0 ? [0, 0, 0] : [w3 / 2, w3 / 2, Math.max(w1, w2) / 2];
  },

  models: joint(3, [...ARMS, 'bare1', 'bare2', 'turns1', 'turns2'], ({ values, facts }, context) => {
    if (!values.w1) return undefined;
    const { medium, substrate } = context;
    const a = lineAt(context, values.w1.re);
    const b = lineAt(context, values.w2.re);
    if (!values.w3) return fromJunction(stepJunction(medium, substrate, a, b));
    const side = lineAt(context, values.w3.re);
    // A pad reaches from the middle to the edge of the side arm: its mounted part begins there.
    const pads = [facts.bare1, facts.bare2].map((bare) => (bare ? values.w3.re / 2 : 0));
    const widths = ARMS.map((name) => values[name].re);
    const found =
      tabled('tee', widths, context, { widths, longer: [...pads, 0] }) ??
      fromJunction(teeJunction(medium, substrate, a, b, side, pads));
    const inSeries = bowed(facts, [widths[0], widths[1]], widths[2], context);
    if (!inSeries) return found;
    return changingSlowly(
      inSeries.reduce(
        (tee, inductance, arm) =>
          attached(
            tee,
            arm,
            seriesImpedance((f, z) => ((z.re = 0), (z.im = 2 * Math.PI * f * inductance))),
            0,
          ),
        found,
      ),
    );
  }),

  artwork(values, { width, settings, facts }) {
    const side = sideOf(settings);
    const [w1, w2, w3] = ARMS.map((name, pin) => values[name]?.re ?? width(pin));
    const top = Math.max(w1, w2) / 2;
    if (facts.mounted) {
      const [a, b, c] = pinsAt(Math.PI, 0, (side * Math.PI) / 2);
      return { copper: [], pins: [a, b, { ...c, y: side * MOUNTED }] };
    }
    if (values.w1 && !values.w3) {
      // A part mounted at the side begins at the edge of the line.
      const [a, b, c] = pinsAt(Math.PI, 0, (side * Math.PI) / 2);
      return { copper: [], pins: [a, b, { ...c, y: side * top }] };
    }
    const arm = bar(0, top, w3).map(({ x, y }) => ({ x: y, y: side * x }));
    return {
      copper: [bar(-w3 / 2, 0, w1), bar(0, w3 / 2, w2), side > 0 ? arm.reverse() : arm],
      pins: pinsAt(Math.PI, 0, (side * Math.PI) / 2),
    };
  },

  review: (values, { neighbour }): PartRemark[] => armsFit(values, ARMS, neighbour),
  mirrored: (held, settings) => ({ held, settings: otherSide(settings) }),
};

export default [tee];
