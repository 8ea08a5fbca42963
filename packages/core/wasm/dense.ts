// Dense kernels of the planar field solution, compiled to WebAssembly with vectors of two doubles (see scripts/wasm.mjs).
// Pointers are bytes in the memory that the caller lends; matrices stand row by row.

const F: usize = 8;

function get(p: usize, i: i32): f64 {
  return load<f64>(p + <usize>i * F);
}

function set(p: usize, i: i32, v: f64): void {
  store<f64>(p + <usize>i * F, v);
}

function exchange(a: usize, n: i32, k: i32, p: i32): void {
  for (let j = 0; j < n; j++) {
    const t = get(a, k * n + j);
    set(a, k * n + j, get(a, p * n + j));
    set(a, p * n + j, t);
  }
}

/** The row at `a` less `f` times the row at `b`, `count` entries, real. */
function takeReal(re: usize, a: i32, b: i32, f: f64, count: i32): void {
  const v = f64x2.splat(f);
  let p = re + <usize>a * F;
  let q = re + <usize>b * F;
  let j = 0;
  for (; j + 2 <= count; j += 2) {
    v128.store(p, f64x2.sub(v128.load(p), f64x2.mul(v, v128.load(q))));
    p += 16;
    q += 16;
  }
  if (j < count) store<f64>(p, load<f64>(p) - f * load<f64>(q));
}

/** The same for complex rows. */
function takeComplex(re: usize, im: usize, a: i32, b: i32, fr: f64, fi: f64, count: i32): void {
  const vr = f64x2.splat(fr);
  const vi = f64x2.splat(fi);
  let p = <usize>a * F;
  let q = <usize>b * F;
  let j = 0;
  for (; j + 2 <= count; j += 2) {
    const r = v128.load(re + q);
    const x = v128.load(im + q);
    v128.store(re + p, f64x2.sub(v128.load(re + p), f64x2.sub(f64x2.mul(vr, r), f64x2.mul(vi, x))));
    v128.store(im + p, f64x2.sub(v128.load(im + p), f64x2.add(f64x2.mul(vr, x), f64x2.mul(vi, r))));
    p += 16;
    q += 16;
  }
  if (j < count) {
    const r = load<f64>(re + q);
    const x = load<f64>(im + q);
    store<f64>(re + p, load<f64>(re + p) - (fr * r - fi * x));
    store<f64>(im + p, load<f64>(im + p) - (fr * x + fi * r));
  }
}

/** Largest entry of column k from row k on. */
function pivotOf(n: i32, k: i32, re: usize, im: usize): i32 {
  let best: f64 = -1;
  let p = k;
  for (let i = k; i < n; i++) {
    const r = get(re, i * n + k);
    const x = im ? get(im, i * n + k) : 0;
    const size = r * r + x * x;
    if (size > best) {
      best = size;
      p = i;
    }
  }
  return p;
}

/**
 * Takes a matrix apart by elimination with row exchanges, panel by panel.
 * @param im 0 where the matrix is real
 * @param order receives the row exchanged with each (i32)
 * @param work room for 4 * panel * (n + 8) doubles
 */
export function factorise(n: i32, panel: i32, re: usize, im: usize, order: usize, work: usize): void {
  for (let from = 0; from < n; from += panel) {
    const to = min(n, from + panel);
    for (let k = from; k < to; k++) {
      const p = pivotOf(n, k, re, im);
      store<i32>(order + <usize>k * 4, p);
      if (p != k) {
        exchange(re, n, k, p);
        if (im) exchange(im, n, k, p);
      }
      const r = get(re, k * n + k);
      const x = im ? get(im, k * n + k) : 0;
      const d = 1 / (r * r + x * x);
      const dr = r * d;
      const di = -x * d;
      for (let i = k + 1; i < n; i++) {
        const at = i * n + k;
        const a = get(re, at);
        if (im) {
          const b = get(im, at);
          const fr = a * dr - b * di;
          const fi = a * di + b * dr;
          set(re, at, fr);
          set(im, at, fi);
          takeComplex(re, im, at + 1, k * n + k + 1, fr, fi, to - k - 1);
        } else {
          const f = a * dr;
          set(re, at, f);
          takeReal(re, at + 1, k * n + k + 1, f, to - k - 1);
        }
      }
    }
    if (to == n) break;
    for (let k = from; k < to; k++)
      for (let i = k + 1; i < to; i++)
        if (im) takeComplex(re, im, i * n + to, k * n + to, get(re, i * n + k), get(im, i * n + k), n - to);
        else takeReal(re, i * n + to, k * n + to, get(re, i * n + k), n - to);
    if (im) updateComplex(n, from, to, re, im, work);
    else updateReal(n, from, to, re, work);
  }
}

/** What stands below and to the right of a panel less its columns times its rows: four rows and four columns at a time. */
function updateReal(n: i32, from: i32, to: i32, a: usize, work: usize): void {
  const depth = to - from;
  const groups = (n - to + 3) / 4;
  const rows = work + <usize>(4 * depth * groups) * F;
  // Columns in groups of four, the last filled up with zeros.
  for (let g = 0; g < groups; g++)
    for (let k = 0; k < depth; k++)
      for (let q = 0; q < 4; q++) {
        const j = to + 4 * g + q;
        set(work, 4 * (g * depth + k) + q, j < n ? get(a, (from + k) * n + j) : 0);
      }
  for (let i = to; i < n; i += 4) {
    const high = min(4, n - i);
    for (let k = 0; k < depth; k++)
      for (let q = 0; q < 4; q++) set(rows, 4 * k + q, q < high ? get(a, (i + q) * n + from + k) : 0);
    for (let g = 0; g < groups; g++) {
      let p0 = f64x2.splat(0);
      let p1 = p0;
      let p2 = p0;
      let p3 = p0;
      let q0 = p0;
      let q1 = p0;
      let q2 = p0;
      let q3 = p0;
      let c = work + <usize>(4 * g * depth) * F;
      let r = rows;
      for (let k = 0; k < depth; k++) {
        const u = v128.load(c);
        const v = v128.load(c, 16);
        const s0 = v128.load64_splat(r);
        const s1 = v128.load64_splat(r, 8);
        const s2 = v128.load64_splat(r, 16);
        const s3 = v128.load64_splat(r, 24);
        p0 = f64x2.add(p0, f64x2.mul(s0, u));
        q0 = f64x2.add(q0, f64x2.mul(s0, v));
        p1 = f64x2.add(p1, f64x2.mul(s1, u));
        q1 = f64x2.add(q1, f64x2.mul(s1, v));
        p2 = f64x2.add(p2, f64x2.mul(s2, u));
        q2 = f64x2.add(q2, f64x2.mul(s2, v));
        p3 = f64x2.add(p3, f64x2.mul(s3, u));
        q3 = f64x2.add(q3, f64x2.mul(s3, v));
        c += 32;
        r += 32;
      }
      const j = to + 4 * g;
      const wide = min(4, n - j);
      lessRow(a, i * n + j, wide, p0, q0);
      if (high > 1) lessRow(a, (i + 1) * n + j, wide, p1, q1);
      if (high > 2) lessRow(a, (i + 2) * n + j, wide, p2, q2);
      if (high > 3) lessRow(a, (i + 3) * n + j, wide, p3, q3);
    }
  }
}

/** Up to four entries less those of two vectors. */
function lessRow(a: usize, at: i32, wide: i32, p: v128, q: v128): void {
  const to = a + <usize>at * F;
  if (wide == 4) {
    v128.store(to, f64x2.sub(v128.load(to), p));
    v128.store(to, f64x2.sub(v128.load(to, 16), q), 16);
    return;
  }
  store<f64>(to, load<f64>(to) - f64x2.extract_lane(p, 0));
  if (wide > 1) store<f64>(to + 8, load<f64>(to + 8) - f64x2.extract_lane(p, 1));
  if (wide > 2) store<f64>(to + 16, load<f64>(to + 16) - f64x2.extract_lane(q, 0));
}

/** The same for complex numbers: two rows and four columns at a time. */
function updateComplex(n: i32, from: i32, to: i32, re: usize, im: usize, work: usize): void {
  const depth = to - from;
  const rows = packColumns(n, from, to, re, im, work);
  for (let i = to; i < n; i += 2) {
    const two = i + 1 < n;
    for (let k = 0; k < depth; k++) {
      set(rows, 4 * k, get(re, i * n + from + k));
      set(rows, 4 * k + 1, get(im, i * n + from + k));
      set(rows, 4 * k + 2, two ? get(re, (i + 1) * n + from + k) : 0);
      set(rows, 4 * k + 3, two ? get(im, (i + 1) * n + from + k) : 0);
    }
    lessProducts(n, i, to, depth, 0, two, re, im, work, rows);
  }
}

/** Rows of a panel to the right of it in groups of four columns, the last filled up with zeros; gives where room is left. */
function packColumns(n: i32, from: i32, to: i32, re: usize, im: usize, work: usize): usize {
  const depth = to - from;
  const groups = (n - to + 3) / 4;
  for (let g = 0; g < groups; g++)
    for (let k = 0; k < depth; k++)
      for (let q = 0; q < 4; q++) {
        const j = to + 4 * g + q;
        const at = 8 * (g * depth + k) + q;
        set(work, at, j < n ? get(re, (from + k) * n + j) : 0);
        set(work, at + 4, j < n ? get(im, (from + k) * n + j) : 0);
      }
  return work + <usize>(8 * depth * groups) * F;
}

/** One or two rows from a group of columns on, less the products of what is packed. */
function lessProducts(
  n: i32,
  i: i32,
  to: i32,
  depth: i32,
  first: i32,
  two: bool,
  re: usize,
  im: usize,
  work: usize,
  rows: usize,
): void {
  const groups = (n - to + 3) / 4;
  for (let g = first; g < groups; g++) {
    let ar = f64x2.splat(0);
    let br = ar;
    let ai = ar;
    let bi = ar;
    let cr = ar;
    let dr = ar;
    let ci = ar;
    let di = ar;
    let c = work + <usize>(8 * g * depth) * F;
    let r = rows;
    for (let k = 0; k < depth; k++) {
      const ur = v128.load(c);
      const vr = v128.load(c, 16);
      const ui = v128.load(c, 32);
      const vi = v128.load(c, 48);
      const r0 = v128.load64_splat(r);
      const x0 = v128.load64_splat(r, 8);
      const r1 = v128.load64_splat(r, 16);
      const x1 = v128.load64_splat(r, 24);
      ar = f64x2.add(ar, f64x2.sub(f64x2.mul(r0, ur), f64x2.mul(x0, ui)));
      ai = f64x2.add(ai, f64x2.add(f64x2.mul(r0, ui), f64x2.mul(x0, ur)));
      br = f64x2.add(br, f64x2.sub(f64x2.mul(r0, vr), f64x2.mul(x0, vi)));
      bi = f64x2.add(bi, f64x2.add(f64x2.mul(r0, vi), f64x2.mul(x0, vr)));
      cr = f64x2.add(cr, f64x2.sub(f64x2.mul(r1, ur), f64x2.mul(x1, ui)));
      ci = f64x2.add(ci, f64x2.add(f64x2.mul(r1, ui), f64x2.mul(x1, ur)));
      dr = f64x2.add(dr, f64x2.sub(f64x2.mul(r1, vr), f64x2.mul(x1, vi)));
      di = f64x2.add(di, f64x2.add(f64x2.mul(r1, vi), f64x2.mul(x1, vr)));
      c += 64;
      r += 32;
    }
    const j = to + 4 * g;
    const wide = min(4, n - j);
    lessRow(re, i * n + j, wide, ar, br);
    lessRow(im, i * n + j, wide, ai, bi);
    if (!two) continue;
    lessRow(re, (i + 1) * n + j, wide, cr, dr);
    lessRow(im, (i + 1) * n + j, wide, ci, di);
  }
}

/**
 * Takes a complex symmetric matrix, of which the upper triangle is read, apart as U^T D U, panel by panel and without exchanges (half
 * the work of elimination with them). The diagonal becomes D, what is above it U; what is below becomes worthless.
 * @param work room for 10 * panel * (n + 8) doubles
 */
export function factoriseSymmetric(n: i32, panel: i32, re: usize, im: usize, work: usize): void {
  const inverse = work + <usize>(8 * panel * (n + 8)) * F;
  for (let from = 0; from < n; from += panel) {
    const to = min(n, from + panel);
    const depth = to - from;
    for (let k = from; k < to; k++) {
      for (let p = from; p < k; p++) {
        const r = get(re, p * n + k);
        const x = get(im, p * n + k);
        const dr = get(inverse, 2 * (p - from));
        const di = get(inverse, 2 * (p - from) + 1);
        takeComplex(re, im, k * n + k, p * n + k, r * dr - x * di, r * di + x * dr, n - k);
      }
      const r = get(re, k * n + k);
      const x = get(im, k * n + k);
      const d = 1 / (r * r + x * x);
      set(inverse, 2 * (k - from), r * d);
      set(inverse, 2 * (k - from) + 1, -x * d);
    }
    if (to < n) {
      const rows = packColumns(n, from, to, re, im, work);
      for (let i = to; i < n; i += 2) {
        const two = i + 1 < n;
        for (let k = 0; k < depth; k++) {
          const dr = get(inverse, 2 * k);
          const di = get(inverse, 2 * k + 1);
          for (let q = 0; q < 2; q++) {
            const at = (from + k) * n + i + q;
            const r = q == 0 || two ? get(re, at) : 0;
            const x = q == 0 || two ? get(im, at) : 0;
            set(rows, 4 * k + 2 * q, r * dr - x * di);
            set(rows, 4 * k + 2 * q + 1, r * di + x * dr);
          }
        }
        lessProducts(n, i, to, depth, (i - to) / 4, two, re, im, work, rows);
      }
    }
    for (let k = from; k < to; k++) {
      const dr = get(inverse, 2 * (k - from));
      const di = get(inverse, 2 * (k - from) + 1);
      for (let j = k + 1; j < n; j++) {
        const r = get(re, k * n + j);
        const x = get(im, k * n + j);
        set(re, k * n + j, r * dr - x * di);
        set(im, k * n + j, r * di + x * dr);
      }
    }
  }
}

/**
 * Adds the products of the rows of `b` with one another, weighted by `w`, to the upper triangle of `z`; `count` is even. What stands
 * below the diagonal becomes worthless.
 * @param work room for 4 * count doubles
 */
export function addProducts(n: i32, count: i32, b: usize, w: usize, z: usize, work: usize): void {
  const length = <usize>count * F;
  for (let i = 0; i < n; i += 4) {
    const high = min(4, n - i);
    for (let q = 0; q < 4; q++)
      for (let m = 0; m < count; m++)
        set(work, q * count + m, q < high ? get(w, m) * get(b, (i + q) * count + m) : 0);
    for (let j = i; j < n; j += 2) {
      const two = j + 1 < n;
      let x = b + <usize>j * length;
      let y = two ? x + length : x;
      let r = work;
      let p0 = f64x2.splat(0);
      let p1 = p0;
      let p2 = p0;
      let p3 = p0;
      let q0 = p0;
      let q1 = p0;
      let q2 = p0;
      let q3 = p0;
      for (let m = 0; m < count; m += 2) {
        const u = v128.load(x);
        const v = v128.load(y);
        const s0 = v128.load(r);
        const s1 = v128.load(r + length);
        const s2 = v128.load(r + 2 * length);
        const s3 = v128.load(r + 3 * length);
        p0 = f64x2.add(p0, f64x2.mul(s0, u));
        q0 = f64x2.add(q0, f64x2.mul(s0, v));
        p1 = f64x2.add(p1, f64x2.mul(s1, u));
        q1 = f64x2.add(q1, f64x2.mul(s1, v));
        p2 = f64x2.add(p2, f64x2.mul(s2, u));
        q2 = f64x2.add(q2, f64x2.mul(s2, v));
        p3 = f64x2.add(p3, f64x2.mul(s3, u));
        q3 = f64x2.add(q3, f64x2.mul(s3, v));
        x += 16;
        y += 16;
        r += 16;
      }
      moreBy(z, i * n + j, p0, q0, two);
      if (high > 1) moreBy(z, (i + 1) * n + j, p1, q1, two);
      if (high > 2) moreBy(z, (i + 2) * n + j, p2, q2, two);
      if (high > 3) moreBy(z, (i + 3) * n + j, p3, q3, two);
    }
  }
}

/** One or two entries and the sums of two vectors. */
function moreBy(z: usize, at: i32, p: v128, q: v128, two: bool): void {
  set(z, at, get(z, at) + f64x2.extract_lane(p, 0) + f64x2.extract_lane(p, 1));
  if (two) set(z, at + 1, get(z, at + 1) + f64x2.extract_lane(q, 0) + f64x2.extract_lane(q, 1));
}

const S: usize = 4;

function get32(p: usize, i: i32): f32 {
  return load<f32>(p + <usize>i * S);
}

function set32(p: usize, i: i32, v: f32): void {
  store<f32>(p + <usize>i * S, v);
}

/** `takeComplex` in single precision. */
function takeSingle(re: usize, im: usize, a: i32, b: i32, fr: f32, fi: f32, count: i32): void {
  const vr = f32x4.splat(fr);
  const vi = f32x4.splat(fi);
  let p = <usize>a * S;
  let q = <usize>b * S;
  let j = 0;
  for (; j + 4 <= count; j += 4) {
    const r = v128.load(re + q);
    const x = v128.load(im + q);
    v128.store(re + p, f32x4.sub(v128.load(re + p), f32x4.sub(f32x4.mul(vr, r), f32x4.mul(vi, x))));
    v128.store(im + p, f32x4.sub(v128.load(im + p), f32x4.add(f32x4.mul(vr, x), f32x4.mul(vi, r))));
    p += 16;
    q += 16;
  }
  for (; j < count; j++) {
    const r = load<f32>(re + q);
    const x = load<f32>(im + q);
    store<f32>(re + p, load<f32>(re + p) - (fr * r - fi * x));
    store<f32>(im + p, load<f32>(im + p) - (fr * x + fi * r));
    p += 4;
    q += 4;
  }
}

/** Up to eight entries less those of two vectors of four. */
function lessSingle(a: usize, at: i32, wide: i32, p: v128, q: v128): void {
  let to = a + <usize>at * S;
  if (wide >= 4) {
    v128.store(to, f32x4.sub(v128.load(to), p));
    if (wide >= 8) {
      v128.store(to, f32x4.sub(v128.load(to, 16), q), 16);
      return;
    }
    to += 16;
    wide -= 4;
    p = q;
  }
  if (wide > 0) store<f32>(to, load<f32>(to) - f32x4.extract_lane(p, 0));
  if (wide > 1) store<f32>(to + 4, load<f32>(to + 4) - f32x4.extract_lane(p, 1));
  if (wide > 2) store<f32>(to + 8, load<f32>(to + 8) - f32x4.extract_lane(p, 2));
}

/** The upper triangle in single precision. */
function single(n: i32, from: usize, to: usize): void {
  for (let i = 0; i < n; i++) for (let k = i * n + i; k < (i + 1) * n; k++) set32(to, k, <f32>get(from, k));
}

/**
 * `factoriseSymmetric` in single precision, which takes vectors of four: of a copy at `fr`, `fi` (n x n singles each); the matrix
 * stays, for whoever refines what comes of this.
 * @param work room for 10 * panel * (n + 8) singles
 */
export function factoriseSingle(
  n: i32,
  panel: i32,
  re: usize,
  im: usize,
  fr: usize,
  fi: usize,
  work: usize,
): void {
  single(n, re, fr);
  single(n, im, fi);
  const inverse = work + <usize>(8 * panel * (n + 8)) * S;
  for (let from = 0; from < n; from += panel) {
    const to = min(n, from + panel);
    const depth = to - from;
    for (let k = from; k < to; k++) {
      for (let p = from; p < k; p++) {
        const r = get32(fr, p * n + k);
        const x = get32(fi, p * n + k);
        const dr = get32(inverse, 2 * (p - from));
        const di = get32(inverse, 2 * (p - from) + 1);
        takeSingle(fr, fi, k * n + k, p * n + k, r * dr - x * di, r * di + x * dr, n - k);
      }
      const r = <f64>get32(fr, k * n + k);
      const x = <f64>get32(fi, k * n + k);
      const d = 1 / (r * r + x * x);
      set32(inverse, 2 * (k - from), <f32>(r * d));
      set32(inverse, 2 * (k - from) + 1, <f32>(-x * d));
    }
    if (to < n) {
      // Columns in groups of eight, the last filled up with zeros.
      const groups = (n - to + 7) / 8;
      for (let g = 0; g < groups; g++)
        for (let k = 0; k < depth; k++)
          for (let q = 0; q < 8; q++) {
            const j = to + 8 * g + q;
            const at = 16 * (g * depth + k) + q;
            set32(work, at, j < n ? get32(fr, (from + k) * n + j) : 0);
            set32(work, at + 8, j < n ? get32(fi, (from + k) * n + j) : 0);
          }
      const rows = work + <usize>(16 * depth * groups) * S;
      for (let i = to; i < n; i += 2) {
        const two = i + 1 < n;
        for (let k = 0; k < depth; k++) {
          const dr = get32(inverse, 2 * k);
          const di = get32(inverse, 2 * k + 1);
          for (let q = 0; q < 2; q++) {
            const at = (from + k) * n + i + q;
            const r: f32 = q == 0 || two ? get32(fr, at) : 0;
            const x: f32 = q == 0 || two ? get32(fi, at) : 0;
            set32(rows, 4 * k + 2 * q, r * dr - x * di);
            set32(rows, 4 * k + 2 * q + 1, r * di + x * dr);
          }
        }
        lessSingles(n, i, to, depth, (i - to) / 8, two, fr, fi, work, rows);
      }
    }
    for (let k = from; k < to; k++) {
      const dr = get32(inverse, 2 * (k - from));
      const di = get32(inverse, 2 * (k - from) + 1);
      for (let j = k + 1; j < n; j++) {
        const r = get32(fr, k * n + j);
        const x = get32(fi, k * n + j);
        set32(fr, k * n + j, r * dr - x * di);
        set32(fi, k * n + j, r * di + x * dr);
      }
    }
  }
}

/** `lessProducts` in single precision: two rows and eight columns at a time. */
function lessSingles(
  n: i32,
  i: i32,
  to: i32,
  depth: i32,
  first: i32,
  two: bool,
  re: usize,
  im: usize,
  work: usize,
  rows: usize,
): void {
  const groups = (n - to + 7) / 8;
  for (let g = first; g < groups; g++) {
    let ar = f32x4.splat(0);
    let br = ar;
    let ai = ar;
    let bi = ar;
    let cr = ar;
    let dr = ar;
    let ci = ar;
    let di = ar;
    let c = work + <usize>(16 * g * depth) * S;
    let r = rows;
    for (let k = 0; k < depth; k++) {
      const ur = v128.load(c);
      const vr = v128.load(c, 16);
      const ui = v128.load(c, 32);
      const vi = v128.load(c, 48);
      const r0 = v128.load32_splat(r);
      const x0 = v128.load32_splat(r, 4);
      const r1 = v128.load32_splat(r, 8);
      const x1 = v128.load32_splat(r, 12);
      ar = f32x4.add(ar, f32x4.sub(f32x4.mul(r0, ur), f32x4.mul(x0, ui)));
      ai = f32x4.add(ai, f32x4.add(f32x4.mul(r0, ui), f32x4.mul(x0, ur)));
      br = f32x4.add(br, f32x4.sub(f32x4.mul(r0, vr), f32x4.mul(x0, vi)));
      bi = f32x4.add(bi, f32x4.add(f32x4.mul(r0, vi), f32x4.mul(x0, vr)));
      cr = f32x4.add(cr, f32x4.sub(f32x4.mul(r1, ur), f32x4.mul(x1, ui)));
      ci = f32x4.add(ci, f32x4.add(f32x4.mul(r1, ui), f32x4.mul(x1, ur)));
      dr = f32x4.add(dr, f32x4.sub(f32x4.mul(r1, vr), f32x4.mul(x1, vi)));
      di = f32x4.add(di, f32x4.add(f32x4.mul(r1, vi), f32x4.mul(x1, vr)));
      c += 64;
      r += 16;
    }
    const j = to + 8 * g;
    const wide = min(8, n - j);
    lessSingle(re, i * n + j, wide, ar, br);
    lessSingle(im, i * n + j, wide, ai, bi);
    if (!two) continue;
    lessSingle(re, (i + 1) * n + j, wide, cr, dr);
    lessSingle(im, (i + 1) * n + j, wide, ci, di);
  }
}

/**
 * Solves with the factors of `factoriseSingle`, in place: `m` columns at `x`, of each first the real parts, then the imaginary ones.
 */
export function substituteSingle(n: i32, m: i32, fr: usize, fi: usize, x: usize): void {
  for (let k = 0; k < n; k++)
    for (let c = 0; c < m; c++) {
      const xr = x + <usize>(2 * c * n) * F;
      const xi = xr + <usize>n * F;
      const r = get(xr, k);
      const y = get(xi, k);
      const vr = f64x2.splat(r);
      const vi = f64x2.splat(y);
      let j = k + 1;
      for (; j + 2 <= n; j += 2) {
        const p = <usize>j * F;
        const a = f64x2.promote_low_f32x4(v128.load64_zero(fr + <usize>(k * n + j) * S));
        const b = f64x2.promote_low_f32x4(v128.load64_zero(fi + <usize>(k * n + j) * S));
        v128.store(xr + p, f64x2.sub(v128.load(xr + p), f64x2.sub(f64x2.mul(a, vr), f64x2.mul(b, vi))));
        v128.store(xi + p, f64x2.sub(v128.load(xi + p), f64x2.add(f64x2.mul(a, vi), f64x2.mul(b, vr))));
      }
      if (j < n) {
        const a = <f64>get32(fr, k * n + j);
        const b = <f64>get32(fi, k * n + j);
        set(xr, j, get(xr, j) - (a * r - b * y));
        set(xi, j, get(xi, j) - (a * y + b * r));
      }
    }
  for (let k = n - 1; k >= 0; k--) {
    const dr = <f64>get32(fr, k * n + k);
    const di = <f64>get32(fi, k * n + k);
    const d = 1 / (dr * dr + di * di);
    for (let c = 0; c < m; c++) {
      const xr = x + <usize>(2 * c * n) * F;
      const xi = xr + <usize>n * F;
      let sr = f64x2.splat(0);
      let si = sr;
      let j = k + 1;
      for (; j + 2 <= n; j += 2) {
        const p = <usize>j * F;
        const a = f64x2.promote_low_f32x4(v128.load64_zero(fr + <usize>(k * n + j) * S));
        const b = f64x2.promote_low_f32x4(v128.load64_zero(fi + <usize>(k * n + j) * S));
        const u = v128.load(xr + p);
        const v = v128.load(xi + p);
        sr = f64x2.add(sr, f64x2.sub(f64x2.mul(a, u), f64x2.mul(b, v)));
        si = f64x2.add(si, f64x2.add(f64x2.mul(a, v), f64x2.mul(b, u)));
      }
      let tr = f64x2.extract_lane(sr, 0) + f64x2.extract_lane(sr, 1);
      let ti = f64x2.extract_lane(si, 0) + f64x2.extract_lane(si, 1);
      if (j < n) {
        const a = <f64>get32(fr, k * n + j);
        const b = <f64>get32(fi, k * n + j);
        tr += a * get(xr, j) - b * get(xi, j);
        ti += a * get(xi, j) + b * get(xr, j);
      }
      const r = get(xr, k);
      const y = get(xi, k);
      set(xr, k, (r * dr + y * di) * d - tr);
      set(xi, k, (y * dr - r * di) * d - ti);
    }
  }
}

/** What is at `b` less the symmetric matrix times `x`, in double precision; `m` columns as above. */
export function lessSymmetric(n: i32, m: i32, re: usize, im: usize, x: usize, b: usize): void {
  for (let i = 0; i < n; i++)
    for (let c = 0; c < m; c++) {
      const at = <usize>(2 * c * n) * F;
      const xr = x + at;
      const xi = xr + <usize>n * F;
      const br = b + at;
      const bi = br + <usize>n * F;
      const r = get(xr, i);
      const y = get(xi, i);
      const vr = f64x2.splat(r);
      const vi = f64x2.splat(y);
      const ar = get(re, i * n + i);
      const ai = get(im, i * n + i);
      let sr = f64x2.splat(0);
      let si = sr;
      let tr = ar * r - ai * y;
      let ti = ar * y + ai * r;
      let j = i + 1;
      for (; j + 2 <= n; j += 2) {
        const p = <usize>j * F;
        const u = v128.load(re + <usize>(i * n + j) * F);
        const v = v128.load(im + <usize>(i * n + j) * F);
        const g = v128.load(xr + p);
        const h = v128.load(xi + p);
        sr = f64x2.add(sr, f64x2.sub(f64x2.mul(u, g), f64x2.mul(v, h)));
        si = f64x2.add(si, f64x2.add(f64x2.mul(u, h), f64x2.mul(v, g)));
        v128.store(br + p, f64x2.sub(v128.load(br + p), f64x2.sub(f64x2.mul(u, vr), f64x2.mul(v, vi))));
        v128.store(bi + p, f64x2.sub(v128.load(bi + p), f64x2.add(f64x2.mul(u, vi), f64x2.mul(v, vr))));
      }
      if (j < n) {
        const u = get(re, i * n + j);
        const v = get(im, i * n + j);
        tr += u * get(xr, j) - v * get(xi, j);
        ti += u * get(xi, j) + v * get(xr, j);
        set(br, j, get(br, j) - (u * r - v * y));
        set(bi, j, get(bi, j) - (u * y + v * r));
      }
      set(br, i, get(br, i) - tr - f64x2.extract_lane(sr, 0) - f64x2.extract_lane(sr, 1));
      set(bi, i, get(bi, i) - ti - f64x2.extract_lane(si, 0) - f64x2.extract_lane(si, 1));
    }
}
