import { realValues, type PartDefinition } from '../contract';
import { armProperty, armsFit, joint, lineAt } from '../junction';
import { pinsAt } from '../shapes';
import { TABLED } from '../tabled';
import { knowsBoard } from '../../junctions';
import { stepBetween } from './model';

const ARMS = ['w1', 'w2'];

/** A step in width between two lines. */
export const step: PartDefinition = {
  kind: 'step',
  field: 'copper',
  name: 'step',
  group: 'junction',
  fits: true,
  point: true,
  about:
    'Where a wide line goes over into a narrow one. Ideal: nothing. Modelled: the inductance of the current that crowds together and the capacitance of the wide line\u2019s edge.',
  source:
    TABLED +
    'Inductance: Altschuler & Oliner 1960, by the plate model (Wolff, Kompa & Mehran 1972) also for microstrip; its edge: Hammerstad 1981. For plates narrower than half a wavelength.',
  variants: [{ id: 'step', label: 'step in width', held: {} }],
  properties: [armProperty('w1', 'First width'), armProperty('w2', 'Second width')],
  pins: () => 2,
  alikePins: 'aa',

  resolve(held, { neighbour }) {
    const w1 = held.w1?.re ?? neighbour(0);
    const w2 = held.w2?.re ?? neighbour(1);
    const any = w1 ?? w2;
    return any === undefined ? {} : realValues({ w1: w1 ?? any, w2: w2 ?? any });
  },

  etches: Object.fromEntries(ARMS.map((name) => [name, 1])),
  widths: (values) => ARMS.map((name) => values[name]?.re),

  way: () => ({ length: 0, turns: [] }),

  models: joint(2, ARMS, ({ values }, context) => {
    if (!values.w1) return undefined;
    const [a, b] = ARMS.map((name) => lineAt(context, values[name].re));
    return stepBetween(context, a, b);
  }),

  artwork: () => ({ copper: [], pins: pinsAt(Math.PI, 0) }),

  review(values, { neighbour, medium, substrate }) {
    const [w1, w2] = ARMS.map((name) => values[name]?.re ?? 0);
    const ratio = Math.max(w1, w2) / Math.min(w1, w2);
    const most = knowsBoard(medium.id, substrate) ? 33 : 6;
    return [
      ...armsFit(values, ARMS, neighbour),
      ...(ratio > most
        ? [
            {
              face: 'w1',
              message: `a step of ${Number(ratio.toPrecision(2))} to 1 is more than its model was tried for (${most} to 1); the field of so wide a line no longer belongs to one junction.`,
            },
          ]
        : []),
    ];
  },
};

export default [step];
