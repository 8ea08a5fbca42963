import { solveComplex } from './matrix';

/** Complex values of several functions at one place. */
export interface Sample {
  readonly x: number;
  readonly re: Float64Array;
  readonly im: Float64Array;
}

/** Several functions of one variable with the same poles. @param re,im receive the values at x */
export type Rational = (x: number, re: Float64Array, im: Float64Array) => void;

/**
 * Rational interpolation in barycentric form (Nakatsukasa, Sete & Trefethen 2018): support points are taken one by one where
 * what stands is worst, weights make what is left at the other samples least, of all functions together.
 * @param samples at least one, at different places
 * @param supports how many are interpolated; the others are approximated
 */
export function rationalFit(samples: readonly Sample[], supports: number): Rational {
  const q = samples[0].re.length;
  const chosen: number[] = [];
  const left = new Set(samples.map((_, i) => i));
  let weights: { re: number; im: number }[] = [];
  const evaluate: Rational = (x, re, im) => {
    re.fill(0);
    im.fill(0);
    let [dr, di] = [0, 0];
    for (let s = 0; s < chosen.length; s++) {
      const sample = samples[chosen[s]];
      const distance = x - sample.x;
      if (distance === 0) {
        re.set(sample.re);
        im.set(sample.im);
        return;
      }
      const wr = weights[s].re / distance;
      const wi = weights[s].im / distance;
      dr += wr;
      di += wi;
      for (let k = 0; k < q; k++) {
        re[k] += wr * sample.re[k] - wi * sample.im[k];
        im[k] += wr * sample.im[k] + wi * sample.re[k];
      }
    }
    const d = dr * dr + di * di;
    for (let k = 0; k < q; k++) {
      const [r, i] = [re[k], im[k]];
      re[k] = (r * dr + i * di) / d;
      im[k] = (i * dr - r * di) / d;
    }
  };
  const mean = { re: new Float64Array(q), im: new Float64Array(q) };
  for (const { re, im } of samples)
    for (let k = 0; k < q; k++) {
      mean.re[k] += re[k] / samples.length;
      mean.im[k] += im[k] / samples.length;
    }
  const re = new Float64Array(q);
  const im = new Float64Array(q);
  while (chosen.length < Math.min(supports, samples.length)) {
    let worst = -1;
    let most = -1;
    for (const i of left) {
      if (chosen.length === 0) {
        re.set(mean.re);
        im.set(mean.im);
      } else evaluate(samples[i].x, re, im);
      let miss = 0;
      for (let k = 0; k < q; k++)
        miss = Math.max(miss, Math.hypot(re[k] - samples[i].re[k], im[k] - samples[i].im[k]));
      if (miss > most || worst < 0) {
        most = miss;
        worst = i;
      }
    }
    chosen.push(worst);
    left.delete(worst);
    weights = weigh(samples, chosen, left, q);
  }
  return evaluate;
}

/**
 * The functions through all samples: at a sample itself, elsewhere what is rational through half of them. The latter is made
 * when it is first asked for: where every place is a sample it would take long for nothing.
 */
export function rationalThrough(samples: readonly Sample[]): Rational {
  const own = new Map(samples.map((s) => [s.x, s]));
  let fit: Rational | undefined;
  return (x, re, im) => {
    const sample = own.get(x);
    if (!sample) return (fit ??= rationalFit(samples, Math.ceil(samples.length / 2)))(x, re, im);
    re.set(sample.re);
    im.set(sample.im);
  };
}

/** The weights of unit size for which the linearised misses at the samples that are left are least. */
function weigh(
  samples: readonly Sample[],
  chosen: readonly number[],
  left: ReadonlySet<number>,
  q: number,
): { re: number; im: number }[] {
  const m = chosen.length;
  // Products of the columns of Loewner's matrix.
  const gr = new Float64Array(m * m);
  const gi = new Float64Array(m * m);
  for (const i of left)
    for (let k = 0; k < q; k++) {
      const rows = chosen.map((c) => {
        const d = 1 / (samples[i].x - samples[c].x);
        return [(samples[i].re[k] - samples[c].re[k]) * d, (samples[i].im[k] - samples[c].im[k]) * d];
      });
      for (let a = 0; a < m; a++)
        for (let b = 0; b < m; b++) {
          gr[a * m + b] += rows[a][0] * rows[b][0] + rows[a][1] * rows[b][1];
          gi[a * m + b] += rows[a][0] * rows[b][1] - rows[a][1] * rows[b][0];
        }
    }
  let size = 0;
  for (let a = 0; a < m; a++) size = Math.max(size, gr[a * m + a]);
  if (!(size > 0)) return chosen.map(() => ({ re: 1, im: 0 }));
  // The vector that the matrix makes least, by solving again and again; rounding keeps it from being singular.
  const vr = Float64Array.from({ length: m }, (_, a) => 1 + 0.1 * a);
  const vi = Float64Array.from({ length: m }, (_, a) => 0.3 * Math.sin(a + 1));
  for (let turn = 0; turn < 4; turn++) {
    const ar = Float64Array.from(gr, (v) => v / size);
    const ai = Float64Array.from(gi, (v) => v / size);
    for (let a = 0; a < m; a++) ar[a * m + a] += 3e-13;
    if (!solveComplex(m, 1, ar, ai, vr, vi)) break;
    let norm = 0;
    for (let a = 0; a < m; a++) norm += vr[a] * vr[a] + vi[a] * vi[a];
    norm = 1 / Math.sqrt(norm);
    for (let a = 0; a < m; a++) {
      vr[a] *= norm;
      vi[a] *= norm;
    }
  }
  return chosen.map((_, a) => ({ re: vr[a], im: vi[a] }));
}
