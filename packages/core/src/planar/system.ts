import type { Steps } from '../numeric';
import { addBox, boxModes, TE, TM } from './box';
import type { Layers, Sheet, Walls } from './contract';
import { denseOf } from './dense';
import { depthOf, kernelOf } from './kernel';
import { localSteps } from './local';
import { halvesOn, momentsOf, overlapOf, type Mesh } from './mesh';
import { openRemainder } from './open';

/** Admittances between the edges at which current enters, S; row by row. */
export interface Admittance {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

/** A mesh ready to be solved at one frequency after the other. */
export interface System {
  readonly unknowns: number;
  /** Admittances at the ports (Hz, above zero), and on demand the current of each function (rows) for each port driven by 1 V. */
  solve(f: number, currents?: { readonly re: Float64Array; readonly im: Float64Array }): Admittance;
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
): Steps<System> {
  const n = mesh.bases.length;
  const z = depthOf(layers);
  const local = yield* localSteps(mesh, z, walls);
  const modes = walls && boxModes(mesh, walls, z);
  const open = walls ? undefined : openRemainder(mesh, layers, z);
  const metal = sheet && overlaps(mesh);
  const ports = mesh.ports.length;
  // Without a lid power goes away upwards, walls or not.
  const closed = walls !== undefined && layers.above.height < Infinity;
  const lossless = closed && !sheet && layers.below.tand === 0 && layers.above.tand === 0;
  const matrix = denseOf(n, !lossless, modes ? 2 : 0, modes?.count);
  const { re, im } = matrix;
  modes?.write(matrix.tables[TM], matrix.tables[TE]);
  return {
    unknowns: n,
    solve(f, currents) {
      const w = 2 * Math.PI * f;
      const kernel = kernelOf(layers, f, z);
      const { vector, scalar } = kernel;
      for (let i = 0; i < n; i++)
        for (let k = i * n + i; k < (i + 1) * n; k++) {
          re[k] = w * vector * local.vector[k] - (scalar.re / w) * local.scalar[k];
          if (im) im[k] = -(scalar.im / w) * local.scalar[k];
        }
      if (modes) addBox(modes, kernel, w, matrix);
      if (open) open(kernel, f, re, im!);
      if (metal) {
        const { re: r, im: x } = sheet(f);
        for (const { i, j, value } of metal) {
          if (j < i) continue;
          re[i * n + j] += x * value;
          im![i * n + j] -= r * value;
        }
      }
      for (let i = 0; i < n; i++)
        for (let j = 0; j < i; j++) {
          re[i * n + j] = re[j * n + i];
          if (im) im[i * n + j] = im[j * n + i];
        }
      const vr = currents?.re ?? new Float64Array(n * ports);
      const vi = currents?.im ?? new Float64Array(n * ports);
      vr.fill(0);
      vi.fill(0);
      mesh.ports.forEach(({ functions }, p) => functions.forEach((i) => (vr[i * ports + p] = 1)));
      matrix.factorise().solve(ports, vr, im && vi);
      // Z = j X, so that the current is what X gives, over j.
      for (let k = 0; k < vr.length; k++) [vr[k], vi[k]] = [vi[k], -vr[k]];
      const out = { re: new Float64Array(ports * ports), im: new Float64Array(ports * ports) };
      mesh.ports.forEach(({ functions }, p) => {
        for (let q = 0; q < ports; q++)
          for (const i of functions) {
            out.re[p * ports + q] += vr[i * ports + q];
            out.im[p * ports + q] += vi[i * ports + q];
          }
      });
      return out;
    },
  };
}
