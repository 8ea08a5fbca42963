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

/** From the admittances j y of its two ports. */
export const fromSusceptances = (y11: number, y12: number, y22: number): Lossless => ({
  a: -y22 / y12,
  b: 1 / y12,
  c: -(y11 * y22 - y12 * y12) / y12,
  d: -y11 / y12,
});

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

/**
 * The same with the two other ends prolonged by open lines of admittances tan(theta)/z: that of the first strip at its far
 * end, that of the second at its near one. From the lines' admittances, their pins eliminated.
 */
export function tailedPair(ze: number, zo: number, theta: number, far: number, near: number): Lossless {
  if (far === 0 && near === 0) return openPair(ze, zo, theta);
  const [cot, csc] = [1 / Math.tan(theta), 1 / Math.sin(theta)];
  const [sum, less] = [(1 / ze + 1 / zo) / 2, (1 / ze - 1 / zo) / 2];
  // Of a pin with itself, with the other strip beside it, with its own far end, with the other strip there.
  const [own, beside, along, across] = [-cot * sum, -cot * less, csc * sum, csc * less];
  const [p, q] = [own + near, own + far];
  const d = p * q - across * across;
  const y11 = own - (beside * beside * q - 2 * beside * along * across + along * along * p) / d;
  const y22 = own - (along * along * q - 2 * beside * along * across + beside * beside * p) / d;
  const y12 = across - (beside * along * (p + q) - (beside * beside + along * along) * across) / d;
  return fromSusceptances(y11, y12, y22);
}

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
