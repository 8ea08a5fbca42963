import { create } from 'zustand';
import { upToDate } from '@ditch/core/formats';
import { inDesign, newId, type Design, type Project } from '@ditch/core/network';
import { db, storageMessage } from './db';
import { readHistory, storedHistory, type Step } from './history';
import { equal, mergeDocuments } from './merge';

export type SaveState =
  /** `at` on the page's own clock, `performance.now()`, which nobody sets. */
  | { readonly kind: 'saved'; readonly at: number }
  | { readonly kind: 'saving' }
  | { readonly kind: 'failed'; readonly message: string };

interface Session {
  readonly project: Project | null;
  readonly status: 'closed' | 'opening' | 'open' | 'missing';
  /** States to go back to, oldest first, each with the name of the edit that left it. */
  readonly past: readonly Step[];
  readonly future: readonly Step[];
  readonly save: SaveState;
  /** Something the engineer should know that has no field of its own. */
  readonly notice: string | null;
}

export const useSession = create<Session>(() => ({
  project: null,
  status: 'closed',
  past: [],
  future: [],
  save: { kind: 'saved', at: 0 },
  notice: null,
}));

const HISTORY = 300;
const MERGE_WITHIN = 1500;
/** Since when the pointer is held: what it drags is one step, however slowly it is dragged. */
let heldSince = Infinity;
if (typeof window !== 'undefined') {
  window.addEventListener('pointerdown', () => (heldSince = Date.now()), true);
  const release = () => (heldSince = Infinity);
  for (const end of ['pointerup', 'pointercancel']) window.addEventListener(end, release, true);
  // That of the window itself, not of what is in it.
  window.addEventListener('blur', release);
}
/** Milliseconds of rest after which edits are written, and how long they wait at most. */
const SAVE_AFTER = 200;
const SAVE_AT_LAST = 1000;
const SLOW_SAVE = 400;

/** What the database held when this tab last read or wrote it; the ancestor of a merge. */
let base: { project: Project; revision: number } | null = null;
/** What is being written and not confirmed yet. */
let writing: { readonly project: Project; readonly past: readonly Step[] } | null = null;
let dirty = false;
/** Since when edits wait to be written. */
let waitingSince = 0;
let saving: Promise<boolean> | null = null;
let pending: ReturnType<typeof setTimeout> | undefined;
/** The history that this tab wrote or found in the database, and at which revision. */
let storedSteps: (Pick<Session, 'past' | 'future'> & { readonly at: number }) | null = null;
let lastMerge = { key: '', at: 0 };
let channel: BroadcastChannel | null = null;
const tab = newId();
const RESCUE = 'ditch:rescue:';
/** Each tab keeps a copy of its own, which its next successful write takes back. */
const rescueKey = (id: string) => `${RESCUE}${id}:${tab}`;

export const say = (notice: string | null): void => useSession.setState({ notice });

/** Opens a project from the database, or recovers what a closing tab could not store. */
export async function openProject(id: string): Promise<void> {
  const current = useSession.getState();
  if (current.project?.id === id && current.status === 'open') return;
  await flush();
  useSession.setState({ status: 'opening', project: null, past: [], future: [], notice: null });
  try {
    const stored = await db.projects.get(id);
    if (!stored) {
      const memory = inMemory.get(id);
      if (memory) start(memory, null);
      else useSession.setState({ status: 'missing' });
      return;
    }
    start(stored.project, stored.revision);
    await bringBack(stored.id, stored.revision);
    recover(stored.id);
  } catch (error) {
    const memory = inMemory.get(id);
    if (memory) start(memory, null);
    else useSession.setState({ status: 'missing' });
    useSession.setState({ save: { kind: 'failed', message: storageMessage(error) } });
  }
}

/** Projects of this visit that the storage did not take. */
const inMemory = new Map<string, Project>();

function start(project: Project, revision: number | null): void {
  base = revision === null ? null : { project, revision };
  storedSteps = null;
  dirty = revision === null;
  useSession.setState({
    project,
    status: 'open',
    past: [],
    future: [],
    save: { kind: 'saved', at: performance.now() },
  });
  channel?.close();
  channel = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(`ditch:${project.id}`);
  channel?.addEventListener('message', (event: MessageEvent<{ tab: string }>) => {
    if (event.data.tab !== tab) void pull();
  });
  try {
    localStorage.setItem('ditch:last', project.id);
  } catch {
    // Without storage the next visit opens the list of projects.
  }
  if (dirty) void persist();
}

/** Takes up the history of the last visit, where it belongs to the state that was stored last. */
async function bringBack(id: string, revision: number): Promise<void> {
  try {
    const [stored, written] = await Promise.all([db.histories.get(id), db.written.get(id)]);
    const { project, past } = useSession.getState();
    if (!stored || written?.revision !== revision || stored.revision !== written.history) return;
    if (project?.id !== id || past.length > 0) return;
    const history = readHistory(stored);
    useSession.setState(history);
    storedSteps = { ...history, at: stored.revision };
  } catch {
    // Without its history the project is what it was all the same.
  }
}

/**
 * Takes up what tabs left behind that closed before their last write ended. Where the database has a later word on the
 * same value it stays, and what the closed tab had becomes a checkpoint.
 */
function recover(id: string): void {
  try {
    const keys = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i) ?? '');
    for (const key of keys.filter((k) => k.startsWith(`${RESCUE}${id}:`))) {
      const text = localStorage.getItem(key);
      localStorage.removeItem(key);
      if (!text) continue;
      const rescued = renewed(JSON.parse(text) as Rescued);
      if (takeUp(rescued)) continue;
      edit('recovered edits', (stored) => {
        // A write that was under way may have ended after all: then it is the ancestor, not a later word.
        const ancestor = rescued.writing && equal(stored, rescued.writing) ? rescued.writing : rescued.base;
        const { merged, conflict } = mergeDocuments(ancestor, stored, rescued.project);
        if (conflict)
          void keepCheckpoint('From a tab that was closed', rescued.project).catch(() => undefined);
        return equal(merged, stored) ? stored : merged;
      });
    }
  } catch {
    // A rescue copy that cannot be read is no worse than none.
  }
}

/** What a closing page leaves behind: what it had stored, was storing, and had not stored yet. */
interface Rescued {
  readonly base: Project;
  readonly writing?: Project;
  readonly project: Project;
  /** Steps since `base`, and how many of them `writing` has. */
  readonly steps?: readonly Step[];
  readonly written?: number;
}
/** What an earlier version left behind. */
const renewed = (rescued: Rescued): Rescued => ({
  ...rescued,
  base: upToDate(rescued.base),
  project: upToDate(rescued.project),
  ...(rescued.writing && { writing: upToDate(rescued.writing) }),
  ...(rescued.steps && { steps: rescued.steps.map((s) => ({ ...s, project: upToDate(s.project) })) }),
});

/** Steps that a closing page leaves behind at most. */
const RESCUED = 20;

/** Goes on where a closed page stopped, step by step, where nobody has written since; false where somebody has. */
function takeUp({ base: before, writing: under, project, steps = [], written = 0 }: Rescued): boolean {
  const { project: stored, past } = useSession.getState();
  if (!stored) return false;
  const left =
    under && equal(stored, under) ? steps.slice(written) : equal(stored, before) ? steps : undefined;
  if (!left || left.length === 0) return false;
  useSession.setState({ project, past: [...past, ...left].slice(-HISTORY), future: [] });
  dirty = true;
  persistSoon();
  return true;
}

/** The last write succeeded: nothing is left to rescue. */
function forgetRescue(id: string): void {
  try {
    localStorage.removeItem(rescueKey(id));
  } catch {
    // Without storage there was no copy.
  }
}

/**
 * Changes the project by a named step that can be undone. Steps with the same `merge` key in quick succession (typing)
 * or while the pointer is held (dragging) become one.
 */
export function edit(label: string, change: (project: Project) => Project, merge = ''): void {
  const { project, past, future } = useSession.getState();
  if (!project) return;
  const next = change(project);
  if (next === project) return;
  const now = Date.now();
  const joins =
    merge !== '' &&
    merge === lastMerge.key &&
    (lastMerge.at >= heldSince || now - lastMerge.at < MERGE_WITHIN) &&
    past.length > 0;
  lastMerge = { key: merge, at: now };
  useSession.setState({
    project: next,
    past: joins ? past : [...past.slice(-HISTORY), { label, project }],
    // What is empty stays the same list: a history that did not change is not written again.
    future: future.length > 0 ? [] : future,
  });
  dirty = true;
  // A drag makes an edit every frame: they are written together shortly after. What a closing page has not written
  // yet, `rescue` keeps.
  persistSoon();
}

let behind = 0;

/**
 * Makes edits that whoever draws them may hold back for a moment: the hand's own field shows them already. Only for
 * fields that know what they show, and for drags, which go by the pointer.
 */
export function behindHand<T>(act: () => T): T {
  behind++;
  try {
    return act();
  } finally {
    behind--;
  }
}
export const isBehindHand = (): boolean => behind > 0;

/** Ends a run of joined edits: the next one is a step of its own. */
export const endMerge = (): void => {
  lastMerge = { key: '', at: 0 };
};

/** Changes one design of the project. */
export function editDesign(id: string, label: string, change: (design: Design) => Design, merge = ''): void {
  edit(label, (project) => inDesign(project, id, change), merge && `${id}:${merge}`);
}

function travel(from: 'past' | 'future', to: 'past' | 'future'): void {
  const state = useSession.getState();
  const list = state[from];
  const step = list[list.length - 1];
  if (!step || !state.project) return;
  endMerge();
  useSession.setState({
    project: step.project,
    [from]: list.slice(0, -1),
    [to]: [...state[to], { label: step.label, project: state.project }],
  });
  dirty = true;
  void persist();
}
export const undo = (): void => travel('past', 'future');
export const redo = (): void => travel('future', 'past');

/** Takes another state of the project in, keeping this tab's history valid on top of it. */
function adopt(theirs: Project, revision: number): void {
  const { project, past, future } = useSession.getState();
  const ancestor = base?.project ?? project;
  if (!project || !ancestor) return;
  const rebase = (p: Project) => mergeDocuments(ancestor, p, theirs).merged;
  const { merged, conflict } = mergeDocuments(ancestor, project, theirs);
  if (conflict) {
    void keepMeeting(theirs).catch(() => undefined);
    say('Another tab changed the same values. This tab\u2019s are kept; the other version is a checkpoint.');
  }
  base = { project: theirs, revision };
  useSession.setState({
    project: merged,
    past: past.map((s) => ({ ...s, project: rebase(s.project) })),
    future: future.map((s) => ({ ...s, project: rebase(s.project) })),
  });
}

async function pull(): Promise<void> {
  const { project } = useSession.getState();
  if (!project) return;
  if (dirty || saving) {
    await persist();
    return;
  }
  try {
    const stored = await db.projects.get(project.id);
    if (stored && stored.revision !== base?.revision && useSession.getState().project?.id === stored.id) {
      adopt(stored.project, stored.revision);
    }
  } catch {
    // The next write will say what is wrong with the storage.
  }
}

/** Writes once the hand rests, and under a hand that does not rest now and then. */
function persistSoon(): void {
  const now = performance.now();
  if (pending === undefined) waitingSince = now;
  clearTimeout(pending);
  const left = SAVE_AT_LAST - (now - waitingSince);
  pending = setTimeout(() => void persist(), Math.max(0, Math.min(SAVE_AFTER, left)));
}

/** Writes the project, and tells whether that went well. Edits made meanwhile are written a little later. */
function persist(): Promise<boolean> {
  clearTimeout(pending);
  pending = undefined;
  saving ??= write().finally(() => {
    saving = null;
  });
  return saving;
}

async function write(): Promise<boolean> {
  // A write is over before one could read that it is under way; one that takes its time says so.
  const slow = setTimeout(() => useSession.setState({ save: { kind: 'saving' } }), SLOW_SAVE);
  try {
    do dirty = false;
    while (!(await writeOnce()));
  } catch (error) {
    dirty = true;
    const { project } = useSession.getState();
    if (project) inMemory.set(project.id, project);
    useSession.setState({ save: { kind: 'failed', message: storageMessage(error) } });
    return false;
  } finally {
    clearTimeout(slow);
  }
  // Under a drag one write would follow the other without a pause, each with a copy of the whole project.
  if (dirty) persistSoon();
  else {
    useSession.setState({ save: { kind: 'saved', at: performance.now() } });
    if (base) forgetRescue(base.project.id);
  }
  return true;
}

/** Whether it is written; what another tab wrote meanwhile is merged first and has to be written again. */
async function writeOnce(): Promise<boolean> {
  const { project, past, future } = useSession.getState();
  if (!project) return true;
  writing = { project, past };
  // Under a drag the project changes all the time and its history does not.
  const changed = storedSteps?.past !== past || storedSteps.future !== future;
  const outcome = await db
    .transaction('rw', db.projects, db.histories, db.written, async () => {
      const { id, name } = project;
      const written = await db.written.get(id);
      if (written && written.revision !== (base?.revision ?? 0)) {
        const theirs = await db.projects.get(id);
        if (theirs) return { theirs };
      }
      const revision = (written?.revision ?? 0) + 1;
      await db.projects.put({ id, name, modified: Date.now(), revision, project });
      // What another tab wrote is not this tab's history, even where this one's is as it was.
      const same = !changed && written?.history === storedSteps?.at;
      if (!same) await db.histories.put(storedHistory(id, revision, past, future));
      const history = same ? written!.history : revision;
      await db.written.put({ id, revision, history });
      return { revision, history };
    })
    .finally(() => {
      writing = null;
    });
  if (outcome.theirs) {
    adopt(outcome.theirs.project, outcome.theirs.revision);
    return false;
  }
  base = { project, revision: outcome.revision };
  storedSteps = { past, future, at: outcome.history };
  channel?.postMessage({ tab });
  return true;
}

/** Waits until everything is stored. */
export async function flush(): Promise<void> {
  while (useSession.getState().project && (dirty || saving)) if (!(await persist())) return;
}

/** Tries again to store after a failure. */
export const retrySave = (): void => void persist();

/** A last, synchronous copy when the page goes away with edits the database has not confirmed. */
export function rescue(): void {
  const { project, past } = useSession.getState();
  if (!project || (!dirty && !saving) || !base) return;
  const stored = storedSteps?.past.length ?? 0;
  const copy: Rescued = { base: base.project, writing: writing?.project, project };
  const steps = past.slice(stored);
  const written = Math.max(0, (writing?.past.length ?? stored) - stored);
  // With its steps, without them where there is no room; the database has everything but the last moments.
  for (const attempt of [steps.length <= RESCUED ? { ...copy, steps, written } : copy, copy]) {
    try {
      localStorage.setItem(rescueKey(project.id), JSON.stringify(attempt));
      return;
    } catch {
      // The next attempt is smaller.
    }
  }
}

/** Stores a new project and returns its id; without storage it lives for this visit. */
export async function addProject(project: Project): Promise<string> {
  inMemory.set(project.id, project);
  try {
    const { id, name } = project;
    await db.transaction('rw', db.projects, db.written, async () => {
      await db.projects.put({ id, name, modified: Date.now(), revision: 1, project });
      await db.written.put({ id, revision: 1, history: 0 });
    });
    inMemory.delete(project.id);
  } catch (error) {
    useSession.setState({ save: { kind: 'failed', message: storageMessage(error) } });
  }
  return project.id;
}

/** Milliseconds of peace between two tabs after which another clash is a meeting of its own. */
const PEACE = 60_000;
let meeting = { id: '', project: '', at: -Infinity };

/** Keeps the other tab's version: one checkpoint a meeting, however often the two write the same value meanwhile. */
async function keepMeeting(theirs: Project): Promise<void> {
  const at = performance.now();
  const same = meeting.project === theirs.id && at - meeting.at < PEACE;
  meeting = { id: same ? meeting.id : newId(), project: theirs.id, at };
  await keepCheckpoint('Other tab\u2019s version', theirs, meeting.id);
}

/** Keeps a state of a project under a name, in place of the checkpoint of that id where there is one. */
async function keepCheckpoint(name: string, project: Project, id = newId()): Promise<void> {
  await db.checkpoints.put({ id, projectId: project.id, name, created: Date.now(), project });
}

/** Keeps the present state under a name. */
export async function addCheckpoint(name: string): Promise<void> {
  const { project } = useSession.getState();
  if (project) await keepCheckpoint(name, project);
}

/** Returns to a checkpoint; the way back is one undo. */
export function returnTo(name: string, project: Project): void {
  edit(`return to \u201C${name}\u201D`, (now) => ({ ...project, id: now.id }));
  endMerge();
}
