/**
 * Solves `A X = B` in place for a complex matrix by elimination with row pivoting that skips the zeros of a
 * sparse matrix.
 *
 * A pivot column that has vanished (a mode that nothing excites, such as a lossless resonance no port couples to)
 * gets a pivot at the level of rounding instead of a division by zero: elimination with row pivoting is backward
 * stable, so the unexcited mode's arbitrary amplitude does not reach the ports.
 *
 * @param n order of `A`
 * @param m number of right-hand sides
 * @param ar,ai real and imaginary parts of `A`, row-major `n x n`; destroyed
 * @param br,bi real and imaginary parts of `B`, row-major `n x m`; holds `X` afterwards
 * @param lower,upper bandwidths: entries more than `lower` below or `upper` above the diagonal are zero
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
): void {
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
    if (best < 1e-32) {
      ar[k * n + k] = 1e-16;
      ai[k * n + k] = 0;
    }
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
