import type { QuantityKind } from './dimension';

const THIN = '\u2009';
const MINUS = '\u2212';

/** Engineering units per kind, ascending: [factor, unit, unit as typed]. */
const scales: Readonly<Partial<Record<QuantityKind, readonly (readonly [number, string, string])[]>>> = {
  length: [
    [1e-9, 'nm', 'nm'],
    [1e-6, '\u00B5m', 'um'],
    [1e-3, 'mm', 'mm'],
    [1, 'm', 'm'],
  ],
  frequency: [
    [1, 'Hz', 'Hz'],
    [1e3, 'kHz', 'kHz'],
    [1e6, 'MHz', 'MHz'],
    [1e9, 'GHz', 'GHz'],
    [1e12, 'THz', 'THz'],
  ],
  impedance: [
    [1e-3, 'm\u03A9', 'mohm'],
    [1, '\u03A9', 'ohm'],
    [1e3, 'k\u03A9', 'kohm'],
    [1e6, 'M\u03A9', 'Mohm'],
  ],
  admittance: [
    [1e-6, '\u00B5S', 'uS'],
    [1e-3, 'mS', 'mS'],
    [1, 'S', 'S'],
  ],
  capacitance: [
    [1e-15, 'fF', 'fF'],
    [1e-12, 'pF', 'pF'],
    [1e-9, 'nF', 'nF'],
    [1e-6, '\u00B5F', 'uF'],
  ],
  inductance: [
    [1e-12, 'pH', 'pH'],
    [1e-9, 'nH', 'nH'],
    [1e-6, '\u00B5H', 'uH'],
  ],
  conductivity: [[1, 'S/m', 'S/m']],
  time: [
    [1e-12, 'ps', 'ps'],
    [1e-9, 'ns', 'ns'],
    [1e-6, '\u00B5s', 'us'],
    [1, 's', 's'],
  ],
  angle: [[Math.PI / 180, '\u00B0', 'deg']],
  level: [[1, 'dB', 'dB']],
};

/** The units in which a page shows lengths. */
export type LengthUnit = 'mm' | 'mil';

const MIL: readonly (readonly [number, string, string])[] = [[25.4e-6, 'mil', 'mil']];
let lengths: LengthUnit = 'mm';

/** Chooses how lengths are written from now on. Values that were typed stay as they were typed. */
export function showLengthsIn(unit: LengthUnit): void {
  lengths = unit;
}

/** The unit in which lengths are written, and its size in m. */
export const lengthUnit = (): { readonly unit: LengthUnit; readonly size: number } => ({
  unit: lengths,
  size: lengths === 'mil' ? 25.4e-6 : 1e-3,
});

/** Units of a kind, ascending. */
const unitsOf = (kind: QuantityKind) => (kind === 'length' && lengths === 'mil' ? MIL : scales[kind]);

export interface FormatOptions {
  /** Significant digits (default 4). */
  readonly digits?: number;
  /** Plain text that can be typed back (`0.508 mm`) instead of typography. */
  readonly typed?: boolean;
}

/** A number in significant digits, without trailing zeros, with a real minus sign unless `typed`. */
export function formatNumber(x: number, digits = 4, typed = false): string {
  if (Number.isNaN(x)) return '\u2013';
  if (!Number.isFinite(x)) return x > 0 ? '\u221E' : `${MINUS}\u221E`;
  const size = Math.abs(x);
  let text: string;
  if (size !== 0 && (size >= 1e7 || size < 1e-4)) {
    text = x
      .toExponential(digits - 1)
      .replace(/\.?0+e/, 'e')
      .replace('e+', 'e');
  } else {
    text = String(Number(x.toPrecision(digits)));
  }
  return typed ? text : text.replace(/-/g, MINUS);
}

/** The engineering unit in which `si` has a number from 1 to 999 (lengths from 0.1 mm in mm). */
function pick(si: number, kind: QuantityKind) {
  const rows = unitsOf(kind);
  if (!rows) return undefined;
  const size = Math.abs(si);
  let chosen = rows[0];
  if (size === 0) return rows.find((r) => r[1] === 'mm' || r[1] === 'GHz' || r[0] === 1) ?? rows[0];
  for (const row of rows) {
    const from = kind === 'length' && row[1] === 'mm' ? 1e-4 : row[0];
    if (size >= from * 0.99999999) chosen = row;
  }
  return chosen;
}

/** A value in SI units as the engineer reads it: `1.275 mm`, `50 \u03A9`, `10.55 GHz`. */
export function formatQuantity(si: number, kind: QuantityKind, options: FormatOptions = {}): string {
  const { digits = 4, typed = false } = options;
  const row = Number.isFinite(si) ? pick(si, kind) : unitsOf(kind)?.[0];
  if (!row) return formatNumber(si, digits, typed);
  const number = formatNumber(si / row[0], digits, typed);
  if (typed) return `${number} ${row[2]}`;
  return kind === 'angle' ? `${number}${row[1]}` : `${number}${THIN}${row[1]}`;
}

/** Impedances beyond these, ohm, are what nobody measures: an open and a short. */
const OPEN = 1e7;
const SHORT = 1e-7;

/** An impedance that was worked out, as one says it: an open and a short are called so. */
export function formatImpedance(z: { readonly re: number; readonly im: number }, digits = 4): string {
  const size = Math.hypot(z.re, z.im);
  if (!(size < OPEN)) return 'open';
  if (size < SHORT) return 'short';
  // A part a millionth of the other says nothing.
  const re = Math.abs(z.re) < 1e-7 * size ? 0 : z.re;
  const im = Math.abs(z.im) < 1e-7 * size ? 0 : z.im;
  return re === 0 && im !== 0
    ? `${im < 0 ? MINUS : ''}j${formatNumber(Math.abs(im), digits)}${THIN}\u03A9`
    : formatComplex(re, im, 'impedance', { digits });
}

/** A standing wave ratio as one says it: beyond ten thousand all of the wave comes back. */
export const formatVswr = (vswr: number, digits = 4): string =>
  vswr < 1e4 ? formatNumber(vswr, digits) : 'total reflection';

/** A complex impedance: `23 \u2212 j41 \u03A9`. */
export function formatComplex(
  re: number,
  im: number,
  kind: QuantityKind = 'impedance',
  options: FormatOptions = {},
): string {
  const { digits = 4, typed = false } = options;
  // A part at the level of rounding says nothing.
  if (Math.abs(im) <= 1e-9 * Math.abs(re)) return formatQuantity(re, kind, options);
  if (Math.abs(re) <= 1e-9 * Math.abs(im)) re = 0;
  const unit = kind === 'number' ? undefined : scales[kind]?.find((r) => r[0] === 1);
  const a = formatNumber(re, digits, typed);
  const b = formatNumber(Math.abs(im), digits, typed);
  if (typed) return `${a}${im < 0 ? '-' : '+'}${b}j${unit ? ` ${unit[2]}` : ''}`;
  return `${a} ${im < 0 ? MINUS : '+'} j${b}${unit ? `${THIN}${unit[1]}` : ''}`;
}
