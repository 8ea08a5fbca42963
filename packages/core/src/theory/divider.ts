import { brent, leastSquares } from '../numeric';
import { designTransformer } from './transformer';

export interface WilkinsonSections {
  /** Impedances of the sections of each arm over the system impedance, from the common port on. */
  readonly impedances: number[];
  /** Resistances between the arms at the end of each section, over the system impedance. */
  readonly resistances: number[];
  /** Greatest |S11| in the band, and greatest reflection of the odd mode, which bounds isolation and output match. */
  readonly reflection: number;
  readonly odd: number;
}

/** Reflection of the odd mode at an output: shorted line, then resistors and lines up to the output. */
function oddReflection(
  z: readonly number[],
  r: readonly number[],
  theta: number,
): { re: number; im: number } {
  // Admittance at the end of the first section, then outwards. Half of each resistor stands from arm to the middle.
  let g = 2 / r[0];
  let b = -1 / (z[0] * Math.tan(theta));
  const t = Math.tan(theta);
  for (let i = 1; i < z.length; i++) {
    // y' = Y (y + jY t) / (Y + j y t) in a form that stays finite at 90 degrees: divide by t.
    const y0 = 1 / z[i];
    const nr = g / t;
    const ni = b / t + y0;
    const dr = y0 / t - b;
    const di = g;
    const d = y0 / (dr * dr + di * di);
    g = (nr * dr + ni * di) * d + 2 / r[i];
    b = (ni * dr - nr * di) * d;
  }
  // (1 - y) / (1 + y)
  const d = 1 / ((1 + g) * (1 + g) + b * b);
  return { re: ((1 - g) * (1 + g) - b * b) * d, im: -2 * b * d };
}

/**
 * An equal Wilkinson divider of one to three sections over a relative bandwidth (0.5 is 50 % of the centre). The arms
 * are the exact Chebyshev transformer from twice the system impedance (even mode); the resistors put all zeros of the
 * odd mode's reflection on the frequency axis, symmetric about the centre, with equal peaks inside the band and at its
 * edges. Source: Cohn 1968, whose closed form for two sections has the same zeros at slightly other places.
 */
export function designWilkinson(sections: 1 | 2 | 3, bandwidth: number): WilkinsonSections {
  if (sections === 1) return { impedances: [Math.SQRT2], resistances: [2], reflection: 0, odd: 0 };
  const scale = 1 / Math.sin((Math.PI * bandwidth) / 4);
  const k = 1 / (2 * Math.SQRT2) / Math.cosh(sections * Math.acosh(scale));
  const reflection = k / Math.sqrt(1 + k * k);
  const { impedances: z } = designTransformer({
    source: 2,
    load: 1,
    sections,
    profile: 'chebyshev',
    maxReflection: reflection,
  });
  const edge = (Math.PI / 2) * (1 - bandwidth / 2);
  const size = (r: readonly number[], theta: number) => {
    const g = oddReflection(z, r, theta);
    return Math.hypot(g.re, g.im);
  };
  // The centre itself is avoided by a hair: there the tangent has no value.
  const centre = Math.PI / 2 - 1e-9;
  let start = sections === 2 ? [2, 5].map(Math.log) : [2, 4, 8].map(Math.log);
  const withZerosAt = (phi: number): number[] => {
    const count = sections === 2 ? 2 : 3;
    const solved = leastSquares(
      (x, out) => {
        const r = x.map(Math.exp);
        const g = oddReflection(z, r, phi);
        out[0] = g.re;
        out[1] = g.im;
        if (count === 3) out[2] = oddReflection(z, r, centre).re;
        return true;
      },
      start,
      count,
      { step: 1e-5, maxIterations: 200, tolerance: 1e-15 },
    );
    start = solved.x;
    return solved.x.map(Math.exp);
  };
  /** Peak inside the band less the one at its edge. */
  const tilt = (phi: number): number => {
    const r = withZerosAt(phi);
    let inside = size(r, centre);
    for (let i = 0; i <= 200; i++) inside = Math.max(inside, size(r, phi + ((centre - phi) * i) / 200));
    return inside - size(r, edge);
  };
  const first = sections === 2 ? Math.SQRT1_2 : Math.sqrt(3) / 2;
  const guess = Math.acos(Math.cos(edge) * first);
  let low = guess;
  let high = guess;
  const width = Math.PI / 2 - edge;
  while (tilt(low) < 0 && low > edge + 0.02 * width) low -= 0.03 * width;
  while (tilt(high) > 0 && high < Math.PI / 2 - 0.02 * width) high += 0.03 * width;
  const phi = low === high ? guess : brent(tilt, low, high, { tolerance: 1e-12 });
  const resistances = withZerosAt(phi);
  return { impedances: z, resistances, reflection, odd: size(resistances, edge) };
}
