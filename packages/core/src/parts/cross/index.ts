import type { Electrical } from '../../electrical';
import { realValues, type ElectricalContext, type PartDefinition } from '../contract';
import {
  armProperty,
  armsFit,
  fromJunction,
  joint,
  lineAt,
  perHertz,
  type JunctionModel,
  type LineAtFrequency,
} from '../junction';
import { bar, pinsAt } from '../shapes';
import { TABLED, tabled } from '../tabled';
import { teeElements } from '../tee/model';
import type { Medium, Substrate } from '../../lines';

/** Arms whose widths differ by less than this share are alike. */
const ALIKE = 1e-3;

const ARMS = ['w1', 'w2', 'w3', 'w4'];

/** A cross as two tees at the same place, one for each side arm of the wider pair. */
function crossJunction(
  medium: Medium,
  substrate: Substrate,
  arms: readonly LineAtFrequency[],
): JunctionModel {
  const wide = arms[0].width + arms[1].width >= arms[2].width + arms[3].width;
  const [a, b, p, q] = wide ? [0, 1, 2, 3] : [2, 3, 0, 1];
  const first = teeElements(medium, substrate, arms[a], arms[b], arms[p]);
  const second = teeElements(medium, substrate, arms[a], arms[b], arms[q]);
  const beta = arms.map(perHertz);
  return {
    z0: arms.map((x) => x.z0),
    at(f, phase, turns) {
      const x = first(f);
      const y = second(f);
      phase[a] = -beta[a] * f * (x.da + y.da);
      phase[b] = -beta[b] * f * (x.db + y.db);
      phase[p] = -beta[p] * f * x.d2;
      phase[q] = -beta[q] * f * y.d2;
      const tilt = Math.sqrt((x.tb * y.tb) / (x.ta * y.ta));
      turns[a] = tilt;
      turns[b] = 1 / tilt;
      turns[p] = Math.sqrt(x.ta * x.tb);
      turns[q] = Math.sqrt(y.ta * y.tb);
      return x.b * x.ta * x.tb + y.b * y.ta * y.tb;
    },
  };
}

/** A cross two of whose arms in line are alike, as its table has it. */
function tabledCross(widths: readonly number[], context: ElectricalContext): Electrical | undefined {
  const order = [
    [0, 1, 2, 3],
    [2, 3, 0, 1],
  ].find(([a, b]) => Math.abs(widths[a] - widths[b]) <= ALIKE * widths[a]);
  if (!order) return undefined;
  const [through, , left, right] = order.map((pin) => widths[pin]);
  return tabled('cross', [through, left, right], context, { widths: [through, through, left, right], order });
}

/** A cross: four arms at right angles. */
export const cross: PartDefinition = {
  kind: 'cross',
  field: 'copper',
  name: 'cross',
  group: 'junction',
  fits: true,
  about:
    'Four arms at right angles. Lengths are measured to where the centre lines meet. Ideal: the four pins are joined. Modelled: as its copper is solved where two arms in line are alike, otherwise two tees at the same place, one for each arm that leaves the wider pair.',
  source:
    TABLED +
    'The tee of Hammerstad 1981 taken for both side arms; the coupling between the two side arms\u2019 own fields is left out.',
  variants: [{ id: 'cross', label: 'cross', held: {} }],
  properties: [
    armProperty('w1', 'Arm 1'),
    armProperty('w2', 'Arm 2, opposite'),
    armProperty('w3', 'Arm 3, left'),
    armProperty('w4', 'Arm 4, right'),
  ],
  alikePins: 'aaaa',
  pins: () => 4,

  resolve(held, { neighbour }) {
    const met = ARMS.map((name, pin) => held[name]?.re ?? neighbour(pin));
    const any = met.find((w) => w !== undefined);
    if (any === undefined) return {};
    const opposite = [1, 0, 3, 2];
    return realValues(Object.fromEntries(ARMS.map((name, i) => [name, met[i] ?? met[opposite[i]] ?? any])));
  },

  etches: Object.fromEntries(ARMS.map((name) => [name, 1])),
  widths: (values) => ARMS.map((name) => values[name]?.re),
  setbacks(values) {
    const [w1, w2, w3, w4] = ARMS.map((name) => values[name]?.re ?? 0);
    const across = Math.max(w1, w2) / 2;
    const upright = Math.max(w3, w4) / 2;
    return [upright, upright, across, across];
  },

  models: joint(4, ARMS, ({ values }, context) => {
    if (!values.w1) return undefined;
    const widths = ARMS.map((name) => values[name].re);
    return (
      tabledCross(widths, context) ??
      fromJunction(
        crossJunction(
          context.medium,
          context.substrate,
          widths.map((w) => lineAt(context, w)),
        ),
      )
    );
  }),

  artwork(values, { width }) {
    const [w1, w2, w3, w4] = ARMS.map((name, pin) => values[name]?.re ?? width(pin));
    const across = Math.max(w1, w2) / 2;
    const upright = Math.max(w3, w4) / 2;
    const turned = (polygon: { x: number; y: number }[]) => polygon.map(({ x, y }) => ({ x: -y, y: x }));
    return {
      copper: [
        bar(-upright, 0, w1),
        bar(0, upright, w2),
        turned(bar(0, across, w3)),
        turned(bar(-across, 0, w4)),
      ],
      pins: pinsAt(Math.PI, 0, Math.PI / 2, -Math.PI / 2),
    };
  },

  review: (values, { neighbour }) => armsFit(values, ARMS, neighbour),
};

export default [cross];
