import { cx, solveComplex, type Complex, type Steps } from '../numeric';
import { addBox, boxModes, tablesOf, writeModes } from './box';
import type { Layers, Sheet, Walls } from './contract';
import { denseOf, type Factors } from './dense';
import { depthOf, kernelOf } from './kernel';
import type { Launch } from './launch';
import { localSteps } from './local';
import { halvesOn, momentsOf, overlapOf, type Mesh } from './mesh';
import { openRemainder } from './open';
import { blockOf, gathering, symmetryOf, type Block, type Class, type Symmetry } from './symmetry';
import { over } from './waves';

/** Admittances between the edges at which current enters, S; row by row. */
export interface Admittance {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

/** The wave of a line that goes on behind a port. */
export interface Outside {
  /** Np/m and rad/m. */
  readonly alpha: number;
  readonly beta: number;
  /** ohm */
  readonly z: Complex;
  /** How much of its currents along and across is spread by each of its profiles. */
  readonly along: readonly number[];
  readonly across: readonly number[];
}

/** A mesh ready to be solved at one frequency after the other. */
export interface System {
  readonly unknowns: number;
  /**
   * Admittances at the ports (Hz, above zero), and on demand the current of each function (rows) for each port driven by 1 V.
   * @param waves of the lines that go on behind ports, in their order
   */
  solve(
    f: number,
    waves?: readonly Outside[],
    currents?: { readonly re: Float64Array; readonly im: Float64Array },
  ): Admittance;
}

/** Products of the functions with one another, which the impedance of the metal multiplies; of those that share a cell. */
function overlaps(
  mesh: Mesh,
  { isFirst, weight }: Symmetry,
): { readonly i: number; readonly j: number; readonly value: number }[] {
  const on = halvesOn(mesh);
  return mesh.cells.flatMap((cell, c) => {
    if (!isFirst(c)) return [];
    const moments = momentsOf(cell);
    return on[c].flatMap(({ basis: i, half: h }) =>
      on[c].map(({ basis: j, half: k }) => ({ i, j, value: weight(c, c) * overlapOf(cell, moments, h, k) })),
    );
  });
}

/** What lies outside: lines that go on behind ports. */
export interface Beyond {
  /** Functions from this one on are known. */
  readonly tested: number;
  readonly launches: readonly Launch[];
}

/**
 * Prepares a mesh: everything that no frequency changes. The mixed-potential integral equation by Galerkin's method; Z = jw
 * (vector) + (scalar)/(jw) + metal (Michalski & Mosig 1997). Of a mesh that lies on itself when it is turned, the matrix falls
 * apart into one for each class of currents.
 * @param walls perfectly conducting side walls; without them the board goes on for ever
 */
export function* systemSteps(
  mesh: Mesh,
  layers: Layers,
  walls: Walls | undefined,
  sheet: Sheet | undefined,
  { tested, launches }: Beyond = { tested: mesh.bases.length, launches: [] },
): Steps<System> {
  const z = depthOf(layers);
  const ports = mesh.ports.length;
  // What lines outside are spread by at one frequency is nearly what they are spread by at another.
  const kinds = new Int32Array(mesh.bases.length);
  for (const { basis, across, profile = 0 } of launches.flatMap((l) => l.sources))
    kinds[basis] = 2 * profile + (across ? 2 : 1);
  const symmetry = symmetryOf(mesh, tested, (i) => i >= tested - launches.length, walls, kinds);
  const local = yield* localSteps(mesh, z, symmetry, walls, tested);
  const open = walls ? undefined : openRemainder(mesh, layers, z, symmetry, tested);
  const metal = sheet && overlaps(mesh, symmetry);
  // Without a lid power goes away upwards, walls or not.
  const closed = walls !== undefined && layers.above.height < Infinity;
  const lossless = closed && !sheet && layers.below.tand === 0 && layers.above.tand === 0;
  const parts = symmetry.classes.map((of, k) => {
    const modes = walls && boxModes(mesh, walls, z, of);
    const matrix = denseOf(of.tested, !lossless, modes ? tablesOf(modes) : 0, modes?.count);
    if (modes) writeModes(modes, matrix);
    return {
      of,
      modes,
      matrix,
      local: local[k],
      block: blockOf(of, matrix.re, matrix.im),
    };
  });
  const blocks = parts.map((p) => p.block);
  const { put, gather } = gathering(symmetry, blocks);

  /** Writes Z / j. */
  const fill = (f: number): void => {
    const w = 2 * Math.PI * f;
    const kernel = kernelOf(layers, f, z);
    const { vector, scalar } = kernel;
    for (const { local: from, block: to, matrix, modes } of parts) {
      const { n, one, two } = to;
      for (let i = 0; i < n; i++)
        for (let k = i * n + i; k < (i + 1) * n; k++) {
          one[k] = w * vector * from.one[k] - (scalar.re / w) * from.two[k];
          if (!lossless) two[k] = -(scalar.im / w) * from.two[k];
        }
      for (let k = 0; k < from.outside.one.length; k++) {
        to.outside.one[k] = w * vector * from.outside.one[k] - (scalar.re / w) * from.outside.two[k];
        to.outside.two[k] = -(scalar.im / w) * from.outside.two[k];
      }
      if (modes) addBox(modes, kernel, w, matrix);
    }
    open?.(kernel, f, put);
    if (metal) {
      const { re: r, im: x } = sheet(f);
      for (const { i, j, value } of metal) put(i, j, x * value, -r * value, false);
    }
    gather();
  };

  /** Takes the matrix of a class apart; one that is symmetric but unsound so, with exchanges. */
  const factors = (part: (typeof parts)[number], f: number): Factors => {
    const { matrix, block } = part;
    const symmetric = lossless ? undefined : matrix.factoriseSymmetric();
    if (symmetric) return symmetric;
    // What was taken apart in vain is gone; of the others those that are done are needed no more.
    if (!lossless) fill(f);
    const { n, one, two } = block;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < i; j++) {
        one[i * n + j] = one[j * n + i];
        if (!lossless) two[i * n + j] = two[j * n + i];
      }
    return matrix.factorise();
  };

  /**
   * What the waves behind a port do to each row: that which comes, and that which goes, for which the function stands that is tested
   * outside. With s outwards the current inwards is a exp(g s) - b exp(-g s), that across j (a exp(g s) + b exp(-g s)).
   */
  const wavesOn = (
    { sources }: Launch,
    { alpha, beta, along, across: aside }: Outside,
    { row }: Class,
    { n, others, one, two, outside }: Block,
  ): { readonly comes: Admittance; readonly goes: Admittance } => {
    const comes = { re: new Float64Array(n), im: new Float64Array(n) };
    const goes = { re: new Float64Array(n), im: new Float64Array(n) };
    for (const { basis, out, fade, across, profile } of sources) {
      // Of functions that are one another's images one stands for all.
      if (symmetry.first[basis] !== basis || row[basis] < 0) continue;
      const share = fade * (profile === undefined ? 1 : (across ? aside : along)[profile]);
      const up = share * Math.exp(alpha * out);
      const down = share * Math.exp(-alpha * out);
      const [c, s] = [Math.cos(beta * out), Math.sin(beta * out)];
      const [ar, ai] = across ? [-up * s, up * c] : [up * c, up * s];
      const [br, bi] = across ? [down * s, down * c] : [-down * c, down * s];
      const column = row[basis];
      for (let i = 0; i < n; i++) {
        const at = column >= n ? i * others + column - n : i < column ? i * n + column : column * n + i;
        const x = column < n ? one[at] : outside.one[at];
        const y = column < n ? two[at] : outside.two[at];
        comes.re[i] += ar * x - ai * y;
        comes.im[i] += ar * y + ai * x;
        goes.re[i] += br * x - bi * y;
        goes.im[i] += br * y + bi * x;
      }
    }
    return { comes, goes };
  };

  return {
    unknowns: tested,
    solve(f, waves = [], currents) {
      fill(f);
      const going = new Map(launches.map((l, k) => [l.port, { launch: l, wave: waves[k] }]));
      const amplitudes = parts.map((part) => {
        const { of, block } = part;
        const { row, sign } = of;
        const { n } = block;
        /** Rows of functions that stand for waves that go, each with what these and those that come do. */
        const joined = new Map<number, ReturnType<typeof wavesOn>>();
        // Launches stand in order, so that the first of those that are images of one another comes first.
        for (const { launch, wave } of going.values()) {
          const at = row[launch.test];
          if (at >= 0 && !joined.has(at)) joined.set(at, wavesOn(launch, wave, of, block));
        }
        const tests = [...joined.keys()];
        const driven = mesh.ports.flatMap((_, p) => (going.has(p) ? [] : [p]));
        const drives = driven.length + tests.length;
        const columns = drives + tests.length;
        const vr = new Float64Array(n * columns);
        const vi = new Float64Array(n * columns);
        driven.forEach((p, at) => {
          for (const i of mesh.ports[p].functions) if (row[i] >= 0) vr[row[i] * columns + at] += sign[i];
        });
        [...joined.values()].forEach(({ comes, goes }, l) => {
          for (let i = 0; i < n; i++) {
            const at = i * columns + driven.length + l;
            // As much as a voltage of j would do, as what is solved for is taken over j.
            [vr[at], vi[at]] = [comes.im[i], -comes.re[i]];
            [vr[at + tests.length], vi[at + tests.length]] = [goes.re[i], goes.im[i]];
          }
        });
        factors(part, f).solve(columns, vr, lossless ? undefined : vi);
        const { re, im } = exchanged(tests, n, drives, columns, vr, vi);
        /** Of each port what drives it: the waves of ports that are images of one another each do their share of one and the same. */
        const ways = mesh.ports.map((_, p) => {
          const launch = going.get(p)?.launch;
          if (!launch) return { column: driven.indexOf(p), share: 1 };
          const at = tests.indexOf(row[launch.test]);
          return {
            column: driven.length + at,
            share: at < 0 ? 0 : sign[launch.test] / symmetry.size[launch.test],
          };
        });
        return { re, im, row, sign, drives, ways };
      });
      /** Adds the current of a function for each port driven. */
      const add = (i: number, to: Admittance, at: number): void => {
        for (const { re, im, row, sign, drives, ways } of amplitudes)
          if (row[i] >= 0)
            ways.forEach(({ column, share }, q) => {
              if (share === 0) return;
              const from = row[i] * drives + column;
              // Z = j X, so that the current is what X gives, over j.
              to.re[at + q] += sign[i] * share * im[from];
              to.im[at + q] -= sign[i] * share * re[from];
            });
      };
      const out = { re: new Float64Array(ports * ports), im: new Float64Array(ports * ports) };
      mesh.ports.forEach(({ functions }, p) => {
        if (!going.has(p)) for (const i of functions) add(i, out, p * ports);
      });
      if (currents) {
        currents.re.fill(0);
        currents.im.fill(0);
        for (let i = 0; i < tested; i++) add(i, currents, i * ports);
      }
      if (going.size === 0) return out;
      // Currents and voltages by what is sent: a wave of 1 A behind a port whose line goes on, 1 V elsewhere.
      const volts = { re: new Float64Array(ports * ports), im: new Float64Array(ports * ports) };
      for (let p = 0; p < ports; p++) {
        const wave = going.get(p);
        const sent = { re: new Float64Array(ports), im: new Float64Array(ports) };
        if (wave) add(wave.launch.test, sent, 0);
        for (let q = 0; q < ports; q++) {
          const at = p * ports + q;
          const unit = p === q ? 1 : 0;
          volts.re[at] = unit;
          if (!wave) continue;
          [out.re[at], out.im[at]] = [unit - sent.re[q], -sent.im[q]];
          const v = cx.mul(wave.wave.z, { re: unit + sent.re[q], im: sent.im[q] });
          [volts.re[at], volts.im[at]] = [v.re, v.im];
        }
      }
      const y = over(ports, ports, out, volts);
      // What is left between the two directions is how well lines outside are known (1e-3); copper does not tell them apart.
      for (let p = 0; p < ports; p++)
        for (let q = 0; q < p; q++)
          for (const part of [y.re, y.im])
            part[p * ports + q] = part[q * ports + p] = (part[p * ports + q] + part[q * ports + p]) / 2;
      if (currents) {
        const by = over(tested, ports, currents, volts);
        currents.re.set(by.re);
        currents.im.set(by.im);
      }
      return y;
    },
  };
}

/**
 * Amplitudes where some functions stand for something else than themselves: from the solutions with the matrix as it is, of what
 * drives it and, after `drives` columns, of what those functions stand for.
 * @param tests rows of these functions
 */
function exchanged(
  tests: readonly number[],
  n: number,
  drives: number,
  columns: number,
  vr: Float64Array,
  vi: Float64Array,
): { readonly re: Float64Array; readonly im: Float64Array } {
  const out = { re: new Float64Array(n * drives), im: new Float64Array(n * drives) };
  const many = tests.length;
  // With W what the matrix makes of the columns' places: x there is W^-1 u, and elsewhere u less W x.
  const [wr, wi] = [new Float64Array(many * many), new Float64Array(many * many)];
  const [xr, xi] = [new Float64Array(many * drives), new Float64Array(many * drives)];
  tests.forEach((t, k) => {
    for (let l = 0; l < many; l++)
      [wr[k * many + l], wi[k * many + l]] = [vr[t * columns + drives + l], vi[t * columns + drives + l]];
    for (let q = 0; q < drives; q++)
      [xr[k * drives + q], xi[k * drives + q]] = [vr[t * columns + q], vi[t * columns + q]];
  });
  if (many > 0) solveComplex(many, drives, wr, wi, xr, xi);
  for (let i = 0; i < n; i++)
    for (let q = 0; q < drives; q++) {
      let [r, x] = [vr[i * columns + q], vi[i * columns + q]];
      for (let l = 0; l < many; l++) {
        const [ar, ai] = [vr[i * columns + drives + l], vi[i * columns + drives + l]];
        r -= ar * xr[l * drives + q] - ai * xi[l * drives + q];
        x -= ar * xi[l * drives + q] + ai * xr[l * drives + q];
      }
      [out.re[i * drives + q], out.im[i * drives + q]] = [r, x];
    }
  tests.forEach((t, k) => {
    for (let q = 0; q < drives; q++)
      [out.re[t * drives + q], out.im[t * drives + q]] = [xr[k * drives + q], xi[k * drives + q]];
  });
  return out;
}
