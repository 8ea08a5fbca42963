import {
  ProjectFileError,
  readProjectFile,
  readTouchstone,
  TouchstoneError,
  type ProjectFile,
} from '@ditch/core/formats';
import {
  dataFinder,
  frequencies,
  resolveDesign,
  sheetShapes,
  type DataBlock,
  type Design,
  type Project,
  type SheetBoard,
  type SheetShapeId,
} from '@ditch/core/network';
import { provideTables } from '@ditch/core/junctions';
import { junctionTables } from '@ditch/core/junctions/tables';
import type { MediumId, Substrate } from '@ditch/core/lines';
import type { Stack } from '@ditch/core/stack';
import type { FilterSpecification } from '@ditch/core/theory';
import { fieldSteps, slotFieldSteps, type SectionField } from '@ditch/core/section';
import { layOut, type Layout } from '@ditch/core/artwork';
import { answer, type Answering, type LevelId, type Subject } from '@ditch/core/levels';
import { pace } from '@ditch/core/numeric';
import {
  realiseSteps,
  waysTo,
  weigh,
  type Candidate,
  type Judgement,
  type Realisation,
  type RealisationWay,
} from '@ditch/core/candidates';
import { couplingReach, initialInputs, recipes, type Reach, type RecipeInputs } from '@ditch/core/recipes';
import { entryOf, readMatch, sharpenMatch, type MatchReading, type SData } from '@ditch/core/results';
import {
  bendingOf,
  profileOf,
  rangeOf,
  RetuneError,
  shareTowards,
  studies,
  walkSteps,
  type Bending,
  type Profile,
  type Reflection,
  type Retuned,
  type Seen,
  type StudyId,
  type Tunable,
  type Walked,
  type WalkRequest,
  type Watched,
} from '@ditch/core/studies';
import { turns, type JobContext, type Reading } from './turns';

export { Cancelled, type JobContext, type Reading } from './turns';

// Only here is a junction ever worked out: the page itself needs no tables.
provideTables(junctionTables);

/** What is asked of a level about one subject. */
export interface SimulateTask {
  readonly level: LevelId;
  readonly subject: Subject;
  readonly sweep?: { readonly start: number; readonly stop: number; readonly points: number };
  /** The match of port 1 nearest to a frequency (Hz), with its band at a level (dB), read off the sweep and made exact. */
  readonly match?: { readonly near: number; readonly target: number };
  /** Further frequencies of their own, Hz, ascending. */
  readonly at?: readonly number[];
}

export interface SimulateRequest {
  readonly tasks: readonly SimulateTask[];
  readonly data: readonly DataBlock[];
}

export interface Simulated {
  readonly swept?: SData;
  readonly match?: MatchReading;
  readonly exact?: SData;
}

/** One dimension of a line varied, the others as they are. */
export interface CurveRequest {
  readonly shape: SheetShapeId;
  readonly board: SheetBoard;
  readonly dimensions: readonly number[];
  /** Which of them. */
  readonly vary: number;
  readonly from: number;
  readonly to: number;
  readonly points: number;
}

/** What each mode is over that dimension (m). */
export interface SectionCurve {
  readonly x: Float64Array;
  readonly modes: readonly { readonly z0: Float64Array; readonly eeff: Float64Array }[];
}

/** Even and odd impedance of pairs over width and gap, both logarithmically spaced. */
export interface MapRequest {
  readonly board: SheetBoard;
  readonly widths: readonly number[];
  readonly gaps: readonly number[];
}
export interface PairMap {
  /** Row by row of the gaps. */
  readonly ze: Float64Array;
  readonly zo: Float64Array;
}

/** S-parameters of circuits over a linear sweep and at frequencies of their own, one result each. */
async function simulate(request: SimulateRequest, context: JobContext): Promise<Simulated[]> {
  const data = dataFinder(request.data);
  const takeTurns = turns(context);
  const results: Simulated[] = [];
  for (const { subject, sweep, match, at } of request.tasks) {
    const answering = answer(subject, data);
    const sample = (freq: Float64Array) =>
      pace(answering.sample(freq), (done) => takeTurns((results.length + done) / request.tasks.length));
    const swept = sweep && (await sample(frequencies(sweep.start, sweep.stop, sweep.points)));
    results.push({
      ...(swept && { swept }),
      ...(swept && match && { match: exactMatch(answering, swept, match.near, match.target) }),
      ...(at && { exact: await sample(Float64Array.from(at)) }),
    });
  }
  return results;
}

/** The match of port 1, between the samples of a sweep as exact as on them. */
function exactMatch({ at }: Answering, swept: SData, near: number, target: number): MatchReading | undefined {
  const entry = entryOf(swept, 0, 0);
  const reading = readMatch(entry, near, target);
  if (!reading || !at) return reading;
  const re = new Float64Array(swept.ports ** 2);
  const im = new Float64Array(swept.ports ** 2);
  return sharpenMatch(reading, entry, near, target, (f) => {
    at(f, re, im);
    return { re: re[0], im: im[0] };
  });
}

/** A line over logarithmically spaced values of one of its dimensions. */
async function sectionCurve(request: CurveRequest, context: JobContext): Promise<SectionCurve> {
  const { shape, board, dimensions, vary, from, to, points } = request;
  const x = new Float64Array(points);
  const modes = sheetShapes[shape].modes(board, dimensions).map(() => ({
    z0: new Float64Array(points),
    eeff: new Float64Array(points),
  }));
  const takeTurns = turns(context);
  for (let k = 0; k < points; k++) {
    x[k] = from * Math.pow(to / from, k / (points - 1));
    sheetShapes[shape]
      .modes(
        board,
        dimensions.map((d, i) => (i === vary ? x[k] : d)),
      )
      .forEach((point, m) => {
        modes[m].z0[k] = point.z0;
        modes[m].eeff[k] = point.eeff;
      });
    await takeTurns((k + 1) / points);
  }
  return { x, modes };
}

/** Pairs of every width and gap. */
async function pairMap({ board, widths, gaps }: MapRequest, context: JobContext): Promise<PairMap> {
  const count = widths.length * gaps.length;
  const ze = new Float64Array(count);
  const zo = new Float64Array(count);
  const takeTurns = turns(context);
  for (let k = 0; k < count; k++) {
    const dimensions = [widths[k % widths.length], gaps[Math.floor(k / widths.length)]];
    const [even, odd] = sheetShapes.pair.modes(board, dimensions);
    ze[k] = even.z0;
    zo[k] = odd.z0;
    await takeTurns((k + 1) / count);
  }
  return { ze, zo };
}

/** The field of a mode on a grid: of strips, or of the slots of a coplanar line. */
const sectionField = (
  request: { strips: Parameters<typeof fieldSteps> } | { slots: Parameters<typeof slotFieldSteps> },
  context: JobContext,
): Promise<SectionField> =>
  pace(
    'strips' in request ? fieldSteps(...request.strips) : slotFieldSteps(...request.slots),
    turns(context),
  );

/** Reads a Touchstone file; a large one takes long enough to freeze a page. */
async function touchstone(request: { text: string; ports: number | undefined }): Promise<Reading<SData>> {
  try {
    return { value: readTouchstone(request.text, request.ports).data };
  } catch (error) {
    if (error instanceof TouchstoneError) return { problem: error.message };
    throw error;
  }
}

/** Reads a project file. */
async function project(request: { text: string }): Promise<Reading<ProjectFile>> {
  try {
    return { value: readProjectFile(request.text) };
  } catch (error) {
    if (error instanceof ProjectFileError) return { problem: error.message };
    throw error;
  }
}

/** How tightly lines can be coupled on a board. */
const reach = (request: {
  medium: MediumId;
  substrate: Substrate;
  z0: number;
  leastGap: number;
  freq: number;
}): Promise<Reach[]> =>
  Promise.resolve(
    couplingReach(request.medium, request.substrate, request.z0, request.leastGap, request.freq),
  );

/** Where a search stands, as it is told while it runs. */
export interface SearchState extends Omit<Seen, 'design'> {
  /** The best state that was tried. */
  readonly best: Pick<Design, 'values' | 'pieces'>;
}

/** Runs a study of a design, and tells a {@link SearchState} where it is a search. @param request.seed looks over whole ranges first */
async function study(
  { project, design, study, seed }: { project: Project; design: Design; study: StudyId; seed?: number },
  context: JobContext,
): Promise<Reading<Retuned>> {
  let seen: Seen | undefined;
  const told = (): SearchState | undefined => {
    if (!seen) return undefined;
    const { design: best, ...rest } = seen;
    const { values, pieces } = best();
    return { ...rest, best: { values, pieces } };
  };
  try {
    const steps = studies[study].steps(project, design, {
      ...(seed !== undefined && { seed }),
      watch: (s) => (seen = s),
      enough: () => context.enough(),
    });
    return { value: await pace(steps, turns(context, told)) };
  } catch (error) {
    if (error instanceof RetuneError) return { problem: error.message };
    throw error;
  }
}

/** What bending its board does to a design. */
const bending = ({ project, design }: { project: Project; design: Design }): Promise<Bending | undefined> =>
  Promise.resolve(bendingOf(project, design));

/** The way from the load to port 1, or the arc of one piece. */
const walked = (request: WalkRequest & { readonly pointed?: string }, context: JobContext): Promise<Walked> =>
  pace(walkSteps(request, request.pointed), turns(context));

/** The share of a piece at which its arc ends nearest to a reflection. */
const towards = (
  request: WalkRequest & { readonly piece: string; readonly point: Reflection },
): Promise<number | undefined> => Promise.resolve(shareTowards(request, request.piece, request.point));

/** How the match follows each of some values. */
async function profiles(
  request: {
    project: Project;
    design: string;
    tunables: readonly Tunable[];
    points: number;
    /** The plot that is watched; absent: the first of those that suit the ports. */
    watched: Watched | undefined;
  },
  context: JobContext,
): Promise<Profile[]> {
  const takeTurns = turns(context);
  const out: Profile[] = [];
  for (const tunable of request.tunables) {
    out.push(
      profileOf(
        request.project,
        request.design,
        tunable,
        'modelled',
        rangeOf(tunable),
        request.points,
        request.watched,
      ),
    );
    await takeTurns(out.length / request.tunables.length);
  }
  return out;
}

/** Weighs every way to a recipe's goal. */
async function candidates(
  request: {
    project: Project;
    recipe: string;
    inputs: RecipeInputs;
    stack: string;
    medium: MediumId;
    judgement: Judgement;
  },
  context: JobContext,
): Promise<Candidate[]> {
  const recipe = recipes.get(request.recipe);
  const stack = request.project.stacks.find((s) => s.id === request.stack);
  if (!recipe || !stack) return [];
  const takeTurns = turns(context);
  const ways = waysTo(recipe, request.inputs);
  const out: Candidate[] = [];
  const place = {
    stack,
    medium: request.medium,
    newId: () => 'candidate',
    data: request.project.data,
  };
  for (const way of ways) {
    out.push(weigh(request.project, place, way, request.judgement));
    await takeTurns(out.length / ways.length);
  }
  return out;
}

/** The copper of a recipe as it begins, on a board; undefined where that board or frequency has none. */
async function preview(request: {
  project: Project;
  recipe: string;
  stack: Stack;
  medium: MediumId;
  freq: string;
}): Promise<Layout | undefined> {
  const { project, stack, medium, freq } = request;
  const recipe = recipes.get(request.recipe)!;
  try {
    const inputs = { ...initialInputs(recipe), freq };
    const design = recipe.design(inputs, { stack, medium, newId: () => 'preview', data: [] });
    return layOut(resolveDesign(project, design));
  } catch {
    // The project's own frequency or board may not be one; the recipe itself will say so.
    return undefined;
  }
}

/** Makes a filter one way. */
const realise = (
  {
    project,
    stack,
    medium,
    spec,
    way,
  }: {
    project: Project;
    stack: Stack;
    medium: MediumId;
    spec: FilterSpecification;
    way: RealisationWay;
  },
  context: JobContext,
): Promise<Realisation> =>
  pace(
    realiseSteps(project, { stack, medium, newId: () => 'realisation', data: [] }, spec, way),
    turns(context),
  );

/** The field solution comes when it is asked for. */
const solving = () => import('./solve');
type Solving = Awaited<ReturnType<typeof solving>>;

const survey: Solving['survey'] = async (request) => (await solving()).survey(request);
const estimate: Solving['estimate'] = async (...given) => (await solving()).estimate(...given);
const solve: Solving['solve'] = async (...given) => (await solving()).solve(...given);
const assist: Solving['assist'] = async (...given) => (await solving()).assist(...given);
const mesh: Solving['mesh'] = async (request) => (await solving()).mesh(request);
const flow: Solving['flow'] = async (...given) => (await solving()).flow(...given);
const designFlow: Solving['designFlow'] = async (...given) => (await solving()).designFlow(...given);

/** Families, spreads and what has copper solved again and again come when they are asked for. */
const studying = () => import('./studying');
type Studying = Awaited<ReturnType<typeof studying>>;

const family: Studying['family'] = async (...given) => (await studying()).family(...given);
const familyCopper: Studying['familyCopper'] = async (...given) => (await studying()).familyCopper(...given);
const familyFiles: Studying['familyFiles'] = async (...given) => (await studying()).familyFiles(...given);
const spread: Studying['spread'] = async (...given) => (await studying()).spread(...given);
const corner: Studying['corner'] = async (...given) => (await studying()).corner(...given);
const centre: Studying['centre'] = async (...given) => (await studying()).centre(...given);
const pieces: Studying['pieces'] = async (...given) => (await studying()).pieces(...given);
const backing: Studying['backing'] = async (...given) => (await studying()).backing(...given);
const backingFiles: Studying['backingFiles'] = async (request) => (await studying()).backingFiles(request);
const solvedRetune: Studying['solvedRetune'] = async (...given) => (await studying()).solvedRetune(...given);

// Readers of drawings come when one is read.
const drawings = () => import('./drawing');
const drawing: Awaited<ReturnType<typeof drawings>>['drawing'] = async (request) =>
  (await drawings()).drawing(request);

// What looks at designs as a whole comes with the first that is looked at so.
const examining = () => import('./examining');
type Examining = Awaited<ReturnType<typeof examining>>;
const examine: Examining['examine'] = async (request) => (await examining()).examine(request);
const reviewed: Examining['reviewed'] = async (request) => (await examining()).reviewed(request);

// Writers for shops come when one is asked for.
const making = () => import('./making');
type Making = Awaited<ReturnType<typeof making>>;
const board: Making['board'] = async (request) => (await making()).board(request);
const made: Making['made'] = async (request) => (await making()).made(request);

/** Long computations: each a function of plain data, run in a worker by name. */
export const jobs = {
  simulate,
  sectionCurve,
  pairMap,
  sectionField,
  reach,
  touchstone,
  drawing,
  examine,
  reviewed,
  board,
  made,
  project,
  study,
  bending,
  walked,
  towards,
  profiles,
  candidates,
  preview,
  realise,
  survey,
  estimate,
  solve,
  assist,
  mesh,
  flow,
  designFlow,
  family,
  familyCopper,
  familyFiles,
  spread,
  corner,
  centre,
  pieces,
  backing,
  backingFiles,
  solvedRetune,
};

export type Jobs = typeof jobs;
export type JobName = keyof Jobs;
export type JobRequest<N extends JobName> = Parameters<Jobs[N]>[0];
export type JobResult<N extends JobName> = Awaited<ReturnType<Jobs[N]>>;
