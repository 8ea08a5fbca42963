import { MU0 } from '../numeric/constants';

/** Skin depth in m at frequency `f` (Hz) for conductivity `sigma` (S/m); Infinity at zero frequency. */
export function skinDepth(f: number, sigma: number): number {
  return f > 0 ? 1 / Math.sqrt(Math.PI * f * MU0 * sigma) : Infinity;
}

/**
 * Factor by which a plane conductor of thickness `t` (current entering one face) resists more than one many skin
 * depths thick: Re[(1+j) coth((1+j) t/delta)] (Ramo, Whinnery & Van Duzer 1965). Tends to delta/t for thin metal.
 */
export function thicknessFactor(t: number, delta: number): number {
  const x = (2 * t) / delta;
  if (x > 40) return 1;
  if (x < 1e-3) return delta / t;
  return (Math.sinh(x) + Math.sin(x)) / (Math.cosh(x) - Math.cos(x));
}

/** Increase of the surface resistance by rms roughness `rms` (m). Source: Hammerstad & Bekkadal 1975. */
export function roughnessFactor(rms: number, delta: number): number {
  if (rms === 0) return 1;
  const x = rms / delta;
  return 1 + (2 / Math.PI) * Math.atan(1.4 * x * x);
}

const last = { f: NaN, sigma: NaN, t: NaN, rms: NaN, value: 0 };

/**
 * Surface resistance in ohm per square at `f` with finite thickness and roughness.
 * @param t thickness seen by the current of one face, m; 0 stands for many skin depths
 */
export function surfaceResistance(f: number, sigma: number, t: number, rms: number): number {
  // Kept from the last call: a network asks for the same metal at the same frequency line after line.
  if (last.f === f && last.sigma === sigma && last.t === t && last.rms === rms) return last.value;
  let value: number;
  if (f <= 0) value = t > 0 ? 1 / (sigma * t) : 0;
  else {
    const delta = skinDepth(f, sigma);
    value = ((t > 0 ? thicknessFactor(t, delta) : 1) * roughnessFactor(rms, delta)) / (sigma * delta);
  }
  last.f = f;
  last.sigma = sigma;
  last.t = t;
  last.rms = rms;
  last.value = value;
  return value;
}

/**
 * Thickness with which Wheeler's incremental inductance rule is evaluated. The rule's edge term grows as ln(1/t), so
 * a vanishing conductor takes 0.2 % of the height; metal of practical thickness is left as it is (below 0.01 %).
 */
export function lossThickness(t: number, height: number): number {
  return Math.hypot(t, 0.002 * height);
}
