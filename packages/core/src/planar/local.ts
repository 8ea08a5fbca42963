import { gaussLegendre, type Steps } from '../numeric';
import type { Walls } from './contract';
import { halvesOn, type Cell, type Half, type Mesh } from './mesh';
import { blockOf, gathering, type Block, type Symmetry } from './symmetry';

/**
 * The local part of both kernels is (1 - exp(-k z))^5 / k in the spectral domain: the source less a cloud of images that
 * takes its far field away, 1/(2 pi) times the sum of (-1)^j C(5, j) / R_j with R_j^2 = rho^2 + (j z)^2.
 */
export const BINOMIALS = [1, -5, 10, -10, 5, -1] as const;

/** Distance in z beyond which the local part is nothing (4e-5 of the matrix). */
const REACH = 12;

/** Gap between two cells, in the size of the larger one, below which 1/R is integrated in closed form over one of them. */
const NEAR = 0.7;
/** Points along one side of a cell where those are integrated over the other one. */
const OUTER = 6;

/** Points and weights on a cell, about its centre; weights sum to its area. */
interface Rule {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly w: Float64Array;
}

interface UnitRule {
  readonly at: readonly number[];
  readonly w: readonly number[];
}
const units = new Map<number, UnitRule>();

/** Gauss points from 0 to 1; `clustered` towards the ends, where a logarithm may stand. */
function onUnit(n: number, clustered: boolean): UnitRule {
  const key = clustered ? -n : n;
  let rule = units.get(key);
  if (!rule) units.set(key, (rule = unitRule(n, clustered)));
  return rule;
}

function unitRule(n: number, clustered: boolean): UnitRule {
  const { nodes, weights } = gaussLegendre(n);
  const t = Array.from(nodes, (x) => (x + 1) / 2);
  if (!clustered) return { at: t, w: Array.from(weights, (w) => w / 2) };
  return {
    at: t.map((x) => x * x * (3 - 2 * x)),
    w: t.map((x, i) => (weights[i] / 2) * 6 * x * (1 - x)),
  };
}

/** Points on a rectangle or a triangle, `nx` by `ny` of them. */
export function cellRule({ corners, x, y }: Cell, nx: number, ny: number, clustered = false): Rule {
  const [u, v] = [onUnit(nx, clustered), onUnit(ny, clustered)];
  const out = {
    x: new Float64Array(nx * ny),
    y: new Float64Array(nx * ny),
    w: new Float64Array(nx * ny),
  };
  const c = corners;
  const isTriangle = c.length === 6;
  const [ax, ay] = [c[2] - c[0], c[3] - c[1]];
  // Along the second side of a triangle, of which one corner is taken for a side of no length.
  const [bx, by] = isTriangle ? [c[4] - c[2], c[5] - c[3]] : [c[6] - c[0], c[7] - c[1]];
  const area = Math.abs(ax * by - ay * bx);
  for (let i = 0; i < nx; i++)
    for (let j = 0; j < ny; j++) {
      const at = i * ny + j;
      const s = u.at[i];
      const t = isTriangle ? s * v.at[j] : v.at[j];
      out.x[at] = c[0] + s * ax + t * bx - x;
      out.y[at] = c[1] + s * ay + t * by - y;
      out.w[at] = area * u.w[i] * v.w[j] * (isTriangle ? s : 1);
    }
  return out;
}

/** Integrals over a cell of 1/R, and of the offsets from the observer to the source over R. */
const potential = { one: 0, x: 0, y: 0 };

/**
 * The closed form over a polygon in the plane of the observer (Wilton et al. 1984). @param c corners, either way round
 */
function potentials(c: Float64Array, px: number, py: number): void {
  let [one, sx, sy] = [0, 0, 0];
  let turn = 0;
  const n = c.length;
  for (let i = 0; i < n; i += 2) {
    const ax = c[i] - px;
    const ay = c[i + 1] - py;
    const k = i + 2 === n ? 0 : i + 2;
    const bx = c[k] - px;
    const by = c[k + 1] - py;
    turn += ax * by - ay * bx;
    const lx = bx - ax;
    const ly = by - ay;
    const length = Math.sqrt(lx * lx + ly * ly);
    const tx = lx / length;
    const ty = ly / length;
    // Outward where corners turn to the left.
    const ux = ty;
    const uy = -tx;
    const p = ax * ux + ay * uy;
    const lo = ax * tx + ay * ty;
    const hi = bx * tx + by * ty;
    const ra = Math.sqrt(ax * ax + ay * ay);
    const rb = Math.sqrt(bx * bx + by * by);
    let f = 0;
    // On the line of the side itself the logarithm has no weight.
    if (Math.abs(p) > 1e-12 * length)
      f = lo + hi < 0 ? Math.log((ra - lo) / (rb - hi)) : Math.log((rb + hi) / (ra + lo));
    one += p * f;
    const half = 0.5 * (p * p * f + hi * rb - lo * ra);
    sx += ux * half;
    sy += uy * half;
  }
  const sign = turn < 0 ? -1 : 1;
  potential.one = sign * one;
  potential.x = sign * sx;
  potential.y = sign * sy;
}

/**
 * Integrals of the local part over pairs of cells, times 2 pi. `sum` holds those of currents along x: 1, x and y of the observer
 * times 1, x and y of the source (nine of them); the same along y; and that of charges.
 */
export interface Pairs {
  readonly sum: Float64Array;
  /** Distance beyond which nothing is added, m. */
  readonly reach: number;
  /** Adds one pair, the source as it stands or mirrored: x to fx x + ox, y to fy y + oy. */
  add(observer: number, source: number, fx: number, ox: number, fy: number, oy: number): void;
}

/** @param z depth of the first image, m */
export function pairsOf(cells: readonly Cell[], z: number): Pairs {
  const sum = new Float64Array(19);
  const rules = new Map<number, Rule>();
  const ruleOf = (cell: number, nx: number, ny: number, clustered: boolean): Rule => {
    const key = ((cell * 8 + nx) * 8 + ny) * 2 + Number(clustered);
    let rule = rules.get(key);
    if (!rule) rules.set(key, (rule = cellRule(cells[cell], nx, ny, clustered)));
    return rule;
  };
  const boxes = cells.map(({ corners: c }) => {
    let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
    for (let i = 0; i < c.length; i += 2) {
      x0 = Math.min(x0, c[i]);
      x1 = Math.max(x1, c[i]);
      y0 = Math.min(y0, c[i + 1]);
      y1 = Math.max(y1, c[i + 1]);
    }
    return { x0, x1, y0, y1, width: x1 - x0, depth: y1 - y0 };
  });
  const depths = BINOMIALS.map((_, j) => (j * z) ** 2);
  const [, b1, b2, b3, b4, b5] = BINOMIALS;
  const [, d1, d2, d3, d4, d5] = depths;
  const corners8 = new Float64Array(8);
  const corners6 = new Float64Array(6);
  /** Points along a side of `size` that is seen from `away`; one alone loses the moments, which left narrow lines 0.005 off in S. */
  const points = (size: number, away: number): number => {
    const ratio = size / away;
    return ratio < 0.25 ? 2 : ratio < 0.55 ? 3 : ratio < 0.9 ? 4 : 6;
  };

  const add = (o: number, s: number, fx: number, ox: number, fy: number, oy: number): void => {
    const a = boxes[o];
    const b = boxes[s];
    const sx0 = fx > 0 ? b.x0 + ox : ox - b.x1;
    const sy0 = fy > 0 ? b.y0 + oy : oy - b.y1;
    const dx = Math.max(0, sx0 - a.x1, a.x0 - sx0 - b.width);
    const dy = Math.max(0, sy0 - a.y1, a.y0 - sy0 - b.depth);
    const gap = Math.sqrt(dx * dx + dy * dy);
    if (gap > REACH * z) return;
    const size = Math.max(a.width, a.depth, b.width, b.depth);
    const near = gap < NEAR * size;
    const cell = cells[s];
    const cx = fx * cell.x + ox - cells[o].x;
    const cy = fy * cell.y + oy - cells[o].y;
    // Currents along x are mirrored in sign by a wall across y, and the other way round; charges by both.
    const gx = fy;
    const gy = fx;
    const gq = fx * fy;
    const away = near ? z : Math.min(gap + 0.3 * size, Infinity);
    const ro = ruleOf(o, points(a.width, away), points(a.depth, away), false);
    const rs = ruleOf(s, points(b.width, away), points(b.depth, away), false);
    const put = (w: number, x: number, y: number, one: number, u: number, v: number): void => {
      for (let k = 0, f = w; k < 3; k++, f = k === 1 ? w * x : w * y) {
        sum[3 * k] += gx * f * one;
        sum[3 * k + 1] += gx * f * u;
        sum[3 * k + 2] += gx * f * v;
        sum[9 + 3 * k] += gy * f * one;
        sum[10 + 3 * k] += gy * f * u;
        sum[11 + 3 * k] += gy * f * v;
      }
      sum[18] += gq * w * one;
    };
    for (let i = 0; i < ro.w.length; i++) {
      const x = ro.x[i];
      const y = ro.y[i];
      let [s0, su, sv] = [0, 0, 0];
      for (let j = 0; j < rs.w.length; j++) {
        const u = rs.x[j];
        const v = rs.y[j];
        const ex = x - cx - fx * u;
        const ey = y - cy - fy * v;
        const q = ex * ex + ey * ey;
        let g =
          b1 / Math.sqrt(q + d1) +
          b2 / Math.sqrt(q + d2) +
          b3 / Math.sqrt(q + d3) +
          b4 / Math.sqrt(q + d4) +
          b5 / Math.sqrt(q + d5);
        if (!near) g += 1 / Math.sqrt(q);
        g *= rs.w[j];
        s0 += g;
        su += g * u;
        sv += g * v;
      }
      put(ro.w[i], x, y, s0, su, sv);
    }
    if (!near) return;
    const c = cell.corners;
    const image = c.length === 8 ? corners8 : corners6;
    for (let i = 0; i < c.length; i += 2) {
      image[i] = fx * c[i] + ox;
      image[i + 1] = fy * c[i + 1] + oy;
    }
    const outer = ruleOf(o, OUTER, OUTER, true);
    const [px, py] = [cells[o].x, cells[o].y];
    for (let i = 0; i < outer.w.length; i++) {
      const x = outer.x[i];
      const y = outer.y[i];
      potentials(image, px + x, py + y);
      const { one } = potential;
      // From the observer to the source is x' - x: about the centre of the source, the image's own way.
      const u = fx * (potential.x + (x - cx) * one);
      const v = fy * (potential.y + (y - cy) * one);
      put(outer.w[i], x, y, one, u, v);
    }
  };

  return { sum, reach: REACH * z, add };
}

/** Of an interval between two walls all mirror images that lie within `reach` of it: factor and offset. */
export function mirrorsOf(
  low: number,
  high: number,
  from: number,
  to: number,
  reach: number,
): (readonly [number, number])[] {
  const out: (readonly [number, number])[] = [[1, 0]];
  const size = high - low;
  const many = Math.ceil(reach / (2 * size)) + 1;
  for (let i = -many; i <= many; i++) {
    const [lo, hi] = [2 * low - to + 2 * i * size, 2 * low - from + 2 * i * size];
    if (lo - high < reach && low - hi < reach) out.push([-1, 2 * low + 2 * i * size]);
    if (i !== 0 && from + 2 * i * size - high < reach && low - to - 2 * i * size < reach)
      out.push([1, 2 * i * size]);
  }
  return out;
}

/** The vector and the scalar part of two half functions, from the sums of their cells. */
export function vectorOf(sum: Float64Array, h: Half, k: Half): number {
  // Most cells lie along one of the two ways.
  const x = (h.ax !== 0 || h.bxx !== 0 || h.bxy !== 0) && (k.ax !== 0 || k.bxx !== 0 || k.bxy !== 0);
  const y = (h.ay !== 0 || h.byx !== 0 || h.byy !== 0) && (k.ay !== 0 || k.byx !== 0 || k.byy !== 0);
  const alongX = x
    ? h.ax * (k.ax * sum[0] + k.bxx * sum[1] + k.bxy * sum[2]) +
      h.bxx * (k.ax * sum[3] + k.bxx * sum[4] + k.bxy * sum[5]) +
      h.bxy * (k.ax * sum[6] + k.bxx * sum[7] + k.bxy * sum[8])
    : 0;
  const alongY = y
    ? h.ay * (k.ay * sum[9] + k.byx * sum[10] + k.byy * sum[11]) +
      h.byx * (k.ay * sum[12] + k.byx * sum[13] + k.byy * sum[14]) +
      h.byy * (k.ay * sum[15] + k.byx * sum[16] + k.byy * sum[17])
    : 0;
  return (alongX + alongY) / (2 * Math.PI);
}

/**
 * Integrates the local part over all pairs of functions, which no frequency changes: of the vector potential in m (the first number
 * of the blocks), of the scalar one in 1/m.
 * @param z depth of the first image, m
 * @param walls side walls, whose images of what is near count
 * @param tested functions that are tested; of the others only what they do to these is asked
 */
export function* localSteps(
  mesh: Mesh,
  z: number,
  symmetry: Symmetry,
  walls: Walls | undefined,
  tested: number,
): Steps<readonly Block[]> {
  const { cells } = mesh;
  const blocks = symmetry.classes.map((c) => blockOf(c));
  const { put, gather } = gathering(symmetry, blocks);
  const on = halvesOn(mesh);
  const isTested = on.map((list) => list.some(({ basis }) => basis < tested));
  const pairs = pairsOf(cells, z);
  const { sum, reach } = pairs;
  const none = [[1, 0]] as const;
  const mirrored = cells.map(({ corners: c }) => {
    const x = c.filter((_, i) => i % 2 === 0);
    const y = c.filter((_, i) => i % 2 === 1);
    return walls
      ? [
          mirrorsOf(walls.x0, walls.x1, Math.min(...x), Math.max(...x), reach),
          mirrorsOf(walls.y0, walls.y1, Math.min(...y), Math.max(...y), reach),
        ]
      : [none, none];
  });
  for (let o = 0; o < cells.length; o++) {
    if (symmetry.isFirst(o))
      for (let s = o; s < cells.length; s++) {
        if (!isTested[o] && !isTested[s]) continue;
        const weight = symmetry.weight(o, s);
        if (weight === 0) continue;
        const both = symmetry.both(o, s);
        sum.fill(0);
        for (const [fx, ox] of mirrored[s][0])
          for (const [fy, oy] of mirrored[s][1]) pairs.add(o, s, fx, ox, fy, oy);
        // Of cells further from one another than the local part reaches nothing was added.
        if (sum[0] === 0 && sum[18] === 0) continue;
        const density = sum[18] / (2 * Math.PI * cells[o].area * cells[s].area);
        for (const { basis: i, half: h } of on[o])
          for (const { basis: j, half: k } of on[s])
            put(i, j, weight * vectorOf(sum, h, k), weight * h.charge * k.charge * density, both);
      }
    yield (o + 1) / cells.length;
  }
  gather();
  return blocks;
}
