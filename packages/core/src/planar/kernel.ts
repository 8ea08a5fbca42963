import { EPS0, MU0 } from '../numeric';
import type { Layers } from './contract';
import { BINOMIALS } from './local';

/**
 * Spectral kernels of a current sheet between two layers (Michalski & Mosig 1997, for source and observer on one
 * interface): with the admittances looking down and up V = 1/(Ydown + Yup) of TE and TM waves, the vector potential is
 * V_TE/(jw) and the scalar one (V_TM - V_TE) jw/k^2. Both are written less their local part, which decays no faster
 * than 1/k: what is left falls as 1/k^3.
 */
export interface Kernel {
  /** Of the local part: vector potential in H/m, scalar potential in m/F. */
  readonly vector: number;
  readonly scalar: { readonly re: number; readonly im: number };
  /** Writes the remainders at the transverse wave number k (squared, rad^2/m^2), complex. */
  at(k2: number, k2im: number, out: Remainder): void;
}

export interface Remainder {
  ar: number;
  ai: number;
  pr: number;
  pi: number;
}

/** Depth of the first image of the local part: about twice the nearer plane, where the rest needs fewest modes. */
export const depthOf = ({ below, above }: Layers): number => 2 * Math.min(below.height, above.height);

/** Wave numbers in 1/z up to which the remainders count in sums over modes: 1.5e-5 is left there. */
export const MODES = 8;

/** gamma coth(gamma d) and coth(gamma d)/gamma, for gamma squared; both even in gamma. */
const waves = { tr: 0, ti: 0, cr: 0, ci: 0 };

function layer(g2r: number, g2i: number, depth: number): void {
  if (g2i === 0 && depth < Infinity) {
    // Real: no square root is taken of what is negative.
    waves.ti = waves.ci = 0;
    if (Math.abs(g2r) * depth * depth < 1e-12) {
      waves.tr = 1 / depth;
      waves.cr = g2r === 0 ? Infinity : 1 / (depth * g2r);
      return;
    }
    const g = Math.sqrt(Math.abs(g2r));
    waves.tr = g2r > 0 ? g / Math.tanh(g * depth) : g / Math.tan(g * depth);
    waves.cr = waves.tr / g2r;
    return;
  }
  // The root that decays away, or goes away: real part not negative, then the imaginary one.
  const size = Math.hypot(g2r, g2i);
  let gr = Math.sqrt((size + Math.abs(g2r)) / 2);
  let gi = Math.abs(g2i) / (2 * gr);
  if (g2r < 0) [gr, gi] = [gi, gr];
  if (g2i < 0) gi = -gi;
  // Without losses a wave that goes away has gamma = +j beta.
  if (g2i === 0 && g2r < 0) {
    gr = 0;
    gi = Math.sqrt(-g2r);
  }
  let [cr, ci] = [1, 0];
  if (depth < Infinity && gr * depth < 40) {
    // coth(x) = (1 + e)/(1 - e), e = exp(-2 x)
    const e = Math.exp(-2 * gr * depth);
    const er = e * Math.cos(2 * gi * depth);
    const ei = -e * Math.sin(2 * gi * depth);
    const d = (1 - er) * (1 - er) + ei * ei;
    cr = ((1 + er) * (1 - er) - ei * ei) / d;
    ci = (ei * (1 - er) + (1 + er) * ei) / d;
  }
  waves.tr = gr * cr - gi * ci;
  waves.ti = gr * ci + gi * cr;
  waves.cr = (waves.tr * g2r + waves.ti * g2i) / (size * size);
  waves.ci = (waves.ti * g2r - waves.tr * g2i) / (size * size);
}

/**
 * The kernels of a board at one frequency. @param f Hz, above zero
 * @param z depth of the first image of the local part, m
 */
export function kernelOf({ below, above, swift = 1 }: Layers, f: number, z: number): Kernel {
  const w = 2 * Math.PI * f;
  const k02 = w * w * MU0 * EPS0;
  const [e1r, e1i] = [below.er, -below.er * below.tand];
  const [e2r, e2i] = [above.er, -above.er * above.tand];
  const sr = e1r + e2r;
  const si = e1i + e2i;
  const s2 = EPS0 * (sr * sr + si * si);
  const vector = (MU0 / 2) * swift;
  const scalar = { re: sr / s2 / swift, im: -si / s2 / swift };
  const order = BINOMIALS.length - 1;
  return {
    vector,
    scalar,
    at(k2, k2im, out) {
      layer(k2 - k02 * e1r, k2im - k02 * e1i, below.height);
      const { tr, ti, cr, ci } = waves;
      layer(k2 - k02 * e2r, k2im - k02 * e2i, above.height);
      let dr = tr + waves.tr;
      let di = ti + waves.ti;
      let d = dr * dr + di * di;
      const gr = (MU0 * dr) / d;
      const gi = (-MU0 * di) / d;
      dr = EPS0 * (e1r * cr - e1i * ci + e2r * waves.cr - e2i * waves.ci);
      di = EPS0 * (e1r * ci + e1i * cr + e2r * waves.ci + e2i * waves.cr);
      d = dr * dr + di * di;
      // [1/d + w^2 g_A]/k^2
      const nr = (d === Infinity ? 0 : dr / d) + w * w * gr;
      const ni = (d === Infinity ? 0 : -di / d) + w * w * gi;
      const kk = k2 * k2 + k2im * k2im;
      out.pr = (nr * k2 + ni * k2im) / kk / swift;
      out.pi = (ni * k2 - nr * k2im) / kk / swift;
      out.ar = gr * swift;
      out.ai = gi * swift;
      // Less (1 - exp(-k z))^order / k.
      if (k2im === 0) {
        const k = Math.sqrt(k2);
        const local = Math.pow(-Math.expm1(-k * z), order) / k;
        out.ar -= vector * local;
        out.pr -= scalar.re * local;
        out.pi -= scalar.im * local;
        return;
      }
      const size = Math.sqrt(kk);
      const kr = Math.sqrt((size + k2) / 2);
      const ki = k2im / (2 * kr);
      const e = Math.exp(-kr * z);
      const er = 1 - e * Math.cos(ki * z);
      const ei = e * Math.sin(ki * z);
      let [lr, li] = [kr / size, -ki / size];
      for (let i = 0; i < order; i++) [lr, li] = [lr * er - li * ei, lr * ei + li * er];
      out.ar -= vector * lr;
      out.ai -= vector * li;
      out.pr -= scalar.re * lr - scalar.im * li;
      out.pi -= scalar.re * li + scalar.im * lr;
    },
  };
}
