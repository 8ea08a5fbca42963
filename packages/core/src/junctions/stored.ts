import { solveComplex } from '../numeric';

/** A square complex matrix, row by row. */
export interface Square {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

export const square = (n: number): Square => ({ re: new Float64Array(n * n), im: new Float64Array(n * n) });

/**
 * Writes S of pins of which some are one node and each other one is open, in waves of lines of `z0` ohm: it is its own inverse.
 * @param joined pins that are one node
 */
export function plain(z0: ArrayLike<number>, joined: readonly number[], out: Float64Array): void {
  const n = z0.length;
  out.fill(0);
  for (let i = 0; i < n; i++) out[i * n + i] = 1;
  let sum = 0;
  for (const i of joined) sum += 1 / z0[i];
  for (const i of joined)
    for (const j of joined) out[i * n + j] = 2 / (Math.sqrt(z0[i] * z0[j]) * sum) - (i === j ? 1 : 0);
}

function times(n: number, a: Square, p: Float64Array, out: Square): void {
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      let [re, im] = [0, 0];
      for (let k = 0; k < n; k++) {
        re += a.re[i * n + k] * p[k * n + j];
        im += a.im[i * n + k] * p[k * n + j];
      }
      out.re[i * n + j] = re;
      out.im[i * n + j] = im;
    }
}

/**
 * What a junction stores beyond the plain one, as a symmetric matrix M: S = (1 + j M P)(1 - j M P)^-1 P, where P is the plain
 * S (Cayley's transform of S P). Zero for the plain junction, nearly in proportion to frequency, real but for what is lost and
 * of second order; S is reciprocal for every symmetric M, and power is kept where M P is Hermitian.
 */
export function storedOf(n: number, s: Square, p: Float64Array): Square {
  const plus = square(n);
  times(n, s, p, plus);
  const minus = { re: plus.re.slice(), im: plus.im.slice() };
  for (let i = 0; i < n; i++) {
    minus.re[i * n + i] -= 1;
    plus.re[i * n + i] += 1;
  }
  solveComplex(n, n, plus.re, plus.im, minus.re, minus.im);
  // j M P stands in minus now, and P P = 1.
  times(n, minus, p, plus);
  return { re: plus.im.slice(), im: plus.re.map((x) => -x) };
}

/** Makes S of what junctions of `n` pins store; allocates nothing once it is made. */
export function scatteringFrom(n: number): (m: Square, p: Float64Array, out: Square) => void {
  const minus = square(n);
  const plus = square(n);
  return (m, p, out) => {
    times(n, m, p, out);
    for (let at = 0; at < n * n; at++) {
      const unit = at % (n + 1) === 0 ? 1 : 0;
      plus.re[at] = unit - out.im[at];
      plus.im[at] = out.re[at];
      minus.re[at] = unit + out.im[at];
      minus.im[at] = -out.re[at];
    }
    solveComplex(n, n, minus.re, minus.im, plus.re, plus.im);
    times(n, plus, p, out);
  };
}
