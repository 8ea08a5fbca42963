import type { Walls } from './contract';
import { rowOf, type Dense } from './dense';
import { MODES, type Kernel, type Remainder } from './kernel';
import { cellRule } from './local';
import { isUpright, scaled, type Cell, type Half, type Mesh } from './mesh';
import type { Class } from './symmetry';

/** What the modes of a box see of the functions of a mesh; no frequency changes it. */
export interface BoxModes {
  readonly count: number;
  /** Transverse wave number squared of each mode, and its weight. */
  readonly k2: Float64Array;
  readonly weight: Float64Array;
  /** Writes of each row of the class (`rowOf(count)`) the charge over k, and the current across k, in each mode. */
  readonly write: (tm: Float64Array, te: Float64Array) => void;
}

/** Integrals over an interval of cos, sin, and of the same times the offset from its middle, for k = i * unit. */
interface Waves {
  readonly c0: Float64Array;
  readonly s0: Float64Array;
  readonly c1: Float64Array;
  readonly s1: Float64Array;
}

function wavesOn(from: number, to: number, unit: number, count: number): Waves {
  const middle = (from + to) / 2;
  const a = (to - from) / 2;
  const out = {
    c0: new Float64Array(count),
    s0: new Float64Array(count),
    c1: new Float64Array(count),
    s1: new Float64Array(count),
  };
  for (let i = 0; i < count; i++) {
    const k = i * unit;
    const t = k * a;
    const flat = 2 * a * (t < 1e-4 ? 1 - (t * t) / 6 : Math.sin(t) / t);
    const slope =
      t < 0.05
        ? 2 * a * a * t * (1 / 3 - (t * t) / 30 + t ** 4 / 840)
        : (2 * a * a * (Math.sin(t) - t * Math.cos(t))) / (t * t);
    const [c, s] = [Math.cos(k * middle), Math.sin(k * middle)];
    out.c0[i] = flat * c;
    out.s0[i] = flat * s;
    out.c1[i] = -slope * s;
    out.s1[i] = slope * c;
  }
  return out;
}

/** The modes that belong to a class of currents. @param z depth of the first image of the local part, m */
export function boxModes(
  { cells, bases }: Mesh,
  { x0, x1, y0, y1 }: Walls,
  z: number,
  { row: rows, sign: signs, keeps }: Class,
): BoxModes {
  const [a, b] = [x1 - x0, y1 - y0];
  const most = MODES / z;
  const [ux, uy] = [Math.PI / a, Math.PI / b];
  const [nx, ny] = [Math.floor(most / ux) + 1, Math.floor(most / uy) + 1];
  const list: { readonly m: number; readonly n: number; readonly k2: number }[] = [];
  for (let m = 0; m < nx; m++)
    for (let n = 0; n < ny; n++) {
      const k2 = (m * ux) ** 2 + (n * uy) ** 2;
      if (m + n > 0 && k2 <= most * most && keeps(m, n)) list.push({ m, n, k2 });
    }
  const count = list.length;
  const row = rowOf(count);
  const known = new Map<string, Waves>();
  const waves = (from: number, to: number, unit: number, many: number): Waves => {
    const key = `${from} ${to} ${unit}`;
    let found = known.get(key);
    if (!found) known.set(key, (found = wavesOn(from, to, unit, many)));
    return found;
  };
  const write = (tm: Float64Array, te: Float64Array): void =>
    bases.forEach((halves, basis) => {
      if (rows[basis] < 0) return;
      const at = rows[basis] * row;
      for (const whole of halves) {
        const half = scaled(whole, signs[basis]);
        const { cell, ax, bxx, ay, byy, charge } = half;
        const it = cells[cell];
        if (isUpright(it)) {
          const c = it.corners;
          const X = waves(c[0] - x0, c[2] - x0, ux, nx);
          const Y = waves(c[1] - y0, c[5] - y0, uy, ny);
          list.forEach((mode, i) => {
            const k = Math.sqrt(mode.k2);
            const fx = (ax * X.c0[mode.m] + bxx * X.c1[mode.m]) * Y.s0[mode.n];
            const fy = X.s0[mode.m] * (ay * Y.c0[mode.n] + byy * Y.c1[mode.n]);
            // From the charge itself, so that it sums to nothing where it does.
            tm[at + i] -= ((charge / it.area) * X.s0[mode.m] * Y.s0[mode.n]) / k;
            te[at + i] += (mode.n * uy * fx - mode.m * ux * fy) / k;
          });
        } else other(it, at, half, tm, te);
      }
    });
  function other(
    it: Cell,
    at: number,
    { ax, bxx, bxy, ay, byx, byy, charge }: Half,
    tm: Float64Array,
    te: Float64Array,
  ): void {
    const rule = cellRule(it, 6, 6);
    for (let p = 0; p < rule.w.length; p++) {
      const w = rule.w[p];
      const [x, y] = [it.x + rule.x[p] - x0, it.y + rule.y[p] - y0];
      const jx = w * (ax + bxx * rule.x[p] + bxy * rule.y[p]);
      const jy = w * (ay + byx * rule.x[p] + byy * rule.y[p]);
      const q = (w * charge) / it.area;
      list.forEach(({ m, n, k2 }, i) => {
        const k = Math.sqrt(k2);
        const [cx, sx] = [Math.cos(m * ux * x), Math.sin(m * ux * x)];
        const [cy, sy] = [Math.cos(n * uy * y), Math.sin(n * uy * y)];
        tm[at + i] -= (q * sx * sy) / k;
        te[at + i] += (n * uy * jx * cx * sy - m * ux * jy * sx * cy) / k;
      });
    }
  }
  return {
    count,
    k2: Float64Array.from(list, (l) => l.k2),
    weight: Float64Array.from(list, ({ m, n }) => ((m === 0 ? 1 : 2) * (n === 0 ? 1 : 2)) / (a * b)),
    write,
  };
}

/**
 * Adds what the local part leaves to the upper triangle of the matrix Z / j: real where nothing is lost.
 * @param w 2 pi f
 */
export function addBox({ count, k2, weight }: BoxModes, kernel: Kernel, w: number, matrix: Dense): void {
  const out: Remainder = { ar: 0, ai: 0, pr: 0, pi: 0 };
  const [tmr, tmi, ter, tei] = Array.from({ length: 4 }, () => new Float64Array(count));
  for (let m = 0; m < count; m++) {
    kernel.at(k2[m], 0, out);
    // Z / j = w A - k^2 P / w
    tmr[m] = weight[m] * (w * out.ar - (k2[m] * out.pr) / w);
    tmi[m] = weight[m] * (w * out.ai - (k2[m] * out.pi) / w);
    ter[m] = weight[m] * w * out.ar;
    tei[m] = weight[m] * w * out.ai;
  }
  matrix.addProducts(TM, tmr, 're');
  matrix.addProducts(TE, ter, 're');
  if (!matrix.im) return;
  matrix.addProducts(TM, tmi, 'im');
  matrix.addProducts(TE, tei, 'im');
}

/** Tables of the matrix in which the modes stand. */
export const [TM, TE] = [0, 1] as const;
