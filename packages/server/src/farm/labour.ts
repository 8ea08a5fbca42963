import { sweepOf } from '@ditch/core/levels';
import { solutionFrom, solutionTo, type FileSolution } from '@ditch/core/formats';
import { FIRST_CURVE, SOLVER, type KeptSolution } from '@ditch/core/planar';
import type { Sample } from '@ditch/core/numeric';
import { Queue, QueueEvents, UnrecoverableError, Worker, type Job } from 'bullmq';
import { Computer, Final } from './computer';
import { closeAll, connect } from './connect';
import {
  cancelKey,
  FREQUENCIES,
  PREFIX,
  requestKey,
  SOLUTIONS,
  solvable,
  type Progress,
  type SolutionRequest,
} from './protocol';
import type { Facts } from './thread';

/** A solution as it waits in the queue, with what was solved of it before it was given back. */
export interface SolutionJob extends SolutionRequest {
  readonly known?: FileSolution;
}

interface FrequencyJob {
  readonly id: string;
  readonly f: number;
}
type FrequencyAnswer = { readonly x: number; readonly re: readonly number[]; readonly im: readonly number[] };

/** Frequencies of one solution solved at once, at most. */
const AT_ONCE = 4;
/** Unknowns below which help costs more than it brings. */
const WORTH = 250;
/** Milliseconds between two times that what stands is told, and stored for whoever goes on with it. */
const TELL = 400;
const STORE = 3000;
/** Milliseconds that a worker may not be heard of before its work is given to another. */
const LOCK = 20_000;
/** Milliseconds that help is waited for, and between two looks whether somebody is at it. */
const HELP = 10 * 60_000;
const AGAIN = 2000;

/** Everything a worker of the farm is: it takes solutions, and frequencies of others' solutions while it has none. */
export interface Labour {
  close(): Promise<void>;
}

export interface LabourOptions {
  readonly url: string;
  /** File that computes where it is no main thread. */
  readonly program: URL;
  readonly log: (line: string) => void;
  /** Milliseconds without a sign after which work is given to another. */
  readonly lock?: number;
}

export function startLabour({ url, program, log, lock = LOCK }: LabourOptions): Labour {
  const connection = connect(url);
  const computer = new Computer(program);
  const options = { connection, prefix: PREFIX };
  const helpers = new Queue<FrequencyJob, FrequencyAnswer>(FREQUENCIES, options);
  const solutions = new Queue<SolutionJob, FileSolution>(SOLUTIONS, options);
  const heard = connect(url);
  const helped = new QueueEvents(FREQUENCIES, { connection: heard, prefix: PREFIX });
  const timing = { lockDuration: lock, stalledInterval: lock / 2, maxStalledCount: 5 };

  const isCancelled = async (id: string) => (await connection.exists(cancelKey(id))) === 1;

  /** Others without work of their own. */
  async function idle(): Promise<number> {
    try {
      const [all, busy] = await Promise.all([solutions.getWorkersCount(), solutions.getActiveCount()]);
      return Math.max(0, all - busy);
    } catch {
      // Some queues do not say who is connected.
      return 0;
    }
  }

  async function solve(job: Job<SolutionJob, FileSolution>): Promise<FileSolution> {
    const id = job.id!;
    const { known: before, ...request } = job.data;
    const { copper, band, accuracy } = solvable(request);
    const from = performance.now();
    const known = before ? solutionFrom(before).samples : [];
    await connection.set(requestKey(id), JSON.stringify(request), 'EX', 3600);
    // It is seen also while nothing else would be asked of Redis.
    const watch = setInterval(() => {
      void isCancelled(id).then(
        (yes) => yes && computer.stop('cancelled'),
        () => undefined,
      );
    }, 500);
    const told = (samples: readonly Sample[], facts: Facts, error: number, complete: boolean): FileSolution =>
      solutionTo({
        copper,
        ...band,
        accuracy,
        ...facts,
        samples,
        error,
        complete,
        solver: SOLVER,
        seconds: (before?.seconds ?? 0) + (performance.now() - from) / 1000,
      } satisfies KeptSolution);
    try {
      if (await isCancelled(id)) throw new UnrecoverableError('cancelled');
      const facts = await computer.ask<Facts>({ kind: 'prepare', id, request });
      const atOnce = facts.unknowns < WORTH ? 1 : Math.min(AT_ONCE, 1 + (await idle()));
      const plan = sweepOf(band, accuracy, known, atOnce);
      let [lastTold, lastStored] = [0, performance.now()];
      for (let step = plan.next(); ;) {
        if (step.done) {
          const { samples, error } = step.value;
          const meshed = await computer.ask<number>({ kind: 'mesh', id, request, samples });
          return told(samples, facts, Math.max(error, meshed), true);
        }
        const { wanted, soFar, done } = step.value;
        const now = performance.now();
        if (now - lastTold > TELL) {
          lastTold = now;
          const partial =
            soFar && soFar.samples.length >= FIRST_CURVE
              ? told(soFar.samples, facts, soFar.error, false)
              : undefined;
          await job.updateProgress({
            done: 0.3 + 0.6 * done,
            ...(partial && { partial }),
          } satisfies Progress);
          if (partial && now - lastStored > STORE) {
            lastStored = now;
            await job.updateData({ ...request, known: partial });
          }
        }
        step = plan.next(await together(id, wanted.slice(0, atOnce)));
      }
    } catch (error) {
      if (await isCancelled(id).catch(() => false)) throw new UnrecoverableError('cancelled');
      if (error instanceof Final) throw new UnrecoverableError(error.message);
      throw error;
    } finally {
      clearInterval(watch);
    }
  }

  /** Solves some frequencies of one copper, the first here, the others by whoever has nothing else to do. */
  async function together(id: string, wanted: readonly number[]): Promise<Sample[]> {
    const [first, ...others] = wanted;
    const asked = await Promise.all(
      others.map((f) =>
        helpers.add(
          'at',
          { id, f },
          { removeOnComplete: { age: 600 }, removeOnFail: { age: 600 }, attempts: 1 },
        ),
      ),
    );
    const at = (f: number) => computer.ask<Sample>({ kind: 'at', id, f });
    const out = [await at(first)];
    for (const [i, job] of asked.entries()) out.push((await helpWith(job)) ?? (await at(others[i])));
    return out;
  }

  /** What another worker makes of a frequency; undefined where nobody takes it, or whoever took it is gone. */
  async function helpWith(job: Job<FrequencyJob, FrequencyAnswer>): Promise<Sample | undefined> {
    for (const end = Date.now() + HELP; Date.now() < end;) {
      if (!(await job.isActive()) && !(await job.isCompleted())) {
        await job.remove().catch(() => undefined);
        return undefined;
      }
      const answer = await job.waitUntilFinished(helped, AGAIN).catch(() => undefined);
      if (answer) return { x: answer.x, re: Float64Array.from(answer.re), im: Float64Array.from(answer.im) };
    }
    return undefined;
  }

  /** Solves one frequency of a solution that another worker has. */
  async function help({ data: { id, f } }: Job<FrequencyJob, FrequencyAnswer>): Promise<FrequencyAnswer> {
    const text = await connection.get(requestKey(id));
    if (text === null) throw new UnrecoverableError('the copper is not there any more');
    const request = JSON.parse(text) as SolutionRequest;
    await computer.ask<Facts>({ kind: 'prepare', id, request });
    const { x, re, im } = await computer.ask<Sample>({ kind: 'at', id, f });
    return { x, re: Array.from(re), im: Array.from(im) };
  }

  const helper = new Worker<FrequencyJob, FrequencyAnswer>(FREQUENCIES, help, {
    ...options,
    ...timing,
    concurrency: 1,
  });
  const worker = new Worker<SolutionJob, FileSolution>(
    SOLUTIONS,
    async (job) => {
      // With work of its own it helps nobody.
      await helper.pause(true);
      try {
        return await solve(job);
      } finally {
        void helper.resume();
      }
    },
    {
      ...options,
      ...timing,
      concurrency: 1,
    },
  );
  for (const one of [worker, helper]) one.on('error', () => undefined);
  helped.on('error', () => undefined);
  helper.on('completed', (job) => log(`helps with ${job.data.id}`));
  worker.on('active', (job) => log(`takes ${job.id}`));
  worker.on('completed', (job) => log(`has solved ${job.id}`));
  worker.on('failed', (job, error) => log(`gives up ${job?.id}: ${error.message}`));
  return {
    async close() {
      computer.stop('the worker ends');
      await closeAll([{ close: () => worker.close(true) }, { close: () => helper.close(true) }], []);
      await closeAll([helped, helpers, solutions], [connection, heard]);
    },
  };
}
