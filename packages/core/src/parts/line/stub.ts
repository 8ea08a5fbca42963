import { C0 } from '../../numeric';
import { changingSlowly, fromReflection } from '../../electrical';
import { linePoint } from '../../lines';
import { realValues, type ElectricalContext, type PartDefinition, type PartValues } from '../contract';
import { bar } from '../shapes';
import { across, along, lineLocal, resolveLine, trims, uniform } from './properties';

/** Reflection at the far end of a stub: fills re and im for `f` and the stub's impedance there. */
export type StubEnd = (f: number, z0: number, out: { re: number; im: number }) => void;

/** What open and shorted stubs have in common: a line that ends. */
export const stub = (
  own: Pick<PartDefinition, 'kind' | 'field' | 'name' | 'about' | 'source' | 'variants'> & {
    readonly properties?: PartDefinition['properties'];
    readonly extra?: (held: PartValues) => Readonly<Record<string, number>>;
    readonly ideal: 1 | -1;
    /** The end as it is modelled, with what it reads besides width and length. */
    readonly endReads?: readonly string[];
    readonly end: (values: PartValues, context: ElectricalContext) => StubEnd;
    readonly body?: (values: PartValues) => { x: number; y: number }[][];
  },
): PartDefinition => ({
  kind: own.kind,
  field: own.field,
  name: own.name,
  about: own.about,
  source: own.source,
  variants: own.variants,
  group: 'stub',
  properties: [across, along, ...trims, ...(own.properties ?? [])],
  pins: () => 1,
  local: lineLocal,
  resolve: (held, context) => realValues({ ...resolveLine(held, context), ...own.extra?.(held) }),
  etches: own.ideal === 1 ? { width: 1, length: 0.5 } : { width: 1 },
  widths: (values) => [values.width.re],
  ...uniform,
  grows: {
    ...uniform.grows,
    // It shows no susceptance at whole halves of a wave where it ends open, a quarter further where it is shorted; from
    // the length nearest to its own the arc goes the short way.
    beginning({ theta }) {
      if (!(theta?.re > 1e-6)) return 0;
      const halves = theta.re / Math.PI;
      return (own.ideal === 1 ? Math.round(halves) : Math.floor(halves) + 0.5) / halves;
    },
  },
  models: {
    ideal: {
      reads: ['z0', 'theta'],
      electrical({ values }, context) {
        const z0 = values.z0.re;
        const turn = (-2 * values.theta.re) / context.f0;
        return fromReflection((f, out) => {
          out.z0 = z0;
          out.re = own.ideal * Math.cos(turn * f);
          out.im = own.ideal * Math.sin(turn * f);
        });
      },
    },
    modelled: {
      reads: ['width', 'length', ...(own.endReads ?? [])],
      electrical({ values }, context) {
        const prepared = context.section('strip', values.width.re);
        const length = values.length.re;
        const end = own.end(values, context);
        const point = linePoint();
        const points = [point];
        const k = (4 * Math.PI * length) / C0;
        const far = { re: 0, im: 0 };
        const seen = fromReflection((f, out) => {
          prepared.at(f, points);
          end(f, point.z0, far);
          const size = Math.exp(-2 * (point.alphaConductor + point.alphaDielectric) * length);
          const turn = k * f * Math.sqrt(point.eeff);
          const c = size * Math.cos(turn);
          const s = -size * Math.sin(turn);
          out.z0 = point.z0;
          out.re = far.re * c - far.im * s;
          out.im = far.re * s + far.im * c;
        });
        return changingSlowly(seen);
      },
    },
  },
  artwork(values, { setback }) {
    const length = values.length.re;
    return {
      copper: [bar(Math.min(setback(0), length), length, values.width.re)],
      body: own.body?.(values),
      centre: [
        { x: 0, y: 0 },
        { x: length, y: 0 },
      ],
      pins: [{ x: 0, y: 0, angle: Math.PI }],
    };
  },
});
