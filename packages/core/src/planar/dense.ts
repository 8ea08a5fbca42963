import binary from './generated/dense';

/** A dense matrix taken apart by elimination, ready for right-hand sides. */
export interface Factors {
  /** Solves in place, `m` columns row by row; imaginary parts absent where everything is real. */
  solve(m: number, re: Float64Array, im?: Float64Array): void;
}

/** Kernels compiled from `wasm/dense.ts`; pointers are bytes in the memory that they are given. */
interface Kernels {
  factorise(n: number, panel: number, re: number, im: number, order: number, work: number): void;
  factoriseSymmetric(n: number, panel: number, re: number, im: number, work: number): void;
  addProducts(n: number, count: number, b: number, w: number, z: number, work: number): void;
}

/** Columns that are eliminated before the rest of the matrix hears of them: what they need fits into the nearest memory. */
const PANEL = 48;

/** How far a known solution may be missed. */
const SOUND = 1e-7;

const PAGE = 65536;
const SIZE = 8;

/** What page, worker, server and command line all have. */
const { WebAssembly, atob } = globalThis as unknown as {
  readonly atob: (text: string) => string;
  readonly WebAssembly: {
    readonly Memory: new (size: { readonly initial: number }) => { readonly buffer: ArrayBuffer };
    readonly Module: new (bytes: Uint8Array) => object;
    readonly Instance: new (module: object, imports: object) => { readonly exports: object };
  };
};

let compiled: object | undefined;

/** The module, compiled once. */
const kernelModule = (): object =>
  (compiled ??= new WebAssembly.Module(Uint8Array.from(atob(binary), (c) => c.charCodeAt(0))));

/** A square matrix in memory of its own, with what is done to it. */
export interface Dense {
  readonly re: Float64Array;
  /** Absent where everything is real. */
  readonly im?: Float64Array;
  /** Rows (n x count) whose products are to be added, as many as there are tables; written by the caller, once. */
  readonly tables: readonly Float64Array[];
  /**
   * Adds the products of the rows of a table with one another, weighted by `w` (count), to the upper triangle of the real or
   * of the imaginary part. What stands below the diagonal becomes worthless.
   */
  addProducts(table: number, w: Float64Array, part: 're' | 'im'): void;
  /** Takes the matrix apart by elimination with row exchanges, panel by panel (Golub & Van Loan 1996, 3.2.11); it is gone then. */
  factorise(): Factors;
  /**
   * The same of a complex symmetric matrix, whose upper triangle is read, at half the cost: without exchanges (Golub & Van Loan 1996,
   * 4.1). Undefined where that lost too many digits, which is tried on a known solution; the matrix is gone then as well.
   */
  factoriseSymmetric(): Factors | undefined;
}

/**
 * Room for a matrix of order `n` and for tables of rows of `count` entries each.
 * @throws RangeError where there is not so much memory
 */
export function denseOf(n: number, isComplex: boolean, tables = 0, count = 0): Dense {
  // Pairs of entries are taken together.
  const even = count + (count % 2);
  let bytes = 1024;
  const place = (doubles: number): number => {
    const at = bytes;
    bytes += SIZE * doubles + (16 - ((SIZE * doubles) % 16));
    return at;
  };
  const re = place(n * n);
  const im = isComplex ? place(n * n) : 0;
  const order = place(n);
  const weights = place(even);
  const at = Array.from({ length: tables }, () => place(n * even));
  const work = place(Math.max((isComplex ? 10 : 4) * PANEL * (n + 8), 4 * even));
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE) });
  const instance = new WebAssembly.Instance(kernelModule(), { env: { memory } });
  const kernels = instance.exports as Kernels;
  const view = (from: number, length: number) => new Float64Array(memory.buffer, from, length);
  const [mr, mi] = [view(re, n * n), isComplex ? view(im, n * n) : undefined];
  const exchanged = new Int32Array(memory.buffer, order, n);
  const w = view(weights, even);
  return {
    re: mr,
    im: mi,
    tables: at.map((p) => view(p, n * even)),
    addProducts(table, given, part) {
      w.fill(0);
      w.set(given);
      kernels.addProducts(n, even, at[table], weights, part === 're' ? re : im, work);
    },
    factorise() {
      kernels.factorise(n, PANEL, re, im, order, work);
      return { solve: (m, vr, vi) => substitute(n, mr, mi, exchanged, m, vr, vi) };
    },
    factoriseSymmetric() {
      // What the matrix makes of ones must become ones again.
      const [r, x] = [new Float64Array(n), new Float64Array(n)];
      for (let i = 0; i < n; i++)
        for (let j = i; j < n; j++) {
          r[i] += mr[i * n + j];
          x[i] += mi![i * n + j];
          if (j === i) continue;
          r[j] += mr[i * n + j];
          x[j] += mi![i * n + j];
        }
      kernels.factoriseSymmetric(n, PANEL, re, im, work);
      substituteSymmetric(n, mr, mi!, 1, r, x);
      for (let i = 0; i < n; i++) if (!(Math.hypot(r[i] - 1, x[i]) < SOUND)) return undefined;
      return { solve: (m, vr, vi) => substituteSymmetric(n, mr, mi!, m, vr, vi!) };
    },
  };
}

/** Length of a row of a table of `count` entries. */
export const rowOf = (count: number): number => count + (count % 2);

/** Solves with the factors, in place. */
function substitute(
  n: number,
  re: Float64Array,
  im: Float64Array | undefined,
  order: Int32Array,
  m: number,
  vr: Float64Array,
  vi: Float64Array | undefined,
): void {
  const exchange = (a: Float64Array, k: number, p: number) => {
    for (let j = 0; j < m; j++) {
      const t = a[k * m + j];
      a[k * m + j] = a[p * m + j];
      a[p * m + j] = t;
    }
  };
  for (let k = 0; k < n; k++)
    if (order[k] !== k) {
      exchange(vr, k, order[k]);
      if (vi) exchange(vi, k, order[k]);
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
}

/** Solves with the factors of a symmetric matrix, in place. */
function substituteSymmetric(
  n: number,
  re: Float64Array,
  im: Float64Array,
  m: number,
  vr: Float64Array,
  vi: Float64Array,
): void {
  // Column by column: along a row of the factors everything stands beside one another then.
  const [xr, xi] = [new Float64Array(n), new Float64Array(n)];
  for (let c = 0; c < m; c++) {
    for (let i = 0; i < n; i++) [xr[i], xi[i]] = [vr[i * m + c], vi[i * m + c]];
    for (let k = 0; k < n; k++) {
      const [r, x] = [xr[k], xi[k]];
      if (r === 0 && x === 0) continue;
      for (let i = k + 1, at = k * n + k + 1; i < n; i++, at++) {
        xr[i] -= re[at] * r - im[at] * x;
        xi[i] -= re[at] * x + im[at] * r;
      }
    }
    for (let k = n - 1; k >= 0; k--) {
      const [dr, di] = [re[k * n + k], im[k * n + k]];
      const d = dr * dr + di * di;
      let sr = (xr[k] * dr + xi[k] * di) / d;
      let si = (xi[k] * dr - xr[k] * di) / d;
      for (let i = k + 1, at = k * n + k + 1; i < n; i++, at++) {
        sr -= re[at] * xr[i] - im[at] * xi[i];
        si -= re[at] * xi[i] + im[at] * xr[i];
      }
      xr[k] = sr;
      xi[k] = si;
    }
    for (let i = 0; i < n; i++) [vr[i * m + c], vi[i * m + c]] = [xr[i], xi[i]];
  }
}
