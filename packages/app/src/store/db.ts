import Dexie, { type EntityTable } from 'dexie';
import type { Project } from '@ditch/core/network';

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

/** The browser's database of projects and checkpoints. */
export const db = new Dexie('ditch') as Dexie & {
  projects: EntityTable<StoredProject, 'id'>;
  checkpoints: EntityTable<StoredCheckpoint, 'id'>;
};

db.version(1).stores({ projects: 'id, modified', checkpoints: 'id, projectId, created' });

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
