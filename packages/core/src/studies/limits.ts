import {
  circuitOf,
  dataFinder,
  frequencies,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Plot,
  type Project,
  type ResolvedDesign,
} from '../network';
import { evolutionSteps, leastSquaresSteps, share, type Steps } from '../numeric';
import { parts, type Model } from '../parts';
import { concerns, excess, measureOf, over, plotCurves, rolesOf, type LimitLine } from '../plots';
import { ConversionError, type SData } from '../results';
import { formatNumber, formatQuantity, namesIn, QuantityError } from '../units';
import { freeValues, putAll, takeOver, type FreeValue } from './free';
import { refusals, RetuneError, type Retuned } from './retune';
import { tied } from './symmetry';
import { rangeOf, tunables, tuned, type Tunable } from './tune';

/** A limit with the plot that it belongs to. */
interface Goal extends LimitLine {
  readonly plot: Plot;
}

/** Samples of a limit that the search looks at. */
const SAMPLES = 41;
/** What the search tries to have to spare, in units of the plot; of others a share of the level. */
const SPARE: Readonly<Record<string, number>> = { dB: 1, deg: 1 };
const SPARE_SHARE = 0.02;
/** Weight of moving at all. */
const REST = 1e-3;

const goalsOf = (design: Design, resolved: ResolvedDesign): Goal[] =>
  (design.plots ?? []).flatMap((plot) =>
    resolved.limits.filter((l) => plot.limits?.some((p) => p.id === l.id)).map((l) => ({ ...l, plot })),
  );

/** A value that can be moved by hand, for a search to move between two ends. */
export function freeOf(
  project: Project,
  design: Design,
  tunable: Tunable,
  [low, high]: readonly [number, number] = rangeOf(tunable),
): FreeValue {
  const alone: Project = { ...project, designs: [design] };
  return {
    key: tunable.key,
    label: tunable.label,
    adjusts: 'length',
    kind: tunable.kind,
    value: Math.min(high, Math.max(low, tunable.value)),
    reach: high - low,
    lower: low,
    upper: high,
    put: (d, v) => tuned({ ...alone, designs: [d] }, d.id, tunable, v).designs[0],
  };
}

/** Values of a strip that a search may move, and the labels of those it leaves alone: what is given is no wish. */
export function freeOfStrip(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
): { readonly free: readonly FreeValue[]; readonly left: readonly string[] } {
  const ends = design.pieces.filter((p) => p.kind === 'port' || parts.get(p.kind)?.impedance !== undefined);
  const given = new Set(['f0', ...ends.flatMap((p) => Object.values(p.held).flatMap(namesIn))]);
  const isGiven = (key: string): boolean => {
    const [what, id] = key.split(':');
    if (what === 'value') return given.has(id);
    return what === 'stack' || ends.some((p) => p.id === id);
  };
  const shown = tunables(project, design, resolved).filter((t) => design.strip?.includes(t.key));
  return {
    left: shown.filter((t) => isGiven(t.key)).map((t) => t.label),
    free: shown.filter((t) => !isGiven(t.key)).map((t) => freeOf(project, design, t)),
  };
}

/** How limits are to be met, where not in the usual way. */
export interface MeetOptions {
  /** The response that has to keep them; the copper's as it is modelled where nothing is said. */
  readonly model?: Model;
  /** What may move; what is on the tuning strip, or the copper, where nothing is said. */
  readonly free?: readonly FreeValue[];
  /** Looks over the whole ranges first, from this seed. */
  readonly seed?: number;
}

/**
 * Brings the response within the limits of the design's plots by the values on its tuning strip, or where none are there by
 * the lengths and widths that retuning may move. Yields the share done, many times a second.
 * @throws RetuneError in words
 */
export function* limitSteps(
  project: Project,
  design: Design,
  { model = 'modelled', free: chosen, seed }: MeetOptions = {},
): Steps<Retuned> {
  const find = dataFinder(project.data);
  const first = resolveDesign(project, design);
  const ideal = circuitOf(first, 'ideal');
  const { f0, sweep } = first;
  if (f0 === undefined || !ideal || !sweep) throw refusals.wrong();
  const goals = goalsOf(design, first);
  if (goals.length === 0)
    throw new RetuneError('no plot has limits; set some from a plot\u2019s menu, then they can be met');
  const strip = chosen ? { free: chosen, left: [] } : freeOfStrip(project, design, first);
  if (strip.left.length > 0 && strip.free.length === 0)
    throw new RetuneError(
      `all that is on the tuning strip is given: ${strip.left.join(', ')}. Put a value there that may move`,
    );
  const free =
    strip.free.length > 0
      ? strip.free
      : // What the network cannot tell apart moves together.
        [
          ...tied(design, freeValues(design, first, 'length')),
          ...tied(design, freeValues(design, first, 'width')),
        ];
  if (free.length === 0) throw refusals.still();

  const centre = Float64Array.of(f0);
  const roles = rolesOf(solveNetwork(networkOf(ideal, find), centre), f0);
  const swept = frequencies(sweep.start, sweep.stop, sweep.points);
  // A delay is the slope between neighbours, so its points cannot be thinned.
  const dense = goals.some((g) => g.plot.show === 'delay' || g.plot.formulas?.some((t) => /delay/.test(t)));
  const wanted = new Set<number>();
  for (const { from, to } of goals) {
    const inside = swept.filter((f) => f >= from && f <= to);
    const stride = dense ? 1 : Math.max(1, inside.length / SAMPLES);
    for (let k = 0; k < inside.length; k += stride) wanted.add(inside[Math.floor(k)]);
    for (const edge of [from, to]) if (edge >= sweep.start && edge <= sweep.stop && !dense) wanted.add(edge);
  }
  if (wanted.size === 0) throw new RetuneError('no limit lies within the sweep');
  const freq = Float64Array.from(wanted).sort();

  let solves = 0;
  const solve = (d: Design): SData | undefined => {
    const circuit = circuitOf(resolveDesign(project, d), model);
    solves++;
    return circuit && solveNetwork(networkOf(circuit, find), freq);
  };
  const draw = (plot: Plot, s: SData) => {
    try {
      return plotCurves(plot, s, roles, first.values);
    } catch (error) {
      if (error instanceof QuantityError || error instanceof ConversionError)
        throw new RetuneError(`a plot with limits cannot be drawn: ${error.message}`);
      throw error;
    }
  };
  const plots = new Set(goals.map((g) => g.plot));
  /** The curves that each goal is about; plots with several limits are drawn once. */
  const read = (s: SData) => {
    const drawn = new Map([...plots].map((plot) => [plot, draw(plot, s)]));
    return goals.map((g) => {
      const { unit, curves } = drawn.get(g.plot)!;
      return { unit, curves: curves.filter((c) => concerns(g, c.id)) };
    });
  };
  const was = solve(design);
  if (!was) throw refusals.wrong();
  const before = read(was);
  // How many numbers a goal asks for: its curves at its frequencies.
  const counts = goals.map(
    (g, i) => before[i].curves.length * freq.filter((f) => f >= g.from && f <= g.to).length,
  );
  const total = counts.reduce((a, b) => a + b, 0);
  if (total === 0) throw new RetuneError('no limit meets a curve');
  const spareOf = (g: Goal, unit: string) => SPARE[unit] ?? Math.max(SPARE_SHARE * Math.abs(g.level), 1e-12);

  const write = (s: SData, margin: number, out: Float64Array): void => {
    let at = 0;
    const drawn = read(s);
    goals.forEach((g, i) => {
      const { curves, unit } = drawn[i];
      const spare = spareOf(g, unit);
      for (let c = 0; c < before[i].curves.length; c++)
        freq.forEach((f, k) => {
          if (f < g.from || f > g.to) return;
          const y = curves[c]?.y[k] ?? NaN;
          const missed = over(y, g) / spare + margin;
          out[at++] = Number.isNaN(missed) ? 0 : Math.max(0, missed);
        });
    });
  };
  const worstOf = (s: SData): number[] =>
    read(s).map(({ curves }, i) => {
      const all = curves.map((c) => excess({ x: freq, y: c.y }, goals[i]) ?? -Infinity);
      return Math.max(-Infinity, ...all);
    });

  const even = Math.sqrt(1 / total);
  const bounds = {
    lower: free.map((v) => Math.max(v.lower ?? -Infinity, v.value - v.reach)),
    upper: free.map((v) => v.upper ?? v.value + v.reach),
  };
  /** @param power of the misses: the higher it is, the more the worst of them counts */
  function* search(
    start: readonly number[],
    margin: number,
    power: number,
    from: number,
    to: number,
  ): Steps<number[]> {
    const steps = leastSquaresSteps(
      (x, out) => {
        const s = solve(putAll(design, free, x));
        if (!s) return false;
        out.fill(0);
        write(s, margin, out);
        for (let i = 0; i < total; i++) out[i] = even * Math.pow(out[i], power);
        free.forEach((v, i) => (out[total + i] = (REST * (x[i] - v.value)) / v.reach));
        return true;
      },
      start,
      total + free.length,
      {
        step: free.map((v) => 1e-3 * v.reach),
        ...bounds,
        maxIterations: 25,
        tolerance: 1e-4,
      },
    );
    return (yield* share(steps, from, to)).x;
  }
  const largest = (x: readonly number[]): number => {
    const s = solve(putAll(design, free, x));
    if (!s) return Infinity;
    return Math.max(...worstOf(s).map((w, i) => w / spareOf(goals[i], before[i].unit)));
  };
  const start = free.map((v) => v.value);
  let best: readonly number[] = start;
  let least = largest(best);
  if (seed !== undefined && least > 0) {
    const wide = evolutionSteps(largest, start, { ...bounds, seed });
    const { x, cost } = yield* share(wide, 0, 0.7);
    if (cost < least) [best, least] = [x, cost];
  }
  const begun = seed === undefined ? 0 : 0.7;
  // First with something to spare; where that costs what could be kept, without, and the worst the more the less is left.
  if (least > 0) {
    const stages = [
      [1, 1],
      [0.1, 1],
      [0.1, 2],
      [0, 4],
    ] as const;
    for (let i = 0; i < stages.length && least > 0; i++) {
      const [margin, power] = stages[i];
      const at = (k: number) => begun + ((1 - begun) * k) / stages.length;
      const x: readonly number[] = yield* search(best, margin, power, at(i), at(i + 1));
      const there = largest(x);
      if (there < least) [best, least] = [[...x], there];
    }
  }
  const result = takeOver(design, free, best);
  const is = solve(result.design);
  if (!is) throw refusals.unmade();
  const [low, high] = [worstOf(was), worstOf(is)];
  const at = (d: Design, level: 'ideal' | 'modelled'): SData =>
    solveNetwork(networkOf(circuitOf(resolveDesign(project, d), level)!, find), centre);
  return {
    ...result,
    before: Math.max(0, ...low),
    after: Math.max(0, ...high),
    ideal: at(design, 'ideal'),
    was: at(design, model),
    is: at(result.design, model),
    solves,
    left: strip.left,
    limits: goals.map((g, i) => ({
      label: `${g.curves?.join(', ') ?? measureOf(g.plot.show)?.name ?? g.plot.formulas?.join(', ') ?? g.plot.show} ${g.side} ${formatNumber(g.level)} ${before[i].unit}, ${formatQuantity(g.from, 'frequency')} to ${formatQuantity(g.to, 'frequency')}`,
      unit: before[i].unit,
      before: low[i],
      after: high[i],
    })),
  };
}
