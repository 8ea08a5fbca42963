import { C0, gaussLegendre, solveReal } from '../numeric';
import type { Layers } from './contract';
import { depthOf, kernelOf, MODES, type Remainder } from './kernel';
import { mirrorsOf, pairsOf, vectorOf } from './local';
import { momentsOf, overlapOf, rectangle, rectangleHalf, type Half } from './mesh';
import type { Sheet } from './contract';

/** The wave of an endless strip as its mesh carries it. */
export interface Guided {
  /** rad/m and Np/m. */
  readonly beta: number;
  readonly alpha: number;
  /** Power over current squared, ohm. */
  readonly z0: number;
  /** What is lost in the dielectric less what is lost in the metal, over the phase: turns the impedance by so many rad. */
  readonly turn: number;
  /** Its currents along each row of cells, 1 in all, and across from each row to the next, in quadrature to them. */
  readonly along: Float64Array;
  readonly across: Float64Array;
}

/** A strip along x as the mesh has it at a port. */
export interface Strip {
  /** Lines of the mesh across it, from one edge to the other, m. */
  readonly across: readonly number[];
  /** Length of its cells, m. */
  readonly pitch: number;
  /** Side walls along it, if any, m. */
  readonly walls?: readonly [number, number];
}

/** Parts of the integral over wave numbers across an open strip, each three times the one before, and points in each. */
const STRETCHES = 9;
const POINTS = 6;

interface Function {
  /** Along the strip or across it. */
  readonly along: boolean;
  /** Its halves, with the period that they lie in. */
  readonly halves: readonly { readonly half: Half; readonly period: number }[];
}

/** What waves across the strip see of the functions, for one wave number: currents and charges. */
interface Across {
  readonly ky: number;
  readonly weight: number;
  readonly fx: Float64Array;
  readonly fy: Float64Array;
}

/**
 * The wave of an endless strip of rooftops: the functions of one period with those of all others, which differ in phase,
 * have no forced solution at its phase constant (a periodic structure's own wave, as in Brillouin 1946). It is that of the mesh
 * itself, so that what a line of the mesh does can be told from what stands at its end.
 * @returns what the wave is at f (Hz), near a guess of its permittivity
 */
export function guidedBy(strip: Strip, layers: Layers, sheet?: Sheet): (f: number, guess: number) => Guided {
  const { across, pitch, walls } = strip;
  const z = depthOf(layers);
  const m = across.length - 1;
  const cells = Array.from({ length: m }, (_, j) => rectangle(0, across[j], pitch, across[j + 1]));
  const functions: Function[] = [
    ...cells.map((cell, j): Function => ({
      along: true,
      halves: [
        { half: rectangleHalf(j, cell, 'right', 1), period: 0 },
        { half: rectangleHalf(j, cell, 'left', -1), period: 1 },
      ],
    })),
    ...cells.slice(1).map((cell, j): Function => ({
      along: false,
      halves: [
        { half: rectangleHalf(j, cells[j], 'top', 1), period: 0 },
        { half: rectangleHalf(j + 1, cell, 'bottom', -1), period: 0 },
      ],
    })),
  ];
  const n = functions.length;

  // Of each pair of functions and distance in periods the local part; distances a multiple of half a period.
  const pairs = pairsOf(cells, z);
  const { sum, reach } = pairs;
  const span = Math.ceil(reach / pitch) + 1;
  const mirrors = cells.map((c) =>
    walls ? mirrorsOf(walls[0], walls[1], c.corners[1], c.corners[5], reach) : ([[1, 0]] as const),
  );
  const offsets = 2 * (span + 1) + 1;
  const vector = Array.from({ length: offsets }, () => new Float64Array(n * n));
  const scalar = Array.from({ length: offsets }, () => new Float64Array(n * n));
  const overlap = Array.from({ length: offsets }, () => new Float64Array(n * n));
  functions.forEach((a, i) =>
    functions.forEach((b, j) => {
      for (const { half: h, period: p } of a.halves)
        for (const { half: k, period: q } of b.halves) {
          if (h.cell !== k.cell) continue;
          overlap[p - q + span + 1][i * n + j] += overlapOf(cells[h.cell], momentsOf(cells[h.cell]), h, k);
        }
    }),
  );
  // The halves in each cell, with the functions that they belong to.
  const inside = cells.map((_, cell) =>
    functions.flatMap(({ halves }, of) =>
      halves.filter(({ half }) => half.cell === cell).map(({ half, period }) => ({ of, half, period })),
    ),
  );
  for (let o = 0; o < m; o++)
    for (let s = 0; s < m; s++)
      for (let t = -span; t <= span; t++) {
        sum.fill(0);
        for (const [fy, oy] of mirrors[s]) pairs.add(o, s, 1, t * pitch, fy, oy);
        const density = sum[18] / (2 * Math.PI * cells[o].area * cells[s].area);
        for (const { of: i, half: h, period: p } of inside[o])
          for (const { of: j, half: k, period: q } of inside[s]) {
            // The second function stands so many periods further on.
            const at = t + p - q + span + 1;
            vector[at][i * n + j] += vectorOf(sum, h, k);
            scalar[at][i * n + j] += h.charge * k.charge * density;
          }
      }

  // Waves across: modes between the walls, or a continuum of them, even and odd about the middle.
  const waves: Across[] = [];
  const most = MODES / z;
  const seen = (ky: number, weight: number, phase: number, origin: number): Across => {
    const fx = new Float64Array(n);
    const fy = new Float64Array(n);
    const { nodes, weights } = gaussLegendre(8);
    functions.forEach((fn, i) =>
      fn.halves.forEach(({ half: { cell, ay, byy } }, k) => {
        if (fn.along && k > 0) return;
        const [y0, y1] = [across[cell], across[cell + 1]];
        const half = (y1 - y0) / 2;
        nodes.forEach((node, p) => {
          const y = cells[cell].y + node * half - origin;
          const w = weights[p] * half;
          // Of a rooftop of unit current the density across is even; of the other its own course.
          if (fn.along) fx[i] += (w / (y1 - y0)) * Math.sin(ky * y + phase);
          else fy[i] += w * (ay + byy * node * half) * Math.cos(ky * y + phase);
        });
      }),
    );
    return { ky, weight, fx, fy };
  };
  if (walls) {
    const b = walls[1] - walls[0];
    for (let i = 0; (i * Math.PI) / b <= most; i++)
      waves.push(seen((i * Math.PI) / b, (i === 0 ? 1 : 2) / b, 0, walls[0]));
  } else {
    const middle = (across[0] + across[m]) / 2;
    const { nodes, weights } = gaussLegendre(POINTS);
    let high = most;
    for (let s = 0; s < STRETCHES; s++) {
      const low = s === STRETCHES - 1 ? 0 : high / 3;
      nodes.forEach((node, p) => {
        const ky = low + ((node + 1) / 2) * (high - low);
        const weight = (weights[p] * (high - low)) / (2 * Math.PI);
        waves.push(seen(ky, weight, 0, middle), seen(ky, weight, Math.PI / 2, middle));
      });
      high = low;
    }
  }

  return (f, guess) => {
    const w = 2 * Math.PI * f;
    const kernel = kernelOf(layers, f, z);
    const out: Remainder = { ar: 0, ai: 0, pr: 0, pi: 0 };
    const lossy = sheet !== undefined || layers.below.tand > 0 || layers.above.tand > 0;
    const metal = sheet?.(f);
    /** Z / j at a phase constant; functions across are taken times j, which makes it symmetric. */
    const fill = (beta: number, imaginary?: Float64Array, part?: 'dielectric' | 'metal'): Float64Array => {
      const inDielectric = imaginary !== undefined && part === 'dielectric';
      const x = new Float64Array(n * n);
      for (let at = 0; at < offsets; at++) {
        const shift = (at - span - 1) * pitch;
        // Functions along stand half a period further on than those across.
        const alike = Math.cos(beta * shift);
        const before = Math.sin(beta * (shift - pitch / 2));
        const behind = -Math.sin(beta * (shift + pitch / 2));
        for (let i = 0; i < n; i++)
          for (let j = i; j < n; j++) {
            const turn = i < m === j < m ? alike : i < m ? before : behind;
            const k = i * n + j;
            const p = scalar[at][k] * turn;
            x[k] += w * kernel.vector * vector[at][k] * turn - (kernel.scalar.re / w) * p;
            if (inDielectric) imaginary[k] -= (kernel.scalar.im / w) * p;
            if (!metal) continue;
            x[k] += metal.im * overlap[at][k] * turn;
            if (imaginary && part === 'metal') imaginary[k] -= metal.re * overlap[at][k] * turn;
          }
      }
      const magnetic = new Float64Array(n);
      const electric = new Float64Array(n);
      const orders = Math.max(0, Math.floor(((most + beta) * pitch) / (2 * Math.PI)));
      for (let p = -orders; p <= orders; p++) {
        const kx = beta + (2 * Math.PI * p) / pitch;
        const t = (kx * pitch) / 2;
        const sinc = Math.abs(t) < 1e-6 ? 1 : Math.sin(t) / t;
        // About their centres, which lie half a period apart.
        const along = pitch * sinc * sinc;
        const wide = pitch * sinc;
        for (const { ky, weight, fx, fy } of waves) {
          const k2 = kx * kx + ky * ky;
          if (k2 > most * most && p !== 0) continue;
          kernel.at(k2, 0, out);
          const k = Math.sqrt(k2);
          const scale = weight / pitch;
          const tm = scale * (w * out.ar - (k2 * out.pr) / w);
          const te = scale * w * out.ar;
          const tmLost = scale * (w * out.ai - (k2 * out.pi) / w);
          const teLost = scale * w * out.ai;
          const sign = p % 2 === 0 ? 1 : -1;
          // What each function gives to the two kinds of waves: those along come first.
          for (let i = 0; i < m; i++) {
            const a = (along * fx[i]) / k;
            magnetic[i] = kx * a;
            electric[i] = ky * a;
          }
          for (let i = m; i < n; i++) {
            const a = (sign * wide * fy[i]) / k;
            magnetic[i] = ky * a;
            electric[i] = -kx * a;
          }
          for (let i = 0, at = 0; i < n; i++, at += n) {
            const tmOf = tm * magnetic[i];
            const teOf = te * electric[i];
            for (let j = i; j < n; j++) x[at + j] += tmOf * magnetic[j] + teOf * electric[j];
            if (!inDielectric) continue;
            const tmi = tmLost * magnetic[i];
            const tei = teLost * electric[i];
            for (let j = i; j < n; j++) imaginary[at + j] += tmi * magnetic[j] + tei * electric[j];
          }
        }
      }
      for (let i = 0; i < n; i++)
        for (let j = 0; j < i; j++) {
          x[i * n + j] = x[j * n + i];
          if (imaginary) imaginary[i * n + j] = imaginary[j * n + i];
        }
      return x;
    };
    /** Voltage per current of a wave that is forced: zero for the one that travels by itself; and its currents. */
    const forced = (beta: number) => {
      const u = Float64Array.from(functions, (fn) => (fn.along ? 1 : 0));
      const x = solveReal(n, fill(beta), Float64Array.from(u));
      const current = x.reduce((s, v, i) => s + v * u[i], 0);
      return { miss: 1 / current, x: x.map((v) => v / current) };
    };
    // Two points and the line through them, again and again: the miss is nearly a line in beta squared.
    const k0 = (w / C0) ** 2;
    let a = k0 * guess;
    let fa = forced(Math.sqrt(a)).miss;
    let b = a * 1.001;
    for (let i = 0; i < 30; i++) {
      const fb = forced(Math.sqrt(b)).miss;
      const slope = (fb - fa) / (b - a);
      const c = b - fb / slope;
      [a, fa] = [b, fb];
      if (Math.abs(c - b) < 1e-11 * b) {
        b = c;
        break;
      }
      b = c > 0 ? c : b / 2;
    }
    const beta = Math.sqrt(b);
    const d = 1e-4;
    const [below, above] = [forced(beta * (1 - d)), forced(beta * (1 + d))];
    const rise = (above.miss - below.miss) / (2 * d * beta);
    const z0 = Math.abs(rise) / (2 * pitch);
    // Between the two to the second order, which is beyond what the search asks for.
    const x = below.x.map((v, i) => (v + above.x[i]) / 2);
    const currents = { along: x.slice(0, m), across: x.slice(m) };
    if (!lossy) return { beta, alpha: 0, z0, turn: 0, ...currents };
    const lost = (part: 'dielectric' | 'metal'): number => {
      const imaginary = new Float64Array(n * n);
      fill(beta, imaginary, part);
      let sum = 0;
      for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) sum -= x[i] * imaginary[i * n + j] * x[j];
      return Math.abs(sum / rise);
    };
    const dielectric = lost('dielectric');
    const conductor = metal ? lost('metal') : 0;
    return { beta, alpha: dielectric + conductor, z0, turn: (dielectric - conductor) / beta, ...currents };
  };
}
