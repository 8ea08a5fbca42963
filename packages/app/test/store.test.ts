import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { emptyDesign, emptyProject, type Project } from '@ditch/core/network';
import { laminates } from '@ditch/core/stack';
import type * as SessionModule from '../src/store/session';
import { stepAt, stepText } from '../src/controls/step';
import { mergeDocuments } from '../src/store/merge';

describe('merging two tabs', () => {
  const base = {
    name: 'p',
    list: [
      { id: 'a', x: 1, y: 1 },
      { id: 'b', x: 1, y: 1 },
    ],
    n: [1, 2],
  };
  it('takes what either side changed, by id in lists', () => {
    const mine = {
      ...base,
      name: 'mine',
      list: [{ id: 'a', x: 2, y: 1 }, base.list[1], { id: 'c', x: 0, y: 0 }],
    };
    const theirs = {
      ...base,
      list: [
        { id: 'a', x: 1, y: 5 },
        { id: 'd', x: 9, y: 9 },
      ],
    };
    expect(mergeDocuments(base, mine, theirs)).toEqual({
      merged: {
        name: 'mine',
        list: [
          { id: 'a', x: 2, y: 5 },
          { id: 'c', x: 0, y: 0 },
          { id: 'd', x: 9, y: 9 },
        ],
        n: [1, 2],
      },
      conflict: false,
    });
  });
  it('keeps mine and tells when both changed the same value, or one removed what the other changed', () => {
    expect(mergeDocuments(base, { ...base, n: [1] }, { ...base, n: [2] })).toEqual({
      merged: { ...base, n: [1] },
      conflict: true,
    });
    const removed = { ...base, list: [base.list[1]] };
    const changed = { ...base, list: [{ id: 'a', x: 7, y: 1 }, base.list[1]] };
    const { merged, conflict } = mergeDocuments(base, removed, changed);
    expect(conflict).toBe(true);
    expect(merged.list.find((i) => i.id === 'a')?.x).toBe(7);
  });
});

describe('stepping a typed quantity', () => {
  it.each([
    ['50 ohm', 1, 1, '51 ohm'],
    ['50 ohm', -1, 0.1, '49.9 ohm'],
    ['10.55GHz', 1, 1, '11.55GHz'],
    ['10.55 GHz', 1, 0.1, '10.65 GHz'],
    ['0.508mm', 1, 1, '0.518mm'],
    ['0', 1, 1, '0.1'],
    ['5.8e7 S/m', 1, 1, '59000000 S/m'],
    ['2*z0', 1, 1, undefined],
    ['lambda/4', 1, 1, undefined],
  ] as const)('%s by %i at %d is %s', (text, direction, size, expected) => {
    expect(stepText(text, direction, size)).toBe(expected);
  });
});

describe('stepping a complex quantity', () => {
  it.each([
    ['23-41j ohm', 1, 1, 1, '24-41j ohm', 2],
    ['23-41j ohm', 4, 1, 1, '23-40j ohm', 5],
    ['23-41j ohm', 10, -1, 1, '23-42j ohm', 5],
    ['23 - 0.1j ohm', 8, 1, 10, '23 + 0j ohm', 6],
    ['50 ohm', 1, 1, 1, '51 ohm', 6],
  ] as const)('%s at %i by %i is %s', (text, caret, direction, size, expected, after) => {
    expect(stepAt(text, caret, direction, size)).toEqual({ text: expected, caret: after });
  });
});

describe('the session over the database', () => {
  type Session = typeof SessionModule;
  /** A tab of its own: fresh modules over the one database. */
  const tab = async (): Promise<Session> => {
    vi.resetModules();
    return import('../src/store/session');
  };
  const memory = new Map<string, string>();
  beforeEach(() => {
    memory.clear();
    vi.stubGlobal('localStorage', {
      getItem: (k: string) => memory.get(k) ?? null,
      setItem: (k: string, v: string) => memory.set(k, v),
      removeItem: (k: string) => memory.delete(k),
      key: (i: number) => [...memory.keys()][i] ?? null,
      get length() {
        return memory.size;
      },
    });
  });
  afterEach(() => vi.unstubAllGlobals());
  const rename = (s: Session, name: string, merge = '') =>
    s.edit(`rename to ${name}`, (p: Project) => ({ ...p, name }), merge);
  const name = (s: Session) => s.useSession.getState().project?.name;
  const note = (s: Session) => s.useSession.getState().project?.note;

  it('undoes, redoes, joins runs of typing, and stores every step', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    rename(a, 'one');
    for (const text of ['t', 'tw', 'two']) rename(a, text, 'typing');
    a.endMerge();
    rename(a, 'three', 'typing');
    expect(a.useSession.getState().past.map((s) => s.label)).toEqual([
      'rename to one',
      'rename to t',
      'rename to three',
    ]);
    a.undo();
    a.undo();
    expect(name(a)).toBe('one');
    a.redo();
    expect(name(a)).toBe('two');
    await a.flush();
    const b = await tab();
    await b.openProject(id);
    expect(name(b)).toBe('two');
  });

  it('brings what was done and undone back in the next visit, with measured data once', async () => {
    const a = await tab();
    const block = { id: 'd', name: 'd', origin: 'imported' as const, ports: 1, freq: [1], re: [0], im: [0] };
    const data = [{ ...block, z0: [[50, 0] as const] }];
    const id = await a.addProject({ ...emptyProject('start'), data });
    await a.openProject(id);
    for (const text of ['one', 'two', 'three']) rename(a, text);
    a.edit('forget the data', (p: Project) => ({ ...p, data: [] }));
    a.undo();
    a.undo();
    await a.flush();
    const { db } = await import('../src/store/db');
    expect((await db.histories.get(id))!.data).toHaveLength(1);
    const b = await tab();
    await b.openProject(id);
    expect(name(b)).toBe('two');
    b.redo();
    b.redo();
    expect(b.useSession.getState().project).toMatchObject({ name: 'three', data: [] });
    for (let i = 0; i < 9; i++) b.undo();
    expect(b.useSession.getState().project).toMatchObject({ name: 'start', data });
    await b.flush();
    // A state that was stored without its history, as by an older page, is opened all the same.
    await db.projects.update(id, { revision: 99 });
    const c = await tab();
    await c.openProject(id);
    expect([name(c), c.useSession.getState().past]).toEqual(['start', []]);
  });

  it('writes a history once, however often what it leads to is written, and never takes another tab\u2019s for it', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    const { db } = await import('../src/store/db');
    const rows = async () => [(await db.written.get(id))!, (await db.histories.get(id))!.revision] as const;
    const drag = async (text: string) => {
      a.edit('drag', (p: Project) => ({ ...p, name: text }), 'drag');
      await a.flush();
      return rows();
    };
    const [first, at] = await drag('one');
    const [second, still] = await drag('two');
    expect([second.revision - first.revision, still, second.history]).toEqual([1, at, at]);
    const b = await tab();
    await b.openProject(id);
    expect([name(b), b.useSession.getState().past.length]).toEqual(['two', 1]);
    b.undo();
    await b.flush();
    const c = await tab();
    await c.openProject(id);
    const { past, future } = c.useSession.getState();
    expect([name(c), past.length, future.length]).toEqual(['start', 0, 1]);
  });

  it('keeps one checkpoint of the other version, however often two tabs write the same value', async () => {
    const [a, b] = [await tab(), await tab()];
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    await b.openProject(id);
    for (let i = 0; i < 8; i++) {
      rename(a, `a${i}`);
      rename(b, `b${i}`);
      await a.flush();
      await b.flush();
    }
    const { db } = await import('../src/store/db');
    const versions = await db.checkpoints.where('projectId').equals(id).toArray();
    // One for each tab that met another's word.
    expect(versions.length).toBeGreaterThanOrEqual(1);
    expect(versions.length).toBeLessThanOrEqual(2);
  });

  it('writes a run of edits now and then, and its last state unasked', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    const { db } = await import('../src/store/db');
    const put = vi.spyOn(db.projects, 'put');
    const start = performance.now();
    for (let i = 0; i < 100; i++) {
      rename(a, `at ${i}`, 'drag');
      await new Promise((resolve) => setTimeout(resolve, 15));
    }
    const writes = put.mock.calls.length;
    expect(writes).toBeGreaterThan(0);
    expect(writes).toBeLessThanOrEqual(Math.ceil((performance.now() - start) / 200));
    await vi.waitFor(async () => {
      expect((await db.projects.get(id))?.name).toBe('at 99');
      expect(a.useSession.getState().save.kind).toBe('saved');
    }, 5000);
    put.mockRestore();
  });

  it('loses neither tab\u2019s work, and undo in one keeps the other\u2019s', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    const b = await tab();
    await b.openProject(id);
    rename(a, 'from a');
    b.edit('note', (p: Project) => ({ ...p, note: 'from b' }));
    await Promise.all([a.flush(), b.flush()]);
    await vi.waitFor(() => {
      expect([name(a), note(a), name(b), note(b)]).toEqual(['from a', 'from b', 'from a', 'from b']);
    });
    a.undo();
    await a.flush();
    expect([name(a), note(a)]).toEqual(['start', 'from b']);
  });

  it('keeps the other version as a checkpoint when both changed the same value', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    const b = await tab();
    await b.openProject(id);
    rename(a, 'a wins here');
    rename(b, 'b wins here');
    await Promise.all([a.flush(), b.flush()]);
    const { db } = await import('../src/store/db');
    await vi.waitFor(async () => {
      const kept = await db.checkpoints.where('projectId').equals(id).toArray();
      expect(kept.map((c) => c.project.name)).toContainEqual(expect.stringMatching(/wins here/));
    });
  });

  it('says when the storage is full, keeps working, and stores once there is room', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    const { db } = await import('../src/store/db');
    const full = vi
      .spyOn(db.projects, 'put')
      .mockRejectedValue(Object.assign(new Error('no room'), { name: 'QuotaExceededError' }));
    rename(a, 'unsaved');
    await a.flush();
    expect(a.useSession.getState().save).toMatchObject({
      kind: 'failed',
      message: expect.stringMatching(/storage is full\. Export/) as string,
    });
    expect(name(a)).toBe('unsaved');
    full.mockRestore();
    a.retrySave();
    await a.flush();
    expect(a.useSession.getState().save.kind).toBe('saved');
    expect((await db.projects.get(id))?.name).toBe('unsaved');
  });

  it('recovers what a closing tab could not store, and nothing that was stored since', async () => {
    const copies = () => [...memory.keys()].filter((k) => k.startsWith('ditch:rescue:'));
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    rename(a, 'typed at the last moment');
    a.rescue();
    expect(copies()).toHaveLength(1);
    const left = memory.get(copies()[0])!;
    // A tab that lives on writes after all, and its copy goes.
    await a.flush();
    expect(copies()).toEqual([]);
    // One that died does not: the database still has the first state.
    const { db } = await import('../src/store/db');
    const stored = (await db.projects.get(id))!;
    await db.projects.put({ ...stored, name: 'start', project: { ...stored.project, name: 'start' } });
    memory.set(`ditch:rescue:${id}:dead`, left);
    const b = await tab();
    await b.openProject(id);
    expect(name(b)).toBe('typed at the last moment');
    // Step by step, as it was done.
    expect(b.useSession.getState().past.at(-1)!.label).toBe('rename to typed at the last moment');
    b.undo();
    expect(name(b)).toBe('start');
    b.redo();
    expect(copies()).toEqual([]);
    // A later word in the database stands against an old copy, which is kept as a checkpoint.
    rename(b, 'said later');
    await b.flush();
    memory.set(`ditch:rescue:${id}:dead`, left);
    const c = await tab();
    await c.openProject(id);
    expect(name(c)).toBe('said later');
    const { db: same } = await import('../src/store/db');
    await vi.waitFor(async () => {
      const kept = await same.checkpoints.where('projectId').equals(id).toArray();
      expect(kept.map((k) => k.project.name)).toEqual(['typed at the last moment']);
    });
  });

  it('recovers what was typed while an earlier write was still under way', async () => {
    const a = await tab();
    const id = await a.addProject(emptyProject('start'));
    await a.openProject(id);
    rename(a, 'being written');
    const write = a.flush();
    a.endMerge();
    rename(a, 'typed meanwhile');
    a.rescue();
    const key = [...memory.keys()].find((k) => k.startsWith(`ditch:rescue:${id}`))!;
    const left = memory.get(key)!;
    expect(JSON.parse(left)).toMatchObject({
      base: { name: 'start' },
      writing: { name: 'being written' },
      project: { name: 'typed meanwhile' },
    });
    await write;
    // The tab died after its first write and before its second.
    const { db } = await import('../src/store/db');
    const stored = (await db.projects.get(id))!;
    await db.projects.put({ ...stored, project: { ...stored.project, name: 'being written' } });
    memory.set(key, left);
    const b = await tab();
    await b.openProject(id);
    expect(name(b)).toBe('typed meanwhile');
  });
});

describe('what an earlier version stored', () => {
  it('is brought up to date where it lies: projects, checkpoints and histories', async () => {
    vi.resetModules();
    const { default: Dexie } = await import('dexie');
    Dexie.dependencies.indexedDB = new IDBFactory();
    const old = new Dexie('ditch');
    old
      .version(2)
      .stores({ projects: 'id, modified', checkpoints: 'id, projectId, created', histories: 'id' });
    const present = emptyProject('old', laminates[0]);
    const port = { id: 'p', name: 'port 1', kind: 'port', held: { z: '50 ohm' }, nodes: ['a'] };
    const design = emptyDesign('d', present.stacks[0].id, 'microstrip', '1 GHz');
    const project = {
      ...present,
      version: 1,
      designs: [{ ...design, pieces: [{ ...port, settings: { number: '1', reference: 'own' } }] }],
    };
    const row = { id: project.id, name: 'old', modified: 1, revision: 1, project };
    await old.table('projects').put(row);
    await old.table('checkpoints').put({ ...row, projectId: project.id, created: 1 });
    const step = { label: 'edit', project, data: [] };
    await old.table('histories').put({ id: project.id, revision: 1, past: [step], future: [step], data: [] });
    old.close();
    const { db } = await import('../src/store/db');
    const [{ project: stored }] = await db.projects.toArray();
    const [kept] = await db.checkpoints.toArray();
    const [history] = await db.histories.toArray();
    expect(await db.written.toArray()).toEqual([{ id: project.id, revision: 1, history: 1 }]);
    for (const p of [stored, kept.project, history.past[0].project, history.future[0].project]) {
      expect(p.version).toBe(2);
      expect(p.designs[0].pieces).toEqual([
        { ...port, settings: { number: '1' }, marks: { reference: 'own' } },
      ]);
    }
    db.close();
    Dexie.dependencies.indexedDB = indexedDB;
  });
});
