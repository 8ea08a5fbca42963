import { C0 } from '../../numeric';
import { formatQuantity } from '../../units';
import {
  FaceError,
  scaled,
  type PartDefinition,
  type PartValues,
  type Property,
  type ResolveContext,
} from '../contract';

/** Across a line: its impedance, or its width. */
export const across: Property = {
  id: 'across',
  faces: [
    {
      name: 'z0',
      label: 'Impedance',
      help: 'Characteristic impedance at the design frequency. The width follows from the substrate.',
      side: 'electrical',
      rule: { kind: 'impedance', min: 0, exclusive: true },
    },
    {
      name: 'width',
      label: 'Width',
      help: 'Width of the conductor. The impedance follows from the substrate.',
      side: 'physical',
      rule: { kind: 'length', min: 0, exclusive: true },
    },
  ],
};

/** Along a line: its angle, or its length. */
export const along: Property = {
  id: 'along',
  faces: [
    {
      name: 'theta',
      label: 'Electrical length',
      help: 'Phase along the line at the design frequency; a quarter wave is 90 deg. The length follows.',
      side: 'electrical',
      rule: { kind: 'angle', min: 0 },
    },
    {
      name: 'length',
      label: 'Length',
      help: 'Length along the centre line, from reference plane to reference plane: at a tee, cross or bend that is where the centre lines meet. lambda stands for the guided wavelength of this line: lambda/4 is a quarter wave.',
      side: 'physical',
      rule: { kind: 'length', min: 0 },
    },
  ],
};

/** What retuning moves: copper that differs from what the electrical face alone asks for. */
export const trims: readonly Property[] = [
  {
    id: 'trim',
    otherwise: 'none',
    adjusts: 'length',
    faces: [
      {
        name: 'trim',
        label: 'Trim',
        help: 'Added to the length of the copper, to make up for junctions and ends. The ideal level does not see it.',
        side: 'physical',
        rule: { kind: 'length' },
      },
    ],
  },
  {
    id: 'widen',
    otherwise: 'none',
    adjusts: 'width',
    faces: [
      {
        name: 'widen',
        label: 'Widening',
        help: 'Added to the width of the copper, to make up for junctions. The ideal level does not see it.',
        side: 'physical',
        rule: { kind: 'length' },
      },
    ],
  },
];

/** Width that the electrical face stands for and its guided wavelength, m. */
function plainLine(held: PartValues, context: ResolveContext): { plain: number; wavelength: number } {
  const plain = held.width ? held.width.re - (held.widen?.re ?? 0) : context.width(held.z0.re);
  if (!(plain > 0)) throw new FaceError('widen', 'is more than the whole width');
  return { plain, wavelength: C0 / (context.f0 * Math.sqrt(context.line(plain).eeff)) };
}

/** Angle, length and trim from the held ones and the guided wavelength, m. @throws FaceError */
export function resolveAlong(held: PartValues, wavelength: number) {
  const trim = held.trim?.re ?? 0;
  const turn = 2 * Math.PI;
  const length = held.length ? held.length.re : (held.theta.re / turn) * wavelength + trim;
  if (!(length >= 0)) throw new FaceError('trim', 'takes away the whole length');
  if (held.length && length < trim) throw new FaceError('trim', 'is more than the whole length');
  return {
    theta: held.theta ? held.theta.re : ((length - trim) / wavelength) * turn,
    length,
    ...(held.trim ? { trim } : {}),
  };
}

/**
 * Both faces of a length of line from the held ones. `width` and `length` are those of the copper, `z0` and `theta`
 * those of the copper without its adjustments, which is what the ideal level sees.
 */
export function resolveLine(held: PartValues, context: ResolveContext) {
  const { plain, wavelength } = plainLine(held, context);
  const width = held.width ? held.width.re : plain + (held.widen?.re ?? 0);
  if (!(width > 0)) throw new FaceError('widen', 'takes away the whole width');
  return {
    z0: held.z0 ? held.z0.re : context.line(plain).z0,
    width,
    ...resolveAlong(held, wavelength),
    ...(held.widen ? { widen: held.widen.re } : {}),
  };
}

/** Lengths that the expressions of a line's later faces may name. */
export function lineLocal(name: string, held: PartValues, context: ResolveContext): number | undefined {
  if (!held.z0 && !held.width) return undefined;
  if (name === 'lambda') return plainLine(held, context).wavelength;
  if (name === 'length' && (held.theta || held.length)) return resolveLine(held, context).length;
  return undefined;
}

const ALONG = ['theta', 'length'];

/** A quantity as a label has it. */
export const brief = (value: number, kind: 'impedance' | 'length'): string =>
  formatQuantity(value, kind, { digits: 3 });
export const sizeOf = (length: number, width: number): string =>
  `${brief(length, 'length')} \u00D7 ${brief(width, 'length')}`;

/** What every uniform length of line answers. */
export const uniform = {
  line: ({ z0, theta, width, length }: PartValues) => ({
    z0: z0.re,
    theta: theta.re,
    width: width.re,
    length: length.re,
  }),
  label: ({ z0, width, length }: PartValues) => ({
    what: brief(z0.re, 'impedance'),
    size: sizeOf(length.re, width.re),
  }),
  tells: ['z0', 'theta', 'width', 'length'].map((face) => ({ face })),
  grows: { faces: ALONG, at: (values: PartValues, share: number) => scaled(values, ALONG, share) },
} satisfies Pick<PartDefinition, 'line' | 'label' | 'tells' | 'grows'>;
