import {
  circuitOf,
  dataFinder,
  frequencies,
  networkOf,
  resolveDesign,
  solveNetwork,
  solverAt,
  thin,
  type Circuit,
  type Design,
  type Plot,
  type Project,
  type ResolvedDesign,
} from '../../network';
import { shareInterval, type Steps } from '../../numeric';
import type { Model } from '../../parts';
import { plotCurves, rolesOf, usualPlots, type PlotCurve } from '../../plots';
import { ConversionError, type SData } from '../../results';
import { QuantityError } from '../../units';
import { goalsOf, type Goals } from '../goals';
import { refusals } from '../retune';
import { drawing } from './draw';
import { statesOf } from './states';
import { tolerancesOf, variedOf, type Varied, type Wanted } from './varied';

/** How a spread is sampled. */
export interface SpreadOptions {
  /** What comes out how; what stands in the document where nothing is said. */
  readonly wanted?: readonly Wanted[];
  readonly model?: Model;
  readonly seed?: number;
  /** Samples to take, and how many of the same seed come before them. */
  readonly samples: number;
  readonly from?: number;
  /** Points of the sweep at which the curves of the plots are kept, for bands; absent: none are. */
  readonly points?: number;
  /** Leaves out what costs the yield. */
  readonly noCauses?: true;
}

/** The curves of one plot in all samples. */
export interface SpreadCurves {
  readonly plot: string;
  readonly unit: string;
  readonly curves: readonly { readonly id: string; readonly label: string }[];
  /** Values sample by sample, in each curve by curve, in each point by point. */
  readonly y: Float32Array;
}

/** What became of the samples. */
export interface SpreadSamples {
  readonly varied: readonly Varied[];
  readonly seed: number;
  readonly from: number;
  readonly count: number;
  /** By how much everything is off, sample by sample, SI units. */
  readonly off: Float64Array;
  /** The worst miss of each sample in dB, degrees or hundredths of a level, at most zero where all limits are kept; not a number where there are no limits, infinite where a sample cannot be made. */
  readonly miss: Float64Array;
  /** That of the design as it is meant. */
  readonly meant: number;
  readonly limits: readonly { readonly label: string; readonly unit: string }[];
  /** Hz, where curves are kept. */
  readonly freq: Float64Array;
  readonly plots: readonly SpreadCurves[];
  /** What was asked for the causes: of each of `varied` the share of the misses that would be gone were it exact. */
  readonly causes: readonly number[];
}

/** States solved to tell what costs the yield, at most; and samples that they are about. */
const CAUSES = { states: 480, least: 12 } as const;
/** Share of the samples that is looked at where none misses: the worst of them. */
const WORST = 0.05;

/** What the ports are for, by the ideal response. @throws RetuneError while the design has errors */
function rolesIn(project: Project, resolved: ResolvedDesign): ReturnType<typeof rolesOf> {
  const ideal = circuitOf(resolved, 'ideal');
  const { f0 } = resolved;
  if (f0 === undefined || !ideal || !resolved.sweep) throw refusals.wrong();
  return rolesOf(solveNetwork(networkOf(ideal, dataFinder(project.data)), Float64Array.of(f0)), f0);
}

/** The limits of a design's plots; undefined where there are none. @throws RetuneError where they cannot be read */
export function limitsIn(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
  roles = rolesIn(project, resolved),
): Goals | undefined {
  return design.plots?.some((p) => p.limits?.length) ? goalsOf(design, resolved, roles, 1) : undefined;
}

/** The part of a response at some of its frequencies. */
function pick(s: SData, places: Int32Array, freq: Float64Array): SData {
  if (places.length === s.freq.length) return s;
  const size = s.ports * s.ports;
  const [re, im] = [new Float64Array(size * places.length), new Float64Array(size * places.length)];
  places.forEach((k, i) => {
    re.set(s.re.subarray(k * size, (k + 1) * size), i * size);
    im.set(s.im.subarray(k * size, (k + 1) * size), i * size);
  });
  return { ...s, freq, re, im };
}

/**
 * Samples of a design as it comes out of the shop. Yields the share done after each.
 * @throws RetuneError, ToleranceError in words
 */
export function* spreadSteps(
  project: Project,
  design: Design,
  { wanted, model = 'modelled', seed = 1, samples, from = 0, points, noCauses }: SpreadOptions,
): Steps<SpreadSamples> {
  const find = dataFinder(project.data);
  const resolved = resolveDesign(project, design);
  const roles = rolesIn(project, resolved);
  const sweep = resolved.sweep!;
  const varied = variedOf(design, resolved, wanted ?? tolerancesOf(project, design));
  const goals = limitsIn(project, design, resolved, roles);
  const state = statesOf(project, design, resolved, varied, model);

  const drawn = points === undefined ? new Float64Array() : frequencies(sweep.start, sweep.stop, points);
  const freq = Float64Array.from(new Set([...drawn, ...(goals?.freq ?? [])])).sort();
  const at = new Map(Array.from(freq, (f, k) => [f, k]));
  const placesOf = (some: Float64Array) => Int32Array.from(some, (f) => at.get(f)!);
  const [forGoals, forPlots] = [placesOf(goals?.freq ?? new Float64Array()), placesOf(drawn)];
  const solver = solverAt(freq, find);
  const aside = goals && solverAt(goals.freq, find);
  const missIn = (s: SData): number => (goals ? goals.look([s]).miss : NaN);
  /** The miss of a state alone. */
  const missOf = (circuit: Circuit | undefined): number =>
    !goals || !aside ? NaN : circuit ? missIn(aside(circuit)(goals.freq)) : Infinity;

  const shown: readonly Plot[] =
    points === undefined
      ? []
      : (design.plots ?? usualPlots(roles).map((show) => ({ id: `usual-${show}`, show }))).filter(
          (p) => p.show !== 'smith',
        );
  const draw = (plot: Plot, s: SData): { unit: string; curves: readonly PlotCurve[] } | undefined => {
    try {
      return plotCurves(plot, s, roles, resolved.values);
    } catch (error) {
      if (error instanceof QuantityError || error instanceof ConversionError) return undefined;
      throw error;
    }
  };
  const nominal = state(varied.map(() => 0));
  if (!nominal) throw refusals.wrong();
  const first = solver(nominal)(freq);
  // What is smooth over the sweep is solved at few of its frequencies in each sample.
  const few = thin(freq, first, (at) => solverAt(at, find)(nominal)(at));
  const quick = few && solverAt(few.at, find);
  const respond = (circuit: Circuit): SData =>
    (few && quick && few.whole(quick(circuit)(few.at))) ?? solver(circuit)(freq);
  const kept = shown.flatMap((plot) => {
    const now = draw(plot, pick(first, forPlots, drawn));
    if (!now || now.curves.length === 0) return [];
    const curves = now.curves.map(({ id, label }) => ({ id, label }));
    return [{ plot, unit: now.unit, curves, y: new Float32Array(samples * curves.length * drawn.length) }];
  });
  const meant = missIn(pick(first, forGoals, goals?.freq ?? new Float64Array()));
  const m = varied.length;
  const off = new Float64Array(samples * m);
  const miss = new Float64Array(samples);
  const next = drawing(varied, seed, from);
  const reach = noCauses || !goals ? 1 : 0.8;
  for (let k = 0; k < samples; k++) {
    const away = next();
    off.set(away, k * m);
    const circuit = state(away);
    const s = circuit && respond(circuit);
    miss[k] = s ? missIn(pick(s, forGoals, goals?.freq ?? new Float64Array())) : goals ? Infinity : NaN;
    const there = s && kept.length > 0 ? pick(s, forPlots, drawn) : undefined;
    for (const { plot, curves, y } of kept) {
      const now = there && draw(plot, there);
      curves.forEach(({ id }, c) => {
        const begin = (k * curves.length + c) * drawn.length;
        const curve = now?.curves.find((own) => own.id === id);
        if (curve) y.set(curve.y, begin);
        else y.fill(NaN, begin, begin + drawn.length);
      });
    }
    yield (reach * (k + 1)) / samples;
  }

  const causes = varied.map(() => 0);
  if (goals && !noCauses && m > 0) {
    const order = [...miss.keys()].sort((a, b) => miss[b] - miss[a]);
    const missed = miss.filter((x) => x > 0).length;
    const looked = Math.min(
      Math.max(missed, Math.ceil(WORST * samples), Math.min(CAUSES.least, samples)),
      Math.max(1, Math.floor(CAUSES.states / m)),
    );
    // Every so manieth of those that miss, so that all kinds of them are there.
    const among = Math.max(missed, looked);
    // Of few that miss hardly anything can be told: then the worst count by how far they are from what was meant.
    const level = missed >= CAUSES.least ? Math.max(0, meant) : meant;
    for (let i = 0; i < looked; i++) {
      const k = order[Math.floor((i * among) / looked)];
      const own = [...off.subarray(k * m, (k + 1) * m)];
      // What cannot be made at all misses by no number; any cause of it counts fully.
      const whole = Number.isFinite(miss[k]) ? miss[k] - level : 1;
      if (!(whole > 0)) continue;
      varied.forEach((_v, j) => {
        const without = missOf(state(own.map((x, a) => (a === j ? 0 : x))));
        const gained = Number.isFinite(miss[k])
          ? miss[k] - Math.max(without, level)
          : Number(without < Infinity);
        causes[j] += Math.max(0, Math.min(1, gained / whole));
      });
      yield reach + ((1 - reach) * (i + 1)) / looked;
    }
  }
  const total = causes.reduce((a, b) => a + b, 0);
  return {
    varied,
    seed,
    from,
    count: samples,
    off,
    miss,
    meant,
    limits: goals?.words ?? [],
    freq: drawn,
    plots: kept.map(({ plot, unit, curves, y }) => ({ plot: plot.id, unit, curves, y })),
    causes: causes.map((c) => (total > 0 ? c / total : 0)),
  };
}

/** How many samples keep their limits. */
export interface Yield {
  readonly samples: number;
  readonly pass: number;
  readonly yield: number;
  /** Between these shares the true one lies with 95 % confidence. */
  readonly low: number;
  readonly high: number;
}

export function yieldOf(miss: Float64Array): Yield {
  const pass = miss.filter((x) => x <= 0).length;
  const [low, high] = shareInterval(pass, miss.length);
  return { samples: miss.length, pass, yield: miss.length === 0 ? 0 : pass / miss.length, low, high };
}
