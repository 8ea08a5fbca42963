import { outerPins, stateCopper } from '../../levels';
import {
  copperFaces,
  dataBlock,
  leaderOf,
  modelledAt,
  networkOf,
  resolveDesign,
  solvableSizes,
  standingOn,
  type Backed,
  type DataBlock,
  type Design,
  type Project,
  type ResolvedDesign,
  type SizeRange,
  type SolvedAxis,
  type SolvedOver,
} from '../../network';
import {
  addWeighed,
  chebyshevPlaces,
  chebyshevWeights,
  lejaPlaces,
  margin,
  NestedInterpolation,
  rationalThrough,
  share,
  type Index,
  type Rational,
  type Steps,
} from '../../numeric';
import { parts } from '../../parts';
import { SOLVER, type Accuracy } from '../../planar';
import { RetuneError } from '../retune';
import { solvingHere, type CopperSolver } from './solver';

/** A range that cannot be; `key` says of what. */
export class SizeError extends RetuneError {
  constructor(
    readonly key: string,
    message: string,
  ) {
    super(message);
  }
}

/** What data over sizes is solved with. */
export interface BackingOptions {
  /** Ids of the pieces. */
  readonly ids: readonly string[];
  /** At least one. */
  readonly ranges: readonly SizeRange[];
  readonly accuracy?: Accuracy;
  /** Error of S between what was solved that is good enough. */
  readonly tolerance?: number;
  /** Solutions at most. */
  readonly most?: number;
  readonly solver?: CopperSolver;
  readonly watch?: (state: BackingState) => void;
  /** Whether to end with what was solved so far. */
  readonly enough?: () => boolean;
}

/** Where the solving over sizes stands. */
export interface BackingState {
  readonly solved: number;
  readonly most: number;
  /** Estimated error of S between what was solved, where that can be told. */
  readonly error?: number;
}

/** Data over sizes, and the pieces of the design that stand on it. */
export interface BackedData {
  readonly block: DataBlock;
  readonly backed: readonly Backed[];
  readonly solves: number;
}

const TOLERANCE = 0.002;
/** Solutions at most: so many, and more for every size. */
const FEW = 5;
const EACH = 6;
/** Places along one size at most. */
const PLACES = 7;
/** Frequencies at which data is kept; as many as it takes. */
const FREQUENCIES = [9, 17, 33, 65, 129];
/** States that are solved to see how far off the interpolation is. */
const CHECKS = 2;
/** Places in the ranges for those: multiples of the golden ratio's powers, away from the middle and the ends. */
const GOLDEN = 0.6180339887498949;
const WITHIN = 0.85;
/** Solutions, and one for every size, after which the error has to be less than this share of what it was. */
const PATIENCE = 2;
const PAYS = 0.8;
/** What is said is so many times as much as was seen. */
const CAREFUL = 2;

const largest = (values: Float64Array): number => {
  const half = values.length / 2;
  let most = 0;
  for (let i = 0; i < half; i++) most = Math.max(most, Math.hypot(values[i], values[half + i]));
  return most;
};

/**
 * Solves some pieces of a design by themselves over ranges of their sizes and of the board, over the design's sweep, until models put
 * right by what was solved agree with the field solution in between. What is solved next is where the last solutions told the most
 * new, one size or two at a time; two states beside these say how far off it is. Source: dimension-adaptive sparse grids (Gerstner &
 * Griebel 2003) with Newton polynomials on nested places. Yields the share done.
 * @throws RetuneError in words, SizeError, NotSolvable naming the piece, CopperError
 */
export function* backingSteps(
  project: Project,
  design: Design,
  {
    ids,
    ranges,
    accuracy = 'normal',
    tolerance = TOLERANCE,
    most = FEW + EACH * ranges.length,
    solver = solvingHere(accuracy),
    watch,
    enough = () => false,
  }: BackingOptions,
): Steps<BackedData> {
  const resolved = resolveDesign(project, design);
  const over = begun(resolved, ids, ranges, accuracy);
  const { start, stop } = resolved.sweep!;
  const band = { start, stop: stop > start ? stop : start * 1.001 };
  const n = over.pins.length ** 2;
  const places = lejaPlaces(PLACES);
  const indices: Index[] = [];
  const data: Float64Array[] = [];
  const interpolation = new NestedInterpolation(places);
  const surprises = new Map<string, number>();
  let freq = Float64Array.of();
  let solves = 0;

  const [re, im] = [new Float64Array(n), new Float64Array(n)];
  const sampled = (through: Rational, at: Float64Array): Float64Array => {
    const out = new Float64Array(2 * n * at.length);
    at.forEach((f, k) => {
      through(f, re, im);
      out.set(re, k * n);
      out.set(im, (at.length + k) * n);
    });
    return out;
  };
  const less = (solved: Float64Array, model: Float64Array) => solved.map((x, i) => x - model[i]);
  const modelAt = (u: readonly number[], at: Float64Array) => sampled(modelledAt(over, u, networkOf), at);
  /** Copper at a place in the ranges. */
  function* solvedAt(u: readonly number[]): Steps<Rational> {
    const part = (t: number) => Math.min(1, (solves + t) / (most + CHECKS));
    const copper = stateCopper(over, u);
    const { samples } = yield* share(solver({ copper }, band), part(0), part(1));
    solves++;
    return rationalThrough(samples.map((s) => ({ ...s, ...reciprocal(s, over.pins.length) })));
  }
  const take = (index: Index, through: Rational) => {
    const at = index.map((i) => places[i]);
    const solved = sampled(through, freq);
    indices.push(index);
    data.push(solved);
    surprises.set(String(index), largest(interpolation.take(index, less(solved, modelAt(at, freq)))));
  };

  // The middle says at how many frequencies the difference from the model has to be known.
  const middle = ranges.map(() => 0);
  const through = yield* solvedAt(middle);
  let between = 0;
  for (const count of FREQUENCIES) {
    freq = Float64Array.from(chebyshevPlaces(band.start, band.stop, count));
    const beside = Float64Array.from(freq.subarray(1), (f, k) => (f + freq[k]) / 2);
    const known = less(sampled(through, freq), modelAt(middle, freq));
    const exact = less(sampled(through, beside), modelAt(middle, beside));
    const weights = new Float64Array(count);
    const off = exact.map((x) => -x);
    beside.forEach((f, b) => {
      chebyshevWeights(freq, f, weights);
      for (const half of [0, 1]) {
        const at = (half * beside.length + b) * n;
        addWeighed(weights, known, half * count * n, off.subarray(at, at + n));
      }
    });
    between = largest(off);
    if (between < tolerance / 4) break;
  }
  take(middle, through);
  watch?.({ solved: solves, most: most + CHECKS });

  const checks: { readonly u: readonly number[]; readonly off: Float64Array }[] = [];
  /** What a place not yet solved would tell at most, from what those below it told. */
  const promise = (index: Index): number => {
    const first = surprises.get(String(middle))!;
    const below = index.flatMap((i, j) =>
      i > 0 ? [surprises.get(String(index.map((x, k) => (k === j ? x - 1 : x))))!] : [],
    );
    const along = index.flatMap((i, j) =>
      i > 0 ? [surprises.get(String(middle.map((_, k) => (k === j ? 1 : 0)))) ?? 0] : [],
    );
    const bend = below.length === 1 ? 0.5 : Math.min(0.5, Math.max(...along) / Math.max(first, tolerance));
    return Math.min(...below) * bend;
  };
  let error: number;
  const trail: number[] = [];
  for (;;) {
    const next = margin(indices, PLACES);
    // At first every size once.
    const untried = next.find((i) => i.reduce((a, b) => a + b, 0) === 1);
    if (!untried) {
      for (let c = checks.length; c < CHECKS && ranges.length > 0; c++) {
        const u = ranges.map((_, j) => WITHIN * (2 * (((c + 1) * GOLDEN ** (j + 1) + 0.13 * c) % 1) - 1));
        const at = yield* solvedAt(u);
        checks.push({ u, off: less(sampled(at, freq), modelAt(u, freq)) });
      }
      const missed = Math.max(0, ...checks.map(({ u, off }) => largest(less(off, interpolation.at(u)))));
      const promised = Math.max(0, ...next.map(promise));
      error = CAREFUL * Math.max(missed, promised, between);
      watch?.({ solved: solves, most: most + CHECKS, error });
      trail.push(error);
      if (error <= tolerance || indices.length >= most || next.length === 0 || enough()) break;
      // What meshes differ by between two states is no size's doing: more of them tell no more.
      const before = trail[trail.length - 1 - PATIENCE - ranges.length];
      if (before !== undefined && error > PAYS * before) break;
    } else watch?.({ solved: solves, most: most + CHECKS });
    const best = untried ?? next.reduce((a, b) => (promise(b) > promise(a) ? b : a));
    take(best, yield* solvedAt(best.map((i) => places[i])));
  }

  const half = data[0].length / 2;
  const round = (x: number) => Number(x.toFixed(7));
  const names = ids.map((id) => resolved.pieces.find((p) => p.id === id)!.name);
  const block: DataBlock = {
    ...dataBlock(`${names.slice(0, 3).join(', ')}${names.length > 3 ? '\u2026' : ''}, solved`, 'solved', {
      ports: over.pins.length,
      freq,
      re: Float64Array.of(),
      im: Float64Array.of(),
      z0: over.pins.map(() => ({ re: 50, im: 0 })),
    }),
    re: data.flatMap((d) => Array.from(d.subarray(0, half), round)),
    im: data.flatMap((d) => Array.from(d.subarray(half), round)),
    over: { ...over, states: indices, places: [...places], error: Number(error.toPrecision(2)) },
  };
  const standing = standingOn(block, resolved, ids);
  // What was asked for stands on it even where it lies beyond the ranges now.
  const own = standing.some((b) => b.pieces.join() === ids.join()) ? [] : [{ data: block.id, pieces: ids }];
  return { block, backed: [...own, ...standing], solves };
}

/** S-parameters made the same both ways. */
function reciprocal({ re, im }: { re: Float64Array; im: Float64Array }, n: number) {
  const mean = (x: Float64Array) => x.map((v, at) => (v + x[(at % n) * n + Math.floor(at / n)]) / 2);
  return { re: mean(re), im: mean(im) };
}

/** What will be solved, before anything is. @throws RetuneError */
function begun(
  resolved: ResolvedDesign,
  ids: readonly string[],
  ranges: readonly SizeRange[],
  accuracy: Accuracy,
): SolvedOver {
  const { stack, f0, sweep } = resolved;
  if (!stack || f0 === undefined || !sweep)
    throw new RetuneError('the design has an error; the review says which');
  const pieces = ids.map((id) => {
    const piece = resolved.pieces.find((p) => p.id === id);
    if (!piece?.values) throw new RetuneError(piece ? `${piece.name} has an error` : 'a piece is gone');
    return { ...piece, values: piece.values };
  });
  if (pieces.length === 0) throw new RetuneError('no piece is chosen');
  if (ranges.length === 0) throw new RetuneError('no size has a range; at least one is solved over');
  const sizes = solvableSizes(resolved, ids);
  const axes = ranges.map(({ key, from, to }): SolvedAxis => {
    const size = sizes.find((s) => s.key === key);
    if (!size) throw new SizeError(key, `these pieces have no size "${key}"`);
    if (!(from > 0) || !Number.isFinite(to)) throw new SizeError(key, 'must be more than nothing');
    if (!(to > from)) throw new SizeError(key, 'its lower end comes first');
    if (size.board === 'er' && from < 1) throw new SizeError(key, 'a permittivity is 1 at least');
    const { label, board } = size;
    return { label, ...(size.sizes && { sizes: size.sizes }), ...(board && { board }), from, to };
  });
  const nodes = new Map<string, string>();
  const named = (node: string) => {
    if (!nodes.has(node)) nodes.set(node, `n${nodes.size + 1}`);
    return nodes.get(node)!;
  };
  const leads = outerPins(resolved, new Set(ids));
  const { er, tand, height, thickness, conductivity, roughness, cover } = stack.substrate;
  const middles = axes.map(({ from, to }) => (from + to) / 2);
  const board = { er, height, thickness };
  axes.forEach((a, j) => a.board && (board[a.board] = middles[j]));
  const over: SolvedOver = {
    medium: resolved.medium,
    f0,
    board: {
      ...board,
      tand,
      conductivity,
      roughness,
      ...(Number.isFinite(cover) && { cover }),
    },
    pieces: pieces.map(({ kind, values, settings, facts, held, nodes: own }, i) => {
      const reads = parts.get(kind)?.models?.modelled.reads ?? [];
      const kept = new Set([...copperFaces(kind, settings).map((f) => f.name), ...reads]);
      const now = Object.fromEntries(
        Object.entries(values).flatMap(([name, v]) => (kept.has(name) ? [[name, v.re]] : [])),
      );
      axes.forEach(({ sizes: at = [] }, j) => {
        for (const [piece, face] of at) {
          if (piece !== i) continue;
          for (const name of Object.keys(now))
            if (leaderOf({ kind, held }, name) === face) now[name] *= middles[j] / now[face];
          now[face] = middles[j];
        }
      });
      return { kind, values: now, settings, facts, held, nodes: own.map(named) };
    }),
    pins: leads.map(({ piece, pin }): [number, number] => [ids.indexOf(piece.id), pin]),
    axes,
    places: [],
    states: [],
    error: 0,
    accuracy,
    solver: SOLVER,
  };
  // What cannot be drawn at the ends of the ranges is said before anything is solved.
  for (const u of [-1, 0, 1])
    stateCopper(
      over,
      axes.map(() => u),
    );
  return over;
}
