import { layOut } from '../artwork';
import {
  circuitOf,
  dataFinder,
  frequencies,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Project,
} from '../network';
import { parts } from '../parts';
import { RecipeError, recipes, type Recipe, type RecipeContext, type RecipeInputs } from '../recipes';
import { decibels, entryOf, readMatch } from '../results';
import { review } from '../review';

/** One way to meet a goal, weighed. */
export interface Candidate {
  /** Stays the same while its goal changes. */
  readonly key: string;
  readonly recipe: string;
  readonly label: string;
  readonly inputs: RecipeInputs;
  /** Why there is none, in words; the figures are then missing. */
  readonly problem?: string;
  readonly figures?: CandidateFigures;
}

export interface CandidateFigures {
  /** Least return loss in the band, dB. */
  readonly worst: number;
  /** Bandwidth at the wanted return loss, Hz; undefined where it is not reached. */
  readonly bandwidth: number | undefined;
  /** Extent of the copper, m². */
  readonly area: number;
  /** Narrowest line, m. */
  readonly narrowest: number;
  /** What the review questions. */
  readonly remarks: number;
  /** |S11| in dB at `freq`, ideal level. */
  readonly freq: Float64Array;
  readonly level: Float64Array;
}

/** What candidates are weighed by. */
export interface Judgement {
  /** Band in which the worst return loss counts, as a share of the design frequency. */
  readonly band: number;
  /** Return loss whose bandwidth counts, dB. */
  readonly returnLoss: number;
}

/** Every way that the recipes of a family offer for one goal. */
export function waysTo(recipe: Recipe, inputs: RecipeInputs): Omit<Candidate, 'figures' | 'problem'>[] {
  return [...recipes.values()]
    .filter((r) => r.family !== undefined && r.family === recipe.family)
    .flatMap((r) => {
      const common = Object.fromEntries(r.fields.map((f) => [f.name, inputs[f.name] ?? f.initial]));
      return (r.alternatives?.(common) ?? [{ label: r.name.toLowerCase(), inputs: common }]).map((a) => ({
        key: `${r.id}:${a.label}`,
        recipe: r.id,
        label: a.label,
        inputs: a.inputs,
      }));
    });
}

const POINTS = 201;

/** Weighs one way, at the ideal level and as it would be etched. */
export function weigh(
  project: Project,
  context: RecipeContext,
  way: Omit<Candidate, 'figures' | 'problem'>,
  { band, returnLoss }: Judgement,
): Candidate {
  const recipe = recipes.get(way.recipe)!;
  try {
    const design = recipe.design(way.inputs, context);
    const resolved = resolveDesign(project, design);
    const circuit = circuitOf(resolved, 'ideal');
    const { f0 } = resolved;
    if (!circuit || f0 === undefined)
      return { ...way, problem: resolved.problems[0]?.message ?? 'it cannot be worked out' };
    const freq = frequencies(f0 * 0.5, f0 * 1.5, POINTS);
    const network = networkOf(circuit, dataFinder(project.data));
    const entry = entryOf(solveNetwork(network, freq), 0, 0);
    const inBand = entryOf(
      solveNetwork(network, frequencies(f0 * (1 - band / 2), f0 * (1 + band / 2), 41)),
      0,
      0,
    );
    const dB = (re: number, im: number) => Math.max(-200, decibels(re, im));
    const worst = -Math.max(...Array.from(inBand.re, (re, k) => dB(re, inBand.im[k])));
    const match = readMatch(entry, f0, -returnLoss);
    const layout = layOut(resolved);
    const widths = resolved.pieces.flatMap((p) =>
      p.values
        ? (parts.get(p.kind)?.widths?.(p.values, p.settings) ?? []).filter((w) => w !== undefined)
        : [],
    );
    return {
      ...way,
      figures: {
        worst,
        bandwidth: match?.band && match.band.high - match.band.low,
        area: layout.box.width * layout.box.height,
        narrowest: Math.min(...widths),
        remarks: review(project, design, resolved, layout).length,
        freq,
        level: Float64Array.from(entry.re, (re, k) => dB(re, entry.im[k])),
      },
    };
  } catch (error) {
    if (error instanceof RecipeError) return { ...way, problem: error.message };
    throw error;
  }
}

export type Rank = 'worst' | 'bandwidth' | 'area' | 'narrowest';

/** Best first: the largest worst return loss, bandwidth or narrowest line, the smallest area; what cannot be last. */
export function ranked(candidates: readonly Candidate[], by: Rank): Candidate[] {
  const score = ({ figures }: Candidate): number =>
    !figures ? -Infinity : by === 'area' ? -figures.area : (figures[by] ?? -1);
  return [...candidates].sort((a, b) => score(b) - score(a));
}
export * from './filters';
export * from './specify';
