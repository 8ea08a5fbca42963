import { parentPort } from 'node:worker_threads';
import type { Sample } from '@ditch/core/numeric';
import { CopperError, meshErrorSteps, prepareSteps, type Prepared } from '@ditch/core/planar';
import { solvable, type SolutionRequest } from './protocol';

/** What the thread that computes is asked. */
export type Question =
  | { readonly kind: 'prepare'; readonly id: string; readonly request: SolutionRequest }
  | { readonly kind: 'at'; readonly id: string; readonly f: number }
  | {
      readonly kind: 'mesh';
      readonly id: string;
      readonly request: SolutionRequest;
      readonly samples: readonly Sample[];
    };
export type Answer =
  | { readonly value: unknown }
  /** @param final it would be so again */
  | { readonly problem: string; readonly final: boolean };

/** What is said of copper once it is prepared. */
export type Facts = Pick<Prepared, 'unknowns' | 'ports' | 'resonances' | 'warnings'>;

/** Copper that stays prepared, the latest last. */
const KEPT = 2;
const prepared = new Map<string, Prepared>();

function finished<T>(steps: Generator<unknown, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

function answer(question: Question): unknown {
  if (question.kind === 'at') {
    const known = prepared.get(question.id);
    if (!known) throw new Error('this copper is not prepared here');
    return known.at(question.f);
  }
  const { copper, band, accuracy } = solvable(question.request);
  if (question.kind === 'mesh') return finished(meshErrorSteps(copper, band, accuracy, question.samples));
  let own = prepared.get(question.id);
  if (!own) {
    while (prepared.size >= KEPT) prepared.delete(prepared.keys().next().value!);
    own = finished(prepareSteps(copper, band, accuracy));
    prepared.set(question.id, own);
  }
  const { unknowns, ports, resonances, warnings } = own;
  return { unknowns, ports, resonances, warnings } satisfies Facts;
}

/** Computes what it is asked, one after the other, so that the thread beside it keeps its locks. */
export function compute(): void {
  parentPort!.on('message', ({ n, question }: { n: number; question: Question }) => {
    let told: Answer;
    try {
      told = { value: answer(question) };
    } catch (error) {
      const final = error instanceof CopperError || error instanceof RangeError;
      told = {
        problem: error instanceof RangeError ? 'there is not so much memory' : (error as Error).message,
        final,
      };
    }
    parentPort!.postMessage({ n, told });
  });
}
