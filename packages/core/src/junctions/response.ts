import { forms, SHARES, type JunctionKind } from './contract';
import { plain, scatteringFrom, square, type Square } from './stored';
import type { Stored } from './table';

/** Places over frequency at which is looked whether more would come out of a junction than goes in. */
const LOOKS = 12;
/** What is given away beyond what was seen there, for places between: a share of it, and a reflection that nobody notices. */
const MARGIN = { share: 0.5, least: 1e-6 };

/** Nothing, for what should be zero but for rounding. */
const TINY = 1e-12;

/** Whether a symmetric matrix with `more` on its diagonal has no negative eigenvalue (Cholesky's factors exist). */
function isPositive(n: number, a: Float64Array, more: number, l: Float64Array): boolean {
  for (let i = 0; i < n; i++)
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j] + (i === j ? more : 0);
      for (let k = 0; k < j; k++) sum -= l[i * n + k] * l[j * n + k];
      if (i > j) l[i * n + j] = sum / l[j * n + j];
      else if (sum > 0) l[i * n + i] = Math.sqrt(sum);
      else return false;
    }
  return true;
}

/** What a symmetric matrix lacks on its diagonal to have no negative eigenvalue, at least `least`; by halving. */
function lacking(n: number, a: Float64Array, least: number, work: Float64Array): number {
  if (isPositive(n, a, least + TINY, work)) return least;
  let [low, high] = [least, Math.max(2 * least, 1e-6)];
  // Of what is no number none is enough.
  while (high < Infinity && !isPositive(n, a, high, work)) [low, high] = [high, 2 * high];
  for (let i = 0; i < 12; i++) {
    const middle = (low + high) / 2;
    if (isPositive(n, a, middle, work)) high = middle;
    else low = middle;
  }
  return high;
}

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
  const { top, radiates, re, im } = stored;
  const { pins: n, joined } = forms[kind];
  const squares = SHARES.map((x) => x * x);
  const over = squares.map((a, i) => squares.reduce((p, b, j) => (i === j ? p : p * (a - b)), 1));
  const weights = new Float64Array(SHARES.length);
  const p = new Float64Array(n * n);
  const m = square(n);
  const turned = new Float64Array(n * n);
  const lost = new Float64Array(n * n);
  const half = new Float64Array(n * n);
  // P of pins that are one node is 2 v v' - 1, and 1 of pins that are open.
  const v = new Float64Array(n);
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
    if (!joined) return out.set(a);
    const all = along(a);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++)
        out[i * n + j] = a[i * n + j] - 2 * (v[i] * av[j] + av[i] * v[j]) + 4 * all * v[i] * v[j];
  };
  /** Fills m with what is stored, and `lost` with what leaves, both over the square of the share of the top frequency. */
  const fill = (f: number, z0: ArrayLike<number>): number => {
    plain(z0, joined, p);
    for (let i = 0; i < n; i++) v[i] = Math.sqrt((1 + p[i * n + i]) / 2);
    const x = f / top;
    // Beyond its end a table says what it says there.
    const q = Math.min(1, x) ** 2;
    for (let i = 0; i < weights.length; i++) {
      weights[i] = 1 / over[i];
      for (let j = 0; j < squares.length; j++) if (j !== i) weights[i] *= q - squares[j];
    }
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
    between(m.re, turned);
    for (let at = 0; at < n * n; at++) m.re[at] = (m.re[at] + turned[at]) / 2;
    between(m.im, turned);
    for (let at = 0; at < n * n; at++) {
      const own = (m.im[at] + turned[at]) / 2;
      m.im[at] -= own;
      turned[at] = own;
    }
    if (!joined) lost.set(turned);
    else {
      along(turned);
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) lost[i * n + j] = 2 * av[i] * v[j] - turned[i * n + j];
    }
    return x * x;
  };
  let given = stored.given ?? 0;
  if (radiates && stored.given === undefined) {
    for (let look = 1; look <= LOOKS; look++) {
      const f = (look / LOOKS) * top;
      fill(f, z0At(f));
      given = lacking(n, lost, given, half);
    }
    given += MARGIN.share * given + MARGIN.least;
    stored.given = given;
  }
  return (f, z0, out) => {
    const scale = fill(f, z0);
    // Between the places where it was looked a little more may come out.
    const more = radiates ? lacking(n, lost, given, half) : 0;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const at = i * n + j;
        m.im[at] = scale * (m.im[at] + (radiates ? turned[at] + more * p[at] : 0));
      }
    scattering(m, p, out);
  };
}
