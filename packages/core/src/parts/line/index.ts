import { uniformLine } from '../../electrical';
import {
  FaceError,
  negated,
  realValues,
  valueOf,
  type PartDefinition,
  type PartValues,
  type Property,
} from '../contract';
import { turnsBeyond, turnsIn, withCurve } from '../curve';
import { along as placeAlong, strip, type Course } from '../shapes';
import { across, along, lineLocal, resolveLine, trims, uniform } from './properties';

const course: readonly Property[] = [
  {
    id: 'turn',
    otherwise: 'straight',
    faces: [
      {
        name: 'turn',
        label: 'Turn',
        help: 'Angle by which the line curves along its length, counter-clockwise; negative turns clockwise. The length stays that of the centre line. "length" may be used in it.',
        side: 'physical',
        rule: { kind: 'angle', min: -2 * Math.PI, max: 2 * Math.PI },
      },
    ],
  },
  {
    id: 'radius',
    otherwise: 'whole length',
    faces: [
      {
        name: 'radius',
        label: 'Radius',
        help: 'Radius of the arc\u2019s centre line. With a turn the rest of the length is straight; without one the whole length is an arc of this radius (negative: clockwise).',
        side: 'physical',
        rule: { kind: 'length' },
      },
    ],
  },
  {
    id: 'lead',
    otherwise: 'half the rest',
    faces: [
      {
        name: 'lead',
        label: 'Straight before the arc',
        help: 'Length of centre line before the arc begins.',
        side: 'physical',
        rule: { kind: 'length', min: 0 },
      },
    ],
  },
];

/** The course that turn, radius and lead give a line of `length`. @throws FaceError */
function courseOf(values: PartValues, length: number): Course {
  const radius = values.radius?.re;
  let turn = values.turn?.re ?? 0;
  const lead = values.lead?.re;
  if (radius !== undefined && radius === 0) throw new FaceError('radius', 'must not be zero');
  if (lead !== undefined && lead > length) throw new FaceError('lead', 'is longer than the line');
  if (values.turn === undefined && radius !== undefined) turn = (length - (lead ?? 0)) / radius;
  if (Math.abs(turn) > 2 * Math.PI + 1e-9)
    throw new FaceError(
      values.turn ? 'turn' : 'radius',
      'turns the line by more than a full circle onto itself',
    );
  if (turn === 0) return { lead: length, turn: 0, arc: 0, length };
  const arc =
    radius !== undefined && values.turn ? Math.abs(radius * turn) : length - Math.min(lead ?? 0, length);
  const straight = length - arc;
  if (straight < -1e-12)
    throw new FaceError('radius', 'makes an arc longer than the line; a smaller radius or turn fits');
  const before = lead ?? Math.max(0, straight) / 2;
  if (before > straight + 1e-12)
    throw new FaceError('lead', 'leaves no room for the arc; a shorter one fits');
  return { lead: before, turn, arc, length };
}

/** The course of a line as it is worked out. */
function courseIn(values: PartValues): Course {
  const length = values.length.re;
  const turn = valueOf(values, 'turn');
  if (turn === 0) return { lead: length, turn, arc: 0, length };
  return { lead: valueOf(values, 'lead'), turn, arc: Math.abs(valueOf(values, 'radius') * turn), length };
}

/** A uniform line: impedance and electrical length at the design frequency, or width and length; straight or curved. */
export const line: PartDefinition = {
  kind: 'line',
  field: 'copper',
  name: 'line',
  group: 'line',
  about:
    'A uniform length of transmission line, straight or curved. Ideal: lossless and free of dispersion, with its impedance and electrical length at the design frequency. ' +
    'Modelled: the cross-section with dispersion, conductor and dielectric loss; a curve counts as shorter than its centre line and of less impedance.',
  source:
    'Curves: field solution of the copper, in a table over width, radius (from 0.8 of width and height together), permittivity and lid. Beyond it: the length of the centre line.',
  variants: [
    { id: 'line', label: 'line', held: { z0: '50 ohm', theta: '90 deg' } },
    {
      id: 'arc',
      label: 'curved line',
      held: { z0: '50 ohm', theta: '90 deg', turn: '90 deg' },
    },
  ],
  properties: [across, along, ...trims, ...course],
  pins: () => 2,
  local: lineLocal,

  resolve(held, context) {
    const values = resolveLine(held, context);
    const shape = courseOf(held, values.length);
    return {
      ...realValues(values),
      ...(held.turn || held.radius ? realValues({ turn: shape.turn }) : {}),
      ...(shape.turn === 0 ? {} : realValues({ radius: shape.arc / shape.turn, lead: shape.lead })),
    };
  },

  facts(held, context) {
    if (!held.turn && !held.radius) return {};
    const { turn } = courseOf(held, resolveLine(held, context).length);
    return turn === 0 ? {} : turnsBeyond(context.turns, Math.sign(turn));
  },

  way(values, _settings, pin) {
    const { lead, turn, arc, length } = courseIn(values);
    if (turn === 0) return { length, turns: [] };
    const from = pin === 0 ? lead : length - lead - arc;
    return { length, turns: [{ from, to: from + arc, angle: pin === 0 ? turn : -turn, isArc: true }] };
  },

  etches: { width: 1 },
  widths: (values) => [values.width.re, values.width.re],
  ...uniform,

  models: {
    ideal: {
      reads: ['z0', 'theta'],
      electrical({ values }, context) {
        const z0 = values.z0.re;
        const perHertz = values.theta.re / context.f0;
        return uniformLine((f, out) => {
          out.z0 = z0;
          out.alpha = 0;
          out.beta = perHertz * f;
        });
      },
    },
    modelled: {
      reads: ['width', 'length', 'turn', 'radius', 'lead', 'turns1', 'turns2'],
      electrical({ values, facts }, context) {
        const { lead, arc, length } = courseIn(values);
        return withCurve(
          {
            width: values.width.re,
            radius: Math.abs(valueOf(values, 'radius')),
            arc,
            lead,
            tail: length - lead - arc,
            beyond: turnsIn(facts),
          },
          context,
        );
      },
    },
  },

  artwork(values, context) {
    const shape = courseIn(values);
    const { lead, turn, arc, length } = shape;
    // A curve is drawn on into the junction, whose straight arm would leave a notch beside it.
    const tail = turn === 0 ? length : length - lead - arc;
    const from = Math.min(context.setback(0), lead, length);
    const to = Math.max(from, length - Math.min(context.setback(1), Math.max(0, tail)));
    const steps = turn === 0 ? 1 : 24;
    return {
      copper: strip(shape, from, to, values.width.re, values.width.re, context.chord),
      centre: Array.from({ length: steps + 1 }, (_, i) => placeAlong(shape, (length * i) / steps)),
      pins: [{ x: 0, y: 0, angle: Math.PI }, placeAlong(shape, length)],
    };
  },

  review(values, context) {
    const covered = context.setback(0) + context.setback(1);
    const remarks = [];
    if (values.length.re < covered)
      remarks.push({
        face: 'length',
        message:
          'is shorter than the junctions at its ends reach into it, so their models overlap. A longer line or narrower arms keep them apart.',
      });
    const radius = Math.abs(valueOf(values, 'radius', Infinity));
    if (radius < values.width.re)
      remarks.push({
        face: 'radius',
        message:
          'curves with a radius below its width, where it no longer behaves as a straight line. A larger radius keeps it one.',
      });
    return remarks;
  },

  mirrored: (held, settings) => ({
    held: {
      ...held,
      ...(held.turn === undefined
        ? held.radius === undefined
          ? {}
          : { radius: negated(held.radius) }
        : { turn: negated(held.turn) }),
    },
    settings,
  }),
};

export default [line];
