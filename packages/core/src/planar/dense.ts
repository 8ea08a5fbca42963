/** A dense matrix taken apart by elimination, ready for right-hand sides. */
export interface Factors {
  /** Solves in place, `m` columns row by row; imaginary parts absent where everything is real. */
  solve(m: number, re: Float64Array, im?: Float64Array): void;
}

/** Columns that are eliminated before the rest of the matrix hears of them: what they need fits into the nearest memory. */
const PANEL = 48;

/**
 * Takes a matrix apart by elimination with row exchanges, panel by panel (Golub & Van Loan 1996, 3.2.11). The contents are
 * destroyed.
 * @param im imaginary parts, absent where the matrix is real
 */
export function factorise(n: number, re: Float64Array, im?: Float64Array): Factors {
  const order = new Int32Array(n);
  for (let from = 0; from < n; from += PANEL) {
    const to = Math.min(n, from + PANEL);
    panel(n, from, to, re, im, order);
    if (to === n) break;
    // Rows of the panel to the right of it, then everything below them.
    for (let k = from; k < to; k++)
      for (let i = k + 1; i < to; i++) takeRow(re, im, i * n, k * n, i * n + k, to, n);
    if (im) updateComplex(n, from, to, re, im);
    else updateReal(n, from, to, re);
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

function exchange(a: Float64Array, k: number, p: number, m: number): void {
  for (let j = 0; j < m; j++) {
    const t = a[k * m + j];
    a[k * m + j] = a[p * m + j];
    a[p * m + j] = t;
  }
}

/** The row at `a` less the row at `b` times the entry at `f`, from one column to another. */
function takeRow(
  re: Float64Array,
  im: Float64Array | undefined,
  a: number,
  b: number,
  f: number,
  from: number,
  to: number,
): void {
  const fr = re[f];
  if (!im) {
    for (let j = from; j < to; j++) re[a + j] -= fr * re[b + j];
    return;
  }
  const fi = im[f];
  for (let j = from; j < to; j++) {
    const r = re[b + j];
    const x = im[b + j];
    re[a + j] -= fr * r - fi * x;
    im[a + j] -= fr * x + fi * r;
  }
}

/** Eliminates the columns of a panel in all rows from its own on. */
function panel(
  n: number,
  from: number,
  to: number,
  re: Float64Array,
  im: Float64Array | undefined,
  order: Int32Array,
): void {
  for (let k = from; k < to; k++) {
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
    const dr = re[b + k] / best;
    const di = im ? -im[b + k] / best : 0;
    for (let i = k + 1; i < n; i++) {
      const at = i * n + k;
      const r = re[at];
      if (im) {
        const x = im[at];
        re[at] = r * dr - x * di;
        im[at] = r * di + x * dr;
      } else re[at] = r * dr;
      takeRow(re, im, i * n, b, at, k + 1, to);
    }
  }
}

/** What stands below and to the right of a panel less its columns times its rows: four rows and two columns at a time. */
function updateReal(n: number, from: number, to: number, a: Float64Array): void {
  const depth = to - from;
  const rows = new Float64Array(4 * depth);
  const columns = new Float64Array(2 * depth * Math.ceil((n - to) / 2));
  for (let j = to; j < n; j++) {
    const at = (j - to) >> 1;
    const odd = (j - to) & 1;
    for (let k = 0; k < depth; k++) columns[2 * (at * depth + k) + odd] = a[(from + k) * n + j];
  }
  for (let i = to; i < n; i += 4) {
    const high = Math.min(4, n - i);
    rows.fill(0);
    for (let q = 0; q < high; q++)
      for (let k = 0; k < depth; k++) rows[4 * k + q] = a[(i + q) * n + from + k];
    for (let j = to, c = 0; j < n; j += 2, c += 2 * depth) {
      let [p0, p1, p2, p3, q0, q1, q2, q3] = [0, 0, 0, 0, 0, 0, 0, 0];
      for (let k = 0; k < depth; k++) {
        const x = columns[c + 2 * k];
        const y = columns[c + 2 * k + 1];
        const r0 = rows[4 * k];
        const r1 = rows[4 * k + 1];
        const r2 = rows[4 * k + 2];
        const r3 = rows[4 * k + 3];
        p0 += r0 * x;
        p1 += r1 * x;
        p2 += r2 * x;
        p3 += r3 * x;
        q0 += r0 * y;
        q1 += r1 * y;
        q2 += r2 * y;
        q3 += r3 * y;
      }
      const two = j + 1 < n;
      const at = i * n + j;
      a[at] -= p0;
      if (two) a[at + 1] -= q0;
      if (high > 1) {
        a[at + n] -= p1;
        if (two) a[at + n + 1] -= q1;
      }
      if (high > 2) {
        a[at + 2 * n] -= p2;
        if (two) a[at + 2 * n + 1] -= q2;
      }
      if (high > 3) {
        a[at + 3 * n] -= p3;
        if (two) a[at + 3 * n + 1] -= q3;
      }
    }
  }
}

/** The same for complex numbers: two rows and two columns at a time. */
function updateComplex(n: number, from: number, to: number, re: Float64Array, im: Float64Array): void {
  const depth = to - from;
  const rows = new Float64Array(4 * depth);
  const columns = new Float64Array(4 * depth * Math.ceil((n - to) / 2));
  for (let j = to; j < n; j++) {
    const at = (j - to) >> 1;
    const odd = 2 * ((j - to) & 1);
    for (let k = 0; k < depth; k++) {
      columns[4 * (at * depth + k) + odd] = re[(from + k) * n + j];
      columns[4 * (at * depth + k) + odd + 1] = im[(from + k) * n + j];
    }
  }
  for (let i = to; i < n; i += 2) {
    const high = Math.min(2, n - i);
    rows.fill(0);
    for (let q = 0; q < high; q++)
      for (let k = 0; k < depth; k++) {
        rows[4 * k + 2 * q] = re[(i + q) * n + from + k];
        rows[4 * k + 2 * q + 1] = im[(i + q) * n + from + k];
      }
    for (let j = to, c = 0; j < n; j += 2, c += 4 * depth) {
      let [ar, ai, br, bi, cr, ci, dr, di] = [0, 0, 0, 0, 0, 0, 0, 0];
      for (let k = 0; k < 4 * depth; k += 4) {
        const r0 = rows[k];
        const x0 = rows[k + 1];
        const r1 = rows[k + 2];
        const x1 = rows[k + 3];
        const u = columns[c + k];
        const v = columns[c + k + 1];
        const s = columns[c + k + 2];
        const t = columns[c + k + 3];
        ar += r0 * u - x0 * v;
        ai += r0 * v + x0 * u;
        br += r0 * s - x0 * t;
        bi += r0 * t + x0 * s;
        cr += r1 * u - x1 * v;
        ci += r1 * v + x1 * u;
        dr += r1 * s - x1 * t;
        di += r1 * t + x1 * s;
      }
      const two = j + 1 < n;
      const at = i * n + j;
      re[at] -= ar;
      im[at] -= ai;
      if (two) {
        re[at + 1] -= br;
        im[at + 1] -= bi;
      }
      if (high < 2) continue;
      re[at + n] -= cr;
      im[at + n] -= ci;
      if (two) {
        re[at + n + 1] -= dr;
        im[at + n + 1] -= di;
      }
    }
  }
}

/**
 * Adds the weighted products of the rows of `b` (n x count) with one another to the upper triangle of `z`: four rows and two
 * more at a time. What stands below the diagonal becomes worthless.
 */
export function addProducts(
  n: number,
  count: number,
  b: Float64Array,
  w: Float64Array,
  z: Float64Array,
): void {
  const rows = new Float64Array(4 * count);
  for (let i = 0; i < n; i += 4) {
    const high = Math.min(4, n - i);
    rows.fill(0);
    for (let q = 0; q < high; q++)
      for (let m = 0; m < count; m++) rows[4 * m + q] = w[m] * b[(i + q) * count + m];
    for (let j = i; j < n; j += 2) {
      const two = j + 1 < n;
      const x0 = j * count;
      const y0 = two ? x0 + count : x0;
      let [p0, p1, p2, p3, q0, q1, q2, q3] = [0, 0, 0, 0, 0, 0, 0, 0];
      for (let m = 0; m < count; m++) {
        const x = b[x0 + m];
        const y = b[y0 + m];
        const r0 = rows[4 * m];
        const r1 = rows[4 * m + 1];
        const r2 = rows[4 * m + 2];
        const r3 = rows[4 * m + 3];
        p0 += r0 * x;
        p1 += r1 * x;
        p2 += r2 * x;
        p3 += r3 * x;
        q0 += r0 * y;
        q1 += r1 * y;
        q2 += r2 * y;
        q3 += r3 * y;
      }
      const at = i * n + j;
      z[at] += p0;
      if (two) z[at + 1] += q0;
      if (high > 1) {
        z[at + n] += p1;
        if (two) z[at + n + 1] += q1;
      }
      if (high > 2) {
        z[at + 2 * n] += p2;
        if (two) z[at + 2 * n + 1] += q2;
      }
      if (high > 3) {
        z[at + 3 * n] += p3;
        if (two) z[at + 3 * n + 1] += q3;
      }
    }
  }
}
