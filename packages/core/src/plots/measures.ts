import { degrees, entryOf, flooredDecibels, nearestSample, type Entry, type SData } from '../results';
import type { Roles } from './roles';

/** One curve of a plot: numbers in the plot's unit over the data's frequencies. */
export interface PlotCurve {
  readonly id: string;
  readonly label: string;
  readonly y: Float64Array;
}

/** Something one wants to know of a network's ports, over frequency. */
export interface Measure {
  readonly id: string;
  readonly name: string;
  /** Definition, for where it is chosen. */
  readonly about: string;
  /** Unit as written on the axis. */
  readonly unit: string;
  /** Whether it is below zero as a rule, so that its axis ends there. */
  readonly ceiling?: number;
  available(roles: Roles): boolean;
  curves(data: SData, roles: Roles): PlotCurve[];
}

const named = (i: number, j: number): string => `S${i + 1}${j + 1}`;
const decibelCurve = (data: SData, i: number, j: number, label = named(i, j)): PlotCurve => {
  const e = entryOf(data, i, j);
  return { id: named(i, j), label, y: e.re.map((re, k) => flooredDecibels(re, e.im[k])) };
};
const ratioOf = (a: Entry, b: Entry): Entry => {
  const re = new Float64Array(a.freq.length);
  const im = new Float64Array(a.freq.length);
  for (let k = 0; k < re.length; k++) {
    const q = b.re[k] * b.re[k] + b.im[k] * b.im[k];
    re[k] = (a.re[k] * b.re[k] + a.im[k] * b.im[k]) / q;
    im[k] = (a.im[k] * b.re[k] - a.re[k] * b.im[k]) / q;
  }
  return { freq: a.freq, re, im };
};
/** One transmission from port 1 over another, read point by point. */
const ratioCurve = (
  data: SData,
  a: number,
  b: number,
  read: (re: number, im: number) => number,
): PlotCurve => {
  const q = ratioOf(entryOf(data, a, 0), entryOf(data, b, 0));
  const name = `${named(a, 0)}/${named(b, 0)}`;
  return { id: name, label: name, y: q.re.map((re, k) => read(re, q.im[k])) };
};
const pairs = (list: readonly number[]): [number, number][] =>
  list.flatMap((a, i) => list.slice(i + 1).map((b): [number, number] => [a, b]));

/** Amplitude at a port, of the wave into port 1. */
const sizeAt = ({ ports, re, im }: SData, k: number, i: number): number =>
  Math.hypot(re[(k * ports + i) * ports], im[(k * ports + i) * ports]);

/** Group delay in s by central differences of the unwrapped phase. */
export function groupDelay({ freq, re, im }: Entry): Float64Array {
  const n = freq.length;
  const out = new Float64Array(n);
  if (n < 2) return out;
  // The angle of S(k+1) conj(S(k)) needs no unwrapping while a step turns by less than half a circle.
  const step = (a: number, b: number) =>
    Math.atan2(im[b] * re[a] - re[b] * im[a], re[b] * re[a] + im[b] * im[a]) / (freq[b] - freq[a]);
  for (let k = 0; k < n; k++) {
    const slope =
      k === 0 ? step(0, 1) : k === n - 1 ? step(n - 2, n - 1) : (step(k - 1, k) + step(k, k + 1)) / 2;
    out[k] = -slope / (2 * Math.PI);
  }
  return out;
}

/** More directivity than this, dB, is rounding. */
const ENDLESS = 120;

/** Everything that can be asked by name; in the order in which it is offered. */
export const measures: readonly Measure[] = [
  {
    id: 'driven',
    name: 'From port 1',
    about:
      'What a wave into port 1 becomes at every port, in dB: match, shares and isolation in one picture.',
    unit: 'dB',
    ceiling: 0,
    available: (r) => r.ports > 1,
    curves: (data) => Array.from({ length: data.ports }, (_, i) => decibelCurve(data, i, 0)),
  },
  {
    id: 'match',
    name: 'Match',
    about: 'Reflection of every port with all others closed by their references, in dB.',
    unit: 'dB',
    ceiling: 0,
    available: () => true,
    curves: (data) => Array.from({ length: data.ports }, (_, i) => decibelCurve(data, i, i)),
  },
  {
    id: 'split',
    name: 'Split',
    about: 'What each output gets of the wave into port 1, in dB.',
    unit: 'dB',
    available: (r) => r.outputs.length > 0,
    curves: (data, r) => r.outputs.map((i) => decibelCurve(data, i, 0)),
  },
  {
    id: 'isolation',
    name: 'Isolation',
    about: 'What passes to an isolated port, or from one output of a divider to another, in dB.',
    unit: 'dB',
    ceiling: 0,
    available: (r) => r.isolated.length > 0 || r.outputs.length > 1,
    curves: (data, r) =>
      r.isolated.length > 0
        ? r.isolated.map((i) => decibelCurve(data, i, 0))
        : pairs(r.outputs).map(([a, b]) => decibelCurve(data, b, a)),
  },
  {
    id: 'imbalance',
    name: 'Imbalance',
    about: 'Amplitude of the outputs against one another, in dB.',
    unit: 'dB',
    available: (r) => r.outputs.length > 1,
    curves: (data, r) => pairs(r.outputs).map(([a, b]) => ratioCurve(data, a, b, flooredDecibels)),
  },
  {
    id: 'phase',
    name: 'Phase between outputs',
    about: 'Angle of one output against another, in degrees.',
    unit: 'deg',
    available: (r) => r.outputs.length > 1,
    curves: (data, r) => pairs(r.outputs).map(([a, b]) => ratioCurve(data, a, b, degrees)),
  },
  {
    id: 'directivity',
    name: 'Directivity',
    about: 'Wave at the weakest output over wave at the isolated port, in dB.',
    unit: 'dB',
    available: (r) => r.isolated.length > 0 && r.outputs.length > 0,
    curves(data, r) {
      const middle = data.freq.length >> 1;
      const strength = (i: number) => sizeAt(data, middle, i);
      const weakest = r.coupled ?? [...r.outputs].sort((x, y) => strength(x) - strength(y))[0];
      return r.isolated.map((i) =>
        // Without loss and error there is nothing to compare with, and nothing to draw.
        ratioCurve(data, weakest, i, (re, im) => {
          const dB = flooredDecibels(re, im);
          return dB > ENDLESS ? NaN : dB;
        }),
      );
    },
  },
  {
    id: 'loss',
    name: 'Excess loss',
    about: 'Power into port 1 that comes out of no output, in dB: loss, reflection and leakage together.',
    unit: 'dB',
    available: (r) => r.outputs.length > 0,
    curves(data, r) {
      const n = data.ports;
      return [
        {
          id: 'loss',
          label: 'loss',
          y: data.freq.map((_f, k) => {
            let power = 0;
            for (const i of r.outputs) power += data.re[(k * n + i) * n] ** 2 + data.im[(k * n + i) * n] ** 2;
            return Math.min(200, -10 * Math.log10(Math.max(power, 1e-30)));
          }),
        },
      ];
    },
  },
  {
    id: 'delay',
    name: 'Group delay',
    about: 'Delay of a signal\u2019s envelope from port 1 to each output, in ns.',
    unit: 'ns',
    available: (r) => r.outputs.length > 0,
    curves: (data, r) =>
      r.outputs.map((i) => ({
        id: named(i, 0),
        label: named(i, 0),
        y: groupDelay(entryOf(data, i, 0)).map((t) => t * 1e9),
      })),
  },
];

/** What a coupler does at one frequency, in dB, each as a positive number. */
export interface CouplerReading {
  readonly coupling: number;
  readonly directivity: number;
  /** Return loss at port 1. */
  readonly match: number;
  /** From where to where the coupling stays within 1 dB of that, Hz, and whether it does beyond. */
  readonly band: { readonly low: number; readonly high: number; readonly open: boolean };
}

/** How far, dB, the coupling may go from what it is at the design frequency inside a coupler's band. */
const WITHIN = 1;

/** Reads a coupler at the frequency nearest to `f0` (Hz); undefined for what is none. */
export function readCoupler(
  data: SData,
  { outputs, isolated }: Roles,
  f0: number,
): CouplerReading | undefined {
  if (outputs.length !== 2 || isolated.length !== 1 || data.freq.length === 0) return undefined;
  const k = nearestSample(data.freq, f0);
  const [one, other] = outputs;
  const coupled = sizeAt(data, k, one) < sizeAt(data, k, other) ? one : other;
  const below = (i: number, at = k) => -20 * Math.log10(Math.max(sizeAt(data, at, i), 1e-10));
  const coupling = below(coupled);
  const { freq } = data;
  const away = (at: number) => Math.abs(below(coupled, at) - coupling);
  /** Where the coupling leaves the band on one side, between the samples. */
  const edge = (step: 1 | -1): { f: number; open: boolean } => {
    let at = k;
    while (at + step >= 0 && at + step < freq.length && away(at + step) <= WITHIN) at += step;
    const next = at + step;
    if (next < 0 || next >= freq.length) return { f: freq[at], open: true };
    const share = (WITHIN - away(at)) / (away(next) - away(at));
    return { f: freq[at] + share * (freq[next] - freq[at]), open: false };
  };
  const [low, high] = [edge(-1), edge(1)];
  return {
    coupling,
    directivity: Math.min(200, below(isolated[0]) - coupling),
    match: below(0),
    band: { low: low.f, high: high.f, open: low.open || high.open },
  };
}
