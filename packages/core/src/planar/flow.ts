import { cx, solveComplex, type Complex } from '../numeric';
import { halvesOn, type Mesh } from './mesh';
import type { Admittance } from './system';

/** The current on copper, cell by cell. */
export interface Flow {
  /** Corners of each cell in turn, m: x, y, x, y ...; `first[c]` to `first[c + 1]` are those of cell c. */
  readonly corners: Float64Array;
  readonly first: Uint32Array;
  /** Current density at the centre of each cell, A/m, peak. */
  readonly x: { readonly re: Float64Array; readonly im: Float64Array };
  readonly y: { readonly re: Float64Array; readonly im: Float64Array };
}

/** The corners of a mesh in one list. */
export function cornersOf({ cells }: Mesh): Pick<Flow, 'corners' | 'first'> {
  const first = new Uint32Array(cells.length + 1);
  cells.forEach(({ corners }, c) => (first[c + 1] = first[c] + corners.length / 2));
  const corners = new Float64Array(2 * first[cells.length]);
  cells.forEach((cell, c) => corners.set(cell.corners, 2 * first[c]));
  return { corners, first };
}

/**
 * The current on the copper with a wave sent into each port from a source of the port's reference impedance. What stands at the
 * very ends of the mesh is left where it is.
 * @param solve gives admittances, and writes the currents of all functions for each port driven by 1 V
 * @param drive waves, sqrt(W) peak
 */
export function flowOf(
  mesh: Mesh,
  solve: (currents: Admittance) => Admittance,
  unknowns: number,
  z0: readonly number[],
  drive: readonly Complex[],
): Flow {
  const n = z0.length;
  const currents = {
    re: new Float64Array(unknowns * n),
    im: new Float64Array(unknowns * n),
  };
  const y = solve(currents);
  // I = Y V and V = 2 sqrt(Z) a - Z I, so that (1 + Z Y) V = 2 sqrt(Z) a.
  const [ar, ai] = [new Float64Array(n * n), new Float64Array(n * n)];
  for (let p = 0; p < n; p++)
    for (let q = 0; q < n; q++) {
      ar[p * n + q] = (p === q ? 1 : 0) + z0[p] * y.re[p * n + q];
      ai[p * n + q] = z0[p] * y.im[p * n + q];
    }
  const vr = Float64Array.from(drive, (a, p) => 2 * Math.sqrt(z0[p]) * a.re);
  const vi = Float64Array.from(drive, (a, p) => 2 * Math.sqrt(z0[p]) * a.im);
  solveComplex(n, 1, ar, ai, vr, vi);
  const volts = Array.from(vr, (re, p): Complex => ({ re, im: vi[p] }));
  const through = (basis: number): Complex =>
    volts.reduce(
      (sum, v, p) =>
        cx.add(sum, cx.mul(v, { re: currents.re[basis * n + p], im: currents.im[basis * n + p] })),
      { re: 0, im: 0 },
    );
  const part = () => ({
    re: new Float64Array(mesh.cells.length),
    im: new Float64Array(mesh.cells.length),
  });
  const [jx, jy] = [part(), part()];
  halvesOn(mesh).forEach((halves, c) => {
    for (const { basis, half } of halves) {
      const { re, im } = through(basis);
      jx.re[c] += half.ax * re;
      jx.im[c] += half.ax * im;
      jy.re[c] += half.ay * re;
      jy.im[c] += half.ay * im;
    }
  });
  return { ...cornersOf(mesh), x: jx, y: jy };
}
