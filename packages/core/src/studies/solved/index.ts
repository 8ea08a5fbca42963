import { layOut, openings } from '../../artwork';
import { answer, solvedSubject } from '../../levels';
import {
  circuitOf,
  dataFinder,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../../network';
import { drive, leastSquaresSteps, share, type Steps } from '../../numeric';
import type { Accuracy } from '../../planar';
import { rolesOf } from '../../plots';
import type { SData } from '../../results';
import { filterValues } from '../filter';
import { putAll, takeOver, type FreeValue } from '../free';
import { goalsOf } from '../goals';
import { limitSteps } from '../limits';
import { solvingHere, type CopperSolver } from './solver';
import { CLOSURE, hasRing, judgeOf, refusals, retuneSteps, type Retuned } from '../retune';

export * from './backing';
export * from './pieces';
export * from './solver';

/** One solution on the way, and what it led to. */
export interface SolvedStep {
  readonly design: Design;
  /** What the modelled level, shifted to where the solution before was, said that would be missed; absent for the first. */
  readonly predicted?: number;
  /** What is missed by what was solved. */
  readonly missed: number;
  /** Root mean square by which the shifted modelled response still differs from the solved one, as an amplitude. */
  readonly left: number;
}

export interface SolvedRetuneOptions {
  /** What shall be reached; the ideal response where nothing is said. */
  readonly towards?: 'ideal' | 'limits';
  readonly accuracy?: Accuracy;
  /** What may move; the copper where nothing is said. */
  readonly free?: readonly FreeValue[];
  readonly solver?: CopperSolver;
  /** Solutions at most. */
  readonly most?: number;
  /** Told of every solution. */
  readonly watch?: (steps: readonly SolvedStep[]) => void;
  /** Whether to end with what was found so far. */
  readonly enough?: () => boolean;
}

/** A retuning by the field solution: the best of its steps, and all of them. */
export interface SolvedRetuned extends Retuned {
  readonly steps: readonly SolvedStep[];
  /** What was done. */
  readonly towards: 'ideal' | 'limits';
}

/** Solutions at most; beyond these one does not pay. */
const MOST = 4;
/** Missing less than this is as good as the solution itself knows, as an amplitude. */
const GOOD = 3e-3;
/** A solution that misses more than this share of the one before does not pay. */
const PAYS = 0.8;
/** Share of the design frequency to either side over which responses are aligned where nothing is a filter. */
const ASIDE = 0.12;
const PLACES = 15;
/**
 * Weights of moving at all, of the modelled level towards a solution and of the copper, over their reach: there are ways to move
 * everything that hardly show, and none of them is what a solution says.
 */
const STIFF = 0.5;
const REST = 0.5;
/** Decibels that limits are kept with to spare, and that count as an amplitude of one. */
const SPARE = 0.1;
const DECIBELS = 10;
/**
 * Brings the solved response back to the ideal one, or into the limits, with few solutions. The copper as it stands is solved and
 * compared with the modelled level: by how much of its own lengths, widths and gaps that is off, and what is left over, corrects
 * it; the corrected level finds the copper by which it would be right; that is solved, and so on. Source: aggressive space mapping
 * (Bandler, Biernacki, Chen, Hemmers & Madsen 1995), with the unit matrix for the mapping's slope, which good models allow.
 * Yields the share done, many times a second.
 * @throws RetuneError in words, NotSolvable, CopperError
 */
export function* retuneSolvedSteps(
  project: Project,
  design: Design,
  {
    towards = 'ideal',
    accuracy = 'normal',
    free,
    solver = solvingHere(accuracy),
    most = MOST,
    watch,
    enough = () => false,
  }: SolvedRetuneOptions = {},
): Steps<SolvedRetuned> {
  const find = dataFinder(project.data);
  const first = resolveDesign(project, design);
  const { f0, sweep } = first;
  const ideal = circuitOf(first, 'ideal');
  if (f0 === undefined || !ideal || !sweep) throw refusals.wrong();
  const solveIdeal = (at: Float64Array) => solveNetwork(networkOf(ideal, find), at);
  const judge = judgeOf(solveIdeal, f0, sweep);
  const goals =
    towards === 'limits'
      ? goalsOf(design, first, rolesOf(solveIdeal(Float64Array.of(f0)), f0), 1)
      : undefined;
  /** Where a response is looked at, and what it misses there: an amplitude, or decibels of the worst limit. */
  const looks = goals ?? judge;
  const missing = (s: SData): number => (goals ? Math.max(0, goals.look([s]).miss) : judge.missing(s));
  /** Everything that it misses by itself. */
  const write = (s: SData, out: Float64Array): void => {
    if (!goals) return judge.write(s, out);
    goals.look([s]).write(out);
    for (let i = 0; i < goals.count; i++) out[i] = Math.max(0, out[i] + SPARE) / DECIBELS;
  };
  const good = goals ? 0 : GOOD;

  // What the modelled level would build.
  const begun = yield* share(
    goals
      ? limitSteps(project, design, { free: free ?? filterValues(design, first) })
      : retuneSteps(project, design),
    0,
    0.1,
  );
  const values = free ?? filterValues(design, first);
  if (values.length === 0) throw refusals.still();
  const meant = resolveDesign(project, begun.design);
  const aimed = values.map((v) => nowOf(v, meant));
  const aside = Float64Array.from(
    { length: PLACES },
    (_, i) => f0 * (1 + ASIDE * ((2 * i) / (PLACES - 1) - 1)),
  ).filter((f) => f >= sweep.start && f <= sweep.stop);
  /** Where responses are laid over one another. */
  const places = judge.filter ? judge.freq : aside;
  const all = [...looks.freq, ...places, f0];
  const band = { start: Math.min(...all), stop: Math.max(...all) };

  const modelled = (d: Design, at: Float64Array): SData | undefined => {
    const circuit = circuitOf(resolveDesign(project, d), 'modelled');
    return circuit && solveNetwork(networkOf(circuit, find), at);
  };
  const lower = values.map((v) => Math.max(v.lower ?? -Infinity, v.value - v.reach));
  const upper = values.map((v) => Math.min(v.upper ?? Infinity, v.value + v.reach));
  const search = {
    step: values.map((v) => 1e-3 * v.reach),
    maxIterations: 20,
    tolerance: 1e-4,
  };
  /** Where in its own values the modelled level is most like a response. */
  function* likeness(solved: (at: Float64Array) => SData, from: readonly number[]): Steps<readonly number[]> {
    const goal = solved(places);
    const count = 2 * goal.re.length;
    const steps = leastSquaresSteps(
      (at, out) => {
        const s = modelled(putAll(design, values, at), places);
        if (!s) return false;
        for (let i = 0; i < goal.re.length; i++) {
          out[2 * i] = s.re[i] - goal.re[i];
          out[2 * i + 1] = s.im[i] - goal.im[i];
        }
        values.forEach((v, i) => (out[count + i] = (STIFF * (at[i] - from[i])) / v.reach));
        return true;
      },
      from,
      count + values.length,
      { ...search, lower, upper },
    );
    return (yield* steps).x;
  }
  const closures = hasRing(design) ? openings(first).length : 0;
  /** The modelled level at values moved by `off`, and what it still lacks of a solution there. */
  interface Surrogate {
    readonly off: readonly number[];
    readonly re: Float64Array;
    readonly im: Float64Array;
  }
  const told = ({ off, re, im }: Surrogate, at: readonly number[]): SData | undefined => {
    const s = modelled(
      putAll(
        design,
        values,
        at.map((v, i) => v + off[i]),
      ),
      looks.freq,
    );
    return s && { ...s, re: s.re.map((v, i) => v + re[i]), im: s.im.map((v, i) => v + im[i]) };
  };
  /** What a surrogate misses. */
  const foretold = (by: Surrogate, at: readonly number[]): number => {
    const s = told(by, at);
    return s ? missing(s) : Infinity;
  };
  /** The copper near to some by which the surrogate reaches what is asked for. */
  function* built(by: Surrogate, from: readonly number[]): Steps<readonly number[]> {
    const { count } = looks;
    const steps = leastSquaresSteps(
      (at, out) => {
        const s = told(by, at);
        if (!s) return false;
        write(s, out);
        if (closures > 0) {
          const open = openings(resolveDesign(project, putAll(design, values, at)));
          for (let i = 0; i < closures; i++) out[count + i] = CLOSURE * (open[i] ?? 0);
        }
        values.forEach((v, i) => (out[count + closures + i] = (REST * (at[i] - from[i])) / v.reach));
        return out.every(Number.isFinite);
      },
      from,
      count + closures + values.length,
      { ...search, lower, upper },
    );
    return (yield* steps).x;
  }

  const steps: SolvedStep[] = [];
  const responses: ((at: Float64Array) => SData)[] = [];
  let off: readonly number[] = values.map(() => 0);
  let x: readonly number[] = values.map((v) => nowOf(v, first));
  let predicted: number | undefined;
  for (let k = 0; k < most; k++) {
    const part = (t: number) => 0.1 + (0.9 * (k + t)) / most;
    const copper = takeOver(design, values, x).design;
    const resolved = resolveDesign(project, copper);
    const subject = solvedSubject(resolved, layOut(resolved));
    if (!subject) throw refusals.unmade();
    const { samples } = yield* share(solver(subject, band), part(0), part(0.8));
    const joined = answer({ ...subject.rest, solved: { key: '', nodes: subject.nodes, samples } }, find);
    const solved = (at: Float64Array): SData => drive(joined.sample(at));
    const seen = solved(looks.freq);
    const missed = missing(seen);
    const like = yield* share(
      likeness(
        solved,
        x.map((v, i) => v + off[i]),
      ),
      part(0.8),
      part(0.9),
    );
    off = like.map((v, i) => v - x[i]);
    const near = modelled(putAll(design, values, like), looks.freq);
    if (!near) throw refusals.unmade();
    const surrogate = {
      off,
      re: seen.re.map((v, i) => v - near.re[i]),
      im: seen.im.map((v, i) => v - near.im[i]),
    };
    const left = Math.sqrt(
      surrogate.re.reduce((a, v, i) => a + v * v + surrogate.im[i] ** 2, 0) / surrogate.re.length,
    );
    steps.push({ design: copper, ...(predicted === undefined ? {} : { predicted }), missed, left });
    responses.push(solved);
    watch?.([...steps]);
    if (missed <= good || enough()) break;
    if (k > 0 && missed > PAYS * steps[k - 1].missed) break;
    if (k === most - 1) break;
    // From where it stands, and at first from where the modelled level would have it, corrected: it may stand far away.
    const starts = [x];
    if (k === 0) starts.push(aimed.map((v, i) => Math.min(upper[i], Math.max(lower[i], v - off[i]))));
    const found: (readonly number[])[] = [];
    for (const [i, start] of starts.entries())
      found.push(
        yield* share(
          built(surrogate, start),
          part(0.9 + (0.1 * i) / starts.length),
          part(0.9 + (0.1 * (i + 1)) / starts.length),
        ),
      );
    x = found.reduce((a, b) => (foretold(surrogate, b) < foretold(surrogate, a) ? b : a));
    predicted = foretold(surrogate, x);
  }
  const best = steps.reduce((a, s, i) => (s.missed < steps[a].missed ? i : a), 0);
  const centre = Float64Array.of(f0);
  const result = steps[best].design;
  return {
    design: result,
    moved: movedBetween(free ?? filterValues(design, first), resolveDesign(project, result)),
    before: steps[0].missed,
    after: steps[best].missed,
    ideal: solveIdeal(centre),
    was: responses[0](centre),
    is: responses[best](centre),
    solves: steps.length,
    steps,
    towards,
  };
}

/** What a free value is in a state of its design, SI. */
function nowOf(value: FreeValue, { values, pieces }: ResolvedDesign): number {
  const [what, id, face] = value.key.split(':');
  const found = what === 'value' ? values.get(id) : pieces.find((p) => p.id === id)?.values?.[face];
  // An adjustment that is left out is nothing.
  return found?.re ?? 0;
}

/** What a state differs in from where its free values began. */
const movedBetween = (free: readonly FreeValue[], to: ResolvedDesign): Retuned['moved'] =>
  free.flatMap((v) => {
    const [from, now] = [v.was ?? v.value, nowOf(v, to)];
    return Math.abs(now - from) < 1e-5 * v.reach
      ? []
      : [{ label: v.label, kind: v.kind ?? 'length', from, to: now }];
  });
