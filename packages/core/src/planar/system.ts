import { cx, type Complex, type Steps } from '../numeric';
import { addBox, boxModes, TE, TM } from './box';
import type { Layers, Sheet, Walls } from './contract';
import { denseOf } from './dense';
import { depthOf, kernelOf } from './kernel';
import type { Launch } from './launch';
import { localSteps } from './local';
import { halvesOn, momentsOf, overlapOf, type Mesh } from './mesh';
import { openRemainder, type Entries } from './open';
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
  /** Phase constant at which its currents were taken, rad/m: those across grow with it. */
  readonly profiled: number;
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
function overlaps(mesh: Mesh): { readonly i: number; readonly j: number; readonly value: number }[] {
  const on = halvesOn(mesh);
  return mesh.cells.flatMap((cell, c) => {
    const moments = momentsOf(cell);
    return on[c].flatMap(({ basis: i, half: h }) =>
      on[c].map(({ basis: j, half: k }) => ({ i, j, value: overlapOf(cell, moments, h, k) })),
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
 * (vector) + (scalar)/(jw) + metal (Michalski & Mosig 1997).
 * @param walls perfectly conducting side walls; without them the board goes on for ever
 */
export function* systemSteps(
  mesh: Mesh,
  layers: Layers,
  walls: Walls | undefined,
  sheet: Sheet | undefined,
  { tested, launches }: Beyond = { tested: mesh.bases.length, launches: [] },
): Steps<System> {
  const n = tested;
  const all = mesh.bases.length;
  const others = all - n;
  const z = depthOf(layers);
  const local = yield* localSteps(mesh, z, walls, n);
  const modes = walls && boxModes(mesh, walls, z);
  const open = walls ? undefined : openRemainder(mesh, layers, z, n);
  const metal = sheet && overlaps(mesh);
  const ports = mesh.ports.length;
  // Without a lid power goes away upwards, walls or not.
  const closed = walls !== undefined && layers.above.height < Infinity;
  const lossless = closed && !sheet && layers.below.tand === 0 && layers.above.tand === 0;
  const matrix = denseOf(n, !lossless, modes ? 2 : 0, modes?.count);
  const { re, im } = matrix;
  const outside: Entries = { re: new Float64Array(n * others), im: new Float64Array(n * others) };
  modes?.write(matrix.tables[TM], matrix.tables[TE]);

  /** Writes Z / j. */
  const fill = (f: number): void => {
    const w = 2 * Math.PI * f;
    const kernel = kernelOf(layers, f, z);
    const { vector, scalar } = kernel;
    for (let i = 0; i < n; i++) {
      for (let j = i; j < n; j++) {
        const k = i * all + j;
        re[i * n + j] = w * vector * local.vector[k] - (scalar.re / w) * local.scalar[k];
        if (im) im[i * n + j] = -(scalar.im / w) * local.scalar[k];
      }
      for (let j = n; j < all; j++) {
        const k = i * all + j;
        outside.re[i * others + j - n] = w * vector * local.vector[k] - (scalar.re / w) * local.scalar[k];
        outside.im[i * others + j - n] = -(scalar.im / w) * local.scalar[k];
      }
    }
    if (modes) addBox(modes, kernel, w, matrix);
    if (open) open(kernel, f, { re, im: im! }, outside);
    if (metal) {
      const { re: r, im: x } = sheet(f);
      for (const { i, j, value } of metal) {
        if (j < i || i >= n) continue;
        const [rows, k] = j < n ? [matrix as Entries, i * n + j] : [outside, i * others + j - n];
        rows.re[k] += x * value;
        rows.im[k] -= r * value;
      }
    }
    for (let i = 0; i < n; i++)
      for (let j = 0; j < i; j++) {
        re[i * n + j] = re[j * n + i];
        if (im) im[i * n + j] = im[j * n + i];
      }
  };

  /**
   * Makes the function that is tested outside stand for the whole wave that goes, and writes what the wave that comes does. With
   * s outwards the current inwards is a exp(g s) - b exp(-g s), that across j (a exp(g s) + b exp(-g s)).
   */
  const join = (
    launch: Launch,
    { alpha, beta, profiled }: Outside,
    vr: Float64Array,
    vi: Float64Array,
  ): void => {
    const { test, port } = launch;
    const comes = new Float64Array(2 * launch.sources.length);
    const goes = new Float64Array(2 * launch.sources.length);
    launch.sources.forEach(({ out, fade, across }, k) => {
      const up = fade * Math.exp(alpha * out);
      const down = fade * Math.exp(-alpha * out);
      const [c, s] = [Math.cos(beta * out), Math.sin(beta * out)];
      const share = beta / profiled;
      if (across) {
        [comes[2 * k], comes[2 * k + 1]] = [-share * up * s, share * up * c];
        [goes[2 * k], goes[2 * k + 1]] = [share * down * s, share * down * c];
      } else {
        [comes[2 * k], comes[2 * k + 1]] = [up * c, up * s];
        [goes[2 * k], goes[2 * k + 1]] = [-down * c, down * s];
      }
    });
    for (let i = 0; i < n; i++) {
      let [ar, ai, br, bi] = [0, 0, 0, 0];
      launch.sources.forEach(({ basis }, k) => {
        const at = basis < n ? i * n + basis : i * others + basis - n;
        const x = basis < n ? re[at] : outside.re[at];
        const y = basis < n ? im![at] : outside.im[at];
        ar += comes[2 * k] * x - comes[2 * k + 1] * y;
        ai += comes[2 * k] * y + comes[2 * k + 1] * x;
        br += goes[2 * k] * x - goes[2 * k + 1] * y;
        bi += goes[2 * k] * y + goes[2 * k + 1] * x;
      });
      re[i * n + test] = br;
      im![i * n + test] = bi;
      // As much as a voltage of j would do, as what is solved for is taken over j.
      vr[i * ports + port] = ai;
      vi[i * ports + port] = -ar;
    }
  };

  return {
    unknowns: n,
    solve(f, waves = [], currents) {
      fill(f);
      const vr = currents?.re ?? new Float64Array(n * ports);
      const vi = currents?.im ?? new Float64Array(n * ports);
      vr.fill(0);
      vi.fill(0);
      const going = new Map(launches.map((l, k) => [l.port, { launch: l, wave: waves[k] }]));
      mesh.ports.forEach(({ functions }, p) => {
        if (!going.has(p)) functions.forEach((i) => (vr[i * ports + p] = 1));
      });
      for (const { launch, wave } of going.values()) join(launch, wave, vr, vi);
      matrix.factorise().solve(ports, vr, im && vi);
      // Z = j X, so that the current is what X gives, over j.
      for (let k = 0; k < vr.length; k++) [vr[k], vi[k]] = [vi[k], -vr[k]];
      const out = { re: new Float64Array(ports * ports), im: new Float64Array(ports * ports) };
      mesh.ports.forEach(({ functions }, p) => {
        if (going.has(p)) return;
        for (let q = 0; q < ports; q++)
          for (const i of functions) {
            out.re[p * ports + q] += vr[i * ports + q];
            out.im[p * ports + q] += vi[i * ports + q];
          }
      });
      if (going.size === 0) return out;
      // Currents and voltages by what is sent: a wave of 1 A behind a port whose line goes on, 1 V elsewhere.
      const volts = { re: new Float64Array(ports * ports), im: new Float64Array(ports * ports) };
      for (let p = 0; p < ports; p++)
        for (let q = 0; q < ports; q++) {
          const at = p * ports + q;
          const unit = p === q ? 1 : 0;
          const wave = going.get(p);
          volts.re[at] = unit;
          if (!wave) continue;
          const k = wave.launch.test * ports + q;
          [out.re[at], out.im[at]] = [unit - vr[k], -vi[k]];
          const v = cx.mul(wave.wave.z, { re: unit + vr[k], im: vi[k] });
          [volts.re[at], volts.im[at]] = [v.re, v.im];
        }
      const y = over(ports, ports, out, volts);
      // What is left between the two directions is how well lines outside are known (1e-3); copper does not tell them apart.
      for (let p = 0; p < ports; p++)
        for (let q = 0; q < p; q++)
          for (const part of [y.re, y.im])
            part[p * ports + q] = part[q * ports + p] = (part[p * ports + q] + part[q * ports + p]) / 2;
      if (currents) {
        const by = over(n, ports, currents, volts);
        currents.re.set(by.re);
        currents.im.set(by.im);
      }
      return y;
    },
  };
}
