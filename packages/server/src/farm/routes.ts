import { timingSafeEqual } from 'node:crypto';
import type { FileSolution } from '@ditch/core/formats';
import { Queue, QueueEvents } from 'bullmq';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { closeAll, connect } from './connect';
import type { SolutionJob } from './labour';
import {
  cancelKey,
  idOf,
  KEPT,
  MOST_BYTES,
  MOST_OPEN,
  PREFIX,
  schemas,
  SOLUTIONS,
  tooMuch,
  type Progress,
  type SolutionRequest,
  type Told,
} from './protocol';

export interface FarmOptions {
  readonly url: string;
  /** What clients have to show; absent on the loopback address. */
  readonly token?: string;
}

/** Milliseconds between two signs of life of a stream, and two looks at what it is about. */
const BEAT = 10_000;
const LOOK = 3000;
/** Times that a solution is tried whose worker was lost. */
const ATTEMPTS = 4;

const sameText = (a: string, b: string): boolean => {
  const [p, q] = [Buffer.from(a), Buffer.from(b)];
  return p.length === q.length && timingSafeEqual(p, q);
};

/** Names under which the loopback address is spoken to: others are somebody else's page. */
const LOOPBACK = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/;

/** Offers the queue: solutions by what they are of, told as they come. Nothing else of Redis can be reached. */
export async function offerFarm(server: FastifyInstance, { url, token }: FarmOptions): Promise<void> {
  const connection = connect(url);
  const queue = new Queue<SolutionJob, FileSolution>(SOLUTIONS, { connection, prefix: PREFIX });
  const heard = connect(url);
  const events = new QueueEvents(SOLUTIONS, { connection: heard, prefix: PREFIX });
  queue.on('error', () => undefined);
  events.on('error', () => undefined);
  /** Who listens to what, and who asked for it. */
  const listeners = new Map<string, Set<() => void>>();
  const open = new Map<string, Set<string>>();
  const wake = ({ jobId }: { jobId: string }) => listeners.get(jobId)?.forEach((look) => look());
  for (const name of ['active', 'progress', 'completed', 'failed', 'stalled', 'waiting'] as const)
    events.on(name, wake);
  /** What was given up by those who asked for it, as long as somebody still listens. */
  const givenUp = new Set<string>();
  /** Ends a solution that nobody waits for any more. */
  const endUnwanted = async (id: string): Promise<void> => {
    if (!givenUp.has(id) || listeners.has(id) || [...open.values()].some((ids) => ids.has(id))) return;
    givenUp.delete(id);
    const job = await queue.getJob(id);
    if (!job || (await job.isCompleted())) return;
    await connection.set(cancelKey(id), '1', 'EX', 600);
    // One that is being worked on cannot be removed: its worker sees the wish.
    await job.remove().catch(() => undefined);
  };
  const closed = ({ jobId }: { jobId: string }) => open.forEach((ids) => ids.delete(jobId));
  events.on('completed', closed);
  events.on('failed', closed);

  /** Streams that are open; the server would wait for their ends. */
  const streams = new Set<() => void>();
  server.addHook('preClose', (done) => {
    streams.forEach((leave) => leave());
    done();
  });
  server.addHook('onClose', () => closeAll([events, queue], [connection, heard]));

  const isAllowed = async (request: FastifyRequest, reply: FastifyReply) => {
    if (token === undefined) {
      if (!LOOPBACK.test(request.headers.host ?? ''))
        return reply.code(403).send({ error: 'this address is not spoken to by that name' });
      return;
    }
    const shown = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
    if (!sameText(shown, token)) return reply.code(401).send({ error: 'a token is needed' });
  };
  const clientOf = (request: FastifyRequest): string => request.ip;

  server.addSchema(schemas.project);
  await server.register(async (farm) => {
    farm.addHook('onRequest', isAllowed);

    farm.get('/api/farm/state', async () => {
      const [workers, waiting, active] = await Promise.all([
        queue.getWorkersCount(),
        queue.getWaitingCount(),
        queue.getActiveCount(),
      ]);
      return { workers, waiting, active };
    });

    farm.post<{ Body: SolutionRequest }>(
      '/api/farm/solutions',
      { bodyLimit: MOST_BYTES, schema: { body: schemas.request } },
      async (request, reply) => {
        const why = tooMuch(request.body);
        if (why !== undefined) return reply.code(413).send({ error: why });
        const id = idOf(request.body);
        const client = clientOf(request);
        const own = open.get(client) ?? new Set<string>();
        open.set(client, own);
        // Ends that were not heard of, as while Redis was away, do not count.
        if (own.size >= MOST_OPEN)
          for (const other of own) {
            const state = await (await queue.getJob(other))?.getState();
            if (state === undefined || state === 'completed' || state === 'failed') own.delete(other);
          }
        if (!own.has(id) && own.size >= MOST_OPEN)
          return reply.code(429).send({ error: `${MOST_OPEN} solutions are under way already` });
        givenUp.delete(id);
        await connection.del(cancelKey(id));
        const before = await queue.getJob(id);
        // What was given up or failed is asked for anew.
        if (before && (await before.isFailed())) await before.remove();
        const job = await queue.add('solve', request.body, {
          jobId: id,
          attempts: ATTEMPTS,
          backoff: { type: 'fixed', delay: 500 },
          removeOnComplete: { age: KEPT.done, count: 5000 },
          removeOnFail: { age: KEPT.failed },
        });
        if (!(await job.isCompleted())) own.add(id);
        return reply.code(202).send({ id });
      },
    );

    farm.get<{ Params: { id: string } }>('/api/farm/solutions/:id/events', async (request, reply) => {
      const { id } = request.params;
      if (!(await queue.getJob(id))) return reply.code(404).send({ error: 'there is no such solution' });
      reply.hijack();
      const out = reply.raw;
      out.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        'x-accel-buffering': 'no',
      });
      let [last, over, looking, again] = ['', false, false, false];
      const tell = (told: Told) => {
        const { event, ...data } = told;
        const text = JSON.stringify(data);
        if (`${event}${text}` === last) return;
        last = `${event}${text}`;
        out.write(`event: ${event}\ndata: ${text}\n\n`);
        if (event === 'done' || event === 'failed') end();
      };
      const look = async (): Promise<void> => {
        if (looking || over) {
          again = true;
          return;
        }
        looking = true;
        try {
          const job = await queue.getJob(id);
          const state = await job?.getState();
          if (!job || state === 'failed')
            tell({ event: 'failed', message: job?.failedReason ?? 'it was given up' });
          else if (state === 'completed') tell({ event: 'done', solution: job.returnvalue });
          else if (state === 'active') {
            const { done = 0, partial } = (job.progress as Progress | undefined) ?? { done: 0 };
            tell({ event: 'progress', done, ...(partial && { partial }) });
          } else tell({ event: 'waiting', ahead: await queue.getWaitingCount() });
        } catch {
          // Redis is away; the next look finds it again.
        }
        looking = false;
        if (again && !over) {
          again = false;
          void look();
        }
      };
      const beat = setInterval(() => out.write(': still here\n\n'), BEAT);
      const watch = setInterval(() => void look(), LOOK);
      const listener = () => void look();
      const mine = listeners.get(id) ?? new Set();
      listeners.set(id, mine.add(listener));
      function leave(): void {
        if (over) return;
        over = true;
        clearInterval(beat);
        clearInterval(watch);
        streams.delete(leave);
        mine.delete(listener);
        if (mine.size === 0) listeners.delete(id);
        out.end();
      }
      function end(): void {
        if (over) return;
        leave();
        void endUnwanted(id).catch(() => undefined);
      }
      streams.add(leave);
      out.on('close', end);
      await look();
    });

    farm.delete<{ Params: { id: string } }>('/api/farm/solutions/:id', async (request, reply) => {
      const { id } = request.params;
      open.get(clientOf(request))?.delete(id);
      givenUp.add(id);
      await endUnwanted(id);
      return reply.code(204).send();
    });
  });
}
