import { ProjectFileError, readProject, readTouchstone, TouchstoneError } from '@ditch/core/formats';
import {
  frequencies,
  networkOf,
  sampleNetwork,
  dataOf,
  type Circuit,
  type DataBlock,
  type Design,
  type Project,
} from '@ditch/core/network';
import { lineKinds, type LinePoint, type Medium, type Substrate } from '@ditch/core/lines';
import type { SData } from '@ditch/core/results';
import { RetuneError, retuneSteps, type Retuned } from '@ditch/core/studies';

/** What a running job may ask and tell. */
export interface JobContext {
  /** Gives waiting messages a turn; true when the job was cancelled. */
  pause(): Promise<boolean>;
  progress(done: number): void;
}

export class Cancelled extends Error {}

export interface SimulateRequest {
  readonly circuit: Circuit;
  readonly start: number;
  readonly stop: number;
  readonly points: number;
  readonly data: readonly DataBlock[];
}

export interface CurveRequest {
  readonly medium: Medium;
  readonly substrate: Substrate;
  readonly freq: number;
  /** Widths, m. */
  readonly from: number;
  readonly to: number;
  readonly points: number;
}

export interface ImpedanceCurve {
  readonly width: Float64Array;
  readonly z0: Float64Array;
  readonly eeff: Float64Array;
}

/** Points computed between two looks at the clock. */
const STRIDE = 128;
/** Milliseconds a job works before it lets messages in. */
const TURN = 25;

/**
 * Lets others have a turn when a job has worked long enough: tells its progress, and ends it when it was cancelled.
 * Returns without waiting, at the cost of a look at the clock, most of the time.
 */
function turns(context: JobContext): (done: number) => Promise<void> | undefined {
  let since = performance.now();
  return (done) => {
    if (performance.now() - since <= TURN) return undefined;
    context.progress(done);
    return context.pause().then((cancelled) => {
      if (cancelled) throw new Cancelled('cancelled');
      since = performance.now();
    });
  };
}

/** S-parameters of a circuit over a linear sweep. */
async function simulate(request: SimulateRequest, context: JobContext): Promise<SData> {
  const blocks = new Map(request.data.map((d) => [d.id, dataOf(d)]));
  const freq = frequencies(request.start, request.stop, request.points);
  const sampling = sampleNetwork(
    networkOf(request.circuit, (id) => blocks.get(id)),
    freq,
  );
  const takeTurns = turns(context);
  while (sampling.done < freq.length) {
    sampling.advance(sampling.done + STRIDE);
    await takeTurns(sampling.done / freq.length);
  }
  return sampling.data;
}

/** Impedance and effective permittivity over logarithmically spaced widths. */
async function impedanceCurve(request: CurveRequest, context: JobContext): Promise<ImpedanceCurve> {
  const { medium, substrate, freq, from, to, points } = request;
  const width = new Float64Array(points);
  const z0 = new Float64Array(points);
  const eeff = new Float64Array(points);
  const point: LinePoint = { z0: 0, eeff: 0, alphaConductor: 0, alphaDielectric: 0 };
  const takeTurns = turns(context);
  for (let k = 0; k < points; k++) {
    width[k] = from * Math.pow(to / from, k / (points - 1));
    lineKinds[medium].prepare(substrate, width[k]).impedanceAt(freq, point);
    z0[k] = point.z0;
    eeff[k] = point.eeff;
    await takeTurns((k + 1) / points);
  }
  return { width, z0, eeff };
}

/** What reading a file came to: its content, or what is wrong with it in words. */
export type Reading<T> = { readonly value: T } | { readonly problem: string };

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
async function project(request: { text: string }): Promise<Reading<Project>> {
  try {
    return { value: readProject(request.text) };
  } catch (error) {
    if (error instanceof ProjectFileError) return { problem: error.message };
    throw error;
  }
}

/** Brings a design's modelled response back to its ideal targets. */
async function retuneDesign(
  request: { project: Project; design: Design },
  context: JobContext,
): Promise<Reading<Retuned>> {
  const takeTurns = turns(context);
  try {
    const steps = retuneSteps(request.project, request.design);
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) return { value: step.value };
      await takeTurns(step.value);
    }
  } catch (error) {
    if (error instanceof RetuneError) return { problem: error.message };
    throw error;
  }
}

/** Long computations: each a function of plain data, run in a worker by name. */
export const jobs = { simulate, impedanceCurve, touchstone, project, retune: retuneDesign };

export type Jobs = typeof jobs;
export type JobName = keyof Jobs;
export type JobRequest<N extends JobName> = Parameters<Jobs[N]>[0];
export type JobResult<N extends JobName> = Awaited<ReturnType<Jobs[N]>>;
