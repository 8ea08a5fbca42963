/** Solves a symmetric positive definite system in place (Cholesky) for each of `sides`; reads the upper triangle of `a`. */
export function solveSymmetric(n: number, a: Float64Array, ...sides: readonly Float64Array[]): void {
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) {
      const f = a[k * n + i];
      if (f !== 0) for (let j = i; j < n; j++) a[i * n + j] -= f * a[k * n + j];
    }
    const root = Math.sqrt(a[i * n + i]);
    for (let j = i; j < n; j++) a[i * n + j] /= root;
  }
  for (const b of sides) {
    for (let i = 0; i < n; i++) {
      let sum = b[i];
      for (let k = 0; k < i; k++) sum -= a[k * n + i] * b[k];
      b[i] = sum / a[i * n + i];
    }
    for (let i = n - 1; i >= 0; i--) {
      let sum = b[i];
      for (let k = i + 1; k < n; k++) sum -= a[i * n + k] * b[k];
      b[i] = sum / a[i * n + i];
    }
  }
}

/**
 * The matrix of means on panels that are two neighbours each: `share[i]` of a pair's charge lies on panel i.
 * @param a upper triangle, n x n with n even
 */
export function merged(n: number, a: Float64Array, share: Float64Array): Float64Array {
  const m = n / 2;
  const out = new Float64Array(m * m);
  for (let i = 0; i < n; i++)
    for (let j = i; j < n; j++) {
      const term = share[i] * share[j] * a[i * n + j];
      const at = (i >> 1) * m + (j >> 1);
      // Below the diagonal of a pair stands what lies above it.
      out[at] += i !== j && i >> 1 === j >> 1 ? 2 * term : term;
    }
  return out;
}

/** A value with an estimate of its own error, relative. */
export interface Estimate {
  readonly value: number;
  readonly error: number;
}

/**
 * Limit of a value that a mesh and the same with its panels joined in pairs give. The energy's error falls with the third
 * power of the panels (constants, Galerkin), so that the limit lies a seventh of their difference further on; half of
 * that step is taken for the error left.
 */
export function limitOf(fine: number, coarse: number): Estimate {
  const value = fine + (fine - coarse) / 7;
  return { value, error: Math.abs((fine - coarse) / (14 * value)) };
}
