/**
 * A physical dimension as exponents of [mass, length, time, current, angle, level]. Angle and level (dB) count as
 * dimensions of their own, so that degrees cannot be taken for a number or decibels for a ratio.
 */
export type Dimension = readonly [number, number, number, number, number, number];

/** The quantities a field can ask for. */
export type QuantityKind =
  | 'number'
  | 'length'
  | 'frequency'
  | 'impedance'
  | 'admittance'
  | 'conductivity'
  | 'capacitance'
  | 'inductance'
  | 'angle'
  | 'level'
  | 'time';

interface KindInfo {
  readonly dimension: Dimension;
  /** With its article, for sentences. */
  readonly noun: string;
  readonly example: string;
}

export const quantityKinds: Readonly<Record<QuantityKind, KindInfo>> = {
  number: { dimension: [0, 0, 0, 0, 0, 0], noun: 'a pure number', example: '2.94' },
  length: { dimension: [0, 1, 0, 0, 0, 0], noun: 'a length', example: '0.508 mm' },
  frequency: { dimension: [0, 0, -1, 0, 0, 0], noun: 'a frequency', example: '10.55 GHz' },
  impedance: { dimension: [1, 2, -3, -2, 0, 0], noun: 'a resistance or impedance', example: '50 ohm' },
  admittance: { dimension: [-1, -2, 3, 2, 0, 0], noun: 'an admittance', example: '20 mS' },
  conductivity: { dimension: [-1, -3, 3, 2, 0, 0], noun: 'a conductivity', example: '5.8e7 S/m' },
  capacitance: { dimension: [-1, -2, 4, 2, 0, 0], noun: 'a capacitance', example: '0.5 pF' },
  inductance: { dimension: [1, 2, -2, -2, 0, 0], noun: 'an inductance', example: '1.2 nH' },
  angle: { dimension: [0, 0, 0, 0, 1, 0], noun: 'an angle', example: '90 deg' },
  level: { dimension: [0, 0, 0, 0, 0, 1], noun: 'a level in decibels', example: '15 dB' },
  time: { dimension: [0, 0, 1, 0, 0, 0], noun: 'a time', example: '1 ns' },
};

export const dimensionless: Dimension = quantityKinds.number.dimension;

export const sameDimension = (a: Dimension, b: Dimension): boolean => a.every((x, i) => x === b[i]);
export const addDimensions = (a: Dimension, b: Dimension, sign: 1 | -1): Dimension =>
  a === dimensionless && sign === 1
    ? b
    : b === dimensionless
      ? a
      : (a.map((x, i) => x + sign * b[i]) as unknown as Dimension);
export const scaleDimension = (a: Dimension, by: number): Dimension =>
  a === dimensionless ? a : (a.map((x) => x * by) as unknown as Dimension);

/** The kind that a dimension is of, if it has one. */
export const kindOf = (d: Dimension): QuantityKind | undefined =>
  (Object.keys(quantityKinds) as QuantityKind[]).find((k) => sameDimension(quantityKinds[k].dimension, d));

/** The dimension in words, with its article. */
export function describeDimension(d: Dimension): string {
  const kind = kindOf(d);
  if (kind) return quantityKinds[kind].noun;
  if (sameDimension(d, [0, 2, 0, 0, 0, 0])) return 'an area';
  return 'a quantity of another dimension';
}
