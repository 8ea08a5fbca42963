import { C0 } from '../../numeric';
import { fromReflection } from '../../electrical';
import { linePoint } from '../../lines';
import { realValues, type ElectricalContext, type PartDefinition, type PartValues } from '../contract';
import { bar } from '../shapes';
import { across, along, lineLocal, resolveLine, trims } from './properties';

/** Reflection at the far end of a stub: fills re and im for `f` and the stub's impedance there. */
export type StubEnd = (f: number, z0: number, out: { re: number; im: number }) => void;

/** What open and shorted stubs have in common: a line that ends. */
export const stub = (
  own: Pick<PartDefinition, 'kind' | 'name' | 'about' | 'source' | 'variants'> & {
    readonly properties?: PartDefinition['properties'];
    readonly extra?: (held: PartValues) => Readonly<Record<string, number>>;
    readonly ideal: 1 | -1;
    /** The end at the modelled level. */
    readonly end: (values: PartValues, context: ElectricalContext) => StubEnd;
    readonly body?: (values: PartValues) => { x: number; y: number }[][];
  },
): PartDefinition => ({
  kind: own.kind,
  name: own.name,
  about: own.about,
  source: own.source,
  variants: own.variants,
  group: 'stub',
  carries: 'line',
  properties: [across, along, ...trims, ...(own.properties ?? [])],
  pins: () => 1,
  local: lineLocal,
  resolve: (held, context) => realValues({ ...resolveLine(held, context), ...own.extra?.(held) }),
  widths: (values) => [values.width.re],
  electrical(values, _settings, level, context) {
    if (level === 'ideal') {
      const z0 = values.z0.re;
      const turn = (-2 * values.theta.re) / context.f0;
      return fromReflection((f, out) => {
        out.z0 = z0;
        out.re = own.ideal * Math.cos(turn * f);
        out.im = own.ideal * Math.sin(turn * f);
      });
    }
    const prepared = context.section('strip', values.width.re);
    const length = values.length.re;
    const end = own.end(values, context);
    const point = linePoint();
    const points = [point];
    const k = (4 * Math.PI * length) / C0;
    const far = { re: 0, im: 0 };
    return fromReflection((f, out) => {
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
