import { liveQuery } from 'dexie';
import { useEffect, useState } from 'react';
import { writeProject, type ProjectFile } from '@ditch/core/formats';
import { run } from '../bridge/bridge';
import { dataBlock, newId, type DataBlock, type Project } from '@ditch/core/network';
import type { Drawing } from '@ditch/core/formats/drawing';
import { chooseFile, download, fileName } from '../controls/files';
import { addDemo, demoProject } from './demo';
import { db, storageMessage, type StoredCheckpoint, type StoredProject } from './db';
import { addSolutions, solutionsOf } from '../responses/solutions';
import { addProject, flush, say } from './session';

/** A list of the database, followed as it changes in this tab or another. */
function useLive<T>(read: () => Promise<T>, dependency: string): T | undefined {
  const [value, setValue] = useState<T>();
  useEffect(() => {
    const subscription = liveQuery(read).subscribe({ next: setValue, error: () => setValue(undefined) });
    return () => subscription.unsubscribe();
    // `dependency` stands for everything `read` closes over.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [dependency]);
  return value;
}

export const useProjects = (): StoredProject[] | undefined =>
  useLive(() => db.projects.orderBy('modified').reverse().toArray(), 'projects');

export const useCheckpoints = (projectId: string): StoredCheckpoint[] | undefined =>
  useLive(
    async () =>
      (await db.checkpoints.where('projectId').equals(projectId).toArray()).sort(
        (a, b) => b.created - a.created,
      ),
    projectId,
  );

/** The project open at the last visit, where the browser tells. */
function lastProject(): string | null {
  try {
    return localStorage.getItem('ditch:last');
  } catch {
    return null;
  }
}

interface Beginning {
  readonly id: string;
  readonly design?: string;
}

/** Where a visit starts: the last project, the newest one, or the demo on the very first visit. */
async function begin(): Promise<Beginning> {
  const last = lastProject();
  // On a first visit the demo comes while the database opens.
  const ahead = last ? undefined : demoProject();
  ahead?.catch(() => undefined);
  try {
    const stored =
      (last ? await db.projects.get(last) : undefined) ?? (await db.projects.orderBy('modified').last());
    if (stored) return { id: stored.id, design: stored.project.designs[0]?.id };
  } catch {
    // Without storage the demo is opened in memory; saving says what is wrong.
  }
  const demo = await (ahead ?? demoProject());
  await addDemo(demo);
  return { id: demo.id, design: demo.designs[0]?.id };
}

/** One beginning at a time, however often the page asks: the demo is stored once. */
let beginning: Promise<Beginning> | undefined;

const beginOnce = (): Promise<Beginning> => (beginning ??= begin().finally(() => (beginning = undefined)));

/** Looks where the visit starts before the page is there to ask for it. */
export function startAhead(): void {
  beginOnce().catch(() => undefined);
}

/** The project a visit starts on, or why there is none. */
export function useStart(): { readonly data?: Beginning; readonly error?: Error } {
  const [state, setState] = useState<{ readonly data?: Beginning; readonly error?: Error }>({});
  useEffect(() => {
    let gone = false;
    beginOnce().then(
      (data) => !gone && setState({ data }),
      (error: unknown) =>
        !gone && setState({ error: error instanceof Error ? error : new Error(String(error)) }),
    );
    return () => {
      gone = true;
    };
  }, []);
  return state;
}

/** Hands out the project file. @param whole with what was solved of its copper, so that nobody need solve it again */
export async function exportProject(project: Project, whole = true): Promise<void> {
  const solutions = whole ? await solutionsOf(project) : [];
  download(`${fileName(project.name)}.ditch.json`, writeProject(project, solutions), 'application/json');
}

/** Asks for a project file; says what is wrong with one that cannot be read. */
async function chooseProjectFile(): Promise<ProjectFile | undefined> {
  const file = await chooseFile('.json,application/json');
  if (!file) return undefined;
  const reading = await run('project', { text: await file.text() });
  if ('value' in reading) return reading.value;
  say(`${file.name} was not imported. ${reading.problem}`);
  return undefined;
}

/** Asks for a project file of which something is wanted. */
export const chooseProject = async (): Promise<Project | undefined> => (await chooseProjectFile())?.project;

/** Asks for a project file and stores it as a project of its own; returns its id. */
export async function importProject(): Promise<string | undefined> {
  const read = await chooseProjectFile();
  if (!read) return undefined;
  const { project, solutions } = read;
  await addSolutions(solutions);
  const taken = await db.projects.get(project.id).catch(() => undefined);
  // A project that is already here stays as it is; the file becomes a second one.
  return addProject(taken ? { ...project, id: newId(), name: `${project.name} (imported)` } : project);
}

/** Bytes of a file of copper. */
const LARGEST_DRAWING = 20e6;

/** Asks for a Touchstone file; says what is wrong with one that cannot be read. */
export async function chooseTouchstone(): Promise<DataBlock | undefined> {
  const file = await chooseFile('.s1p,.s2p,.s3p,.s4p,.s5p,.s6p,.s8p,.ts,.snp,.txt');
  if (!file) return undefined;
  const { portsOfName } = await import('./reading');
  const reading = await run('touchstone', { text: await file.text(), ports: portsOfName(file.name) });
  if ('value' in reading) return dataBlock(file.name.slice(0, 100), 'imported', reading.value);
  say(`${file.name} was not imported: ${reading.problem}.`);
  return undefined;
}

/** Asks for a file of copper, DXF or Gerber; says what is wrong with one that cannot be read. */
export async function chooseDrawing(): Promise<
  { readonly name: string; readonly drawing: Drawing } | undefined
> {
  const file = await chooseFile('.dxf,.gbr,.ger,.gtl,.gbl,.art,.pho,.txt');
  if (!file) return undefined;
  if (file.size > LARGEST_DRAWING) {
    say(`${file.name} was not read: it is larger than ${LARGEST_DRAWING / 1e6}\u2009MB.`);
    return undefined;
  }
  const reading = await run('drawing', { text: await file.text() });
  if ('value' in reading) return { name: file.name, drawing: reading.value };
  say(`${file.name} was not read: ${reading.problem}.`);
  return undefined;
}

export async function removeProject(id: string): Promise<void> {
  await flush();
  try {
    await db.transaction('rw', db.projects, db.checkpoints, db.histories, db.written, async () => {
      await db.projects.delete(id);
      await db.histories.delete(id);
      await db.written.delete(id);
      await db.checkpoints.where('projectId').equals(id).delete();
    });
  } catch (error) {
    say(storageMessage(error));
  }
}
