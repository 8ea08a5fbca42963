/**
 * A lossless two-port whose impedances are over those of its equal terminations: the chain matrix [[a, j b], [j c, d]]
 * with real entries.
 */
export interface Lossless {
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly d: number;
}

export const line = (z: number, theta: number): Lossless => {
  const [cos, sin] = [Math.cos(theta), Math.sin(theta)];
  return { a: cos, b: z * sin, c: sin / z, d: cos };
};

/** An admittance j y across. */
export const shunt = (y: number): Lossless => ({ a: 1, b: 0, c: y, d: 1 });

/** A reactance j x in series. */
export const series = (x: number): Lossless => ({ a: 1, b: x, c: 0, d: 1 });

/** Coupled lines between opposite ends, the other two open. Source: Jones & Bolljahn 1956. */
export const openPair = (ze: number, zo: number, theta: number): Lossless => {
  const [cos, sin] = [Math.cos(theta), Math.sin(theta)];
  const [sum, less] = [ze + zo, ze - zo];
  // From the open-circuit impedances: z11 = -j sum/2 cot, z21 = -j less/2 csc.
  return {
    a: (sum * cos) / less,
    b: (sum * sum * cos * cos - less * less) / (-2 * less * sin),
    c: (2 * sin) / less,
    d: (sum * cos) / less,
  };
};

export const chain = (...parts: readonly Lossless[]): Lossless =>
  parts.reduce((l, r) => ({
    a: l.a * r.a - l.b * r.c,
    b: l.a * r.b + l.b * r.d,
    c: l.c * r.a + l.d * r.c,
    d: l.d * r.d - l.c * r.b,
  }));

/** S11/S21 of a two-port that is its own mirror image, over j: real, and of either sign. */
export const characteristic = ({ b, c }: Lossless): number => (b - c) / 2;

/** |S11/S21|^2 of any. */
export const characteristicSquared = ({ a, b, c, d }: Lossless): number => ((a - d) ** 2 + (b - c) ** 2) / 4;
