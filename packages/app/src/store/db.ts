import Dexie, { type EntityTable } from 'dexie';
import { upToDate } from '@ditch/core/formats';
import type { DataBlock, Project } from '@ditch/core/network';
import type { KeptSolution } from '@ditch/core/planar';
import type { Simulated } from '../bridge/jobs';

export interface StoredProject {
  readonly id: string;
  readonly name: string;
  /** Milliseconds since 1970. */
  readonly modified: number;
  /** Counts every write, so that a tab sees that another one wrote. */
  readonly revision: number;
  readonly project: Project;
}

export interface StoredCheckpoint {
  readonly id: string;
  readonly projectId: string;
  readonly name: string;
  readonly created: number;
  readonly project: Project;
}

/** Which write of a project was the last: small, since every write looks here whether another tab was there before. */
export interface Written {
  readonly id: string;
  /** That of the project. */
  readonly revision: number;
  /** The revision at which the history was written that belongs to it, 0 where there is none. */
  readonly history: number;
}

/** What can be undone and done again in a project, as it was at one of its revisions. */
export interface StoredHistory {
  readonly id: string;
  readonly revision: number;
  readonly past: readonly StoredStep[];
  readonly future: readonly StoredStep[];
  /** Data of earlier states, each once; states name theirs by id. */
  readonly data: readonly DataBlock[];
}

export interface StoredStep {
  readonly label: string;
  /** A state of the project without its data. */
  readonly project: Project;
  readonly data: readonly string[];
}

/** A response that took long, by the digest of all that it depends on. */
export interface StoredResponse {
  readonly hash: string;
  /** Milliseconds since 1970. */
  readonly at: number;
  readonly result: Simulated;
}

/** A field solution, found by a rough shape of its copper. */
export interface StoredSolution {
  readonly id: number;
  readonly shape: string;
  /** Milliseconds since 1970. */
  readonly at: number;
  readonly solution: KeptSolution;
}

/** The browser's database of projects, checkpoints and histories. */
export const db = new Dexie('ditch') as Dexie & {
  projects: EntityTable<StoredProject, 'id'>;
  checkpoints: EntityTable<StoredCheckpoint, 'id'>;
  histories: EntityTable<StoredHistory, 'id'>;
  written: EntityTable<Written, 'id'>;
  responses: EntityTable<StoredResponse, 'hash'>;
  solutions: EntityTable<StoredSolution, 'id'>;
};

db.version(1).stores({ projects: 'id, modified', checkpoints: 'id, projectId, created' });
db.version(2).stores({ histories: 'id' });
db.version(4).stores({ solutions: '++id, shape, at' });
db.version(3)
  .stores({ responses: 'hash, at' })
  // Projects as the present version has them, wherever they are kept.
  .upgrade(async (tx) => {
    const renew = (row: { project: Project }) => {
      row.project = upToDate(row.project);
    };
    await tx.table('projects').toCollection().modify(renew);
    await tx.table('checkpoints').toCollection().modify(renew);
    await tx
      .table('histories')
      .toCollection()
      .modify((row: { past: { project: Project }[]; future: { project: Project }[] }) => {
        row.past.forEach(renew);
        row.future.forEach(renew);
      });
  });

db.version(5)
  .stores({ written: 'id' })
  .upgrade(async (tx) => {
    const histories = new Map<string, number>();
    await tx.table<StoredHistory>('histories').each(({ id, revision }) => histories.set(id, revision));
    const written: Written[] = [];
    await tx
      .table<StoredProject>('projects')
      .each(({ id, revision }) => written.push({ id, revision, history: histories.get(id) ?? 0 }));
    await tx.table<Written>('written').bulkPut(written);
  });

/** Why the storage refused, in words. */
export function storageMessage(error: unknown): string {
  const name = error instanceof Error ? error.name : '';
  const inner = (error as { inner?: { name?: string } } | undefined)?.inner?.name ?? '';
  if (name === 'QuotaExceededError' || inner === 'QuotaExceededError')
    return 'The browser\u2019s storage is full. Export the project file to keep your work, then free some space.';
  if (
    name === 'MissingAPIError' ||
    name === 'InvalidStateError' ||
    name === 'OpenFailedError' ||
    name === 'SecurityError'
  )
    return 'This browser gives the page no storage (a private window, perhaps). Export the project file to keep your work.';
  return `The browser could not store the project (${error instanceof Error ? error.message : String(error)}). Export the project file to keep your work.`;
}
