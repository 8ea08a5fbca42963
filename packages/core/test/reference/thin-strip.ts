import { gaussLegendre } from '../../src/numeric/quadrature';
import { EPS0 } from '../../src/numeric/constants';
import { solveReal } from '../../src/numeric/matrix';

/** coth x for x > 0, 1 for Infinity. */
const coth = (x: number): number => (x > 20 ? 1 : 1 / Math.tanh(x));

/** Even Bessel functions J0, J2 ... J2(n-1) at x by downward recurrence (Miller; Abramowitz & Stegun 1964, 9.12). */
function evenBessel(x: number, n: number, out: Float64Array): void {
  if (x < 1e-8) {
    out[0] = 1;
    for (let i = 1; i < n; i++) out[i] = 0;
    return;
  }
  let order = 2 * Math.ceil((Math.max(x, 2 * n) + 14 + 3 * Math.cbrt(x)) / 2);
  let above = 0;
  let here = 1e-280;
  let norm = 0;
  for (; order >= 0; order--) {
    if (order % 2 === 0) {
      const i = order >> 1;
      if (i < n) out[i] = here;
      norm += order === 0 ? here : 2 * here;
      if (Math.abs(here) > 1e250) {
        for (let j = i; j < n; j++) out[j] *= 1e-250;
        here *= 1e-250;
        above *= 1e-250;
        norm *= 1e-250;
      }
    }
    if (order === 0) break;
    const below = ((2 * order) / x) * here - above;
    above = here;
    here = below;
  }
  for (let i = 0; i < n; i++) out[i] /= norm;
}

const QUADRATURE = 24;
/** Chebyshev polynomials T0, T2, T4 ... at the Gauss-Chebyshev nodes, [degree / 2][node]. */
const chebyshev = Array.from({ length: 14 }, (_, p) =>
  Float64Array.from({ length: QUADRATURE }, (_unused, i) =>
    Math.cos((2 * p * (2 * i + 1) * Math.PI) / (2 * QUADRATURE)),
  ),
);
const chebyshevNodes = Float64Array.from({ length: QUADRATURE }, (_, i) =>
  Math.cos(((2 * i + 1) * Math.PI) / (2 * QUADRATURE)),
);

/** What lies around a thin strip: relative permittivity below it, distance of the lid above it in m (Infinity: open). */
export interface ThinStripSurroundings {
  readonly er: number;
  readonly cover: number;
}

/**
 * Capacitances in F/m of a strip of zero thickness on a dielectric over ground, with an optional lid: Galerkin's
 * method with edge-weighted Chebyshev functions in the spectral domain (Yamashita & Mittra 1968; Itoh 1980).
 *
 * The Green's function's 1/k tail, which is the logarithmic singularity of the charge itself, is integrated
 * analytically; what remains decays as exp(-2 k h) and is integrated by Gauss-Legendre quadrature.
 *
 * @param width strip width, m
 * @param height dielectric thickness, m
 * @param cases the surroundings to solve for; they share the work
 * @returns one capacitance per case, converged to about 1e-10
 */
export function thinStripCapacitance(
  width: number,
  height: number,
  cases: readonly ThinStripSurroundings[],
): number[] {
  const a = width / 2;
  const near = Math.min(height, ...cases.map((c) => c.cover));
  const n = Math.min(chebyshev.length, 4 + Math.ceil(a / near));
  const d = Math.max(2 * near, a);
  const end = 17 / near;
  const panels = Math.max(3, Math.ceil((end * Math.max(a, d / 4)) / 9));
  const { nodes, weights } = gaussLegendre(16);

  // Logarithmic part: (1/2) ln((x^2 + d^2)/x^2) in the Chebyshev basis; its smooth half by Gauss-Chebyshev quadrature.
  const log = new Float64Array(n * n);
  const row = new Float64Array(QUADRATURE);
  for (let i = 0; i < QUADRATURE; i++) {
    for (let k = 0; k < QUADRATURE; k++) {
      const x = a * (chebyshevNodes[i] - chebyshevNodes[k]);
      row[k] = (0.5 * Math.log((x * x + d * d) / (a * a))) / (QUADRATURE * QUADRATURE);
    }
    for (let q = 0; q < n; q++) {
      let sum = 0;
      for (let k = 0; k < QUADRATURE; k++) sum += row[k] * chebyshev[q][k];
      for (let p = 0; p <= q; p++) log[p * n + q] += sum * chebyshev[p][i];
    }
  }
  log[0] += Math.LN2;
  for (let p = 1; p < n; p++) log[p * n + p] += 1 / (4 * p);

  const sums = cases.map(() => new Float64Array(n * n));
  const bessel = new Float64Array(n);
  const edges = Array.from({ length: panels + 1 }, (_, i) => (end * i) / panels);
  // The farther of ground and lid is felt at small k only: the first panel is halved until it resolves that too.
  const far = Math.max(height, ...cases.map((c) => (c.cover === Infinity ? 0 : c.cover)));
  for (let first = edges[1] / 2; first * far > 2 && edges.length < panels + 60; first /= 2)
    edges.splice(1, 0, first);
  for (let panel = 1; panel < edges.length; panel++) {
    const half = (edges[panel] - edges[panel - 1]) / 2;
    for (let i = 0; i < nodes.length; i++) {
      const k = edges[panel - 1] + (1 + nodes[i]) * half;
      evenBessel(k * a, n, bessel);
      const below = coth(k * height);
      const scale = (weights[i] * half) / k;
      const tail = Math.expm1(-k * d);
      for (let e = 0; e < cases.length; e++) {
        const { er, cover } = cases[e];
        const rest = (1 / (er * below + coth(k * cover)) + tail / (er + 1)) * scale;
        const sum = sums[e];
        for (let p = 0; p < n; p++) {
          const f = rest * bessel[p];
          for (let q = p; q < n; q++) sum[p * n + q] += (p + q) % 2 ? -f * bessel[q] : f * bessel[q];
        }
      }
    }
  }
  return cases.map(({ er }, e) => {
    const matrix = new Float64Array(n * n);
    for (let p = 0; p < n; p++)
      for (let q = p; q < n; q++)
        matrix[p * n + q] = matrix[q * n + p] = sums[e][p * n + q] + log[p * n + q] / (er + 1);
    const right = new Float64Array(n);
    right[0] = Math.PI * EPS0;
    return solveReal(n, matrix, right)[0];
  });
}
