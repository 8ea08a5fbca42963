import { createHash } from 'node:crypto';
import { copperFrom, type FileCopper, type FileSolution } from '@ditch/core/formats';
import { projectSchema } from '@ditch/core/formats/schema';
import { SOLVER, type Accuracy, type Band, type Copper } from '@ditch/core/planar';

/** Copper to be solved, as it is sent: nothing of it says whose it is or what it is called. */
export interface SolutionRequest {
  readonly copper: FileCopper;
  readonly start: number;
  readonly stop: number;
  readonly accuracy: Accuracy;
}

/** What a client is told of a solution. */
export type Told =
  | { readonly event: 'waiting'; readonly ahead: number }
  | { readonly event: 'progress'; readonly done: number; readonly partial?: FileSolution }
  | { readonly event: 'done'; readonly solution: FileSolution }
  | { readonly event: 'failed'; readonly message: string };

/** What a solution is told of while it is worked on. */
export interface Progress {
  readonly done: number;
  readonly partial?: FileSolution;
}

/** Queues by name, all below one prefix. */
export const PREFIX = 'ditch';
export const SOLUTIONS = 'solutions';
export const FREQUENCIES = 'frequencies';

/** Bytes of a request at most, and corners of its copper. */
export const MOST_BYTES = 4_000_000;
export const MOST_CORNERS = 20_000;
/** Solutions that one client may have under way or waiting. */
export const MOST_OPEN = 64;
/** Seconds after which results are forgotten, and what failed. */
export const KEPT = { done: 24 * 3600, failed: 3600 } as const;

const PROJECT = 'ditch-project-2';

/** Schemas of what is sent, of the same parts that project files consist of. */
export const schemas = {
  project: projectSchema,
  request: {
    type: 'object',
    required: ['copper', 'start', 'stop', 'accuracy'],
    additionalProperties: false,
    properties: {
      copper: { $ref: `${PROJECT}#/definitions/solution/properties/copper` },
      start: { type: 'number', exclusiveMinimum: 0, maximum: 1e12 },
      stop: { type: 'number', exclusiveMinimum: 0, maximum: 1e12 },
      accuracy: { enum: ['draft', 'normal', 'fine'] },
    },
  },
} as const;

/** Numbers as they count for what is the same: tenths of a nanometre. */
const rounded = (_key: string, value: unknown): unknown =>
  typeof value === 'number' ? Number(value.toPrecision(12)) : value;

/** What a solution goes by: the same copper, band and accuracy have the same, whoever asks. */
export const idOf = ({ copper, start, stop, accuracy }: SolutionRequest): string =>
  createHash('sha256')
    .update(JSON.stringify([copper, start, stop, accuracy, SOLVER], rounded))
    .digest('hex')
    .slice(0, 40);

/** Where the request of a solution is kept for those who help with it, and the wish that it be given up. */
export const requestKey = (id: string): string => `${PREFIX}:request:${id}`;
export const cancelKey = (id: string): string => `${PREFIX}:cancel:${id}`;

export const solvable = ({
  copper,
  start,
  stop,
  accuracy,
}: SolutionRequest): { readonly copper: Copper; readonly band: Band; readonly accuracy: Accuracy } => ({
  copper: copperFrom(copper),
  band: { start, stop },
  accuracy,
});

/** Why a request is too much; undefined of one that is not. */
export function tooMuch({ copper, start, stop }: SolutionRequest): string | undefined {
  const corners = copper.polygons.reduce((n, p) => n + p.length, 0);
  if (corners > MOST_CORNERS) return `copper of ${corners} corners is more than ${MOST_CORNERS}`;
  if (stop < start) return 'the band ends before it begins';
  return undefined;
}
