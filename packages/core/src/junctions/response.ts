import { symmetricEigen } from '../numeric';
import { forms, SHARES, weighShares, type JunctionKind } from './contract';
import { plain, scatteringFrom, square, type Square } from './stored';
import type { Stored } from './table';

/** Writes S in waves of lines of `z0` (ohm) at `f` (Hz). */
export type Response = (f: number, z0: ArrayLike<number>, out: Square) => void;

/**
 * A junction over frequency from what it stores: polynomials in the square of frequency between the table's places. However
 * they were interpolated the junction is reciprocal; without radiation it keeps power, otherwise it gives none.
 * @param z0At impedances of its lines at a frequency
 */
export function responseOf(
  kind: JunctionKind,
  stored: Stored,
  z0At: (f: number) => ArrayLike<number>,
): Response {
  const { top, leaving, re, im } = stored;
  const { pins: n, joined } = forms[kind];
  const weights = new Float64Array(SHARES.length);
  const p = new Float64Array(n * n);
  const m = square(n);
  const turned = new Float64Array(n * n);
  const lost = new Float64Array(n * n);
  const root = new Float64Array(n * n);
  // P is 2 v v' + D, where v is of the pins that are one node, and D is -1 at them and 1 at those that are open.
  const v = new Float64Array(n);
  const d = Float64Array.from({ length: n }, (_, i) => (joined.includes(i) ? -1 : 1));
  const av = new Float64Array(n);
  const scattering = scatteringFrom(n);
  /** av = a v, and v' a v. */
  const along = (a: Float64Array): number => {
    let all = 0;
    for (let i = 0; i < n; i++) {
      let sum = 0;
      for (let k = 0; k < n; k++) sum += a[i * n + k] * v[k];
      av[i] = sum;
      all += v[i] * sum;
    }
    return all;
  };
  /** out = P a P, of a symmetric a */
  const between = (a: Float64Array, out: Float64Array) => {
    const all = along(a);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++)
        out[i * n + j] =
          d[i] * d[j] * a[i * n + j] +
          2 * (v[i] * av[j] * d[j] + d[i] * av[i] * v[j]) +
          4 * all * v[i] * v[j];
  };
  /** b = a P, of matrices that may change places and are the same between two P */
  const withPlain = (a: Float64Array, b: Float64Array) => {
    along(a);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) b[i * n + j] = a[i * n + j] * d[j] + 2 * av[i] * v[j];
  };
  /** a = (a + P a P) / 2: what is the same between two P. */
  const alike = (a: Float64Array) => {
    between(a, turned);
    for (let at = 0; at < n * n; at++) a[at] = (a[at] + turned[at]) / 2;
  };
  const setPlain = (z0: ArrayLike<number>) => {
    plain(z0, joined, p);
    for (const i of joined) v[i] = Math.sqrt((1 + p[i * n + i]) / 2);
  };
  /** Writes numbers of pairs of pins as a symmetric matrix. */
  const spread = (pairs: Float64Array, out: Float64Array) => {
    for (let i = 0, pair = 0; i < n; i++)
      for (let j = i; j < n; j++, pair++) out[i * n + j] = out[j * n + i] = pairs[pair];
  };
  /**
   * The root of what leaves at a place of the table, as far as it is not less than nothing: squared again it never is. With M = R + jI
   * that is what keeps power neither in R, which would be the same between two P, nor in I, which would change its sign: I P and R of that
   * are together one symmetric matrix, which is less than nothing exactly where the anti-Hermitian part of M P is.
   */
  const rootOf = (k: number): Float64Array => {
    setPlain(z0At(SHARES[k] * top));
    spread(im[k], lost);
    alike(lost);
    withPlain(lost, lost);
    spread(re[k], root);
    between(root, turned);
    for (let at = 0; at < n * n; at++) lost[at] += (root[at] - turned[at]) / (2 * SHARES[k]);
    const { values, vectors } = symmetricEigen(n, lost);
    const out = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++)
        for (let k = 0; k < n; k++)
          out[i * n + j] += Math.sqrt(Math.max(0, values[k])) * vectors[i * n + k] * vectors[j * n + k];
    return out;
  };
  const roots = leaving > 0 ? (stored.roots ??= SHARES.map((_, k) => rootOf(k))) : [];
  return (f, z0, out) => {
    setPlain(z0);
    const x = f / top;
    weighShares(x, weights);
    for (let i = 0, pair = 0; i < n; i++)
      for (let j = i; j < n; j++, pair++) {
        let a = 0;
        let b = 0;
        for (let k = 0; k < weights.length; k++) {
          a += weights[k] * re[k][pair];
          b += weights[k] * im[k][pair];
        }
        m.re[i * n + j] = m.re[j * n + i] = a * x;
        m.im[i * n + j] = m.im[j * n + i] = b;
      }
    // Of a junction that keeps power the real part is the same between two P, and the imaginary one changes its sign.
    alike(m.re);
    between(m.im, turned);
    for (let at = 0; at < n * n; at++) m.im[at] = (m.im[at] - turned[at]) / 2;
    if (leaving > 0) {
      root.fill(0);
      for (let k = 0; k < weights.length; k++)
        for (let at = 0; at < n * n; at++) root[at] += weights[k] * roots[k][at];
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          let sum = 0;
          for (let k = 0; k < n; k++) sum += root[i * n + k] * root[k * n + j];
          lost[i * n + j] = sum;
        }
      between(lost, turned);
      for (let at = 0; at < n * n; at++) {
        m.re[at] += (leaving * x * x * (lost[at] - turned[at])) / 2;
        lost[at] = (lost[at] + turned[at]) / 2;
      }
      withPlain(lost, lost);
      for (let at = 0; at < n * n; at++) m.im[at] += leaving * lost[at];
    }
    for (let at = 0; at < n * n; at++) m.im[at] *= x * x;
    scattering(m, p, out);
  };
}
