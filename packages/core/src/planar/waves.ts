import { cx, solveComplex, symmetricEigen, type Complex } from '../numeric';

/** A square complex matrix, row by row. */
interface Matrix {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

/** X of X A = B, `rows x n` like B; A is `n x n`. */
export function over(rows: number, n: number, b: Matrix, a: Matrix): Matrix {
  /** An `m x k` matrix with rows and columns exchanged. */
  const turned = ({ re, im }: Matrix, m: number, k: number): Matrix => {
    const at = (i: number) => (i % m) * k + Math.floor(i / m);
    return { re: Float64Array.from(re, (_, i) => re[at(i)]), im: Float64Array.from(im, (_, i) => im[at(i)]) };
  };
  const left = turned(a, n, n);
  const right = turned(b, rows, n);
  solveComplex(n, rows, left.re, left.im, right.re, right.im);
  return turned(right, n, rows);
}

/**
 * Travelling waves on lines of complex impedance (Marks & Williams 1992): a = (V + Z I)/(2 sqrt Z), b = (V - Z I)/(2 sqrt Z),
 * so that a length of the line is an exponential. @param re,im admittances, S
 */
export function wavesOf(n: number, re: Float64Array, im: Float64Array, z: readonly Complex[]): Matrix {
  const root = z.map(cx.sqrt);
  const plus = { re: new Float64Array(n * n), im: new Float64Array(n * n) };
  const minus = { re: new Float64Array(n * n), im: new Float64Array(n * n) };
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      const at = i * n + j;
      const y = cx.mul(cx.mul(root[i], root[j]), { re: re[at], im: im[at] });
      const unit = i === j ? 1 : 0;
      [plus.re[at], plus.im[at]] = [unit + y.re, y.im];
      [minus.re[at], minus.im[at]] = [unit - y.re, -y.im];
    }
  return over(n, n, minus, plus);
}

/** S-parameters in real references, from travelling waves on lines of impedance `z`. */
export function referred(n: number, s: Matrix, z: readonly Complex[], reference: readonly number[]): Matrix {
  const plus = { re: new Float64Array(n * n), im: new Float64Array(n * n) };
  const minus = { re: new Float64Array(n * n), im: new Float64Array(n * n) };
  for (let i = 0; i < n; i++) {
    const scale = cx.div({ re: 0.5, im: 0 }, cx.mul(cx.sqrt(z[i]), { re: Math.sqrt(reference[i]), im: 0 }));
    const p = cx.mul(scale, { re: z[i].re + reference[i], im: z[i].im });
    const q = cx.mul(scale, { re: z[i].re - reference[i], im: z[i].im });
    for (let j = 0; j < n; j++) {
      const at = i * n + j;
      const here = { re: s.re[at], im: s.im[at] };
      const unit = i === j ? 1 : 0;
      // Waves in the reference: a' = p a + q b, b' = q a + p b.
      const into = cx.mul(q, here);
      const outOf = cx.mul(p, here);
      [plus.re[at], plus.im[at]] = [into.re + unit * p.re, into.im + unit * p.im];
      [minus.re[at], minus.im[at]] = [outOf.re + unit * q.re, outOf.im + unit * q.im];
    }
  }
  return over(n, n, minus, plus);
}

/** Makes the largest power that S-parameters give for a unit of power no more than one, by a common factor. */
export function makePassive(n: number, { re, im }: Matrix): void {
  // The largest eigenvalue of S* S, which is Hermitian: that of a real matrix of twice its size.
  const m = 2 * n;
  const product = new Float64Array(m * m);
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      let [r, x] = [0, 0];
      for (let k = 0; k < n; k++) {
        const [a, b] = [k * n + i, k * n + j];
        r += re[a] * re[b] + im[a] * im[b];
        x += re[a] * im[b] - im[a] * re[b];
      }
      product[i * m + j] = product[(i + n) * m + j + n] = r;
      product[(i + n) * m + j] = x;
      product[i * m + j + n] = -x;
    }
  const gain = Math.max(...symmetricEigen(m, product).values);
  if (gain <= 1) return;
  const factor = 1 / Math.sqrt(gain);
  for (let i = 0; i < n * n; i++) {
    re[i] *= factor;
    im[i] *= factor;
  }
}
