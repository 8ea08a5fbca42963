import { zipSync } from 'fflate';
import { responseWriters, writeCsv, type NumberFormat } from '@ditch/core/formats';
import { NotSolvable, type LiveId } from '@ditch/core/levels';
import { ConversionError } from '@ditch/core/results';
import type { Design, FamilyAxis, Plot, Project } from '@ditch/core/network';
import { resolveDesign } from '@ditch/core/network';
import { pace, type Steps } from '@ditch/core/numeric';
import { CopperError, type Accuracy } from '@ditch/core/planar';
import {
  centreSteps,
  combinations,
  cornerSteps,
  familyDataSteps,
  FamilyError,
  familySteps,
  readFamily,
  RetuneError,
  spreadSteps,
  ToleranceError,
  type Centred,
  type Corner,
  type FamilyCurves,
  type FamilyValues,
  type SpreadOptions,
  type SpreadSamples,
} from '@ditch/core/studies';
import {
  pieceSteps,
  retuneSolvedSteps,
  type PieceDifference,
  type PieceDifferences,
  type SolvedRetuned,
  type SolvedStep,
} from '@ditch/core/studies/solved';
import { QuantityError } from '@ditch/core/units';
import { turns, type JobContext, type Reading } from './turns';

/** What is wrong with a study, in words, and where that is known at what. */
export type Studied<T> = { readonly value: T } | { readonly problem: string; readonly at?: string | number };

async function studied<T>(steps: Steps<T>, turn: ReturnType<typeof turns>): Promise<Studied<T>> {
  try {
    return { value: await pace(steps, turn) };
  } catch (error) {
    if (error instanceof FamilyError) return { problem: error.message, at: error.axis };
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
  readonly level: LiveId;
}

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
    level,
    plot,
    points,
  }: FamilyRequest & { readonly plot: Plot; readonly points: number },
  context: JobContext,
): Promise<Studied<Family>> {
  function* steps(): Steps<Family> {
    const read = readFamily(project, design, resolveDesign(project, design), axes);
    const curves = yield* familySteps(project, design, read, { level, plot, points });
    return { axes: read, members: combinations(read), curves };
  }
  return studied(steps(), turns(context));
}

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** All members as Touchstone files with an index, in one zip file. */
export function familyFiles(
  {
    project,
    design,
    axes,
    level,
    format,
    names,
  }: FamilyRequest & {
    readonly format: NumberFormat;
    /** What the axes are called in the index. */
    readonly names: readonly string[];
  },
  context: JobContext,
): Promise<Studied<Uint8Array>> {
  function* steps(): Steps<Uint8Array> {
    const read = readFamily(project, design, resolveDesign(project, design), axes);
    const members = combinations(read);
    const all = yield* familyDataSteps(project, design, read, level);
    const files: Record<string, Uint8Array> = {};
    const listed: string[] = [];
    all.forEach((data, i) => {
      const differ = data.z0.some((z) => z.re !== data.z0[0].re || z.im !== data.z0[0].im);
      const writer = responseWriters[differ ? 'touchstone-2' : 'touchstone-1'];
      const name = `${String(i + 1).padStart(3, '0')}.${writer.suffix(data.ports)}`;
      const told = members[i].map((v, a) => `${names[a]}=${v}`).join(', ');
      files[name] = bytes(
        writer.write(data, {
          format,
          comments: [`${project.name}: ${design.name}, level ${level}, ${told}`],
        }),
      );
      listed.push(name);
    });
    files['index.csv'] = bytes(
      writeCsv([
        { name: 'member', values: members.map((_, i) => i + 1) },
        ...read.map((_axis, a) => ({ name: names[a], values: members.map((m) => m[a]) })),
        { name: 'file', values: listed },
      ]),
    );
    return zipSync(files);
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
