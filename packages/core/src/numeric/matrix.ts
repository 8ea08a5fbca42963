/** Size below which a pivot of a matrix with entries around one is taken for rounding. */
const DEAD = 1e-13;

/**
 * Solves `A X = B` in place for a complex matrix by elimination with row pivoting that skips the zeros of a
 * sparse matrix.
 *
 * @param n order of `A`, whose entries are around one in size
 * @param m number of right-hand sides
 * @param ar,ai real and imaginary parts of `A`, row-major `n x n`; destroyed
 * @param br,bi real and imaginary parts of `B`, row-major `n x m`; holds `X` afterwards
 * @param lower,upper bandwidths: entries more than `lower` below or `upper` above the diagonal are zero
 * @returns false when a pivot vanished: the content of `B` is then worthless, and `solveSingular` is asked for
 */
export function solveComplex(
  n: number,
  m: number,
  ar: Float64Array,
  ai: Float64Array,
  br: Float64Array,
  bi: Float64Array,
  lower = n,
  upper = n,
): boolean {
  for (let k = 0; k < n; k++) {
    const rows = Math.min(n, k + lower + 1);
    // Row exchanges widen the upper triangle by the lower bandwidth.
    const columns = Math.min(n, k + lower + upper + 1);
    let pivot = k;
    let best = -1;
    for (let i = k; i < rows; i++) {
      const re = ar[i * n + k];
      const im = ai[i * n + k];
      if (re === 0 && im === 0) continue;
      const size = re * re + im * im;
      if (size > best) {
        best = size;
        pivot = i;
      }
    }
    if (pivot !== k) {
      for (let j = k; j < columns; j++) {
        const p = pivot * n + j;
        const q = k * n + j;
        let t = ar[p];
        ar[p] = ar[q];
        ar[q] = t;
        t = ai[p];
        ai[p] = ai[q];
        ai[q] = t;
      }
      for (let j = 0; j < m; j++) {
        const p = pivot * m + j;
        const q = k * m + j;
        let t = br[p];
        br[p] = br[q];
        br[q] = t;
        t = bi[p];
        bi[p] = bi[q];
        bi[q] = t;
      }
    }
    if (best < DEAD * DEAD) return false;
    const pr = ar[k * n + k];
    const pi = ai[k * n + k];
    const scale = 1 / (pr * pr + pi * pi);
    const ir = pr * scale;
    const ii = -pi * scale;
    for (let i = k + 1; i < rows; i++) {
      const xr = ar[i * n + k];
      const xi = ai[i * n + k];
      if (xr === 0 && xi === 0) continue;
      const fr = xr * ir - xi * ii;
      const fi = xr * ii + xi * ir;
      const row = i * n;
      const top = k * n;
      for (let j = k + 1; j < columns; j++) {
        const ur = ar[top + j];
        const ui = ai[top + j];
        if (ur === 0 && ui === 0) continue;
        ar[row + j] -= fr * ur - fi * ui;
        ai[row + j] -= fr * ui + fi * ur;
      }
      for (let j = 0; j < m; j++) {
        const ur = br[k * m + j];
        const ui = bi[k * m + j];
        br[i * m + j] -= fr * ur - fi * ui;
        bi[i * m + j] -= fr * ui + fi * ur;
      }
    }
  }
  for (let k = n - 1; k >= 0; k--) {
    const pr = ar[k * n + k];
    const pi = ai[k * n + k];
    const scale = 1 / (pr * pr + pi * pi);
    const columns = Math.min(n, k + lower + upper + 1);
    for (let j = 0; j < m; j++) {
      let sr = br[k * m + j];
      let si = bi[k * m + j];
      for (let c = k + 1; c < columns; c++) {
        const ur = ar[k * n + c];
        const ui = ai[k * n + c];
        if (ur === 0 && ui === 0) continue;
        const xr = br[c * m + j];
        const xi = bi[c * m + j];
        sr -= ur * xr - ui * xi;
        si -= ur * xi + ui * xr;
      }
      br[k * m + j] = (sr * pr + si * pi) * scale;
      bi[k * m + j] = (si * pr - sr * pi) * scale;
    }
  }
  return true;
}

/**
 * Solves a consistent complex system that may be singular, by elimination with complete pivoting. Unknowns that the
 * equations leave open (a mode that nothing excites, such as a lossless resonance no port couples to) become zero.
 * Arguments as in `solveComplex`.
 */
export function solveSingular(
  n: number,
  m: number,
  ar: Float64Array,
  ai: Float64Array,
  br: Float64Array,
  bi: Float64Array,
): void {
  const column = Int32Array.from({ length: n }, (_, i) => i);
  const swap = (x: Float64Array, p: number, q: number) => {
    const t = x[p];
    x[p] = x[q];
    x[q] = t;
  };
  let rank = 0;
  for (; rank < n; rank++) {
    let best = DEAD * DEAD;
    let row = -1;
    let col = -1;
    for (let i = rank; i < n; i++)
      for (let j = rank; j < n; j++) {
        const size = ar[i * n + j] ** 2 + ai[i * n + j] ** 2;
        if (size > best) {
          best = size;
          row = i;
          col = j;
        }
      }
    if (row < 0) break;
    for (let j = 0; j < n; j++) {
      swap(ar, row * n + j, rank * n + j);
      swap(ai, row * n + j, rank * n + j);
    }
    for (let j = 0; j < m; j++) {
      swap(br, row * m + j, rank * m + j);
      swap(bi, row * m + j, rank * m + j);
    }
    for (let i = 0; i < n; i++) {
      swap(ar, i * n + col, i * n + rank);
      swap(ai, i * n + col, i * n + rank);
    }
    const held = column[col];
    column[col] = column[rank];
    column[rank] = held;
    const pr = ar[rank * n + rank];
    const pi = ai[rank * n + rank];
    const scale = 1 / (pr * pr + pi * pi);
    for (let i = rank + 1; i < n; i++) {
      const xr = ar[i * n + rank];
      const xi = ai[i * n + rank];
      if (xr === 0 && xi === 0) continue;
      const fr = (xr * pr + xi * pi) * scale;
      const fi = (xi * pr - xr * pi) * scale;
      for (let j = rank + 1; j < n; j++) {
        const ur = ar[rank * n + j];
        const ui = ai[rank * n + j];
        ar[i * n + j] -= fr * ur - fi * ui;
        ai[i * n + j] -= fr * ui + fi * ur;
      }
      for (let j = 0; j < m; j++) {
        const ur = br[rank * m + j];
        const ui = bi[rank * m + j];
        br[i * m + j] -= fr * ur - fi * ui;
        bi[i * m + j] -= fr * ui + fi * ur;
      }
    }
  }
  const xr = new Float64Array(n * m);
  const xi = new Float64Array(n * m);
  for (let k = rank - 1; k >= 0; k--) {
    const pr = ar[k * n + k];
    const pi = ai[k * n + k];
    const scale = 1 / (pr * pr + pi * pi);
    for (let j = 0; j < m; j++) {
      let sr = br[k * m + j];
      let si = bi[k * m + j];
      for (let c = k + 1; c < rank; c++) {
        const at = column[c] * m + j;
        sr -= ar[k * n + c] * xr[at] - ai[k * n + c] * xi[at];
        si -= ar[k * n + c] * xi[at] + ai[k * n + c] * xr[at];
      }
      xr[column[k] * m + j] = (sr * pr + si * pi) * scale;
      xi[column[k] * m + j] = (si * pr - sr * pi) * scale;
    }
  }
  br.set(xr);
  bi.set(xi);
}

/** Solves a small dense real system `A x = b` (row-major, destroyed) by elimination with row pivoting. */
export function solveReal(n: number, a: Float64Array, b: Float64Array): Float64Array {
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(a[i * n + k]) > Math.abs(a[pivot * n + k])) pivot = i;
    if (pivot !== k) {
      for (let j = k; j < n; j++) {
        const t = a[k * n + j];
        a[k * n + j] = a[pivot * n + j];
        a[pivot * n + j] = t;
      }
      const t = b[k];
      b[k] = b[pivot];
      b[pivot] = t;
    }
    for (let i = k + 1; i < n; i++) {
      const f = a[i * n + k] / a[k * n + k];
      if (f === 0) continue;
      for (let j = k + 1; j < n; j++) a[i * n + j] -= f * a[k * n + j];
      b[i] -= f * b[k];
    }
  }
  for (let k = n - 1; k >= 0; k--) {
    let s = b[k];
    for (let j = k + 1; j < n; j++) s -= a[k * n + j] * b[j];
    b[k] = s / a[k * n + k];
  }
  return b;
}
