import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { readProject, writeProject } from '@ditch/core/formats';
import { liveLevels } from '@ditch/core/levels';
import { dataBlock, resolveDesign, type Design, type Project } from '@ditch/core/network';
import { laminates } from '@ditch/core/stack';
import demo from '../../../examples/ditchwater.ditch.json';
import { Cancelled, jobs, type JobContext } from '../src/bridge/jobs';
import { addProject, endMerge, openProject, redo, undo, useSession } from '../src/store/session';
import * as edits from '../src/views/edits';

let count = 0;
const project = (): Project => useSession.getState().project!;
const design = (at = 0): Design => project().designs[at];

beforeEach(async () => {
  const id = `demo-${count++}`;
  await openProject(await addProject({ ...readProject(JSON.stringify(demo)), id }));
});

describe('edits', () => {
  it('rename a value in every expression that uses it, and nothing else', () => {
    const { id } = design();
    edits.setValue(id, 'z1', 'sqrt(z0*zl) + 0*z0');
    edits.renameValue(id, 'z0', 'source');
    expect(design().values.map((v) => [v.name, v.value])).toEqual([
      ['f0', '10.55 GHz'],
      ['source', '50 ohm'],
      ['zl', '120 ohm'],
      ['z1', 'sqrt(source*zl) + 0*source'],
    ]);
    expect(design().pieces[0].held.z).toBe('source');
    expect(design().pieces[1].held.z0).toBe('z1');
    expect(resolveDesign(project(), design()).problems).toEqual([]);
    undo();
    undo();
    // Charts follow as well: their references and the edges of their limits.
    const limits = [{ id: 'l', side: 'below' as const, level: '-20', from: 'f0', to: '1.1*z0/z0*f0' }];
    edits.setPlots(id, 'arrange', [
      { id: 's', show: 'smith', reference: 'z0/2' },
      { id: 'm', show: 'match', limits },
    ]);
    edits.renameValue(id, 'z0', 'source');
    expect(design().plots![0].reference).toBe('source/2');
    expect(design().plots![1].limits![0].to).toBe('1.1*source/source*f0');
    undo();
    undo();
    expect(design()).toEqual(demo.designs[0]);
  });

  it('hold one face of a property and let go of the other', () => {
    const { id, pieces } = design();
    edits.holdFace(id, pieces[1], 'width', '1 mm', ['z0', 'width']);
    expect(design().pieces[1].held).toEqual({ width: '1 mm', theta: '90 deg' });
    edits.holdFace(id, design().pieces[1], 'z0', '60 ohm', ['z0', 'width']);
    expect(design().pieces[1].held).toEqual({ z0: '60 ohm', theta: '90 deg' });
  });

  it('give a design another board without touching the others, and keep its own boards', () => {
    edits.chooseStack(design().id, laminates[5]);
    expect(project().stacks.map((s) => s.id)).toEqual([
      'ptfe-2.94',
      'hydrocarbon-3.66',
      'ptfe-2.94-between',
      'alumina-99.6',
    ]);
    expect(design(1).stack).toBe('ptfe-2.94');
    const own = edits.setStackField('alumina-99.6', 'height', '0.25 mm');
    expect([design().stack, own === 'alumina-99.6']).toEqual([own, false]);
    // The shipped laminate is not the edited one: it comes in as a board of its own.
    edits.chooseStack(design(1).id, laminates[5]);
    expect(
      new Set(
        project()
          .designs.slice(0, 3)
          .map((d) => d.stack),
      ).size,
    ).toBe(3);
    edits.chooseStack(design().id, laminates[0]);
    // What was changed is the project's own and stays; what only ships goes with its last user.
    expect(project().stacks.some((s) => s.id === own)).toBe(true);
    edits.chooseStack(design(1).id, laminates[0]);
    expect(project().stacks.some((s) => s.id === 'alumina-99.6')).toBe(false);
  });

  it('give a design, or the line, a board of its own, and list, copy, reset and remove boards', () => {
    const stack = project().stacks.find((s) => s.id === design().stack)!;
    expect(edits.usersOf(project(), stack.id)).toContain(design().name);
    edits.ownBoard(design().id);
    const own = project().stacks.find((s) => s.id === design().stack)!;
    expect({ ...own, id: stack.id, name: stack.name }).toEqual(stack);
    expect(edits.usersOf(project(), own.id)).toEqual([design().name]);
    edits.setStackField(own.id, 'er', '3.3');
    expect(project().stacks.find((s) => s.id === stack.id)).toEqual(stack);
    edits.resetBoard(
      project().stacks.find((s) => s.id === own.id)!,
      laminates[1],
    );
    expect(project().stacks.find((s) => s.id === own.id)).toEqual({
      ...laminates[1],
      id: own.id,
      name: own.name,
    });
    edits.ownLineBoard();
    expect(edits.usersOf(project(), project().line.stack)).toEqual(['the Lines page']);
    const copy = edits.copyBoard(project(), own);
    expect(edits.usersOf(project(), copy)).toEqual([]);
    edits.removeBoard(project().stacks.find((s) => s.id === copy)!);
    expect(project().stacks.some((s) => s.id === copy)).toBe(false);
    expect(edits.addBoard(laminates[7])).toBe(laminates[7].id);
    expect(readProject(JSON.stringify(project()))).toEqual(project());
  });

  it('add values and markers under names of their own, copy designs, and keep data that is used', () => {
    const { id } = design();
    expect([edits.addValue(design()), edits.addValue(design())]).toEqual(['v1', 'v2']);
    edits.removeValue(id, 'v1');
    expect(edits.addValue(design())).toBe('v1');
    edits.addMarker(id, '9 GHz');
    edits.moveMarker(id, design().markers[1].id, '9.5 GHz');
    edits.removeMarker(id, design().markers[0].id);
    expect(design().markers.map((m) => m.freq)).toEqual(['9.5 GHz']);
    const copy = edits.duplicateDesign(design());
    expect(project().designs.find((d) => d.id === copy)!.name).toBe('local oscillator match (copy)');
    const block = dataBlock('kept', 'kept', {
      ports: 1,
      freq: Float64Array.of(1),
      re: Float64Array.of(0),
      im: Float64Array.of(0),
      z0: [{ re: 50, im: 0 }],
    });
    edits.addOverlay(id, block);
    edits.toggleOverlay(id, block);
    edits.toggleOverlay(id, block);
    expect(design().overlays).toContain(block.id);
    edits.removeData(block);
    expect(design().overlays).not.toContain(block.id);
    expect(project().data.map((d) => d.name)).toEqual(demo.data.map((d) => d.name));
    // What the edits made is a project that can be read again.
    expect(readProject(JSON.stringify(project()))).toEqual(project());
  });
});

describe('jobs', () => {
  const request = (points: number) => {
    const resolved = resolveDesign(project(), design());
    const sweep = { start: 1e9, stop: 20e9, points };
    return {
      tasks: liveLevels.map((l) => ({
        level: l.id,
        subject: l.subject(resolved)!,
        sweep,
      })),
      data: [],
    };
  };
  const context = (change: Partial<JobContext> = {}): JobContext => ({
    pause: () => Promise.resolve(false),
    progress: () => undefined,
    enough: () => false,
    ...change,
  });

  it('give the same numbers in one go and in turns, with progress', async () => {
    const told: number[] = [];
    const long = await jobs.simulate(request(200_001), context({ progress: (d) => void told.push(d) }));
    expect(told.length).toBeGreaterThan(1);
    expect([...told].sort((a, b) => a - b)).toEqual(told);
    const short = await jobs.simulate(request(3), context());
    expect([long.length, short.length]).toEqual([2, 2]);
    for (const [k, j] of [
      [0, 0],
      [1, 100_000],
      [2, 200_000],
    ])
      short.forEach((level, i) => expect(level.swept!.re[k]).toBe(long[i].swept!.re[j]));
  });

  it('end early when they are cancelled', async () => {
    await expect(
      jobs.simulate(request(2_000_001), context({ pause: () => Promise.resolve(true) })),
    ).rejects.toThrow(Cancelled);
  });

  it('draw the impedance of a line as falling with its width', async () => {
    const { stack } = resolveDesign(project(), design());
    const board = { medium: 'microstrip', substrate: stack!.substrate, freq: 1e9 } as const;
    const range = { from: 1e-4, to: 5e-3, points: 60 };
    const curve = await jobs.sectionCurve(
      { shape: 'strip', board, dimensions: [1e-3], vary: 0, ...range },
      context(),
    );
    expect(curve.x[0]).toBeCloseTo(1e-4, 12);
    expect(curve.x[59]).toBeCloseTo(5e-3, 12);
    const [{ z0 }] = curve.modes;
    z0.forEach((z, k) => k > 0 && expect(z).toBeLessThan(z0[k - 1]));
  });
});

describe('any run of edits', () => {
  /** What a person might do next, by a number that chooses where. */
  const steps: readonly ((at: number) => unknown)[] = [
    (at) => value(at) && edits.setValue(some(at).id, some(at).values[0].name, `${9 + (at % 3)} GHz`),
    (at) => void edits.addValue(some(at)),
    (at) => value(at) && edits.removeValue(some(at).id, value(at)!.name),
    (at) => value(at) && edits.renameValue(some(at).id, value(at)!.name, `renamed${at % 1000}`),
    (at) => edits.renamePiece(some(at).id, piece(at).id, `piece ${at}`),
    (at) => edits.setSetting(some(at).id, piece(at), 'retune', at % 2 ? 'stay' : 'move'),
    (at) => {
      const face = Object.keys(piece(at).held)[0];
      if (face) edits.holdFace(some(at).id, piece(at), face, `${1 + (at % 7)} mm`, [face]);
    },
    (at) => {
      const face = Object.keys(piece(at).held)[0];
      if (face) edits.releaseFace(some(at).id, piece(at), face);
    },
    (at) => edits.addMarker(some(at).id, `${1 + (at % 20)} GHz`),
    (at) => edits.setPlots(some(at).id, 'arrange', [{ id: `p${at}`, show: at % 2 ? 'smith' : 'match' }]),
    (at) => edits.changeDesign(some(at).id, 'note', { note: `note ${at}` }),
    (at) => edits.chooseStack(some(at).id, laminates[at % laminates.length]),
    (at) => edits.setStackField(some(at).stack, 'height', `${1 + (at % 5)} mm`),
    (at) => edits.chooseLineStack(laminates[at % laminates.length]),
    (at) => void edits.duplicateDesign(some(at)),
    () => void edits.newDesign(project()),
    (at) => project().designs.length > 2 && edits.removeDesign(some(at)),
  ];
  const some = (at: number): Design => project().designs[at % project().designs.length];
  // A design may have lost all of its values by then.
  const value = (at: number) => some(at).values.at(-1);
  const piece = (at: number) => {
    const { pieces } = some(at);
    return pieces[at % pieces.length] ?? { id: 'none', name: 'none', kind: 'line', held: {}, nodes: [] };
  };

  it('is a project that reads back as it is, and is undone and redone step by step', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(steps.length - 1), fc.nat(10_000)), { minLength: 1, maxLength: 14 }),
        async (run) => {
          await openProject(await addProject({ ...readProject(JSON.stringify(demo)), id: `run-${count++}` }));
          const states = [project()];
          for (const [step, at] of run) {
            endMerge();
            steps[step](at);
            if (project() !== states.at(-1)) states.push(project());
          }
          const last = project();
          expect(readProject(writeProject(last))).toEqual(JSON.parse(JSON.stringify(last)));
          // Whatever stands in it, working it out never fails; what is wrong has a place.
          for (const own of last.designs)
            for (const p of resolveDesign(last, own).problems) expect(p.message.length).toBeGreaterThan(3);
          for (let i = states.length - 2; i >= 0; i--) {
            undo();
            expect(project()).toEqual(states[i]);
          }
          for (let i = 1; i < states.length; i++) {
            redo();
            expect(project()).toEqual(states[i]);
          }
        },
      ),
      { numRuns: 40 },
    );
  });
});
