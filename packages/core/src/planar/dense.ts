/** A dense matrix taken apart by elimination, ready for right-hand sides. */
export interface Factors {
  /** Solves in place, `m` columns row by row; imaginary parts absent where everything is real. */
  solve(m: number, re: Float64Array, im?: Float64Array): void;
}

/**
 * Takes a matrix apart by elimination with row exchanges (Golub & Van Loan 1996, 3.4.1). The contents are destroyed.
 * @param im imaginary parts, absent where the matrix is real
 */
export function factorise(n: number, re: Float64Array, im?: Float64Array): Factors {
  const order = new Int32Array(n);
  const exchange = (a: Float64Array, k: number, p: number, m: number) => {
    for (let j = 0; j < m; j++) {
      const t = a[k * m + j];
      a[k * m + j] = a[p * m + j];
      a[p * m + j] = t;
    }
  };
  for (let k = 0; k < n; k++) {
    let p = k;
    let best = -1;
    for (let i = k; i < n; i++) {
      const r = re[i * n + k];
      const x = im ? im[i * n + k] : 0;
      const size = r * r + x * x;
      if (size > best) {
        best = size;
        p = i;
      }
    }
    order[k] = p;
    if (p !== k) {
      exchange(re, k, p, n);
      if (im) exchange(im, k, p, n);
    }
    const b = k * n;
    if (!im) {
      const d = 1 / re[b + k];
      for (let i = k + 1; i < n; i++) {
        const a = i * n;
        const f = re[a + k] * d;
        re[a + k] = f;
        if (f !== 0) for (let j = k + 1; j < n; j++) re[a + j] -= f * re[b + j];
      }
      continue;
    }
    const dr = re[b + k] / best;
    const di = -im[b + k] / best;
    for (let i = k + 1; i < n; i++) {
      const a = i * n;
      const fr = re[a + k] * dr - im[a + k] * di;
      const fi = re[a + k] * di + im[a + k] * dr;
      re[a + k] = fr;
      im[a + k] = fi;
      for (let j = k + 1; j < n; j++) {
        const r = re[b + j];
        const x = im[b + j];
        re[a + j] -= fr * r - fi * x;
        im[a + j] -= fr * x + fi * r;
      }
    }
  }
  return {
    solve(m, vr, vi) {
      for (let k = 0; k < n; k++)
        if (order[k] !== k) {
          exchange(vr, k, order[k], m);
          if (vi) exchange(vi, k, order[k], m);
        }
      /** Row i less row k times an entry of the factors. */
      const take = (i: number, k: number) => {
        const fr = re[i * n + k];
        const fi = im ? im[i * n + k] : 0;
        for (let c = 0; c < m; c++) {
          const r = vr[k * m + c];
          const x = vi ? vi[k * m + c] : 0;
          vr[i * m + c] -= fr * r - fi * x;
          if (vi) vi[i * m + c] -= fr * x + fi * r;
        }
      };
      for (let i = 1; i < n; i++) for (let k = 0; k < i; k++) take(i, k);
      for (let i = n - 1; i >= 0; i--) {
        for (let k = i + 1; k < n; k++) take(i, k);
        const dr = re[i * n + i];
        const di = im ? im[i * n + i] : 0;
        const d = dr * dr + di * di;
        for (let c = 0; c < m; c++) {
          const r = vr[i * m + c];
          const x = vi ? vi[i * m + c] : 0;
          vr[i * m + c] = (r * dr + x * di) / d;
          if (vi) vi[i * m + c] = (x * dr - r * di) / d;
        }
      }
    },
  };
}
