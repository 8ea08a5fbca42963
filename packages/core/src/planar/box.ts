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
  /**
   * Whether a port's edge is inside of the walls: current that enters there leaves no charge, as one that ends there would, so that
   * what the current along k induces is not told by the charge.
   */
  readonly entersInside: boolean;
  /** Writes of each row of the class (`rowOf(count)`) the charge over k, the current across k and that along k, in each mode. */
  readonly write: (charge: Float64Array, across: Float64Array, along?: Float64Array) => void;
}

/** Whether a port's functions begin at no wall. */
const beginsInside = ({ cells, bases, ports }: Mesh, { x0, x1, y0, y1 }: Walls): boolean =>
  ports.some(({ functions }) =>
    functions.some((basis) =>
      cells[bases[basis][0].cell].corners.every(
        (at, i) => Math.min(...(i % 2 === 0 ? [at - x0, x1 - at] : [at - y0, y1 - at])) > 1e-9,
      ),
    ),
  );

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
  mesh: Mesh,
  walls: Walls,
  z: number,
  { row: rows, sign: signs, keeps }: Class,
): BoxModes {
  const { cells, bases } = mesh;
  const { x0, x1, y0, y1 } = walls;
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
  const write = (charges: Float64Array, across: Float64Array, along?: Float64Array): void =>
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
            charges[at + i] -= ((charge / it.area) * X.s0[mode.m] * Y.s0[mode.n]) / k;
            across[at + i] += (mode.n * uy * fx - mode.m * ux * fy) / k;
            if (along) along[at + i] += (mode.m * ux * fx + mode.n * uy * fy) / k;
          });
        } else other(it, at, half, charges, across, along);
      }
    });
  function other(
    it: Cell,
    at: number,
    { ax, bxx, bxy, ay, byx, byy, charge }: Half,
    charges: Float64Array,
    across: Float64Array,
    along: Float64Array | undefined,
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
        const [fx, fy] = [jx * cx * sy, jy * sx * cy];
        charges[at + i] -= (q * sx * sy) / k;
        across[at + i] += (n * uy * fx - m * ux * fy) / k;
        if (along) along[at + i] += (m * ux * fx + n * uy * fy) / k;
      });
    }
  }
  return {
    count,
    k2: Float64Array.from(list, (l) => l.k2),
    entersInside: beginsInside(mesh, walls),
    weight: Float64Array.from(list, ({ m, n }) => ((m === 0 ? 1 : 2) * (n === 0 ? 1 : 2)) / (a * b)),
    write,
  };
}

/** Tables of the matrix in which the modes stand; the last one only where current enters inside of the walls. */
const [CHARGE, ACROSS, ALONG] = [0, 1, 2];

/** Writes the modes into the tables of a matrix. */
export const writeModes = ({ write }: BoxModes, { tables }: Dense): void =>
  write(tables[CHARGE], tables[ACROSS], tables[ALONG]);

/** Tables that a matrix needs for the modes of a box. */
export const tablesOf = ({ entersInside }: BoxModes): number => (entersInside ? 3 : 2);

/**
 * Adds what the local part leaves to the upper triangle of the matrix Z / j: real where nothing is lost.
 * @param w 2 pi f
 */
export function addBox(
  { count, k2, weight, entersInside }: BoxModes,
  kernel: Kernel,
  w: number,
  matrix: Dense,
): void {
  const out: Remainder = { ar: 0, ai: 0, pr: 0, pi: 0 };
  // Z / j = w A of currents - k^2 P / w of charges over k.
  const currents = { re: new Float64Array(count), im: new Float64Array(count) };
  const charges = { re: new Float64Array(count), im: new Float64Array(count) };
  for (let m = 0; m < count; m++) {
    kernel.at(k2[m], 0, out);
    currents.re[m] = weight[m] * w * out.ar;
    currents.im[m] = weight[m] * w * out.ai;
    charges.re[m] = (-weight[m] * k2[m] * out.pr) / w;
    charges.im[m] = (-weight[m] * k2[m] * out.pi) / w;
    if (entersInside) continue;
    // What of the current is along k is the charge over k.
    charges.re[m] += currents.re[m];
    charges.im[m] += currents.im[m];
  }
  for (const part of matrix.im ? (['re', 'im'] as const) : (['re'] as const)) {
    matrix.addProducts(CHARGE, charges[part], part);
    matrix.addProducts(ACROSS, currents[part], part);
    if (entersInside) matrix.addProducts(ALONG, currents[part], part);
  }
}
