import { memberFiles } from '@ditch/core/formats';
import { layOut } from '@ditch/core/artwork';
import {
  NotSolvable,
  solvedSubject,
  type LiveId,
  type SolvedSubject,
  type Subject,
} from '@ditch/core/levels';
import { ConversionError } from '@ditch/core/results';
import {
  resolveDesign,
  solvedStates,
  type DataBlock,
  type Design,
  type FamilyAxis,
  type Plot,
  type Project,
} from '@ditch/core/network';
import { pace, type Steps } from '@ditch/core/numeric';
import { CopperError, type Accuracy } from '@ditch/core/planar';
import {
  centreSteps,
  combinations,
  cornerSteps,
  familyDataSteps,
  FamilyError,
  familySteps,
  liveResponse,
  memberAt,
  readFamily,
  RetuneError,
  solvedResponse,
  spreadSteps,
  ToleranceError,
  type Centred,
  type Corner,
  type FamilyCurves,
  type FamilyValues,
  type MemberResponse,
  type SpreadOptions,
  type SpreadSamples,
} from '@ditch/core/studies';
import {
  backingSteps,
  pieceSteps,
  retuneSolvedSteps,
  SizeError,
  type BackedData,
  type BackingOptions,
  type BackingState,
  type PieceDifference,
  type PieceDifferences,
  type SolvedRetuned,
  type SolvedStep,
} from '@ditch/core/studies/solved';
import { QuantityError } from '@ditch/core/units';
import { turns, type JobContext, type Reading } from './turns';
import { zipped } from './zipped';

/** What is wrong with a study, in words, and where that is known at what. */
export type Studied<T> = { readonly value: T } | { readonly problem: string; readonly at?: string | number };

async function studied<T>(steps: Steps<T>, turn: ReturnType<typeof turns>): Promise<Studied<T>> {
  try {
    return { value: await pace(steps, turn) };
  } catch (error) {
    if (error instanceof FamilyError) return { problem: error.message, at: error.axis };
    if (error instanceof SizeError) return { problem: error.message, at: error.key };
    if (error instanceof ToleranceError) return { problem: error.message, at: error.key };
    if (
      error instanceof RetuneError ||
      error instanceof QuantityError ||
      error instanceof ConversionError ||
      error instanceof NotSolvable ||
      error instanceof CopperError
    )
      return { problem: error.message };
    throw error;
  }
}

export interface FamilyRequest {
  readonly project: Project;
  readonly design: Design;
  readonly axes: readonly FamilyAxis[];
  /** Members answer at a level that follows by itself, or as they were solved: one each, or why there is none yet. */
  readonly from: LiveId | readonly (Subject | string)[];
}

const responseOf = (project: Project, from: FamilyRequest['from']): MemberResponse =>
  typeof from === 'string' ? liveResponse(project, from) : solvedResponse(project, from);

export interface Family {
  readonly axes: readonly FamilyValues[];
  /** The values of each member, an entry an axis. */
  readonly members: readonly (readonly number[])[];
  readonly curves: FamilyCurves;
}

/** A plot of every member of a family. */
export function family(
  {
    project,
    design,
    axes,
    from,
    plot,
    points,
  }: FamilyRequest & { readonly plot: Plot; readonly points: number },
  context: JobContext,
): Promise<Studied<Family>> {
  function* steps(): Steps<Family> {
    const read = readFamily(project, design, resolveDesign(project, design), axes);
    const curves = yield* familySteps(project, design, read, {
      respond: responseOf(project, from),
      plot,
      points,
    });
    return { axes: read, members: combinations(read), curves };
  }
  return studied(steps(), turns(context));
}

/** The copper of every member of a family, or why it cannot be solved. */
export function familyCopper(
  { project, design, axes }: Omit<FamilyRequest, 'from'>,
  context: JobContext,
): Promise<Studied<(SolvedSubject | string)[]>> {
  function* steps(): Steps<(SolvedSubject | string)[]> {
    const read = readFamily(project, design, resolveDesign(project, design), axes);
    const members = combinations(read);
    const out: (SolvedSubject | string)[] = [];
    for (const values of members) {
      try {
        const { resolved } = memberAt(project, design, read, values);
        out.push(
          solvedSubject(resolved, layOut(resolved)) ?? resolved.problems[0]?.message ?? 'it has an error',
        );
      } catch (error) {
        if (!(error instanceof NotSolvable || error instanceof FamilyError)) throw error;
        out.push(error.message);
      }
      yield out.length / members.length;
    }
    return out;
  }
  return studied(steps(), turns(context));
}

/** All members as Touchstone files with an index, in one zip file. */
export function familyFiles(
  {
    project,
    design,
    axes,
    from,
    wish,
    names,
  }: FamilyRequest & {
    readonly wish: Parameters<typeof memberFiles>[2];
    /** What the axes are called in the index. */
    readonly names: readonly string[];
  },
  context: JobContext,
): Promise<Studied<Uint8Array>> {
  function* steps(): Steps<Uint8Array> {
    const read = readFamily(project, design, resolveDesign(project, design), axes);
    const members = combinations(read);
    const all = yield* familyDataSteps(project, design, read, responseOf(project, from));
    return zipped(
      memberFiles(
        names,
        all.map((data, i) => ({ values: members[i], data })),
        wish,
        `${project.name}: ${design.name}, level ${typeof from === 'string' ? from : 'solved'}, `,
      ),
    );
  }
  return studied(steps(), turns(context));
}

interface Of {
  readonly project: Project;
  readonly design: Design;
}

/** Samples of a design as it comes out of the shop. */
export const spread = (
  { project, design, ...options }: Of & SpreadOptions,
  context: JobContext,
): Promise<Studied<SpreadSamples>> => studied(spreadSteps(project, design, options), turns(context));

/** The worst of the corners of all tolerances. */
export const corner = ({ project, design }: Of, context: JobContext): Promise<Studied<Corner | undefined>> =>
  studied(cornerSteps(project, design), turns(context));

/** Where the most of a design keeps its limits. */
export const centre = (
  { project, design, seed }: Of & { readonly seed: number },
  context: JobContext,
): Promise<Studied<Centred>> => studied(centreSteps(project, design, { seed }), turns(context));

/** Which piece makes the difference, and tells the {@link PieceDifference}s so far. */
export async function pieces(
  { project, design, accuracy }: Of & { readonly accuracy: Accuracy },
  context: JobContext,
): Promise<Studied<PieceDifferences | undefined>> {
  let so: readonly PieceDifference[] = [];
  return studied(
    pieceSteps(project, design, { accuracy, watch: (found) => (so = found) }),
    turns(context, () => so),
  );
}

/** Brings the solved response back by few solutions, and tells its {@link SolvedStep}s. */
export async function solvedRetune(
  {
    project,
    design,
    towards,
    accuracy,
  }: Of & { readonly towards: 'ideal' | 'limits'; readonly accuracy: Accuracy },
  context: JobContext,
): Promise<Reading<SolvedRetuned>> {
  let steps: readonly SolvedStep[] = [];
  const found = await studied(
    retuneSolvedSteps(project, design, {
      towards,
      accuracy,
      watch: (so) => (steps = so),
      enough: () => context.enough(),
    }),
    turns(context, () => steps),
  );
  return 'value' in found ? found : { problem: found.problem };
}

/** Solves pieces over ranges of their sizes, and tells its {@link BackingState}. */
export function backing(
  { project, design, ...options }: Of & Pick<BackingOptions, 'ids' | 'ranges' | 'accuracy' | 'tolerance'>,
  context: JobContext,
): Promise<Studied<BackedData>> {
  let state: BackingState | undefined;
  return studied(
    backingSteps(project, design, {
      ...options,
      watch: (so) => (state = so),
      enough: () => context.enough(),
    }),
    turns(context, () => state),
  );
}

/** Everything that was solved over sizes as Touchstone files with an index, in one zip file. */
export const backingFiles = ({ block }: { readonly block: DataBlock }): Promise<Uint8Array> =>
  Promise.resolve(
    zipped(
      memberFiles(
        block.over!.axes.map((a) => a.label),
        solvedStates(block),
        { format: 'ri' },
        `${block.name}, ${block.over!.accuracy}, `,
      ),
    ),
  );
