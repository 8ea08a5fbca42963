import { cx, solveComplex } from '../numeric';
import type { SData } from './sparameters';

export class ConversionError extends Error {}

type Reference = readonly { readonly re: number; readonly im: number }[];

/**
 * Impedance matrices of S-parameters (power waves, Kurokawa 1965): Z = F^-1 (I - S)^-1 (S G + G*) F, with G the
 * references and F = 1 / (2 sqrt(Re G)).
 */
const identity = (n: number): Float64Array => {
  const m = new Float64Array(n * n);
  for (let i = 0; i < n; i++) m[i * n + i] = 1;
  return m;
};

/** Relative size below which a solution is taken for the sign of a matrix that cannot be inverted. */
const SINGULAR = 1e13;

function convert(data: SData, name: 'impedance' | 'admittance'): { re: Float64Array; im: Float64Array } {
  const { ports: n, freq, z0 } = data;
  const outRe = new Float64Array(data.re.length);
  const outIm = new Float64Array(data.im.length);
  const root = z0.map((z) => Math.sqrt(z.re));
  for (let k = 0; k < freq.length; k++) {
    const o = k * n * n;
    const ar = identity(n);
    const ai = new Float64Array(n * n);
    const br = new Float64Array(n * n);
    const bi = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const s = { re: data.re[o + i * n + j], im: data.im[o + i * n + j] };
        const sg = cx.mul(s, z0[j]);
        const gRe = sg.re + (i === j ? z0[j].re : 0);
        const gIm = sg.im - (i === j ? z0[j].im : 0);
        const at = i * n + j;
        // Z: (I - S) X = S G + G*;  Y: (S G + G*) X = I - S.
        const dRe = (i === j ? 1 : 0) - s.re;
        const dIm = -s.im;
        if (name === 'impedance') [ar[at], ai[at], br[at], bi[at]] = [dRe, dIm, gRe, gIm];
        else [ar[at], ai[at], br[at], bi[at]] = [gRe, gIm, dRe, dIm];
      }
    const solved = solveComplex(n, n, ar, ai, br, bi);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const scale = root[i] / root[j];
        const re = br[i * n + j] * scale;
        const im = bi[i * n + j] * scale;
        const unit = name === 'impedance' ? z0[0].re : 1 / z0[0].re;
        if (!solved || !Number.isFinite(re) || !Number.isFinite(im) || Math.hypot(re, im) > SINGULAR * unit)
          throw new ConversionError(
            `the ${name} parameters do not exist at ${freq[k]} Hz (the network is ${name === 'impedance' ? 'open' : 'short'} there)`,
          );
        outRe[o + i * n + j] = re;
        outIm[o + i * n + j] = im;
      }
  }
  return { re: outRe, im: outIm };
}

/** Z-parameters in ohm, same layout. @throws ConversionError where they do not exist */
export const toImpedance = (data: SData) => convert(data, 'impedance');
/** Y-parameters in siemens, same layout. @throws ConversionError where they do not exist */
export const toAdmittance = (data: SData) => convert(data, 'admittance');

/** S-parameters of impedance or admittance matrices (SI units), referred to `z0`. */
export function fromMatrices(
  form: 'impedance' | 'admittance',
  ports: number,
  freq: Float64Array,
  re: Float64Array,
  im: Float64Array,
  z0: Reference,
): SData {
  const n = ports;
  const outRe = new Float64Array(re.length);
  const outIm = new Float64Array(im.length);
  const root = z0.map((z) => Math.sqrt(z.re));
  for (let k = 0; k < freq.length; k++) {
    const o = k * n * n;
    // b = S a with a = F (V + G I), b = F (V - G* I); as S (..)= (..) solved in transposed form.
    const ar = new Float64Array(n * n);
    const ai = new Float64Array(n * n);
    const br = new Float64Array(n * n);
    const bi = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const at = o + i * n + j;
        const m = { re: re[at], im: im[at] };
        const isDiagonal = i === j;
        // Z: A = Z + G, B = Z - G*.  Y: A = I + G Y, B = I - G* Y.
        const plus =
          form === 'impedance'
            ? { re: m.re + (isDiagonal ? z0[i].re : 0), im: m.im + (isDiagonal ? z0[i].im : 0) }
            : cx.add({ re: isDiagonal ? 1 : 0, im: 0 }, cx.mul(z0[i], m));
        const minus =
          form === 'impedance'
            ? { re: m.re - (isDiagonal ? z0[i].re : 0), im: m.im + (isDiagonal ? z0[i].im : 0) }
            : cx.sub({ re: isDiagonal ? 1 : 0, im: 0 }, cx.mul(cx.conj(z0[i]), m));
        // S' A = B with S = F S' F^-1: transpose to A^T S'^T = B^T.
        ar[j * n + i] = plus.re;
        ai[j * n + i] = plus.im;
        br[j * n + i] = minus.re;
        bi[j * n + i] = minus.im;
      }
    if (!solveComplex(n, n, ar, ai, br, bi))
      throw new ConversionError(`S-parameters against this reference do not exist at ${freq[k]} Hz`);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const scale = root[j] / root[i];
        outRe[o + i * n + j] = br[j * n + i] * scale;
        outIm[o + i * n + j] = bi[j * n + i] * scale;
      }
  }
  return { ports, freq, re: outRe, im: outIm, z0 };
}

/**
 * The same network against other reference impedances, directly between S-matrices, so that networks without an
 * impedance matrix (a through line, an open) convert too. Source: Kurokawa 1965, eq. 3 applied to the ports' sections.
 */
export function renormalise(data: SData, z0: Reference): SData {
  const { ports: n, freq, z0: from } = data;
  const outRe = new Float64Array(data.re.length);
  const outIm = new Float64Array(data.im.length);
  // With V = (G* a + G b)/sqrt(R), I = (a - b)/sqrt(R): a' = p a + q b, b' = r a + t b for each port.
  const maps = from.map((g, i) => {
    const h = z0[i];
    const f = 1 / (2 * Math.sqrt(g.re * h.re));
    const c = (re: number, im: number) => ({ re: re * f, im: im * f });
    return {
      p: c(g.re + h.re, h.im - g.im),
      q: c(g.re - h.re, g.im - h.im),
      r: c(g.re - h.re, h.im - g.im),
      t: c(g.re + h.re, g.im - h.im),
    };
  });
  for (let k = 0; k < freq.length; k++) {
    const o = k * n * n;
    const ar = new Float64Array(n * n);
    const ai = new Float64Array(n * n);
    const br = new Float64Array(n * n);
    const bi = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const s = { re: data.re[o + i * n + j], im: data.im[o + i * n + j] };
        const { p, q, r, t } = maps[i];
        const isDiagonal = i === j;
        const incident = cx.add(cx.mul(q, s), isDiagonal ? p : { re: 0, im: 0 });
        const reflected = cx.add(cx.mul(t, s), isDiagonal ? r : { re: 0, im: 0 });
        ar[j * n + i] = incident.re;
        ai[j * n + i] = incident.im;
        br[j * n + i] = reflected.re;
        bi[j * n + i] = reflected.im;
      }
    if (!solveComplex(n, n, ar, ai, br, bi))
      throw new ConversionError(`S-parameters against this reference do not exist at ${freq[k]} Hz`);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        outRe[o + i * n + j] = br[j * n + i];
        outIm[o + i * n + j] = bi[j * n + i];
      }
  }
  return { ports: n, freq, re: outRe, im: outIm, z0 };
}
