import { toAdmittance, toImpedance, type SData } from '../results';
import {
  checkQuantity,
  describeDimension,
  parseExpression,
  quantityKinds,
  QuantityError,
  real,
  sameDimension,
  type Quantity,
  type Scope,
} from '../units';
import { groupDelay, type PlotCurve } from './measures';
import { entryOf } from '../results';

/** A formula on results, ready to be drawn: `quantity in unit`. */
export interface Formula {
  readonly text: string;
  readonly unit: string;
  /** @throws QuantityError where the formula asks for a port that is not there */
  curve(data: SData): PlotCurve;
}

const NAME = /^([SYZsyz])(\d)(\d)$|^([SYZsyz])(\d+)_(\d+)$/;

const DIMENSIONS = {
  S: quantityKinds.number.dimension,
  Y: quantityKinds.admittance.dimension,
  Z: quantityKinds.impedance.dimension,
};
const PROBE = { re: 0.37, im: 0.22 };

/** Ports and kind that a name such as `S21` or `Z10_2` stands for. */
function entryNamed(name: string): { kind: 'S' | 'Y' | 'Z'; i: number; j: number } | undefined {
  const m = NAME.exec(name);
  if (!m) return undefined;
  return {
    kind: (m[1] ?? m[4]).toUpperCase() as 'S' | 'Y' | 'Z',
    i: Number(m[2] ?? m[5]) - 1,
    j: Number(m[3] ?? m[6]) - 1,
  };
}

/** What a unit asks of the quantity before it, and how the number is taken from it. */
function reader(unit: string): (q: Quantity) => number {
  if (unit === 'dB' || unit === 'deg' || unit === 'rad')
    return (q) => {
      if (!sameDimension(q.dimension, quantityKinds.number.dimension)) {
        if (unit !== 'dB' && sameDimension(q.dimension, quantityKinds.angle.dimension))
          return q.re * (unit === 'deg' ? 180 / Math.PI : 1);
        throw new QuantityError(`${unit} needs a ratio, not ${describeDimension(q.dimension)}`);
      }
      if (unit === 'dB') return Math.max(-400, 10 * Math.log10(q.re * q.re + q.im * q.im));
      const angle = Math.atan2(q.im, q.re);
      return unit === 'deg' ? (angle * 180) / Math.PI : angle;
    };
  const one: Quantity =
    unit === '1' || unit === '%' ? real(unit === '%' ? 0.01 : 1) : parseExpression(`1 ${unit}`).evaluate();
  return (q) => {
    if (!sameDimension(q.dimension, one.dimension))
      throw new QuantityError(
        `"${unit}" is the unit of ${describeDimension(one.dimension)}, and this is ${describeDimension(q.dimension)}`,
      );
    if (Math.abs(q.im) > 1e-9 * Math.max(1e-300, Math.abs(q.re)))
      throw new QuantityError('is complex; say re(), im() or abs() of it, or ask for dB or deg');
    return q.re / one.re;
  };
}

/** Named values of the design that a formula belongs to. */
export type FormulaValues = ReadonlyMap<string, Quantity>;
const NO_VALUES: FormulaValues = new Map();

/**
 * Reads a formula on results: an expression of S-, Y- and Z-parameters (`S21`, `Z11`, `S31/S21`, with `_` between
 * port numbers above 9; small letters do), `freq` and the design's named values, `in`, and a unit. Delay is asked for
 * as `delay(S21) in ns`.
 * @throws QuantityError in words
 */
export function parseFormula(text: string, values: FormulaValues = NO_VALUES): Formula {
  const at = text.lastIndexOf(' in ');
  if (at < 0) throw new QuantityError('needs its unit behind "in", for example S21 in dB or S31/S21 in deg');
  const unit = text.slice(at + 4).trim();
  const body = text.slice(0, at).trim();
  if (unit === '') throw new QuantityError('needs a unit behind "in"');
  const delay = /^delay\(\s*(S\d+_?\d+)\s*\)$/i.exec(body);
  const expression = delay ? undefined : parseExpression(body);
  const read = reader(unit);
  for (const name of expression?.names ?? []) {
    if (name === 'freq' || values.has(name) || entryNamed(name)) continue;
    throw new QuantityError(
      `"${name}" is no result and no named value of this design; there are S, Y and Z with two port numbers, as S21, and freq`,
    );
  }
  // Any values show whether the dimensions fit and whether a complex result is asked for as a number.
  if (expression)
    read(
      expression.evaluate({
        value: (name) =>
          name === 'freq'
            ? real(1e9, quantityKinds.frequency.dimension)
            : (values.get(name) ?? { ...PROBE, dimension: DIMENSIONS[entryNamed(name)!.kind] }),
      }),
    );
  if (delay) checkQuantity(parseExpression(`1 ${unit}`).evaluate(), { kind: 'time' });
  return {
    text,
    unit,
    curve(data) {
      const n = data.ports;
      const check = (e: { i: number; j: number }) => {
        if (e.i < 0 || e.j < 0 || e.i >= n || e.j >= n)
          throw new QuantityError(
            `asks for port ${Math.max(e.i, e.j) + 1}, and the network has ${n === 1 ? 'one port' : `${n} ports`}`,
          );
      };
      if (delay) {
        const e = entryNamed(delay[1]);
        if (!e) throw new QuantityError(`"${delay[1]}" is no result`);
        check(e);
        const scale = parseExpression(`1 ${unit}`).evaluate().re;
        return {
          id: text,
          label: body,
          y: groupDelay(entryOf(data, e.i, e.j)).map((t) => t / scale),
        };
      }
      const used = expression!.names.flatMap((name) => (values.has(name) ? [] : (entryNamed(name) ?? [])));
      used.forEach(check);
      const matrices = {
        S: { re: data.re, im: data.im },
        Y: used.some((e) => e.kind === 'Y') ? toAdmittance(data) : undefined,
        Z: used.some((e) => e.kind === 'Z') ? toImpedance(data) : undefined,
      };
      let k = 0;
      const scope: Scope = {
        value(name) {
          if (name === 'freq') return real(data.freq[k], quantityKinds.frequency.dimension);
          const own = values.get(name);
          if (own) return own;
          const e = entryNamed(name);
          const m = e && matrices[e.kind];
          if (!m) return undefined;
          const p = (k * n + e.i) * n + e.j;
          return { re: m.re[p], im: m.im[p], dimension: DIMENSIONS[e.kind] };
        },
      };
      const y = new Float64Array(data.freq.length);
      let failure: unknown;
      let drawn = 0;
      for (; k < y.length; k++) {
        try {
          y[k] = read(expression!.evaluate(scope));
          drawn++;
        } catch (error) {
          // A point where the value does not exist leaves a hole; a formula that never does is wrong.
          if (!(error instanceof QuantityError)) throw error;
          y[k] = NaN;
          failure ??= error;
        }
      }
      if (drawn === 0 && failure) throw failure as QuantityError;
      return { id: text, label: body, y };
    },
  };
}
