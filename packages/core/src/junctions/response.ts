import { symmetricEigen } from '../numeric';
import { forms, SHARES, type JunctionKind } from './contract';
import { plain, scatteringFrom, square, type Square } from './stored';
import { pairsOf, type Stored } from './table';

/** Places over frequency at which is looked whether more would come out of a junction than goes in. */
const LOOKS = 24;
/** What is given away beyond what was seen there, for places between: a share of it, and a reflection that nobody notices. */
const MARGIN = { share: 0.5, least: 1e-6 };

/** Writes S in waves of lines of `z0` (ohm) at `f` (Hz). */
export type Response = (f: number, z0: ArrayLike<number>, out: Square) => void;

/**
 * A junction over frequency from what it stores: polynomials in the square of frequency between the table's places. However
 * they were interpolated the junction is reciprocal; without radiation it keeps power, otherwise it gives none.
 * @param z0At impedances of its lines at a frequency
 */
export function responseOf(
  kind: JunctionKind,
  { top, radiates, re, im }: Stored,
  z0At: (f: number) => ArrayLike<number>,
): Response {
  const { pins: n, joined } = forms[kind];
  const pairs = pairsOf(n);
  const squares = SHARES.map((x) => x * x);
  const over = squares.map((a, i) => squares.reduce((p, b, j) => (i === j ? p : p * (a - b)), 1));
  const weights = new Float64Array(SHARES.length);
  const p = new Float64Array(n * n);
  const m = square(n);
  const turned = new Float64Array(n * n);
  const lost = new Float64Array(n * n);
  const scattering = scatteringFrom(n);
  /** out = P a P */
  const between = (a: Float64Array, out: Float64Array) => {
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        let sum = 0;
        for (let k = 0; k < n; k++)
          for (let l = 0; l < n; l++) sum += p[i * n + k] * a[k * n + l] * p[l * n + j];
        out[i * n + j] = sum;
      }
  };
  /** Fills m with what is stored, and `lost` with what leaves, both over the square of the share of the top frequency. */
  const fill = (f: number, z0: ArrayLike<number>): number => {
    plain(z0, joined, p);
    const x = f / top;
    // Beyond its end a table says what it says there.
    const q = Math.min(1, x) ** 2;
    for (let i = 0; i < weights.length; i++) {
      weights[i] = 1 / over[i];
      for (let j = 0; j < squares.length; j++) if (j !== i) weights[i] *= q - squares[j];
    }
    pairs.forEach(([i, j], pair) => {
      let [a, b] = [0, 0];
      for (let k = 0; k < weights.length; k++) {
        a += weights[k] * re[k][pair];
        b += weights[k] * im[k][pair];
      }
      m.re[i * n + j] = m.re[j * n + i] = a * x;
      m.im[i * n + j] = m.im[j * n + i] = b;
    });
    // Of a junction that keeps power the real part is the same between two P, and the imaginary one changes its sign.
    between(m.re, turned);
    for (let at = 0; at < n * n; at++) m.re[at] = (m.re[at] + turned[at]) / 2;
    between(m.im, turned);
    for (let at = 0; at < n * n; at++) {
      const own = (m.im[at] + turned[at]) / 2;
      m.im[at] -= own;
      turned[at] = own;
    }
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        let sum = 0;
        for (let k = 0; k < n; k++) sum += turned[i * n + k] * p[k * n + j];
        lost[i * n + j] = sum;
      }
    return x * x;
  };
  let given = 0;
  if (radiates) {
    for (let look = 1; look <= LOOKS; look++) {
      const f = (look / LOOKS) * top;
      fill(f, z0At(f));
      given = Math.max(given, -Math.min(...symmetricEigen(n, lost.slice()).values));
    }
    given += MARGIN.share * given + MARGIN.least;
  }
  return (f, z0, out) => {
    const scale = fill(f, z0);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const at = i * n + j;
        m.im[at] = scale * (m.im[at] + (radiates ? turned[at] + given * p[at] : 0));
      }
    scattering(m, p, out);
  };
}
