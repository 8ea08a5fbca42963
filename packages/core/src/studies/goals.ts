import { frequencies, type Design, type Plot, type ResolvedDesign } from '../network';
import {
  concerns,
  excess,
  measureOf,
  over,
  plotCurves,
  type Excess,
  type LimitLine,
  type Roles,
} from '../plots';
import { ConversionError, type SData } from '../results';
import { formatNumber, formatQuantity, QuantityError } from '../units';
import { RetuneError } from './retune';

/** Samples of a limit that a search looks at. */
const SAMPLES = 41;

/** A limit with the plot that it belongs to. */
interface Goal extends LimitLine {
  readonly plot: Plot;
  readonly weight: number;
}

/** Limits looked at in some samples. */
export interface Sampled {
  /** Frequencies that have to be looked at, Hz. */
  readonly freq: Float64Array;
  /** Numbers that `Look.write` writes. */
  readonly count: number;
  readonly look: (responses: readonly SData[]) => Look;
}

/** What the limits of a design's plots ask for. */
export interface Goals extends Sampled {
  /** Of each limit what it says, and the unit of its plot. */
  readonly words: readonly { readonly label: string; readonly unit: string }[];
  /** The same samples in slices, each spread over all of them; one slice where samples cannot be told apart. */
  readonly slices: readonly Sampled[];
  /** What was seen in all slices, together. */
  readonly together: (looks: readonly Seeing[]) => Seeing;
}

/** Slices of every so many samples, and where each begins: small ones first. */
const SLICES = [
  [8, 0],
  [8, 4],
  [4, 2],
  [2, 1],
] as const;

/** A state seen through its limits; where it has several members, the worst of them counts. */
export interface Seeing {
  /** Of each limit by how much, where nothing is asked -Infinity. */
  readonly limits: readonly Excess[];
  /** The worst miss with its weight, in dB, degrees, or per cent of the level; at most zero where all is kept. */
  readonly miss: number;
}

/** The same, with every sample. */
export interface Look extends Seeing {
  /** Every miss by itself in those units, less than zero where a sample has something to spare. */
  readonly write: (out: Float64Array) => void;
}

/** What counts as one: a decibel, a degree, a hundredth of the level. */
const unitOf = (level: number, unit: string): number =>
  unit === 'dB' || unit === 'deg' ? 1 : Math.max(0.01 * Math.abs(level), 1e-12);

const sideWords = ({ side, level, tolerance }: LimitLine, unit: string): string =>
  `${side} ${formatNumber(level)} ${unit}${tolerance ? ` within ${formatNumber(tolerance)}` : ''}`;

/**
 * Reads the limits of a design's plots.
 * @param members states that have to keep them, each with a response of its own
 * @throws RetuneError in words
 */
export function goalsOf(design: Design, resolved: ResolvedDesign, roles: Roles, members: number): Goals {
  const goals: Goal[] = (design.plots ?? []).flatMap((plot) =>
    resolved.limits.filter((l) => plot.limits?.some((p) => p.id === l.id)).map((l) => ({ ...l, plot })),
  );
  if (goals.length === 0)
    throw new RetuneError('no plot has limits; set some from a plot\u2019s menu, then they can be met');
  const { start, stop, points } = resolved.sweep!;
  const swept = frequencies(start, stop, points);
  // A delay is the slope between neighbours, so its points cannot be thinned.
  const dense = goals.some((g) => g.plot.show === 'delay' || g.plot.formulas?.some((t) => /delay/.test(t)));
  const wanted = new Set<number>();
  for (const { from, to } of goals) {
    const inside = swept.filter((f) => f >= from && f <= to);
    const stride = dense ? 1 : Math.max(1, inside.length / SAMPLES);
    for (let k = 0; k < inside.length; k += stride) wanted.add(inside[Math.floor(k)]);
    for (const edge of [from, to]) if (edge >= start && edge <= stop && !dense) wanted.add(edge);
  }
  if (wanted.size === 0) throw new RetuneError('no limit lies within the sweep');
  const all = Float64Array.from(wanted).sort();

  const draw = (plot: Plot, s: SData) => {
    try {
      return plotCurves(plot, s, roles, resolved.values);
    } catch (error) {
      if (error instanceof QuantityError || error instanceof ConversionError)
        throw new RetuneError(`a plot with limits cannot be drawn: ${error.message}`);
      throw error;
    }
  };
  const plots = [...new Set(goals.map((g) => g.plot))];
  /** The curves that each goal is about; plots with several limits are drawn once. */
  const read = (s: SData) => {
    const drawn = new Map(plots.map((plot) => [plot, draw(plot, s)]));
    return goals.map((g) => {
      const { unit, curves } = drawn.get(g.plot)!;
      return { unit, curves: curves.filter((c) => concerns(g, c.id)) };
    });
  };
  // A response of nothing tells units and curves; what it is does not matter.
  const size = roles.ports * roles.ports * all.length;
  const blank: SData = {
    ports: roles.ports,
    freq: all,
    re: new Float64Array(size),
    im: new Float64Array(size),
    z0: Array.from({ length: roles.ports }, () => ({ re: 50, im: 0 })),
  };
  const asked = read(blank);
  const words = goals.map((g, i) => ({
    unit: asked[i].unit,
    label: `${g.curves?.join(', ') ?? measureOf(g.plot.show)?.name ?? g.plot.formulas?.join(', ') ?? g.plot.show} ${sideWords(g, asked[i].unit)}, ${formatQuantity(g.from, 'frequency')} to ${formatQuantity(g.to, 'frequency')}`,
  }));
  const scales = goals.map((g, i) => g.weight / unitOf(g.level, asked[i].unit));

  const on = (freq: Float64Array): Sampled => {
    const places = goals.map((g) => {
      const out: number[] = [];
      freq.forEach((f, k) => f >= g.from && f <= g.to && out.push(k));
      return Int32Array.from(out);
    });
    const counts = goals.map((_g, i) => asked[i].curves.length * places[i].length);
    const count = members * counts.reduce((a, b) => a + b, 0);
    return { freq, count, look: (responses) => lookAt(freq, places, responses) };
  };
  const whole = on(all);
  if (whole.count === 0) throw new RetuneError('no limit meets a curve');
  const slices = SLICES.map(([every, first]) => on(all.filter((_f, k) => k % every === first)));
  return {
    ...whole,
    words,
    slices: dense ? [whole] : slices.filter((s) => s.count > 0),
    together(looks) {
      const limits = goals.map((_g, i) =>
        looks.map((l) => l.limits[i]).reduce((a, b) => (b.over > a.over ? b : a)),
      );
      return { limits, miss: missOf(limits) };
    },
  };

  function missOf(limits: readonly Excess[]): number {
    return Math.max(...limits.map((l, i) => l.over * scales[i]));
  }

  function lookAt(freq: Float64Array, places: readonly Int32Array[], responses: readonly SData[]): Look {
    const drawn = responses.map(read);
    const limits = goals.map((g, i): Excess => {
      let worst: Excess = { over: -Infinity, at: g.from };
      for (const all of drawn)
        for (const { y } of all[i].curves) {
          const here = excess({ x: freq, y }, g, asked[i].unit);
          if (here && here.over > worst.over) worst = here;
        }
      return worst;
    });
    return {
      limits,
      miss: missOf(limits),
      write(out) {
        let at = 0;
        for (const all of drawn)
          goals.forEach((g, i) => {
            const { curves } = all[i];
            for (let c = 0; c < asked[i].curves.length; c++)
              for (const k of places[i]) {
                const missed = over(curves[c]?.y[k] ?? NaN, g, asked[i].unit) * scales[i];
                out[at++] = Number.isNaN(missed) ? -Infinity : missed;
              }
          });
      },
    };
  }
}
