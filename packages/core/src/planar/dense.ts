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
  factoriseSingle(
    n: number,
    panel: number,
    re: number,
    im: number,
    fr: number,
    fi: number,
    work: number,
  ): void;
  substituteSingle(n: number, m: number, fr: number, fi: number, x: number): void;
  lessSymmetric(n: number, m: number, re: number, im: number, x: number, b: number): void;
  addProducts(n: number, count: number, b: number, w: number, z: number, work: number): void;
}

/** Columns that are eliminated before the rest of the matrix hears of them: what they need fits into the nearest memory. */
const PANEL = 48;

/** How far a known solution may be missed. */
const SOUND = 1e-7;

/** Order from which single precision, refined, is quicker than double. */
const LARGE = 160;
/** Columns that are refined together: what they need of the matrix is read once. */
const TOGETHER = 4;
/** A correction this small against the solution is the last one: rounding of the matrix itself weighs as much. */
const REFINED = 1e-8;
/** A correction has to be so much smaller than the one before; where it is not, single precision is too little. */
const GAIN = 0.3;

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
   * 4.1). A large one is taken apart in single precision, and what comes of that is refined in double until nothing changes any more
   * (Langou et al. 2006). Undefined where too many digits were lost, which is tried on a known solution; the matrix is gone then.
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
  const refined = isComplex && n >= LARGE;
  const [fr, fi] = refined ? [place((n * n) / 2 + 1), place((n * n) / 2 + 1)] : [0, 0];
  const columns = refined ? place(2 * n * TOGETHER) : 0;
  const left = refined ? place(2 * n * TOGETHER) : 0;
  const tried = isComplex ? place(4 * n) : 0;
  const order = place(n);
  const weights = place(even);
  const at = Array.from({ length: tables }, () => place(n * even));
  const work = place(Math.max((isComplex ? 10 : 4) * PANEL * (n + 8), 4 * even));
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE) });
  const instance = new WebAssembly.Instance(kernelModule(), { env: { memory } });
  const kernels = instance.exports as Kernels;
  const view = (from: number, length: number) => new Float64Array(memory.buffer, from, length);
  const [mr, mi] = [view(re, n * n), isComplex ? view(im, n * n) : undefined];
  /**
   * Solves with the single factors and refines, in place; false where that does not lead to an end, and what was given stays.
   */
  const refine = (m: number, vr: Float64Array, vi: Float64Array): boolean => {
    const sizeOf = (at: Float64Array, c: number): number => {
      let most = 0;
      for (let i = 2 * c * n; i < 2 * (c + 1) * n; i++) most = Math.max(most, Math.abs(at[i]));
      return most;
    };
    const [given, rest] = [columns, left].map((p) => view(p, 2 * n * TOGETHER));
    const [or, oi] = [new Float64Array(n * m), new Float64Array(n * m)];
    for (let from = 0; from < m; from += TOGETHER) {
      const count = Math.min(TOGETHER, m - from);
      const at = (c: number, i: number) => i * m + from + c;
      const b = new Float64Array(2 * n * count);
      for (let c = 0; c < count; c++)
        for (let i = 0; i < n; i++) {
          b[2 * c * n + i] = vr[at(c, i)];
          b[(2 * c + 1) * n + i] = vi[at(c, i)];
        }
      given.set(b);
      kernels.substituteSingle(n, count, fr, fi, columns);
      let before = Array.from({ length: count }, () => 1);
      for (let isDone = false; !isDone;) {
        rest.set(b);
        kernels.lessSymmetric(n, count, re, im, columns, left);
        kernels.substituteSingle(n, count, fr, fi, left);
        const change = before.map((_, c) => {
          const size = sizeOf(given, c);
          return size === 0 ? 0 : sizeOf(rest, c) / size;
        });
        for (let i = 0; i < b.length; i++) given[i] += rest[i];
        isDone = change.every((c) => c < REFINED);
        if (!isDone && !change.every((c, k) => c < REFINED || c < GAIN * before[k])) return false;
        before = change;
      }
      for (let c = 0; c < count; c++)
        for (let i = 0; i < n; i++) {
          or[at(c, i)] = given[2 * c * n + i];
          oi[at(c, i)] = given[(2 * c + 1) * n + i];
        }
    }
    vr.set(or);
    vi.set(oi);
    return true;
  };
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
      const made = view(tried, 4 * n);
      made.fill(0).fill(-1, 0, n);
      kernels.lessSymmetric(n, 1, re, im, tried, tried + SIZE * 2 * n);
      const [r, x] = [made.slice(2 * n, 3 * n), made.slice(3 * n)];
      const isSound = (): boolean => r.every((v, i) => Math.hypot(v - 1, x[i]) < SOUND);
      const double = () => {
        kernels.factoriseSymmetric(n, PANEL, re, im, work);
        return (m: number, vr: Float64Array, vi: Float64Array) => substituteSymmetric(n, mr, mi!, m, vr, vi);
      };
      const [known, none] = [r.slice(), x.slice()];
      if (refined) {
        kernels.factoriseSingle(n, PANEL, re, im, fr, fi, work);
        if (refine(1, r, x) && isSound()) {
          let other: ReturnType<typeof double> | undefined;
          return {
            solve(m, vr, vi) {
              if (other || !refine(m, vr, vi!)) (other ??= double())(m, vr, vi!);
            },
          };
        }
      }
      r.set(known);
      x.set(none);
      const solve = double();
      solve(1, r, x);
      return isSound() ? { solve: (m, vr, vi) => solve(m, vr, vi!) } : undefined;
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
