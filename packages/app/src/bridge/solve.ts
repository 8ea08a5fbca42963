import { dataFinder, resolveDesign, type DataBlock, type Design, type Project } from '@ditch/core/network';
import { layOut } from '@ditch/core/artwork';
import { NotSolvable, solvedSubject, sweepOf, wavesInto, type SolvedSubject } from '@ditch/core/levels';
import { pace, type Complex, type Sample } from '@ditch/core/numeric';
import {
  cornersOf,
  CopperError,
  estimateSteps,
  extended,
  meshErrorSteps,
  meshOf,
  prepareSteps,
  trial,
  type Accuracy,
  type Band,
  type Copper,
  type Estimates,
  type Flow,
  type KeptSolution,
  type Prepared,
} from '@ditch/core/planar';
import { turns, type JobContext, type Reading } from './turns';

/** The copper of a design as the field solution sees it, or why it cannot be solved. */
export function survey({
  project,
  design,
}: {
  project: Project;
  design: Design;
}): Promise<Reading<SolvedSubject | undefined>> {
  try {
    const resolved = resolveDesign(project, design);
    return Promise.resolve({ value: solvedSubject(resolved, layOut(resolved)) });
  } catch (error) {
    if (error instanceof NotSolvable) return Promise.resolve({ problem: error.message });
    throw error;
  }
}

/** Seconds of the fixed calculation, the best of a few. */
function slowness(): number {
  let best = Infinity;
  for (let i = 0; i < 4; i++) {
    const from = performance.now();
    trial();
    best = Math.min(best, (performance.now() - from) / 1000);
  }
  return best;
}

/** What solving copper would take. */
export const estimate = (
  {
    copper,
    band,
    workers,
    asked,
  }: { copper: Copper; band: Band; workers: number; asked: readonly Accuracy[] },
  context: JobContext,
): Promise<Estimates> => pace(estimateSteps(copper, band, slowness(), workers, asked), turns(context));

export interface SolveRequest {
  readonly copper: Copper;
  readonly band: Band;
  readonly accuracy: Accuracy;
}

/** What a solution tells while it runs: all samples by now. */
export type SolveState = Pick<
  KeptSolution,
  'samples' | 'error' | 'unknowns' | 'ports' | 'resonances' | 'warnings'
>;

const words = (error: unknown): string => {
  if (error instanceof CopperError) return error.message;
  // Both the arrays of the page and the memory of the kernels say so.
  if (error instanceof RangeError) return 'there is not so much memory';
  throw error;
};

/** The other end of a solution: what is asked of it, frequency by frequency. */
type Asked = number | 'end';

/**
 * Solves copper over a band, on from what is known of it. With a helper that solves other frequencies meanwhile the two share
 * them; until that is ready nobody waits for it. Tells a {@link SolveState}.
 */
export async function solve(
  {
    copper,
    band,
    accuracy,
    known,
    helper,
  }: SolveRequest & { known: readonly Sample[]; helper?: MessagePort },
  context: JobContext,
): Promise<Reading<SolveState>> {
  const takeTurns = turns(context);
  try {
    const prepared = await pace(prepareSteps(copper, band, accuracy), (done) => takeTurns(0.3 * done));
    const { unknowns, ports, resonances, warnings } = prepared;
    const helping = helper && helped(helper);
    const plan = sweepOf(band, accuracy, known, helping ? 2 : 1);
    let samples: readonly Sample[] = known;
    let error = Infinity;
    const told = (): SolveState => ({ samples, error, unknowns, ports, resonances, warnings });
    for (let step = plan.next(); ;) {
      if (step.done) {
        samples = step.value.samples;
        // The curves stand; what the mesh makes of them is still to be said.
        const meshed = await pace(meshErrorSteps(copper, band, accuracy, samples), (done) =>
          takeTurns(0.9 + 0.1 * done),
        );
        error = Math.max(step.value.error, meshed);
        return { value: told() };
      }
      const { wanted, soFar, done } = step.value;
      if (soFar) [samples, error] = [soFar.samples, soFar.error];
      context.progress(0.3 + 0.6 * done, told);
      if (await context.pause()) return { value: told() };
      const other = wanted.length > 1 ? helping?.ask(wanted[1]) : undefined;
      const own = [prepared.at(wanted[0])];
      const found = other ? await other : undefined;
      step = plan.next(found ? [...own, found] : own);
    }
  } catch (error) {
    return { problem: words(error) };
  } finally {
    // It has nothing more to do; a message that is under way still arrives.
    helper?.postMessage('end');
  }
}

/** A helper as it is asked: undefined as long as it is not ready. */
function helped(port: MessagePort): { ask(f: number): Promise<Sample> | undefined } {
  let ready = false;
  let answer: ((sample: Sample) => void) | undefined;
  port.onmessage = ({ data }: MessageEvent<Sample | 'ready'>) => {
    if (data === 'ready') ready = true;
    else answer?.(data);
  };
  return {
    ask: (f) =>
      ready
        ? new Promise((resolve) => {
            answer = resolve;
            port.postMessage(f satisfies Asked);
          })
        : undefined,
  };
}

/** What was to be helped with is done already. */
class Ended extends Error {}

/** Helps with a solution until it is ended. */
export async function assist(
  { copper, band, accuracy, port }: SolveRequest & { port: MessagePort },
  context: JobContext,
): Promise<void> {
  const takeTurns = turns(context);
  let ended = false;
  port.onmessage = ({ data }: MessageEvent<Asked>) => {
    if (data === 'end') ended = true;
  };
  let prepared: Prepared;
  try {
    prepared = await pace(prepareSteps(copper, band, accuracy), (done) => {
      if (ended) throw new Ended();
      return takeTurns(done);
    });
  } catch (error) {
    // Whoever is helped says it, or needed no help.
    if (!(error instanceof Ended)) words(error);
    return;
  }
  await new Promise<void>((resolve) => {
    port.onmessage = ({ data: f }: MessageEvent<Asked>) => {
      if (f === 'end') resolve();
      else port.postMessage(prepared.at(f));
    };
    port.postMessage('ready');
  });
  port.close();
}

/** A mesh to be looked at. */
export interface Meshed extends Pick<Flow, 'corners' | 'first'> {
  readonly unknowns: number;
}

/** The mesh of copper: cells by their corners. */
export function mesh({ copper, band, accuracy }: SolveRequest): Promise<Reading<Meshed>> {
  try {
    const found = meshOf(extended(copper), band.stop, accuracy);
    return Promise.resolve({ value: { ...cornersOf(found), unknowns: found.bases.length } });
  } catch (error) {
    return Promise.resolve({ problem: words(error) });
  }
}

/** The current on the copper of a design at one frequency (Hz) with waves sent into the design's ports, sqrt(W). */
export async function flow(
  request: {
    readonly subject: SolvedSubject;
    readonly data: readonly DataBlock[];
    readonly f: number;
    readonly accuracy: Accuracy;
    readonly drive: readonly Complex[];
  },
  context: JobContext,
): Promise<Reading<Flow>> {
  const { subject, f, accuracy } = request;
  try {
    const prepared = await pace(
      prepareSteps(subject.copper, { start: f, stop: f }, accuracy),
      turns(context),
    );
    return {
      value: prepared.flow(f, wavesInto(subject, dataFinder(request.data), prepared.at(f), request.drive)),
    };
  } catch (error) {
    return { problem: words(error) };
  }
}

/** The current on a design's copper at its design frequency, with a wave of 1 W into port 1. */
export async function designFlow(
  request: { readonly project: Project; readonly design: Design; readonly accuracy: Accuracy },
  context: JobContext,
): Promise<Reading<Flow>> {
  const { project, design, accuracy } = request;
  const resolved = resolveDesign(project, design);
  try {
    const subject = solvedSubject(resolved, layOut(resolved));
    if (!subject || resolved.f0 === undefined) return { problem: 'the design has errors' };
    const ports = resolved.pieces.filter((p) => p.kind === 'port').length;
    const drive = Array.from({ length: ports }, (_, i) => ({ re: i === 0 ? 1 : 0, im: 0 }));
    return await flow({ subject, data: project.data, f: resolved.f0, accuracy, drive }, context);
  } catch (error) {
    return { problem: words(error) };
  }
}
