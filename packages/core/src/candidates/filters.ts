import { layOut, type Layout } from '../artwork';
import {
  circuitOf,
  dataFinder,
  frequencies,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../network';
import { share, type Steps } from '../numeric';
import { parts, type Model } from '../parts';
import { initialInputs, RecipeError, recipes, type RecipeContext, type RecipeInputs } from '../recipes';
import { review } from '../review';
import { limitSteps, RetuneError, retuneSteps } from '../studies';
import type { FilterKind, FilterSpecification } from '../theory';
import { formatQuantity } from '../units';

/** One way to make a filter. */
export interface RealisationWay {
  readonly key: string;
  readonly label: string;
  readonly recipe: string;
  readonly inputs: RecipeInputs;
}

/** What it came to. */
export interface Realisation extends RealisationWay {
  /** Why there is none, in words; the rest is then missing. */
  readonly problem?: string;
  readonly made?: MadeFilter;
}

export interface MadeFilter {
  readonly design: Design;
  readonly order: number;
  /** Worst violation of the specification, dB; at most 0 where it is kept. */
  readonly missed: Readonly<Record<Model, number>>;
  readonly layout: Layout;
  /** Of the copper, m by m. */
  readonly size: readonly [width: number, height: number];
  /** Narrowest line and gap, m; no gap where nothing is coupled. */
  readonly narrowest: number;
  readonly gap: number | undefined;
  readonly vias: number;
  /** Where it passes again above its band, Hz, as the ideal level has it; undefined where that is not in sight. */
  readonly again: number | undefined;
  /** Least loss in the pass band as modelled, dB. */
  readonly loss: number;
  /** What the review questions. */
  readonly remarks: number;
  /** |S21| in dB at `freq`, at both levels. */
  readonly freq: Float64Array;
  readonly level: Readonly<Record<Model, Float64Array>>;
}

interface Way {
  readonly recipe: string;
  readonly label: string;
  readonly inputs: (spec: FilterSpecification) => RecipeInputs;
  /** What tells several ways of one recipe apart. */
  readonly variant?: string;
  /** Share of the pass band's loss that it is designed for, where it keeps its response only about. */
  readonly share?: number;
}

const ghz = (f: number): string => `${Number((f / 1e9).toPrecision(9))} GHz`;
const band = (low: number, high: number): RecipeInputs => ({
  freq: ghz((low + high) / 2),
  bandwidth: ghz(high - low),
});
const cutoff = ({ edges }: FilterSpecification): RecipeInputs => ({ freq: ghz(edges[0]) });
const between = ({ edges }: FilterSpecification): RecipeInputs => band(edges[0], edges[1]);
/** A band stop about what a low-pass stops, that passes up to its edge. */
const stopped = ({ edges, stop }: FilterSpecification): RecipeInputs => {
  const centre = (stop[0] + stop[1]) / 2;
  return { freq: ghz(centre), bandwidth: ghz(2 * (centre - edges[0])) };
};

const ways: Readonly<Record<FilterKind, readonly Way[]>> = {
  lowpass: [
    { recipe: 'lowpass-stepped', label: 'stepped impedance', inputs: cutoff },
    { recipe: 'lowpass-stub', label: 'open stubs', inputs: cutoff },
    {
      recipe: 'lowpass-stub',
      label: 'opposite open stubs',
      inputs: (spec) => ({ ...cutoff(spec), stub: 'paired' }),
      variant: 'paired',
    },
    {
      recipe: 'lowpass-stub',
      label: 'radial stubs',
      inputs: (spec) => ({ ...cutoff(spec), stub: 'radial' }),
      variant: 'radial',
      share: 0.6,
    },
    { recipe: 'bandstop-stub', label: 'stop of open stubs', inputs: stopped },
  ],
  highpass: [
    {
      recipe: 'bandpass-stub',
      label: 'shorted stubs',
      // Quarter waves at twice the edge: it passes up to three times the edge.
      inputs: ({ edges }) => band(edges[0], 3 * edges[0]),
    },
  ],
  bandpass: [
    { recipe: 'bandpass-hairpin', label: 'hairpins', inputs: between },
    { recipe: 'bandpass-loop', label: 'square loops', inputs: between },
    { recipe: 'bandpass-coupled', label: 'edge-coupled half waves', inputs: between },
    { recipe: 'bandpass-interdigital', label: 'interdigital lines', inputs: between },
    { recipe: 'bandpass-combline', label: 'comb of loaded lines', inputs: between },
    { recipe: 'bandpass-gap', label: 'end-coupled half waves', inputs: between },
    { recipe: 'bandpass-stub', label: 'shorted stubs', inputs: between },
  ],
  bandstop: [
    { recipe: 'bandstop-stub', label: 'open stubs', inputs: between },
    {
      recipe: 'bandstop-stub',
      label: 'opposite open stubs',
      inputs: (spec) => ({ ...between(spec), stub: 'paired' }),
      variant: 'paired',
    },
  ],
};

const SHAPES = [
  { id: 'chebyshev', label: 'equal ripple' },
  { id: 'butterworth', label: 'flat' },
] as const;

/** Orders that are tried, from the least on. */
const MOST = 9;
const POINTS = 301;
const IN_BAND = 61;
/** A narrow pass band that comes again above the first is seen from this share of the power on. */
const PASSES = -3.1;

/** Pass bands of a specification that a response is judged in, Hz. */
export function passBands({
  kind,
  edges,
  stop,
}: FilterSpecification): readonly (readonly [number, number])[] {
  const [low, high] = edges;
  switch (kind) {
    case 'lowpass':
      return [[low / 100, low]];
    case 'highpass':
      // Up to where quarter waves at twice the edge let it.
      return [[low, Math.min(2.5 * low, 4 * Math.max(low, stop[1]))]];
    case 'bandpass':
      return [[low, high]];
    case 'bandstop':
      return [
        [low / 4, low],
        [high, high + low / 4],
      ];
  }
}

/** How far a response misses a specification at its worst, dB, from its |S21| in dB at frequencies. */
function missedBy(spec: FilterSpecification, at: (freq: Float64Array) => Float64Array): number {
  let worst = -Infinity;
  for (const [low, high] of passBands(spec))
    for (const y of at(frequencies(low, high, IN_BAND))) worst = Math.max(worst, -spec.passLoss - y);
  const [from, to] = spec.stop;
  const stop = from === to ? Float64Array.of(from) : frequencies(from, to, IN_BAND);
  for (const y of at(stop)) worst = Math.max(worst, y + spec.stopLoss);
  return worst;
}

/** Every way that recipes have of a kind of filter, in its two shapes. */
export const realisationsOf = (
  spec: FilterSpecification,
  z0: string,
  /** Impedance of the narrowest line that the board's shop etches, ohm. */
  highest: number,
): readonly RealisationWay[] =>
  ways[spec.kind].flatMap(({ recipe, label, inputs, variant, share: part = 1 }) =>
    SHAPES.map((shape) => ({
      key: [recipe, ...(variant ? [variant] : []), shape.id].join(':'),
      label: `${label}, ${shape.label}`,
      recipe,
      inputs: {
        ...initialInputs(recipes.get(recipe)!),
        ...inputs(spec),
        z0,
        shape: shape.id,
        // A flat response has its half-power point where it is told: wider by what it loses at the edge.
        ripple: `${Number((part * spec.passLoss).toPrecision(6))} dB`,
        ...(recipe === 'lowpass-stepped' && {
          zLow: '18 ohm',
          zHigh: `${Math.min(130, Math.floor(0.95 * highest))} ohm`,
        }),
      },
    })),
  );

/**
 * Makes a filter one way, with the least order that keeps the specification at the ideal level, and retunes its copper to
 * it. Yields the share done.
 */
export function* realiseSteps(
  project: Project,
  context: RecipeContext,
  spec: FilterSpecification,
  way: RealisationWay,
): Steps<Realisation> {
  const recipe = recipes.get(way.recipe)!;
  const find = dataFinder(project.data);
  let problem = 'no order up to nine keeps the specification';
  for (let order = 1; order <= MOST; order++) {
    yield 0.2 * (order / MOST);
    const inputs = { ...way.inputs, order: String(order), ...widened(spec, way, order) };
    try {
      const design = recipe.design(inputs, context);
      const resolved = resolveDesign(project, design);
      const circuits = { ideal: circuitOf(resolved, 'ideal'), modelled: circuitOf(resolved, 'modelled') };
      if (!circuits.ideal || !circuits.modelled)
        return { ...way, inputs, problem: resolved.problems[0]?.message ?? 'it cannot be worked out' };
      const networks: Partial<Record<Model, ReturnType<typeof networkOf>>> = {
        ideal: networkOf(circuits.ideal, find),
      };
      const through = (model: Model) => (freq: Float64Array) => {
        const s = solveNetwork(networks[model]!, freq);
        return Float64Array.from(
          freq,
          (_, k) => 20 * Math.log10(Math.max(1e-10, Math.hypot(s.re[4 * k + 2], s.im[4 * k + 2]))),
        );
      };
      const ideal = missedBy(spec, through('ideal'));
      // What misses by rounding is met.
      if (ideal > 1e-6) continue;
      const blunt = resolved.pieces.find(
        ({ kind, values }) => /-stub$/.test(kind) && values?.width && values.width.re > values.length.re,
      );
      if (blunt)
        return {
          ...way,
          inputs,
          problem: `${blunt.name} would be wider than it is long: this takes a wider band, or a thinner board`,
        };
      yield 0.2;
      /** What a state of the copper misses, which is from then on what is read. */
      const missedAs = (d: Design): number => {
        const circuit = circuitOf(resolveDesign(project, d), 'modelled');
        if (circuit) networks.modelled = networkOf(circuit, find);
        return missedBy(spec, through('modelled'));
      };
      const tuned = yield* retuned(project, { ...design, ...plotsFor(spec) }, missedAs);
      const modelled = missedAs(tuned);
      const copper = resolveDesign(project, tuned);
      const thin = thinIn(copper);
      if (thin) return { ...way, inputs, problem: thin };
      return {
        ...way,
        inputs,
        made: {
          design: tuned,
          order,
          missed: { ideal: Math.min(0, ideal), modelled },
          ...copperOf(project, tuned, copper, layOut(copper)),
          ...sweptOf(spec, through),
        },
      };
    } catch (error) {
      if (!(error instanceof RecipeError)) throw error;
      problem = `${error.field}: ${error.message}`;
      // Another order may do where the neighbours are offered; else it only gets harder.
      if (error.field !== 'order' && order > 3) break;
    }
  }
  return { ...way, problem };
}

/**
 * The design with its copper brought back to its intention, and from there into its limits, as far as that goes.
 * @param missed what a state misses, dB
 */
function* retuned(project: Project, design: Design, missed: (d: Design) => number): Steps<Design> {
  let best = design;
  let least = missed(best);
  for (const [search, from, to] of [
    [retuneSteps, 0.2, 0.6],
    [limitSteps, 0.6, 1],
  ] as const) {
    if (least <= 0) break;
    try {
      const next = (yield* share(search({ ...project, designs: [best] }, best), from, to)).design;
      const there = missed(next);
      if (there < least) [best, least] = [next, there];
    } catch (error) {
      if (!(error instanceof RetuneError)) throw error;
    }
  }
  return best;
}

/** The specification as limits of a design's plots, and a sweep over all of it. */
export function plotsFor(spec: FilterSpecification): Pick<Design, 'plots' | 'sweep'> {
  const [from, to] = spec.stop;
  const span = from === to ? [0.999 * from, 1.001 * to] : [from, to];
  const limits = [
    ...passBands(spec).map(([low, high], i) => ({
      id: `pass${i + 1}`,
      side: 'above' as const,
      level: String(-spec.passLoss),
      from: ghz(low),
      to: ghz(high),
      curves: ['S21'],
    })),
    {
      id: 'stop',
      side: 'below' as const,
      level: String(-spec.stopLoss),
      from: ghz(span[0]),
      to: ghz(span[1]),
      curves: ['S21'],
    },
  ];
  const ends = [...passBands(spec).flat(), ...span];
  return {
    sweep: { start: ghz(0.9 * Math.min(...ends)), stop: ghz(1.1 * Math.max(...ends)), points: 401 },
    plots: [
      { id: 'ports', show: 'driven', limits },
      { id: 'smith', show: 'smith' },
    ],
  };
}

/** A flat response reaches half of the power beyond the edge that a specification has: by how much, from its order. */
function widened(spec: FilterSpecification, way: { inputs: RecipeInputs }, order: number): RecipeInputs {
  if (way.inputs.shape !== 'butterworth') return {};
  // A little more than that: responses of folded lines lean to one side.
  const wider = 1.02 * Math.pow(Math.expm1((spec.passLoss * Math.LN10) / 10), -1 / (2 * order));
  const [low] = spec.edges;
  if (spec.kind === 'lowpass' && way.inputs.bandwidth === undefined) return { freq: ghz(low * wider) };
  const f = (text: string) => Number(/^[\d.e+-]+/.exec(text)![0]) * 1e9;
  const [centre, width] = [f(way.inputs.freq), f(way.inputs.bandwidth)];
  const stops = spec.kind === 'bandstop' || spec.kind === 'lowpass';
  return { bandwidth: ghz(Math.min(1.85 * centre, stops ? width / wider : width * wider)) };
}

/** Which piece is narrower than its board's shop etches, in words. */
function thinIn({ pieces, stack }: ResolvedDesign): string | undefined {
  const length = (x: number) => formatQuantity(x, 'length', { digits: 3 });
  const least = stack?.minWidth ?? 0;
  // Junctions are as narrow as what they join. Less than copper's own rounding is none.
  const thin = pieces.find(({ values }) => values?.width && values.width.re < 0.999 * least);
  return (
    thin &&
    `${thin.name} would be ${length(thin.values!.width.re)} wide, narrower than the ${length(least)} that this board\u2019s shop etches`
  );
}

function copperOf(project: Project, design: Design, resolved: ResolvedDesign, layout: Layout) {
  const least = (list: readonly (number | undefined)[]) => {
    const found = list.filter((x) => x !== undefined);
    return found.length > 0 ? Math.min(...found) : undefined;
  };
  const all = resolved.pieces.flatMap((p) => (p.values ? [{ ...p, values: p.values }] : []));
  return {
    layout,
    size: [layout.box.width, layout.box.height] as const,
    narrowest: least(all.flatMap((p) => parts.get(p.kind)?.widths?.(p.values, p.settings) ?? [])) ?? 0,
    gap: least(all.flatMap((p) => parts.get(p.kind)?.gaps?.(p.values) ?? [])),
    vias: all.filter((p) => p.kind === 'via' || p.kind === 'shorted-stub').length,
    remarks: review(project, design, resolved, layout).length,
  };
}

function sweptOf(spec: FilterSpecification, through: (model: Model) => (freq: Float64Array) => Float64Array) {
  const bands = passBands(spec);
  const top = Math.max(spec.stop[1], ...bands.flat());
  const freq = frequencies(top / 400, 1.3 * top, POINTS);
  const level = { ideal: through('ideal')(freq), modelled: through('modelled')(freq) };
  const far = frequencies(top / 100, 4 * top, 801);
  const beyond = through('ideal')(far);
  const after = Math.max(...bands.flat());
  let again: number | undefined;
  let stopped = false;
  for (let k = 0; k < far.length && again === undefined; k++) {
    if (far[k] <= after) continue;
    if (beyond[k] < PASSES - 10) stopped = true;
    else if (stopped && beyond[k] > PASSES) again = far[k];
  }
  const [low, high] = bands[0];
  const loss = -Math.max(...through('modelled')(frequencies(low, high, IN_BAND)));
  return { freq, level, again, loss };
}
