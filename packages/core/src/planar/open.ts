import { C0, cx, gaussLegendre } from '../numeric';
import type { Layers } from './contract';
import type { Kernel, Remainder } from './kernel';
import { BINOMIALS, cellRule } from './local';
import { halvesOn, type Mesh } from './mesh';
import type { Put, Symmetry } from './symmetry';

/**
 * Distances at which the remainder is worked out, others are read between them: at least so many, or so many times the power
 * of the furthest in z that leaves four of them to the first z.
 */
const DISTANCES = 32;
const EACH = 6;
/** They stand closer where it bends most. */
const CROWDED = 1.5;
/** Points at least on the arc past the poles and on the straight way after it, and for each radian of the Bessel function there. */
const ARC = 20;
const STRAIGHT = 40;
const EACH_RADIAN = { arc: 0.6, straight: 0.7 } as const;
/**
 * How high the arc rises, over the furthest distance: as high as the Bessel function, which grows with it, leaves enough digits. A flat
 * one passes so close to the poles that it takes several times as many points (with 24 of them at 2, boards of 60 heights were 1e-2 off).
 */
const RISE = 8;
/** Where the way ends, in 1/z. */
const END = 14;

const bessel = { re: 0, im: 0 };

/** Bessel's J0 of a complex argument with a real part of zero or more (Abramowitz & Stegun 1964, 9.1.10 and 9.2.5). */
export function besselJ0(zr: number, zi: number): typeof bessel {
  const size2 = zr * zr + zi * zi;
  if (size2 < 144) {
    const qr = -(zr * zr - zi * zi) / 4;
    const qi = (-2 * zr * zi) / 4;
    let [tr, ti] = [1, 0];
    let [sr, si] = [1, 0];
    for (let k = 1; k < 60; k++) {
      const f = 1 / (k * k);
      [tr, ti] = [(tr * qr - ti * qi) * f, (tr * qi + ti * qr) * f];
      sr += tr;
      si += ti;
      if (tr * tr + ti * ti < 1e-30) break;
    }
    bessel.re = sr;
    bessel.im = si;
    return bessel;
  }
  // sqrt(2 / (pi z)) (P cos(z - pi/4) - Q sin(z - pi/4)), with inverse powers of z.
  const ir = zr / size2;
  const ii = -zi / size2;
  let [pr, pi, qr, qi] = [1, 0, 0, 0];
  let [tr, ti] = [1, 0];
  for (let k = 1; k < 16; k++) {
    const f = -((2 * k - 1) ** 2) / (8 * k);
    [tr, ti] = [(tr * ir - ti * ii) * f, (tr * ii + ti * ir) * f];
    const turn = k % 4;
    if (turn === 1) [qr, qi] = [qr + tr, qi + ti];
    else if (turn === 2) [pr, pi] = [pr - tr, pi - ti];
    else if (turn === 3) [qr, qi] = [qr - tr, qi - ti];
    else [pr, pi] = [pr + tr, pi + ti];
    if (tr * tr + ti * ti < 1e-28) break;
  }
  const up = Math.exp(zi);
  const [ch, sh] = [(up + 1 / up) / 2, (up - 1 / up) / 2];
  const [cos, sin] = [Math.cos(zr - Math.PI / 4), Math.sin(zr - Math.PI / 4)];
  const cr = cos * ch;
  const ci = -sin * sh;
  const sr = sin * ch;
  const si = cos * sh;
  const vr = pr * cr - pi * ci - (qr * sr - qi * si);
  const vi = pr * ci + pi * cr - (qr * si + qi * sr);
  // sqrt(2 / (pi z)), z being to the right of the imaginary axis.
  const size = Math.sqrt(size2);
  const half = Math.sqrt((size + zr) / 2);
  const rr = (Math.sqrt(2 / Math.PI) * half) / size;
  const ri = (-Math.sqrt(2 / Math.PI) * zi) / (2 * half * size);
  bessel.re = vr * rr - vi * ri;
  bessel.im = vr * ri + vi * rr;
  return bessel;
}

/** Steps of a unit at which J0 and its slope stand in a table, and from where on it is read off its asymptotic form instead. */
const FINE = 64;
const FAR_OUT = 24;
let curve: Float64Array | undefined;

/** J0 and its derivative at even steps. */
function tableJ0(): Float64Array {
  const out = new Float64Array(2 * (FINE * FAR_OUT + 2));
  for (let i = 0; i < out.length / 2; i++) {
    const x = i / FINE;
    out[2 * i] = besselJ0(x, 0).re;
    // J0' by a difference that no rounding of the series reaches.
    out[2 * i + 1] = i === 0 ? 0 : (besselJ0(x + 1e-3, 0).re - besselJ0(x - 1e-3, 0).re) / 2e-3;
  }
  return out;
}

/**
 * Bessel's J0 of a real number of zero or more: a cubic between values and slopes of a table, within 2e-10, or four terms of the asymptotic
 * form (Abramowitz & Stegun 1964, 9.2.5), within 1e-10.
 */
export function realJ0(x: number): number {
  if (x >= FAR_OUT) {
    const y = 1 / (x * x);
    const p = 1 - y * (9 / 128 - y * (11025 / 98304 - (y * 108056025) / 188743680));
    const q = (-1 / (8 * x)) * (1 - y * (75 / 128 - (y * 59535) / 32768));
    const a = x - Math.PI / 4;
    return Math.sqrt(2 / (Math.PI * x)) * (p * Math.cos(a) - q * Math.sin(a));
  }
  curve ??= tableJ0();
  const t = x * FINE;
  const k = Math.floor(t);
  const b = t - k;
  const a = 1 - b;
  const at = 2 * k;
  return (
    a * a * (1 + 2 * b) * curve[at] +
    b * b * (3 - 2 * b) * curve[at + 2] +
    ((a * b) / FINE) * (a * curve[at + 1] - b * curve[at + 3])
  );
}

/** Values of the remainders over the distance, with what a cubic between them needs. */
interface Table {
  /** Of the vector and the scalar part what falls in proportion to the distance from the source on (the table is without it). */
  readonly cone: readonly [number, number, number, number];
  readonly at: Float64Array;
  /** For each distance: vector re, im, scalar re, im. */
  readonly value: Float64Array;
  readonly bend: Float64Array;
}

/** A place of the way of integration: the wave number and its step, complex. */
type Step = readonly [number, number, number, number];

/** Distances of one way: the nearest over the furthest; and how far the way goes on where it fades, over the nearest. */
const SPAN = 0.5;
const FADE = 80;
/** Powers of a smooth step: as many derivatives of it are zero at both ends. */
const STEP = Array.from({ length: 13 }, (_, k) =>
  Array.from({ length: k }, (_, i) => (13 + i) / (i + 1)).reduce((a, b) => a * b, 1),
);

/** From one at zero to zero at one, all terms positive. */
const faded = (t: number): number =>
  Math.pow(1 - t, STEP.length) * STEP.reduceRight((sum, c) => sum * t + c, 0);

/**
 * The way past the poles and the branch point on an arc above them, and on along the real axis, for distances up to `far`.
 * Seen from at least `near` away the waves further on than FADE over it cancel one another if nothing cuts them off: they fade, and
 * what is left out is below 1e-8.
 */
function wayOf(k0: number, past: number, end: number, near: number, far: number): Step[] {
  const height = Math.min(k0, RISE / far);
  const arc = gaussLegendre(ARC + Math.ceil(EACH_RADIAN.arc * past * far));
  const stop = Math.min(end, past + FADE / near);
  const straight = gaussLegendre(STRAIGHT + Math.ceil(EACH_RADIAN.straight * stop * far));
  const way: Step[] = [];
  arc.nodes.forEach((node, i) => {
    const t = (Math.PI / 2) * (node + 1);
    // From zero to the far end: half an ellipse.
    const kr = (past / 2) * (1 - Math.cos(t));
    const ki = height * Math.sin(t);
    const w = (arc.weights[i] * Math.PI) / 2;
    way.push([kr, ki, w * (past / 2) * Math.sin(t), w * height * Math.cos(t)]);
  });
  straight.nodes.forEach((node, i) => {
    // Points are drawn towards the near end.
    const s = ((node + 1) / 2) ** 2;
    const w = straight.weights[i] * Math.sqrt(s) * (stop - past);
    way.push([past + (stop - past) * s, 0, stop < end ? w * faded(s) : w, 0]);
  });
  return way;
}

/**
 * The remainders in space by Sommerfeld's integral 1/(2 pi) g(k) J0(k rho) k dk, each distance by a way of integration that is
 * as long as it asks for.
 */
export function remaindersOf(
  kernel: Kernel,
  { below, above }: Layers,
  f: number,
  z: number,
  furthest: number,
): Table {
  const k0 = (2 * Math.PI * f) / C0;
  const past = 1.3 * k0 * Math.sqrt(Math.max(below.er, above.er));
  const end = Math.max(END / z, 2 * past);
  const n = Math.max(DISTANCES, Math.ceil(EACH * Math.pow(furthest / z, 2 / 3)));
  const at = Float64Array.from({ length: n + 1 }, (_, i) => furthest * Math.pow(i / n, CROWDED));
  const value = new Float64Array(4 * (n + 1));
  const out: Remainder = { ar: 0, ai: 0, pr: 0, pi: 0 };
  // What falls as 1/k^3 is taken out as (1 - exp(-k z))^5 / k^3, whose transform is a closed form.
  const [cr, ci, dr0, di0] = slowest(kernel, { below, above }, k0);
  const add = (way: readonly Step[], from: number, to: number): void => {
    for (const [kr, ki, wr, wi] of way) {
      kernel.at(kr * kr - ki * ki, 2 * kr * ki, out);
      const t = cubed(kr, ki, z);
      out.ar -= cr * t.re - ci * t.im;
      out.ai -= cr * t.im + ci * t.re;
      out.pr -= dr0 * t.re - di0 * t.im;
      out.pi -= dr0 * t.im + di0 * t.re;
      // k dk / (2 pi)
      const dr = (kr * wr - ki * wi) / (2 * Math.PI);
      const di = (kr * wi + ki * wr) / (2 * Math.PI);
      const ar = out.ar * dr - out.ai * di;
      const ai = out.ar * di + out.ai * dr;
      const pr = out.pr * dr - out.pi * di;
      const pi = out.pr * di + out.pi * dr;
      if (ki === 0) {
        for (let i = from; i <= to; i++) {
          const j = realJ0(kr * at[i]);
          value[4 * i] += ar * j;
          value[4 * i + 1] += ai * j;
          value[4 * i + 2] += pr * j;
          value[4 * i + 3] += pi * j;
        }
        continue;
      }
      for (let i = from; i <= to; i++) {
        const j = besselJ0(kr * at[i], ki * at[i]);
        value[4 * i] += ar * j.re - ai * j.im;
        value[4 * i + 1] += ar * j.im + ai * j.re;
        value[4 * i + 2] += pr * j.re - pi * j.im;
        value[4 * i + 3] += pr * j.im + pi * j.re;
      }
    }
  };
  for (let to = n; to >= 0;) {
    // So near that the whole way counts all that is left is nearer still.
    const near = SPAN * at[to];
    const isWhole = past + FADE / near >= end;
    const from = isWhole ? 0 : at.findIndex((rho) => rho >= near);
    add(wayOf(k0, past, end, near, at[to]), from, to);
    to = from - 1;
  }
  for (let i = 0; i <= n; i++) {
    let t = 0;
    for (let j = 1; j < BINOMIALS.length; j++) {
      const r = Math.hypot(at[i], j * z);
      t += BINOMIALS[j] * (j * z * Math.log((j * z + r) / z) - r);
    }
    t /= 2 * Math.PI;
    value[4 * i] += cr * t;
    value[4 * i + 1] += ci * t;
    value[4 * i + 2] += dr0 * t;
    value[4 * i + 3] += di0 * t;
  }
  const cone = [cr, ci, dr0, di0].map((c) => -c / (2 * Math.PI)) as [number, number, number, number];
  return { cone, at, value, bend: bends(at, value) };
}

/** What stands at 1/k^3 for large k: of the vector potential and of the scalar one, complex. */
function slowest({ vector, scalar }: Kernel, { below, above }: Layers, k0: number): number[] {
  const e1 = { re: below.er, im: -below.er * below.tand };
  const e2 = { re: above.er, im: -above.er * above.tand };
  const sum = cx.add(e1, e2);
  const p = cx.mul(scalar, cx.div(cx.mul(e1, e2), sum));
  const k = k0 * k0;
  return [(vector * k * sum.re) / 4, (vector * k * sum.im) / 4, p.re * k, p.im * k];
}

const power = { re: 0, im: 0 };

/** (1 - exp(-k z))^5 / k^3 */
function cubed(kr: number, ki: number, z: number): typeof power {
  const e = Math.exp(-kr * z);
  const er = 1 - e * Math.cos(ki * z);
  const ei = e * Math.sin(ki * z);
  const size = kr * kr + ki * ki;
  let [re, im] = [1, 0];
  for (let i = 1; i < BINOMIALS.length; i++) [re, im] = [re * er - im * ei, re * ei + im * er];
  for (let i = 0; i < 3; i++) [re, im] = [(re * kr + im * ki) / size, (im * kr - re * ki) / size];
  power.re = re;
  power.im = im;
  return power;
}

/** Second derivatives of the cubic spline through `value`, level at the start and free at the end. */
function bends(at: Float64Array, value: Float64Array): Float64Array {
  const n = at.length;
  const out = new Float64Array(4 * n);
  const c = new Float64Array(n);
  const h = at[1] - at[0];
  c[0] = 0.5;
  for (let v = 0; v < 4; v++) out[v] = (3 * (value[4 + v] - value[v])) / (h * h);
  for (let i = 1; i < n - 1; i++) {
    const a = at[i] - at[i - 1];
    const b = at[i + 1] - at[i];
    const d = 2 * (a + b) - a * c[i - 1];
    c[i] = b / d;
    for (let v = 0; v < 4; v++) {
      const k = 4 * i + v;
      const rise = 6 * ((value[k + 4] - value[k]) / b - (value[k] - value[k - 4]) / a);
      out[k] = (rise - a * out[k - 4]) / d;
    }
  }
  for (let v = 0; v < 4; v++) out[4 * (n - 1) + v] = 0;
  for (let i = n - 2; i >= 0; i--) for (let v = 0; v < 4; v++) out[4 * i + v] -= c[i] * out[4 * i + 4 + v];
  return out;
}

/** A side that is seen under less than this needs one point. */
const FAR = 0.2;

/** Points along a side of a cell, seen from a distance; nearer than the first image the remainder does not bend more. */
function points(size: number, away: number): number {
  const ratio = size / away;
  return ratio < FAR ? 1 : ratio < 0.6 ? 2 : ratio < 1.2 ? 3 : 4;
}

/** Steps of the distance in z at which the remainders are tabulated once more, evenly: what lies between is a straight line (1e-5). */
const EVEN = 64;
const LEAST = 4096;

/** The remainders at even steps of the distance: vector re, im, scalar re, im. */
function evenly({ cone, at, value, bend }: Table, furthest: number, steps: number): Float64Array {
  const out = new Float64Array(4 * (steps + 2));
  let k = 0;
  for (let i = 0; i <= steps + 1; i++) {
    const rho = Math.min(furthest, (furthest * i) / steps);
    while (k < at.length - 2 && at[k + 1] < rho) k++;
    const h = at[k + 1] - at[k];
    const b = (rho - at[k]) / h;
    const a = 1 - b;
    const ca = ((a * a * a - a) * h * h) / 6;
    const cb = ((b * b * b - b) * h * h) / 6;
    for (let v = 0; v < 4; v++) {
      const p = 4 * k + v;
      out[4 * i + v] = a * value[p] + b * value[p + 4] + ca * bend[p] + cb * bend[p + 4] + cone[v] * rho;
    }
  }
  return out;
}

/** Numbers of a half: its density as in `Half`, and its charge. */
const NUMBERS = 7;

/** Puts the remainders of a laterally open board: what they add to Z / j, real and imaginary parts. */
export type Adder = (kernel: Kernel, f: number, put: Put) => void;

/** @param tested functions that are tested, the first ones */
export function openRemainder(
  mesh: Mesh,
  layers: Layers,
  z: number,
  symmetry: Symmetry,
  tested: number,
): Adder {
  const { cells } = mesh;
  // Halves cell by cell, as plain numbers.
  const on = halvesOn(mesh);
  const all = on.flat();
  const first = Int32Array.from({ length: cells.length + 1 }, () => 0);
  on.forEach((list, c) => (first[c + 1] = first[c] + list.length));
  const basisOf = Int32Array.from(all, (h) => h.basis);
  const isTested = on.map((list) => list.some(({ basis }) => basis < tested));
  const number = Float64Array.from(
    all.flatMap(({ half: { ax, bxx, bxy, ay, byx, byy, charge } }) => [ax, bxx, bxy, ay, byx, byy, charge]),
  );
  /** Whether a half has current along x (1), along y (2) or both: most cells lie along one of them. */
  const along = Uint8Array.from(all, ({ half: { ax, bxx, bxy, ay, byx, byy } }) => {
    const has = (...of: number[]) => of.some((v) => v !== 0);
    return (has(ax, bxx, bxy) ? 1 : 0) + (has(ay, byx, byy) ? 2 : 0);
  });
  // Currents and charges of whole cells, for pairs far from one another.
  const whole = Float64Array.from(
    all.flatMap(({ half: { cell, ax, ay, charge } }) => [
      ax * cells[cell].area,
      ay * cells[cell].area,
      charge,
    ]),
  );
  const centres = Float64Array.from(cells.flatMap(({ x, y }) => [x, y]));
  const sides = cells.map(({ corners: c }) => [
    Math.hypot(c[2] - c[0], c[3] - c[1]),
    Math.hypot(c[4] - c[2], c[5] - c[3]),
  ]);
  const reaches = Float64Array.from(cells, ({ corners: c, x, y }) =>
    Math.max(...Array.from({ length: c.length / 2 }, (_, i) => Math.hypot(c[2 * i] - x, c[2 * i + 1] - y))),
  );
  /** From so far away a cell is a point. */
  const points0 = Float64Array.from(sides, ([a, b]) => Math.max(a, b) / FAR);
  const rules = cells.map((): ReturnType<typeof cellRule>[] => []);
  const ruleOf = (cell: number, away: number) => {
    const nx = points(sides[cell][0], away);
    const ny = points(sides[cell][1], away);
    return (rules[cell][5 * nx + ny] ??= cellRule(cells[cell], nx, ny));
  };
  const xs = cells.flatMap((c) => Array.from(c.corners).filter((_, i) => i % 2 === 0));
  const ys = cells.flatMap((c) => Array.from(c.corners).filter((_, i) => i % 2 === 1));
  const span = (v: readonly number[]) =>
    v.reduce((a, b) => Math.max(a, b), -Infinity) - v.reduce((a, b) => Math.min(a, b), Infinity);
  const furthest = Math.hypot(span(xs), span(ys)) * 1.0001;
  const steps = Math.max(LEAST, Math.ceil((EVEN * furthest) / z));
  /** Sums of a pair of cells as in the local part: of currents, real and imaginary, and of charges. */
  const s = new Float64Array(20);
  return (kernel, f, put) => {
    const w = 2 * Math.PI * f;
    const table = evenly(remaindersOf(kernel, layers, f, z, furthest), furthest, steps);
    const scale = steps / furthest;
    for (let o = 0; o < cells.length; o++) {
      if (!symmetry.isFirst(o)) continue;
      for (let c = o; c < cells.length; c++) {
        if (!isTested[o] && !isTested[c]) continue;
        const weight = symmetry.weight(o, c);
        if (weight === 0) continue;
        const both = symmetry.both(o, c);
        const cx = centres[2 * c] - centres[2 * o];
        const cy = centres[2 * c + 1] - centres[2 * o + 1];
        const between = Math.sqrt(cx * cx + cy * cy);
        const away = Math.max(z, between - reaches[o] - reaches[c]);
        if (away > points0[o] && away > points0[c]) {
          const t = between * scale;
          const k = Math.floor(t);
          const b = t - k;
          const p = 4 * k;
          const ar = w * (table[p] + b * (table[p + 4] - table[p]));
          const ai = w * (table[p + 1] + b * (table[p + 5] - table[p + 1]));
          const pr = (table[p + 2] + b * (table[p + 6] - table[p + 2])) / w;
          const pi = (table[p + 3] + b * (table[p + 7] - table[p + 3])) / w;
          for (let ho = first[o]; ho < first[o + 1]; ho++) {
            const i = basisOf[ho];
            const [hx, hy, hq] = [
              weight * whole[3 * ho],
              weight * whole[3 * ho + 1],
              weight * whole[3 * ho + 2],
            ];
            for (let kc = first[c]; kc < first[c + 1]; kc++) {
              const dot = hx * whole[3 * kc] + hy * whole[3 * kc + 1];
              const q = hq * whole[3 * kc + 2];
              put(i, basisOf[kc], dot * ar - q * pr, dot * ai - q * pi, both);
            }
          }
          continue;
        }
        const ro = ruleOf(o, away);
        const rs = ruleOf(c, away);
        s.fill(0);
        for (let i = 0; i < ro.w.length; i++) {
          const x = ro.x[i];
          const y = ro.y[i];
          const ox = x - cx;
          const oy = y - cy;
          // What this place sees of the source, and of its offsets from its centre.
          let [ar, ai, ur, ui, tr, ti, pr, pi] = [0, 0, 0, 0, 0, 0, 0, 0];
          for (let j = 0; j < rs.w.length; j++) {
            const u = rs.x[j];
            const v = rs.y[j];
            const ex = ox - u;
            const ey = oy - v;
            const t = Math.sqrt(ex * ex + ey * ey) * scale;
            const k = Math.floor(t);
            const b = t - k;
            const p = 4 * k;
            const g = rs.w[j];
            const r = g * (table[p] + b * (table[p + 4] - table[p]));
            const m = g * (table[p + 1] + b * (table[p + 5] - table[p + 1]));
            ar += r;
            ai += m;
            ur += r * u;
            ui += m * u;
            tr += r * v;
            ti += m * v;
            pr += g * (table[p + 2] + b * (table[p + 6] - table[p + 2]));
            pi += g * (table[p + 3] + b * (table[p + 7] - table[p + 3]));
          }
          const g = ro.w[i];
          const gx = g * x;
          const gy = g * y;
          s[0] += g * ar;
          s[1] += g * ur;
          s[2] += g * tr;
          s[3] += gx * ar;
          s[4] += gx * ur;
          s[5] += gx * tr;
          s[6] += gy * ar;
          s[7] += gy * ur;
          s[8] += gy * tr;
          s[9] += g * ai;
          s[10] += g * ui;
          s[11] += g * ti;
          s[12] += gx * ai;
          s[13] += gx * ui;
          s[14] += gx * ti;
          s[15] += gy * ai;
          s[16] += gy * ui;
          s[17] += gy * ti;
          s[18] += g * pr;
          s[19] += g * pi;
        }
        const density = 1 / (w * cells[o].area * cells[c].area);
        for (let kc = first[c]; kc < first[c + 1]; kc++) {
          const k = kc * NUMBERS;
          const ways = along[kc];
          // What the observer's constant and its two slopes see of the source's current, along x and along y.
          let [x0r, x1r, x2r, x0i, x1i, x2i] = [0, 0, 0, 0, 0, 0];
          let [y0r, y1r, y2r, y0i, y1i, y2i] = [0, 0, 0, 0, 0, 0];
          if (ways & 1) {
            const a = number[k];
            const b = number[k + 1];
            const d = number[k + 2];
            x0r = a * s[0] + b * s[1] + d * s[2];
            x1r = a * s[3] + b * s[4] + d * s[5];
            x2r = a * s[6] + b * s[7] + d * s[8];
            x0i = a * s[9] + b * s[10] + d * s[11];
            x1i = a * s[12] + b * s[13] + d * s[14];
            x2i = a * s[15] + b * s[16] + d * s[17];
          }
          if (ways & 2) {
            const a = number[k + 3];
            const b = number[k + 4];
            const d = number[k + 5];
            y0r = a * s[0] + b * s[1] + d * s[2];
            y1r = a * s[3] + b * s[4] + d * s[5];
            y2r = a * s[6] + b * s[7] + d * s[8];
            y0i = a * s[9] + b * s[10] + d * s[11];
            y1i = a * s[12] + b * s[13] + d * s[14];
            y2i = a * s[15] + b * s[16] + d * s[17];
          }
          const charge = number[k + 6] * density;
          const j = basisOf[kc];
          for (let ho = first[o]; ho < first[o + 1]; ho++) {
            const h = ho * NUMBERS;
            const shared = along[ho] & ways;
            let vr = 0;
            let vi = 0;
            if (shared & 1) {
              const a = number[h];
              const b = number[h + 1];
              const d = number[h + 2];
              vr += a * x0r + b * x1r + d * x2r;
              vi += a * x0i + b * x1i + d * x2i;
            }
            if (shared & 2) {
              const a = number[h + 3];
              const b = number[h + 4];
              const d = number[h + 5];
              vr += a * y0r + b * y1r + d * y2r;
              vi += a * y0i + b * y1i + d * y2i;
            }
            const q = number[h + 6] * charge;
            vr = w * vr - q * s[18];
            vi = w * vi - q * s[19];
            const i = basisOf[ho];
            put(i, j, weight * vr, weight * vi, both);
          }
        }
      }
    }
  };
}
