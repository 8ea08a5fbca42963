import { C0, cholesky, symmetricEigen } from '../../numeric';
import { fromAdmittance, uniformLine, type Electrical } from '../../electrical';
import { linePoint } from '../../lines';
import { arrayAdmittances } from '../../theory';
import type { InModel, PartModel } from '../contract';

/**
 * Lines of one velocity and length whose characteristic admittances are those of `arrayAdmittances`: as many modes as lines,
 * each a line of its own, since the matrix is symmetric and one velocity leaves their shapes alone.
 * @param z impedance of one line by itself, ohm
 */
function ideal(z: number, couplings: readonly number[], perHertz: number): Electrical {
  const n = couplings.length + 1;
  const { values, vectors } = symmetricEigen(n, arrayAdmittances(couplings));
  const modes = Array.from(values, (y) =>
    uniformLine((f, out) => {
      out.z0 = z / y;
      out.alpha = 0;
      out.beta = perHertz * f;
    }),
  );
  const mr = new Float64Array(4);
  const mi = new Float64Array(4);
  const size = 2 * n;
  return {
    pins: size,
    scatter(f, zn, re, im) {
      re.fill(0, 0, size * size);
      im.fill(0, 0, size * size);
      modes.forEach((mode, m) => {
        mode.scatter(f, zn, mr, mi);
        for (let i = 0; i < size; i++)
          for (let j = 0; j < size; j++) {
            const share = vectors[(i % n) * n + m] * vectors[(j % n) * n + m];
            // Which end each pin stands at picks the entry.
            const e = 2 * Number(i >= n) + Number(j >= n);
            re[i * size + j] += share * mr[e];
            im[i * size + j] += share * mi[e];
          }
      });
    },
  };
}

/** Below this a length of line is as good as none: its admittances would be endless. */
const SHORT = 1e-7;

/**
 * Lines from their capacitances with and without the dielectric: modes are the common shapes of both, each with its own
 * velocity. `fill` gives both matrices times the velocity of light (S, row by row) and the mean loss (Np) at f.
 */
function modelled(
  n: number,
  length: number,
  fill: (f: number, filled: Float64Array, air: Float64Array) => number,
): Electrical {
  const filled = new Float64Array(n * n);
  const air = new Float64Array(n * n);
  const factor = new Float64Array(n * n);
  const a = new Float64Array(n * n);
  const size = 2 * n;
  return fromAdmittance(size, (f, re, im) => {
    const alpha = Math.max(fill(f, filled, air), SHORT);
    // air = factor factor', and then the symmetric matrix factor^-1 filled factor'^-1.
    cholesky(n, air, factor);
    for (let j = 0; j < n; j++) {
      for (let i = 0; i < n; i++) {
        let x = filled[i * n + j];
        for (let k = 0; k < i; k++) x -= factor[i * n + k] * a[k * n + j];
        a[i * n + j] = x / factor[i * n + i];
      }
    }
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        let x = a[i * n + j];
        for (let k = 0; k < j; k++) x -= factor[j * n + k] * a[i * n + k];
        a[i * n + j] = x / factor[j * n + j];
      }
    const { values, vectors } = symmetricEigen(n, a);
    re.fill(0);
    im.fill(0);
    const p = new Float64Array(n);
    for (let m = 0; m < n; m++) {
      const root = Math.sqrt(values[m]);
      for (let i = 0; i < n; i++) {
        let x = 0;
        for (let k = 0; k <= i; k++) x += factor[i * n + k] * vectors[k * n + m];
        p[i] = x;
      }
      // coth and 1/sinh of alpha + j beta.
      const beta = (2 * Math.PI * f * length * root) / C0;
      const [sh, ch] = [Math.sinh(alpha), Math.cosh(alpha)];
      const [sin, cos] = [Math.sin(beta), Math.cos(beta)];
      const d = sh * sh + sin * sin;
      const [tr, ti] = [(ch * sh) / d, (-sin * cos) / d];
      const [sr, si] = [(sh * cos) / d, (-ch * sin) / d];
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          const y = root * p[i] * p[j];
          for (const [row, column, r, x] of [
            [i, j, tr, ti],
            [n + i, n + j, tr, ti],
            [i, n + j, -sr, -si],
            [n + i, j, -sr, -si],
          ]) {
            re[row * size + column] += y * r;
            im[row * size + column] += y * x;
          }
        }
    }
  });
}

/** Names of the couplings and of the gaps of an array of n lines. */
export const couplingsOf = (n: number): string[] => Array.from({ length: n - 1 }, (_, i) => `k${i + 1}`);
export const gapsOf = (n: number): string[] => Array.from({ length: n - 1 }, (_, i) => `gap${i + 1}`);

/** What an array of lines is in each model. */
export const arrayModels = (n: number): InModel<PartModel> => ({
  ideal: {
    reads: ['z0', 'theta', ...couplingsOf(n)],
    electrical: ({ values }, { f0 }) =>
      ideal(
        values.z0.re,
        couplingsOf(n).map((name) => values[name].re),
        values.theta.re / f0,
      ),
  },
  modelled: {
    reads: ['width', 'length', ...gapsOf(n)],
    electrical({ values }, context) {
      const whole = values.length.re;
      const alone = context.section('strip', values.width.re);
      const pairs = gapsOf(n).map((name) => context.section('pair', values.width.re, values[name].re));
      const one = linePoint();
      const points = [linePoint(), linePoint()];
      return modelled(n, whole, (f, filled, air) => {
        alone.at(f, [one]);
        const single = [Math.sqrt(one.eeff) / one.z0, 1 / (one.z0 * Math.sqrt(one.eeff))];
        filled.fill(0);
        air.fill(0);
        for (let i = 0; i < n; i++) [filled[i * n + i], air[i * n + i]] = single;
        let alpha = 0;
        pairs.forEach((pair, i) => {
          pair.at(f, points);
          const [e, o] = points;
          alpha += (e.alphaConductor + e.alphaDielectric + o.alphaConductor + o.alphaDielectric) / 2;
          const into = (c: Float64Array, even: number, odd: number, own: number) => {
            c[i * n + i] += (even + odd) / 2 - own;
            c[(i + 1) * n + i + 1] += (even + odd) / 2 - own;
            c[i * n + i + 1] = c[(i + 1) * n + i] = (even - odd) / 2;
          };
          into(filled, Math.sqrt(e.eeff) / e.z0, Math.sqrt(o.eeff) / o.z0, single[0]);
          into(air, 1 / (e.z0 * Math.sqrt(e.eeff)), 1 / (o.z0 * Math.sqrt(o.eeff)), single[1]);
        });
        return (alpha / pairs.length) * whole;
      });
    },
  },
});
