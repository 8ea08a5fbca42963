import type { DataBlock, Project } from '@ditch/core/network';
import type { StoredHistory, StoredStep } from './db';

/** A state to go back to, with the name of the edit that left it. */
export interface Step {
  readonly label: string;
  readonly project: Project;
}

/** Steps kept over a reload, either way. */
const STORED = 100;

/**
 * A history for the database. States share most of what they hold with one another, and storing them together keeps it
 * shared; measured data, which can be large, is stored once however many states have it.
 */
export function storedHistory(
  id: string,
  revision: number,
  past: readonly Step[],
  future: readonly Step[],
): StoredHistory {
  const blocks = new Map<string, DataBlock>();
  const pack = ({ label, project }: Step): StoredStep => {
    for (const block of project.data) blocks.set(block.id, block);
    return { label, project: { ...project, data: [] }, data: project.data.map((b) => b.id) };
  };
  const [before, after] = [past.slice(-STORED).map(pack), future.slice(-STORED).map(pack)];
  return { id, revision, past: before, future: after, data: [...blocks.values()] };
}

/** The history back from the database. */
export function readHistory({ past, future, data }: StoredHistory): {
  past: readonly Step[];
  future: readonly Step[];
} {
  const blocks = new Map(data.map((b) => [b.id, b]));
  const unpack = ({ label, project, data: ids }: StoredStep): Step => ({
    label,
    project: { ...project, data: ids.flatMap((id) => blocks.get(id) ?? []) },
  });
  return { past: past.map(unpack), future: future.map(unpack) };
}
