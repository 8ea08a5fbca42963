import {
  circuitOf,
  dataFinder,
  networkOf,
  resolveDesign,
  solveNetwork,
  solverAt,
  type Circuit,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../network';
import { evolutionSteps, leastSquaresSteps, minimaxSteps, share, type Steps } from '../numeric';
import { parts, type Model } from '../parts';
import { rolesOf } from '../plots';
import type { SData } from '../results';
import { namesIn } from '../units';
import { freeValues, putAll, takeOver, type FreeValue } from './free';
import { goalsOf, type Look, type Seeing } from './goals';
import { refusals, RetuneError, type Retuned } from './retune';
import { tied } from './symmetry';
import { rangeOf, tunables, tuned, type Tunable } from './tune';

/** What the search tries to have to spare, in decibels, degrees, or per cent of a level. */
const SPARE = 1;
/** And what is so much that it does not matter for the worst miss. */
const MUCH = 20;
/** Weight of moving at all. */
const REST = 1e-3;

/** What a shop's limits say of a face, and of a named value that is one. */
function leastOf(design: Design, { stack }: ResolvedDesign, key: string): number | undefined {
  const [what, id, face] = key.split(':');
  const faces =
    what === 'piece'
      ? [face]
      : what === 'value'
        ? design.pieces.flatMap((p) => Object.keys(p.held).filter((f) => p.held[f].trim() === id))
        : [];
  if (faces.includes('width')) return stack?.minWidth;
  return faces.includes('gap') ? stack?.minGap : undefined;
}

/** A value that can be moved by hand, for a search to move between two ends. */
export function freeOf(
  project: Project,
  design: Design,
  tunable: Tunable,
  range?: readonly [number, number],
  least = 0,
): FreeValue {
  const [from, high] = range ?? rangeOf(tunable);
  // Nothing narrower than the shop etches, unless it stands there already or somebody says so.
  const low = range || tunable.range || least > high ? from : Math.max(from, Math.min(least, tunable.value));
  const alone: Project = { ...project, designs: [design] };
  return {
    key: tunable.key,
    label: tunable.label,
    adjusts: 'length',
    kind: tunable.kind,
    value: Math.min(high, Math.max(low, tunable.value)),
    was: tunable.value,
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
    free: shown
      .filter((t) => !isGiven(t.key))
      .map((t) => freeOf(project, design, t, undefined, leastOf(design, resolved, t.key))),
  };
}

/** A state that a search has tried. */
export interface Seen {
  /** States tried so far. */
  readonly evaluations: number;
  /** What was better than anything before: how many had been tried, and the worst miss. */
  readonly trail: readonly (readonly [number, number])[];
  /** The worst miss of the best of them, in dB, degrees, or per cent of the level; at most zero where all is kept. */
  readonly miss: number;
  /** The limit that is missed most, and by how much in its own unit. */
  readonly limit: string;
  readonly over: number;
  readonly unit: string;
  /** The best of them. */
  readonly design: () => Design;
}

/** How limits are to be met, where not in the usual way. */
export interface MeetOptions {
  /** The response that has to keep them; the copper's as it is modelled where nothing is said. */
  readonly model?: Model;
  /** What may move; what is on the tuning strip, or the copper, where nothing is said. */
  readonly free?: readonly FreeValue[];
  /** Looks over the whole ranges first, from this seed. */
  readonly seed?: number;
  /** States of a design that all have to keep its limits, such as the members of a family; the design itself where nothing is said. */
  readonly members?: (design: Design) => readonly Design[];
  /** Told of every state that is tried. */
  readonly watch?: (seen: Seen) => void;
  /** Whether to end with what was found so far. */
  readonly enough?: () => boolean;
}

/**
 * Brings the response within the limits of the design's plots by the values on its tuning strip, or where none are there by
 * the lengths and widths that retuning may move. Yields the share done, many times a second.
 * @throws RetuneError in words
 */
export function* limitSteps(
  project: Project,
  design: Design,
  {
    model = 'modelled',
    free: chosen,
    seed,
    members = (d) => [d],
    watch,
    enough = () => false,
  }: MeetOptions = {},
): Steps<Retuned> {
  const find = dataFinder(project.data);
  const first = resolveDesign(project, design);
  const ideal = circuitOf(first, 'ideal');
  const { f0, sweep } = first;
  if (f0 === undefined || !ideal || !sweep) throw refusals.wrong();
  const centre = Float64Array.of(f0);
  const roles = rolesOf(solveNetwork(networkOf(ideal, find), centre), f0);
  const goals = goalsOf(design, first, roles, members(design).length);
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

  const even = Math.sqrt(1 / goals.count);
  const bounds = {
    lower: free.map((v) => Math.max(v.lower ?? -Infinity, v.value - v.reach)),
    upper: free.map((v) => v.upper ?? v.value + v.reach),
  };
  let solves = 0;
  const solvers = members(design).map(() => solverAt(goals.freq, find));
  /** Slices of the samples, the one that showed a miss last first: it is where the next state misses, too. */
  const slices = [...goals.slices];
  // What is shown of a state makes no difference to what it does.
  const bare: Design = { ...design, plots: [], markers: [] };
  /** Circuits of a state and its members; undefined where it cannot be made. */
  const circuitsOf = (d: Design): Circuit[] | undefined => {
    const made = members(d).map((member) => circuitOf(resolveDesign(project, member), model));
    return made.every((c) => c !== undefined) ? made : undefined;
  };
  const seenIn = (circuits: readonly Circuit[]): Look => {
    solves++;
    return goals.look(circuits.map((c, i) => solvers[i](c)(goals.freq)));
  };
  /** A state seen through the limits; undefined where it cannot be made. */
  const lookAt = (d: Design): Look | undefined => {
    const circuits = circuitsOf(d);
    return circuits && seenIn(circuits);
  };
  const trail: (readonly [number, number])[] = [];
  let known: Omit<Seen, 'evaluations'> | undefined;
  let best: readonly number[] = free.map((v) => v.value);
  let least = Infinity;
  const tell = () => {
    if (watch && known) watch({ ...known, evaluations: solves });
  };
  /** Takes note of a state that was seen. */
  const noted = <T extends Seeing>(x: readonly number[], seen: T): T => {
    // The steps of a slope may lead a little beyond an end.
    const inside = x.every((v, i) => v >= bounds.lower[i] && v <= bounds.upper[i]);
    if (inside && seen.miss < least) {
      least = seen.miss;
      trail.push([solves, least]);
      const at = [...x];
      best = at;
      // Of several limits the one that is missed most; with all kept the nearest.
      const worst = seen.limits.reduce((a, l, i, all) => (l.over > all[a].over ? i : a), 0);
      const { label, unit } = goals.words[worst];
      known = {
        trail,
        miss: least,
        limit: label,
        over: seen.limits[worst].over,
        unit,
        design: () => takeOver(design, free, at).design,
      };
    }
    tell();
    return seen;
  };
  const look = (x: readonly number[]): Look | undefined => {
    const seen = lookAt(putAll(bare, free, x));
    return seen && noted(x, seen);
  };
  /** The miss of a state; where it is more than `bound` perhaps not all of it. */
  const missOf = (x: readonly number[], bound: number): number => {
    const circuits = circuitsOf(putAll(bare, free, x));
    if (!circuits) return Infinity;
    solves++;
    const solved = circuits.map((c, i) => solvers[i](c));
    const looks: Seeing[] = [];
    for (const [i, { freq, look }] of slices.entries()) {
      const seen = look(solved.map((s) => s(freq)));
      if (seen.miss > bound) {
        // What misses by more already is not looked at any further.
        slices.unshift(...slices.splice(i, 1));
        tell();
        return seen.miss;
      }
      looks.push(seen);
    }
    return noted(x, goals.together(looks)).miss;
  };
  const was = lookAt(design);
  if (!was) throw refusals.wrong();

  /** Runs until it is done, or enough; undefined where it was enough. */
  function* until<T>(steps: Steps<T>, from: number, to: number): Steps<T | undefined> {
    const part = share(steps, from, to);
    for (let step = part.next(); ; step = part.next()) {
      if (step.done) return step.value;
      if (enough()) return undefined;
      yield step.value;
    }
  }
  const steps = free.map((v) => 1e-3 * v.reach);
  /** @param power of the misses: the higher it is, the more the worst of them counts */
  const search = (start: readonly number[], margin: number, power: number) =>
    leastSquaresSteps(
      (x, out) => {
        const seen = look(x);
        if (!seen) return false;
        seen.write(out);
        for (let i = 0; i < goals.count; i++)
          out[i] = even * Math.pow(Math.max(0, out[i] + margin * SPARE), power);
        free.forEach((v, i) => (out[goals.count + i] = (REST * (x[i] - v.value)) / v.reach));
        return true;
      },
      start,
      goals.count + free.length,
      {
        step: steps,
        ...bounds,
        maxIterations: 25,
        tolerance: 1e-4,
      },
    );
  /** Where limits cannot all be kept: what is missed most as little as can be, whatever that costs elsewhere. */
  const finish = (start: readonly number[]) =>
    minimaxSteps(
      (x, out) => {
        const seen = look(x);
        seen?.write(out);
        // What has more to spare than this stays out of the way.
        for (let i = 0; i < goals.count; i++) out[i] = Math.max(out[i], -MUCH);
        return seen !== undefined;
      },
      start,
      goals.count,
      { step: steps, ...bounds, tolerance: 1e-4 },
    );
  const start = best;
  look(start);
  if (seed !== undefined && least > 0)
    yield* until(evolutionSteps(missOf, start, { ...bounds, seed }), 0, 0.7);
  const begun = seed === undefined ? 0 : 0.7;
  // First with something to spare; where that costs what could be kept, without, and the worst the more the less is left.
  const stages = [
    [1, 1],
    [0.1, 1],
    [0.1, 2],
    [0, 4],
  ] as const;
  const at = (k: number) => begun + ((1 - begun) * k) / (stages.length + 1);
  for (let i = 0; i < stages.length && least > 0 && !enough(); i++) {
    const [margin, power] = stages[i];
    yield* until(search(best, margin, power), at(i), at(i + 1));
  }
  if (least > 0 && !enough()) yield* until(finish(best), at(stages.length), 1);
  const result = takeOver(design, free, best);
  const is = lookAt(result.design);
  if (!is) throw refusals.unmade();
  const responseOf = (d: Design, level: 'ideal' | 'modelled'): SData =>
    solveNetwork(networkOf(circuitOf(resolveDesign(project, d), level)!, find), centre);
  return {
    ...result,
    before: Math.max(0, ...was.limits.map((l) => l.over)),
    after: Math.max(0, ...is.limits.map((l) => l.over)),
    ideal: responseOf(design, 'ideal'),
    was: responseOf(design, model),
    is: responseOf(result.design, model),
    solves,
    left: strip.left,
    trail,
    limits: goals.words.map((w, i) => ({
      ...w,
      before: was.limits[i].over,
      after: is.limits[i].over,
      at: is.limits[i].at,
    })),
    stopped:
      least > 0
        ? free.flatMap((v, i) => {
            const near = 1e-3 * v.reach;
            const end =
              best[i] - bounds.lower[i] < near
                ? 'least'
                : bounds.upper[i] - best[i] < near
                  ? 'most'
                  : undefined;
            return end ? [{ label: v.label, end, kind: v.kind ?? 'length', value: best[i] }] : [];
          })
        : [],
  };
}
