/** Values and vectors of a symmetric matrix: vector m stands in column m, of length one. */
export interface Eigen {
  readonly values: Float64Array;
  /** Row by row. */
  readonly vectors: Float64Array;
}

/** Turns after which a symmetric matrix of a few rows is diagonal to rounding. */
const SWEEPS = 30;

/** Eigenvalues of a symmetric n x n matrix (row by row, taken apart) by Jacobi's rotations; Golub & Van Loan, section 8.5. */
export function symmetricEigen(n: number, a: Float64Array): Eigen {
  const v = new Float64Array(n * n);
  for (let i = 0; i < n; i++) v[i * n + i] = 1;
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    let off = 0;
    let on = 0;
    for (let p = 0; p < n; p++) {
      on += a[p * n + p] ** 2;
      for (let q = p + 1; q < n; q++) off += a[p * n + q] ** 2;
    }
    if (off <= 1e-30 * on) break;
    for (let p = 0; p < n - 1; p++)
      for (let q = p + 1; q < n; q++) {
        const apq = a[p * n + q];
        if (apq === 0) continue;
        const tau = (a[q * n + q] - a[p * n + p]) / (2 * apq);
        const t = Math.sign(tau || 1) / (Math.abs(tau) + Math.hypot(1, tau));
        const c = 1 / Math.hypot(1, t);
        const s = t * c;
        const rotate = (m: Float64Array, i: number, j: number) => {
          const [x, y] = [m[i], m[j]];
          m[i] = c * x - s * y;
          m[j] = s * x + c * y;
        };
        for (let k = 0; k < n; k++) rotate(a, k * n + p, k * n + q);
        for (let k = 0; k < n; k++) rotate(a, p * n + k, q * n + k);
        for (let k = 0; k < n; k++) rotate(v, k * n + p, k * n + q);
      }
  }
  return { values: Float64Array.from({ length: n }, (_, i) => a[i * n + i]), vectors: v };
}

/** Writes the lower triangle L of a symmetric positive definite matrix A = L L' into `out`, row by row. */
export function cholesky(n: number, a: Float64Array, out: Float64Array): void {
  out.fill(0);
  for (let i = 0; i < n; i++)
    for (let j = 0; j <= i; j++) {
      let x = a[i * n + j];
      for (let k = 0; k < j; k++) x -= out[i * n + k] * out[j * n + k];
      out[i * n + j] = i === j ? Math.sqrt(x) : x / out[j * n + j];
    }
}
