import { EPS0 } from '../numeric/constants';
import { limitOf, merged, solveSymmetric, type Estimate } from './galerkin';
import { greenOf, type Filling, type Green, type Heights } from './layers';
import { cuts, meanLog, panelsAlong, sinc, type Panel } from './panels';

/** Whether the mirror half at x < 0 has the same voltage or the opposite one. */
export type Symmetry = 1 | -1;

/** Charges on one half of a section that is its own mirror image, for one filling and symmetry. */
export interface Charges {
  /** Of the half's copper at 1 V, F/m. */
  readonly capacitance: Estimate;
  /** On each panel at 1 V, C/m. */
  readonly charge: Float64Array;
}

/** Mean potentials on the panels (upper triangles), times 2 pi e0 and the upper permittivity: [filling][symmetry]. */
function potentials(
  panels: readonly Panel[],
  { images, k, smooth }: Green,
  symmetries: readonly Symmetry[],
  top: number,
): Float64Array[][] {
  const n = panels.length;
  const out = smooth.map(() => symmetries.map(() => new Float64Array(n * n)));
  const terms = images.map(({ sign, shift, weights }) => ({ sign, shift, weights, own: 0, other: 0 }));
  for (let i = 0; i < n; i++) {
    const p = panels[i];
    for (let j = i; j < n; j++) {
      const q = panels[j];
      for (const term of terms) {
        const dy = p.y - (term.sign * q.y + term.shift);
        term.own = meanLog(p.along, p.a, q.along, q.a, p.x - q.x, dy);
        term.other = meanLog(p.along, p.a, q.along, q.a, p.x + q.x, dy);
      }
      for (let f = 0; f < out.length; f++)
        for (let s = 0; s < symmetries.length; s++) {
          let sum = 0;
          for (const { own, other, weights } of terms) sum += weights[f] * (own + symmetries[s] * other);
          out[f][s][i * n + j] = sum;
        }
    }
  }
  // cos k(x - x') +- cos k(x + x') is twice the product of the cosines, or of the sines.
  const fall = new Float64Array(n);
  const rise = new Float64Array(n);
  for (let e = 0; e < k.length; e++)
    for (let s = 0; s < symmetries.length; s++) {
      for (let i = 0; i < n; i++) {
        const { along, x, y, a } = panels[i];
        const ka = k[e] * a;
        const wave = symmetries[s] === 1 ? Math.cos(k[e] * x) : Math.sin(k[e] * x);
        if (along === 1 || ka < 0.1) {
          const spread = along === 1 ? sinc(ka) : 1 + (ka * ka) / 6 + ka ** 4 / 120;
          rise[i] = wave * spread * Math.exp(k[e] * (y - top));
          fall[i] = wave * spread * (y === 0 ? 1 : Math.exp(-k[e] * y));
        } else {
          rise[i] = (wave * (Math.exp(k[e] * (y + a - top)) - Math.exp(k[e] * (y - a - top)))) / (2 * ka);
          fall[i] = (wave * (Math.exp(-k[e] * (y - a)) - Math.exp(-k[e] * (y + a)))) / (2 * ka);
        }
      }
      for (let f = 0; f < out.length; f++) {
        const matrix = out[f][s];
        const { down, up, across } = smooth[f];
        const d = 2 * down[e];
        if (up.length === 0)
          for (let i = 0; i < n; i++) {
            const c = d * fall[i];
            for (let j = i, at = i * n + i; j < n; j++, at++) matrix[at] += c * fall[j];
          }
        else {
          const u = 2 * up[e];
          const a = 2 * across[e];
          for (let i = 0; i < n; i++) {
            const c = d * fall[i] + a * rise[i];
            const g = u * rise[i] + a * fall[i];
            for (let j = i, at = i * n + i; j < n; j++, at++) matrix[at] += c * fall[j] + g * rise[j];
          }
        }
      }
    }
  return out;
}

/**
 * Charges on the panels at 1 V by Galerkin's method with constants (Harrington 1968): [filling][symmetry].
 * @param panels two and two neighbours on one face
 */
export function chargesOf(
  panels: readonly Panel[],
  heights: Heights,
  fillings: readonly Filling[],
  symmetries: readonly Symmetry[],
): Charges[][] {
  const n = panels.length;
  const top = panels.reduce((y, p) => Math.max(y, p.y + (p.along === 1 ? 0 : p.a)), 0);
  const extent = 2 * panels.reduce((x, p) => Math.max(x, p.x + (p.along === 1 ? p.a : 0)), 0);
  const share = Float64Array.from(panels, ({ a }, i) => a / (a + panels[i ^ 1].a));
  const green = greenOf(heights, fillings, top, extent);
  return potentials(panels, green, symmetries, top).map((bySymmetry, f) =>
    bySymmetry.map((matrix): Charges => {
      const scale = 2 * Math.PI * EPS0 * fillings[f].above;
      const coarse = new Float64Array(n / 2).fill(1);
      solveSymmetric(n / 2, merged(n, matrix, share), coarse);
      const charge = new Float64Array(n).fill(1);
      solveSymmetric(n, matrix, charge);
      for (let i = 0; i < n; i++) charge[i] *= scale;
      const sum = (list: Float64Array) => list.reduce((x, y) => x + y, 0);
      return { capacitance: limitOf(sum(charge), scale * sum(coarse)), charge };
    }),
  );
}

/** Panels on half a face of a thick and of a thin conductor. */
const THICK = 8;
const THIN = 12;
const THIN_PAIR = 16;
/** A panel at a corner is as small as this power of their number asks, of the nearer dimension. */
const CORNER = 2.5;
/** The charge on the edge of a strip without thickness is more singular than that on a corner. */
const EDGE = 3;

/** Share of the width below which a thickness is none: it would widen the strip by some 5e-6 of it. */
const NO_THICKNESS = 1e-6;

/**
 * The copper of a strip's right half, or of the right strip of a pair.
 * @param from 0 in the middle of a strip
 * @param wanted panels on half a face; as many as the accuracy asks where nothing is said
 */
export function outline(from: number, to: number, thickness: number, wanted?: number): Panel[] {
  const width = to - from;
  const thin = thickness < NO_THICKNESS * width;
  const n = wanted ?? (!thin ? THICK : from > 0 ? THIN_PAIR : THIN);
  const inner = from > 0;
  const pieces = inner ? 2 * n : n;
  if (thin) {
    const edge = n ** -EDGE / (inner ? 2 : 1);
    return panelsAlong(1, 0, cuts(from, to, pieces, inner ? edge : 0, edge));
  }
  const corner = n ** -CORNER * Math.min(thickness, inner ? width / 2 : width);
  const face = cuts(from, to, pieces, inner ? corner / width : 0, corner / width);
  const side = cuts(0, thickness, 4 * Math.ceil(n / 6), corner / thickness, corner / thickness);
  return [
    ...panelsAlong(1, 0, face),
    ...panelsAlong(1, thickness, face),
    ...panelsAlong(-1, to, side),
    ...(inner ? panelsAlong(-1, from, side) : []),
  ];
}
