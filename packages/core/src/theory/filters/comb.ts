import { solveReal } from '../../numeric';
import { equalised, passEdge } from './bandpass';
import { characteristic, fromSusceptances, type Lossless } from './lossless';
import { checkShape, FilterError, lowpassElements, type FilterShape } from './prototype';

const QUARTER = Math.PI / 2;

export interface CombSpecification extends FilterShape {
  /** Over the centre. */
  readonly bandwidth: number;
  /** Impedance of one line by itself over that of the terminations. */
  readonly resonator: number;
  /**
   * Neighbours shorted at opposite ends and a quarter wave long, or all at the same with a capacitor at the other and as long
   * as `theta` says.
   */
  readonly kind: 'interdigital' | 'combline';
  /** Angle of the lines at the centre, radians. */
  readonly theta: number;
}

/** Lines side by side, the first and the last of them the feeds. */
export interface Comb {
  /** Coupling (ze - zo)/(ze + zo) across each gap, one more than resonators. */
  readonly couplings: readonly number[];
  /** Susceptance of each resonator's capacitor at the centre, over the admittance of the terminations; interdigital ones have none. */
  readonly loads: readonly number[];
}

/**
 * Characteristic admittances of lines of one impedance side by side, of which each couples to its neighbours alone: what a
 * pair of that coupling would have by itself, added up over both of them. Row by row, over that impedance.
 */
export function arrayAdmittances(couplings: readonly number[]): Float64Array {
  const n = couplings.length + 1;
  const y = new Float64Array(n * n);
  for (let i = 0; i < n; i++) y[i * n + i] = 1;
  couplings.forEach((k, i) => {
    const root = Math.sqrt(1 - k * k);
    y[i * n + i] += 1 / root - 1;
    y[(i + 1) * n + i + 1] += 1 / root - 1;
    y[i * n + i + 1] = y[(i + 1) * n + i] = -k / root;
  });
  return y;
}

/**
 * Resonators a part of a wave long, grounded at one end, side by side: from narrow-band couplings to those whose ripple is
 * equal and whose edges stand. Sources: Matthaei 1962 (interdigital), 1963 (combline).
 * @throws FilterError
 */
export function designComb(spec: CombSpecification): Comb {
  checkShape(spec);
  const { order: n, bandwidth, resonator: z, kind, theta: t0 } = spec;
  const edge = passEdge(bandwidth);
  const crossed = kind === 'interdigital';
  const lines = n + 2;
  const g = [1, ...lowpassElements(spec)];
  const cot = 1 / Math.tan(t0);
  // Slope of a resonator's susceptance, and what couples it to the next, over the admittance of a line.
  const slope = crossed ? Math.PI / 4 : (cot + t0 * (1 + cot * cot)) / 2;
  const across = crossed ? 1 : cot;
  const inner = (i: number) => (bandwidth * slope) / (across * Math.sqrt(g[i] * g[i + 1]));
  // A feed that is grounded beside the others is a coil across its port, which takes a part of what is coupled.
  const coil = crossed ? 0 : cot / z;
  const outer = (Math.sqrt((bandwidth * slope * z) / g[1]) * Math.hypot(1, coil)) / across;
  const count = Math.ceil((n + 1) / 2);
  const start = Array.from({ length: count }, (_, i) => Math.min(0.8, i === 0 ? outer : inner(i)));
  const half = crossed ? 0 : Math.ceil(n / 2);
  // Couplings stay below one whatever the search tries.
  const toX = (k: number) => Math.log(k / (1 - k));
  const toK = (x: number) => 1 / (1 + Math.exp(-x));
  const parts = (x: readonly number[]): Comb => ({
    couplings: Array.from({ length: n + 1 }, (_, i) => toK(x[Math.min(i, n - i)])),
    loads: Array.from({ length: half > 0 ? n : 0 }, (_, i) => Math.exp(x[count + Math.min(i, n - 1 - i)])),
  });
  const network = (x: readonly number[], angle: number): Lossless => {
    const { couplings, loads } = parts(x);
    const r = angle / QUARTER;
    const t = t0 * r;
    const y = arrayAdmittances(couplings);
    // Between the ends that are not grounded: the same one of two lines, or opposite ones.
    const same = -1 / Math.tan(t);
    const other = 1 / Math.sin(t);
    const at = (i: number, j: number) =>
      (y[i * lines + j] / z) * (i === j || !crossed ? same : other) +
      (i === j && i > 0 && i <= n ? (loads[i - 1] ?? 0) * r : 0);
    // The resonators' voltages, the first feed driven; the array is its own mirror image, so that the other says the same.
    const a = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = Math.max(0, i - 1); j <= Math.min(n - 1, i + 1); j++) a[i * n + j] = at(i + 1, j + 1);
    const driven = new Float64Array(n);
    driven[0] = at(1, 0);
    const v = solveReal(n, a, driven);
    const own = at(0, 0) - at(0, 1) * v[0];
    return fromSusceptances(own, -at(0, 1) * v[n - 1], own);
  };
  const own = arrayAdmittances(Array.from({ length: n + 1 }, (_, i) => start[Math.min(i, n - i)]));
  const begun = [
    ...start.map(toX),
    ...Array.from({ length: half }, (_, i) => {
      const feeds = (i === 0 ? 1 : 0) + (i === n - 1 ? 1 : 0);
      const pulled = feeds * ((start[0] * cot) / z) ** 2 * (coil / (1 + coil * coil));
      return Math.log((own[(i + 1) * (lines + 1)] * cot) / z + pulled);
    }),
  ];
  const found = equalised(spec, edge, begun, (x, angle) => characteristic(network(x, angle)));
  if (!found)
    throw new FilterError(
      'bandwidth',
      'is out of reach of lines side by side of this order: take another band',
    );
  return parts(found);
}
