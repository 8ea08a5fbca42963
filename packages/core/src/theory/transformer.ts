import { cx, type Complex } from '../numeric';

export type TransformerProfile = 'binomial' | 'chebyshev';

export interface TransformerSpecification {
  /** Real source and load resistances, ohm. */
  readonly source: number;
  readonly load: number;
  /** Number of quarter-wave sections, 1 to 20. */
  readonly sections: number;
  readonly profile: TransformerProfile;
  /** Chebyshev: greatest |S11| inside the band, below the mismatch of source and load itself. */
  readonly maxReflection?: number;
}

export interface Transformer {
  /** Impedances of the sections from source to load, ohm. */
  readonly impedances: number[];
  /**
   * Chebyshev: relative bandwidth (2 = from zero to twice the centre) over which |S11| stays within `maxReflection`.
   */
  readonly bandwidth?: number;
}

export class TransformerError extends RangeError {
  constructor(
    readonly field: 'source' | 'load' | 'sections' | 'maxReflection',
    message: string,
  ) {
    super(message);
  }
}

/** z = exp(-2 j theta) outside the unit circle for a given cos^2 theta. */
function zOutside(cos2: Complex): Complex {
  // z + 1/z = 4 cos^2 - 2
  const half = { re: 2 * cos2.re - 1, im: 2 * cos2.im };
  const root = cx.sqrt(cx.sub(cx.mul(half, half), { re: 1, im: 0 }));
  const plus = cx.add(half, root);
  const minus = cx.sub(half, root);
  return cx.abs(plus) >= cx.abs(minus) ? plus : minus;
}

/** Real coefficients of the product of (1 - z / root), ascending powers of z. */
function polynomial(roots: readonly Complex[]): Float64Array {
  let c: Complex[] = [{ re: 1, im: 0 }];
  for (const root of roots) {
    const factor = cx.div({ re: -1, im: 0 }, root);
    const next: Complex[] = [...c, { re: 0, im: 0 }];
    for (let i = 0; i < c.length; i++) next[i + 1] = cx.add(next[i + 1], cx.mul(c[i], factor));
    c = next;
  }
  return Float64Array.from(c, (x) => x.re);
}

/**
 * Exact quarter-wave transformer: the insertion-loss polynomial 1 + k^2 F(cos theta)^2 with F = cos^N (binomial,
 * maximally flat) or the Chebyshev polynomial (equal ripple) is factored in closed form in z = exp(-2 j theta), and the
 * sections are peeled off the reflection's power series one by one. Sources: Collin 1955; Riblet 1957.
 *
 * @throws TransformerError naming the value that cannot be met
 */
export function designTransformer(spec: TransformerSpecification): Transformer {
  const { source, load, sections: n, profile } = spec;
  if (!(source > 0)) throw new TransformerError('source', 'must be a positive resistance');
  if (!(load > 0)) throw new TransformerError('load', 'must be a positive resistance');
  if (!Number.isInteger(n) || n < 1 || n > 20)
    throw new TransformerError('sections', 'must be a whole number from 1 to 20');
  const ratio = load / source;
  const mismatch = Math.abs(ratio - 1) / (ratio + 1);

  let k: number;
  let scale = 1;
  if (profile === 'chebyshev') {
    const most = spec.maxReflection;
    if (most === undefined || !(most > 0 && most < 1))
      throw new TransformerError('maxReflection', 'must be a magnitude between 0 and 1, for example 0.05');
    if (mismatch > 0 && most >= mismatch)
      throw new TransformerError(
        'maxReflection',
        `must be below ${Number(mismatch.toPrecision(4))}, the reflection of the load without a transformer`,
      );
    k = most / Math.sqrt(1 - most * most);
    const peak = Math.abs(ratio - 1) / (2 * Math.sqrt(ratio)) / k;
    scale = ratio === 1 ? Infinity : Math.cosh(Math.acosh(peak) / n);
  } else {
    k = Math.abs(ratio - 1) / (2 * Math.sqrt(ratio));
  }
  if (ratio === 1) return { impedances: Array.from({ length: n }, () => source) };

  const poles: Complex[] = [];
  const zeros: Complex[] = [];
  if (profile === 'chebyshev') {
    const spread = Math.asinh(1 / k) / n;
    for (let i = 0; i < n; i++) {
      const phi = ((2 * i + 1) * Math.PI) / (2 * n);
      const y = { re: Math.cos(phi) * Math.cosh(spread), im: -Math.sin(phi) * Math.sinh(spread) };
      const cos = { re: y.re / scale, im: y.im / scale };
      poles.push(zOutside(cx.mul(cos, cos)));
      const zero = Math.cos(phi) / scale;
      const cos2 = zero * zero;
      zeros.push({
        re: 2 * cos2 - 1,
        im: (i < n / 2 ? 1 : -1) * 2 * zero * Math.sign(zero || 1) * Math.sqrt(1 - cos2),
      });
    }
  } else {
    // cos^2N theta = -1/k^2
    const size = Math.pow(k, -2 / n);
    for (let i = 0; i < n; i++) {
      const phi = ((2 * i + 1) * Math.PI) / n;
      poles.push(zOutside({ re: size * Math.cos(phi), im: size * Math.sin(phi) }));
      zeros.push({ re: -1, im: 0 });
    }
  }
  const den = polynomial(poles);
  const num = polynomial(zeros);
  // Both sums are the values at theta = 0, where the reflection is that of the bare load.
  const sum = (c: Float64Array) => c.reduce((a, b) => a + b, 0);
  const gain = (((ratio - 1) / (ratio + 1)) * sum(den)) / sum(num);
  for (let i = 0; i <= n; i++) num[i] *= gain;

  const impedances: number[] = [];
  let z = source;
  for (let i = 0; i < n; i++) {
    const r = num[0] / den[0];
    z *= (1 + r) / (1 - r);
    impedances.push(z);
    const degree = n - i;
    const last = Float64Array.from(num);
    for (let c = 0; c < degree; c++) num[c] = last[c + 1] - r * den[c + 1];
    for (let c = 0; c <= degree; c++) den[c] -= r * last[c];
  }
  // The exact design is antimetric, Z(i) Z(n + 1 - i) = source * load: the mean takes the peeling's rounding out.
  const exact = impedances.map((zi, i) => Math.sqrt((zi * source * load) / impedances[n - 1 - i]));
  return profile === 'chebyshev'
    ? { impedances: exact, bandwidth: 2 - (4 / Math.PI) * Math.acos(1 / scale) }
    : { impedances: exact };
}

/** Impedance seen through a lossless line of impedance `z0` (ohm) and angle `theta` (radians) closed by `load`. */
export function seenThrough(load: Complex, z0: number, theta: number): Complex {
  const c = Math.cos(theta);
  const s = Math.sin(theta);
  // z0 (ZL cos + j z0 sin) / (z0 cos + j ZL sin)
  const num = { re: load.re * c, im: load.im * c + z0 * s };
  const den = { re: z0 * c - load.im * s, im: load.re * s };
  return cx.mul(cx.div(num, den), { re: z0, im: 0 });
}

/**
 * Angle in radians (0 to below pi/2) of the shortest line of impedance `z0` in front of `load` that shows a real
 * impedance at its other end: from the load to its first voltage maximum or minimum.
 */
export function angleToRealPlane(load: Complex, z0: number): number {
  if (load.im === 0) return 0;
  const gamma = cx.div(cx.sub(load, { re: z0, im: 0 }), cx.add(load, { re: z0, im: 0 }));
  const phase = cx.arg(gamma);
  // Through theta the reflection turns by -2 theta; it is real at 0 and -pi.
  return phase > 0 ? phase / 2 : (phase + Math.PI) / 2;
}
