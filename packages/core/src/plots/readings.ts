import { nearestSample } from '../results';

/** One number read off a curve over frequency. */
export interface CurveReading {
  readonly id: string;
  readonly label: string;
  /** It is a frequency, not a value of the curve. */
  readonly isFrequency?: true;
  /** @param x Hz, ascending; not a number where the curve does not have it */
  of(x: ArrayLike<number>, y: ArrayLike<number>, f0: number): number;
}

/** Index of the least value by `better`; -1 of a curve without numbers. */
function extreme(y: ArrayLike<number>, sign: 1 | -1): number {
  let at = -1;
  for (let k = 0; k < y.length; k++)
    if (Number.isFinite(y[k]) && (at < 0 || sign * y[k] < sign * y[at])) at = k;
  return at;
}

/** Between the samples: the vertex of the parabola through the extreme one and its neighbours. */
function vertex(x: ArrayLike<number>, y: ArrayLike<number>, k: number): number {
  if (k <= 0 || k >= y.length - 1) return k < 0 ? NaN : x[k];
  const [a, b, c] = [y[k - 1], y[k], y[k + 1]];
  const bend = a - 2 * b + c;
  const t = Number.isFinite(bend) && bend !== 0 ? (a - c) / (2 * bend) : 0;
  return x[k] + Math.max(-1, Math.min(1, t)) * (t > 0 ? x[k + 1] - x[k] : x[k] - x[k - 1]);
}

/** A fall from the highest value by which a pass band ends, dB. */
const FALL = 3;

/** Where a curve in decibels lies within 3 dB of its highest value around that. */
function band(x: ArrayLike<number>, y: ArrayLike<number>): [number, number] | undefined {
  const top = extreme(y, -1);
  if (top < 0) return undefined;
  const level = y[top] - FALL;
  const cross = (step: 1 | -1): number => {
    for (let k = top; k + step >= 0 && k + step < y.length; k += step)
      if (!(y[k + step] >= level))
        return x[k] + ((level - y[k]) / (y[k + step] - y[k])) * (x[k + step] - x[k]);
    return NaN;
  };
  return [cross(-1), cross(1)];
}

/** What can be read off any curve, the first being what one asks for first. */
export const curveReadings: readonly CurveReading[] = [
  {
    id: 'f0',
    label: 'at the design frequency',
    of(x, y, f0) {
      const k = nearestSample(Float64Array.from(x), f0);
      const other = x[k] > f0 ? k - 1 : k + 1;
      if (x[k] === f0 || other < 0 || other >= x.length) return y[k];
      return y[k] + ((y[other] - y[k]) * (f0 - x[k])) / (x[other] - x[k]);
    },
  },
  { id: 'least', label: 'least in the sweep', of: (_x, y) => y[extreme(y, 1)] ?? NaN },
  { id: 'most', label: 'most in the sweep', of: (_x, y) => y[extreme(y, -1)] ?? NaN },
  {
    id: 'least-at',
    label: 'frequency of the least',
    isFrequency: true,
    of: (x, y) => vertex(x, y, extreme(y, 1)),
  },
  {
    id: 'most-at',
    label: 'frequency of the most',
    isFrequency: true,
    of: (x, y) => vertex(x, y, extreme(y, -1)),
  },
  {
    id: 'band-centre',
    label: 'middle of the 3 dB band',
    isFrequency: true,
    of(x, y) {
      const edges = band(x, y);
      return edges ? (edges[0] + edges[1]) / 2 : NaN;
    },
  },
  {
    id: 'band',
    label: '3 dB bandwidth',
    isFrequency: true,
    of(x, y) {
      const edges = band(x, y);
      return edges ? edges[1] - edges[0] : NaN;
    },
  },
];
