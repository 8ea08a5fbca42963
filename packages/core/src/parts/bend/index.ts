import { fromScattering } from '../../electrical';
import {
  FaceError,
  realValues,
  valueOf,
  type PartDefinition,
  type PartRemark,
  type Point,
} from '../contract';
import { armProperty, joint, lineAt, mm, otherSide, perHertz, sideChoice, sideOf } from '../junction';
import { withCurve } from '../curve';
import { strip } from '../shapes';
import { TABLED, tabled } from '../tabled';
import { bendElements } from './model';

const RIGHT = Math.PI / 2;

/** How much of each arm a bend covers, m. */
function covered(width: number, radius: number, angle: number, shape: string | undefined): number {
  return (shape === 'curved' ? radius : width / 2) * Math.tan(angle / 2);
}

/** A change of direction: square, mitred or curved. */
export const bend: PartDefinition = {
  kind: 'bend',
  field: 'copper',
  name: 'bend',
  group: 'junction',
  fits: true,
  about:
    'A change of direction between two lines of the same width. Lengths are measured along the centre lines to the corner. Ideal: nothing. ' +
    'Modelled: a square or mitred corner is an inductance and a capacitance between planes at the inner corner; a curve is the line along its arc, which counts as shorter and of less impedance.',
  source:
    TABLED +
    'Microstrip: Kirschning, Jansen & Koster 1983 (right angles, w/h 0.2 to 6, er 2.36 to 10.4; other angles in proportion). Stripline: Altschuler & Oliner 1960; a mitred corner there is taken as free of reflection.',
  variants: (['mitred', 'square', 'curved'] as const).flatMap((shape) =>
    (['left', 'right'] as const).map((side) => ({
      id: `bend-${shape}-${side}`,
      label: `${shape} bend, ${side}`,
      held: {},
      settings: { shape, side },
    })),
  ),
  properties: [
    armProperty('width', 'Width'),
    {
      id: 'angle',
      otherwise: 'a right angle',
      faces: [
        {
          name: 'angle',
          label: 'Angle',
          help: 'Angle by which the direction changes. The models of corners were stated for 90 deg.',
          side: 'physical',
          rule: { kind: 'angle', min: 0, max: (170 / 180) * Math.PI },
        },
      ],
    },
    {
      id: 'radius',
      otherwise: 'twice the width',
      faces: [
        {
          name: 'radius',
          label: 'Radius',
          help: 'Radius of a curved bend\u2019s centre line. Square and mitred corners do not use it.',
          side: 'physical',
          rule: { kind: 'length', min: 0, exclusive: true },
        },
      ],
    },
  ],
  choices: [
    {
      name: 'shape',
      label: 'Corner',
      help: 'Square keeps the whole corner, mitred cuts half of its diagonal, curved follows an arc.',
      options: [
        { id: 'mitred', label: 'mitred' },
        { id: 'square', label: 'square' },
        { id: 'curved', label: 'curved' },
      ],
    },
    { ...sideChoice, help: 'The side to which the line turns, seen from its first pin.' },
  ],
  pins: () => 2,
  alikePins: 'aa',

  resolve(held, { neighbour }) {
    const width = held.width?.re ?? neighbour(0) ?? neighbour(1);
    const angle = held.angle?.re ?? RIGHT;
    if (width === undefined) return realValues({ angle });
    const radius = held.radius?.re ?? 2 * width;
    if (radius < width / 2) throw new FaceError('radius', 'must be at least half the width');
    return realValues({ width, angle, radius });
  },

  etches: { width: 1 },
  follows: { radius: 'width' },
  widths: (values) => [values.width?.re, values.width?.re],
  setbacks(values, settings) {
    const d = covered(valueOf(values, 'width'), valueOf(values, 'radius'), values.angle.re, settings.shape);
    return [d, d];
  },

  corner: ({ angle }, settings) =>
    settings.shape === 'curved'
      ? undefined
      : { angle: sideOf(settings) * angle.re, isMitred: settings.shape !== 'square' },

  way(values, settings, pin) {
    const angle = sideOf(settings) * values.angle.re * (pin === 0 ? 1 : -1);
    if (settings.shape !== 'curved' || !values.radius)
      return { length: 0, turns: [{ from: 0, to: 0, angle }] };
    // The lines beside it reach to its corner.
    const arc = values.radius.re * values.angle.re;
    const from = -covered(valueOf(values, 'width'), values.radius.re, values.angle.re, settings.shape);
    return { length: arc + 2 * from, turns: [{ from, to: from + arc, angle }] };
  },

  models: joint(2, ['width', 'angle', 'radius', 'shape'], ({ values, settings }, context) => {
    if (!values.width) return undefined;
    const line = lineAt(context, values.width.re);
    const angle = values.angle.re;
    const beta = perHertz(line);
    if (settings.shape === 'curved') {
      const radius = values.radius.re;
      // The arms' lengths reach to the corner.
      const taken = -covered(line.width, radius, angle, settings.shape);
      return withCurve(
        { width: line.width, radius, arc: radius * angle, lead: taken, tail: taken, isLossless: true },
        context,
      );
    }
    const { width } = line;
    const shape = settings.shape === 'square' ? 'square' : 'mitred';
    const widths = [width, width];
    const found =
      Math.abs(angle - RIGHT) < 1e-6
        ? tabled(`${shape}-bend`, [width], context, { widths })
        : tabled(`${shape}-corner`, [width, angle / RIGHT], context, { widths });
    if (found) return found;
    const { l, c, plane } = bendElements(
      context.medium,
      context.substrate,
      line,
      angle,
      settings.shape !== 'square',
    );
    return fromScattering(
      2,
      [
        { re: line.z0, im: 0 },
        { re: line.z0, im: 0 },
      ],
      (f, re, im) => {
        const w = 2 * Math.PI * f;
        // T of L/2, C, L/2: A = D = 1 - x/2, B = jwL (1 - x/4), C = jwC with x = w^2 L C.
        const x = w * w * l * c;
        const b = (w * l * (1 - x / 4)) / line.z0;
        const g = w * c * line.z0;
        const dr = 2 - x;
        const di = b + g;
        const q = 1 / (dr * dr + di * di);
        const turn = 2 * beta * f * plane;
        const cs = Math.cos(turn);
        const sn = Math.sin(turn);
        const put = (at: number, nr: number, ni: number) => {
          const sr = (nr * dr + ni * di) * q;
          const si = (ni * dr - nr * di) * q;
          re[at] = sr * cs - si * sn;
          im[at] = sr * sn + si * cs;
        };
        put(0, 0, b - g);
        put(1, 2, 0);
        re[3] = re[0];
        im[3] = im[0];
        re[2] = re[1];
        im[2] = im[1];
      },
    );
  }),

  artwork(values, { width: given, met, settings, chord }) {
    const side = sideOf(settings);
    const width = values.width?.re ?? given(0);
    const angle = values.angle.re;
    const radius = valueOf(values, 'radius', 2 * width);
    const d = covered(width, radius, angle, settings.shape);
    const pins = [
      { x: 0, y: 0, angle: Math.PI },
      { x: 0, y: 0, angle: side * angle },
    ];
    const h = width / 2;
    if (settings.shape === 'curved') {
      const arc = radius * angle;
      return {
        copper: strip({ lead: 0, turn: side * angle, arc, length: arc }, 0, arc, width, width, chord).map(
          (polygon) => polygon.map(({ x, y }) => ({ x: x - d, y })),
        ),
        pins,
      };
    }
    // Corners of the bend turning left: in at -d, out at d along the new direction.
    const c = Math.cos(angle);
    const s = Math.sin(angle);
    const inner: Point = { x: -h * Math.tan(angle / 2), y: h };
    const outer: Point = { x: h * Math.tan(angle / 2), y: -h };
    const start: Point = { x: -d, y: -h };
    const end: Point = { x: d * c + h * s, y: d * s - h * c };
    // A cut that is wider than the line behind it would leave a tip there.
    const [h0, h1] = [0, 1].map((pin) => Math.min(width, met(pin) ?? width) / 2);
    const polygon =
      settings.shape === 'square'
        ? [start, outer, end, inner]
        : Math.min(h0, h1) === h || angle === 0
          ? [start, end, inner]
          : [
              { x: -d, y: -h0 },
              { x: d * c + h1 * s, y: d * s - h1 * c },
              { x: d * c - h1 * s, y: d * s + h1 * c },
              { x: (h0 * c - h1) / s, y: h0 },
              { x: -d, y: h0 },
            ];
    const placed = polygon.map(({ x, y }) => ({ x, y: side * y }));
    return { copper: [side > 0 ? placed : placed.reverse()], pins };
  },

  review(_values, { neighbour }): PartRemark[] {
    const [a, b] = [neighbour(0), neighbour(1)];
    if (a === undefined || b === undefined || Math.abs(a - b) <= 1e-3 * a) return [];
    return [
      {
        face: 'width',
        message: `joins lines of ${mm(a)} and ${mm(b)}; a bend turns one width. A step beside it fits them.`,
      },
    ];
  },
  mirrored: (held, settings) => ({ held, settings: otherSide(settings) }),
};

export default [bend];
