import type { DataBlock } from '@ditch/core/network';

/** A block of data in a message to a worker: whole the first time, later its number alone. */
interface Lent {
  readonly lent: number;
  readonly block?: DataBlock;
  /** What was given before is given no more. */
  readonly anew?: true;
}

/** Blocks that a worker keeps at most. */
const MOST = 64;

const numbers = new WeakMap<DataBlock, number>();
let next = 1;

/** A request with other data, where it comes with any: its own, or that of its project. */
function withData<A, B>(request: unknown, swap: (data: readonly A[]) => readonly B[]): unknown {
  if (typeof request !== 'object' || request === null) return request;
  const { data, project } = request as { data?: unknown; project?: { data?: unknown } | null };
  const own = Array.isArray(data);
  const whole = Array.isArray(project?.data);
  if (!own && !whole) return request;
  return {
    ...request,
    ...(own && { data: swap(data as A[]) }),
    ...(whole && { project: { ...project, data: swap(project.data as A[]) } }),
  };
}

/**
 * A request as it is sent: measured and solved data does not change and is large; it goes to a worker once, and not with
 * every step of a hand.
 * @param given numbers of the blocks that the worker has
 */
export const lend = (request: unknown, given: Set<number>): unknown =>
  withData(request, (data: readonly DataBlock[]) =>
    data.map((block): Lent => {
      let lent = numbers.get(block);
      if (lent === undefined) numbers.set(block, (lent = next++));
      if (given.has(lent)) return { lent };
      const anew = given.size >= MOST;
      if (anew) given.clear();
      given.add(lent);
      return { lent, block, ...(anew && { anew }) };
    }),
  );

/**
 * The request as it was meant; one that was sent as it is stays so.
 * @param kept blocks that were given before, by their numbers
 */
export const borrowed = (request: unknown, kept: Map<number, DataBlock>): unknown =>
  withData(request, (data: readonly (Lent | DataBlock)[]) =>
    data.map((sent): DataBlock => {
      if (!('lent' in sent)) return sent;
      if (sent.anew) kept.clear();
      if (sent.block) kept.set(sent.lent, sent.block);
      return kept.get(sent.lent)!;
    }),
  );
