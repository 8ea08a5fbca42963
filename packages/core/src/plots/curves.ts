import type { SData } from '../results';
import { QuantityError } from '../units';
import { measureOf } from './defaults';
import { parseFormula, type FormulaValues } from './formula';
import type { PlotCurve } from './measures';
import type { Roles } from './roles';

/** Roles that data with fewer ports can answer for. */
const clipped = (roles: Roles, ports: number): Roles => ({
  ports,
  outputs: roles.outputs.filter((i) => i < ports),
  isolated: roles.isolated.filter((i) => i < ports),
});

/**
 * The curves of a plot, all in one unit.
 * @throws QuantityError where a formula cannot be read or has another unit, ConversionError where a result does not exist
 */
export function plotCurves(
  { show, formulas }: { readonly show: string; readonly formulas?: readonly string[] },
  data: SData,
  roles: Roles,
  values?: FormulaValues,
): { readonly unit: string; readonly curves: readonly PlotCurve[] } {
  const measure = measureOf(show);
  if (measure) return { unit: measure.unit, curves: measure.curves(data, clipped(roles, data.ports)) };
  let unit = '';
  const curves = (formulas ?? []).map((text) => {
    const formula = parseFormula(text, values);
    unit ||= formula.unit;
    if (formula.unit !== unit)
      throw new QuantityError(`${text}: all formulas of a plot share one unit, here ${unit}`);
    return formula.curve(data);
  });
  return { unit, curves };
}

/** A limit of a plot in numbers: frequencies in Hz, the level in the plot's unit. */
export interface LimitLine {
  /** Ids of the curves it is about; absent: all of its plot. */
  readonly curves?: readonly string[];
  readonly side: 'below' | 'above' | 'at';
  readonly level: number;
  /** How far a curve may be from a level that it shall be at; absent: nothing. */
  readonly tolerance?: number;
  readonly from: number;
  readonly to: number;
}

/** Whether a limit is about a curve of its plot. */
export const concerns = (limit: Pick<LimitLine, 'curves'>, curve: string): boolean =>
  limit.curves === undefined || limit.curves.includes(curve);

/** How far a value lies beyond a limit: above zero where it is broken. Angles are at a level also full turns away. */
export function over(
  y: number,
  { side, level, tolerance = 0 }: Pick<LimitLine, 'side' | 'level' | 'tolerance'>,
  unit: string,
): number {
  if (side === 'below') return y - level;
  if (side === 'above') return level - y;
  const off = unit === 'deg' ? y - level - 360 * Math.round((y - level) / 360) : y - level;
  return Math.abs(off) - tolerance;
}

/** By how much a limit is missed, in the plot's unit, and at which frequency (Hz) that is. */
export interface Excess {
  readonly over: number;
  readonly at: number;
}

/**
 * How far a curve misses a limit at its worst, in the plot's unit: above zero where it is broken, at most zero where it
 * is kept, undefined where they do not meet.
 */
export function excess(
  { x, y }: { readonly x: ArrayLike<number>; readonly y: ArrayLike<number> },
  limit: LimitLine,
  unit: string,
): Excess | undefined {
  let worst: Excess | undefined;
  for (let k = 0; k < x.length; k++) {
    if (x[k] < limit.from || x[k] > limit.to || Number.isNaN(y[k])) continue;
    const here = over(y[k], limit, unit);
    if (!worst || here > worst.over) worst = { over: here, at: x[k] };
  }
  return worst;
}
