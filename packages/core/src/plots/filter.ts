import { decibels, nearestSample, type SData } from '../results';

/** What a filter lets through or stops, by the edges at which half of its best power passes. */
export interface FilterReading {
  readonly kind: 'passes' | 'stops';
  /** Hz; undefined where the band goes on beyond what is swept. */
  readonly low: number | undefined;
  readonly high: number | undefined;
  /** Least loss in the pass band, dB. */
  readonly loss: number;
}

/** What passes less than this below the best, dB, is stopped by intent. */
const STOPPED = 12;

/**
 * Reads a two-port as a filter: the band about `near` (Hz) in which it passes, or that it stops; undefined for what passes
 * or stops alike over the whole sweep, or stops nowhere by more than a little.
 * @param kind what it is meant to do, where another level says so
 */
export function readFilter(
  data: SData,
  near: number,
  kind?: FilterReading['kind'],
): FilterReading | undefined {
  const { freq } = data;
  if (data.ports !== 2 || freq.length < 3) return undefined;
  const dB = new Float64Array(freq.length);
  let [best, least] = [-Infinity, Infinity];
  for (let k = 0; k < dB.length; k++) {
    dB[k] = Math.max(-300, decibels(data.re[4 * k + 2], data.im[4 * k + 2]));
    best = Math.max(best, dB[k]);
    least = Math.min(least, dB[k]);
  }
  if (best < -20 || least > best - STOPPED) return undefined;
  const half = best - 10 * Math.log10(2);
  const passes = (k: number) => dB[k] >= half - 1e-9;
  const nearest = (wanted: boolean): number => {
    let at = -1;
    for (let k = 0; k < freq.length; k++)
      if (passes(k) === wanted && (at < 0 || Math.abs(freq[k] - near) < Math.abs(freq[at] - near))) at = k;
    return at;
  };
  const middle = nearestSample(freq, near);
  const stops = kind ? kind === 'stops' : dB[middle] < best - STOPPED && between(middle, passes, freq.length);
  const start = nearest(!stops);
  if (start < 0) return undefined;
  /** Where the band ends on one side, between the samples. */
  const edge = (step: 1 | -1): number | undefined => {
    let k = start;
    while (k + step >= 0 && k + step < freq.length && passes(k + step) !== stops) k += step;
    const next = k + step;
    if (next < 0 || next >= freq.length) return undefined;
    const share = (half - dB[k]) / (dB[next] - dB[k]);
    return freq[k] + share * (freq[next] - freq[k]);
  };
  const [low, high] = [edge(-1), edge(1)];
  if (low === undefined && high === undefined) return undefined;
  return { kind: stops ? 'stops' : 'passes', low, high, loss: -best };
}

/** Whether something passes on both sides. */
function between(at: number, passes: (k: number) => boolean, count: number): boolean {
  let [below, above] = [false, false];
  for (let k = 0; k < at; k++) below ||= passes(k);
  for (let k = at + 1; k < count; k++) above ||= passes(k);
  return below && above;
}
