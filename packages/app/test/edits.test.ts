import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it } from 'vitest';
import { readProject } from '@ditch/core/formats';
import { circuitOf, dataBlock, resolveDesign, type Design, type Project } from '@ditch/core/network';
import { laminates } from '@ditch/core/stack';
import demo from '../../../examples/ditchwater.ditch.json';
import { Cancelled, jobs, type JobContext } from '../src/bridge/jobs';
import { nearest, shifted, spread, valueAt } from '../src/charts/domain';
import { addProject, openProject, undo, useSession } from '../src/store/session';
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
    expect(design()).toEqual(demo.designs[0]);
  });

  it('hold one face of a property and let go of the other', () => {
    const { id, pieces } = design();
    edits.holdFace(id, pieces[1], 'width', '1 mm', ['z0', 'width']);
    expect(design().pieces[1].held).toEqual({ width: '1 mm', theta: '90 deg' });
    edits.holdFace(id, design().pieces[1], 'z0', '60 ohm', ['z0', 'width']);
    expect(design().pieces[1].held).toEqual({ z0: '60 ohm', theta: '90 deg' });
  });

  it('give a design another board without touching the others, and drop boards nobody uses', () => {
    edits.chooseStack(design().id, laminates[5]);
    expect(project().stacks.map((s) => s.id)).toEqual(['ptfe-2.94', 'hydrocarbon-3.66', 'alumina-99.6']);
    expect(design(1).stack).toBe('ptfe-2.94');
    edits.setStackField('alumina-99.6', 'height', '0.25 mm');
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
    expect(project().stacks.some((s) => s.height === '0.25 mm')).toBe(false);
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
    expect(project().data.map((d) => d.name)).toEqual(['board 3, measured']);
    // What the edits made is a project that can be read again.
    expect(readProject(JSON.stringify(project()))).toEqual(project());
  });
});

describe('jobs', () => {
  const request = (points: number) => {
    const resolved = resolveDesign(project(), design());
    return { circuit: circuitOf(resolved, 'modelled')!, start: 1e9, stop: 20e9, points, data: [] };
  };
  const context = (change: Partial<JobContext> = {}): JobContext => ({
    pause: () => Promise.resolve(false),
    progress: () => undefined,
    ...change,
  });

  it('give the same numbers in one go and in turns, with progress', async () => {
    const told: number[] = [];
    const long = await jobs.simulate(request(200_001), context({ progress: (d) => void told.push(d) }));
    expect(told.length).toBeGreaterThan(1);
    expect([...told].sort((a, b) => a - b)).toEqual(told);
    const short = await jobs.simulate(request(3), context());
    for (const [k, j] of [
      [0, 0],
      [1, 100_000],
      [2, 200_000],
    ])
      expect(short.re[k]).toBe(long.re[j]);
  });

  it('end early when they are cancelled', async () => {
    await expect(
      jobs.simulate(request(2_000_001), context({ pause: () => Promise.resolve(true) })),
    ).rejects.toThrow(Cancelled);
  });

  it('draw the impedance of a line as falling with its width', async () => {
    const { stack } = resolveDesign(project(), design());
    const curve = await jobs.impedanceCurve(
      { medium: 'microstrip', substrate: stack!.substrate, freq: 1e9, from: 1e-4, to: 5e-3, points: 60 },
      context(),
    );
    expect(curve.width[0]).toBeCloseTo(1e-4, 12);
    expect(curve.width[59]).toBeCloseTo(5e-3, 12);
    curve.z0.forEach((z, k) => k > 0 && expect(z).toBeLessThan(curve.z0[k - 1]));
  });
});

describe('chart geometry', () => {
  it('spreads labels apart inside their strip, in their order', () => {
    const placed = spread([50, 52, 51, 200, -30], 13, 4, 190);
    const order = [...placed].sort((a, b) => a - b);
    order.forEach((y, i) => i > 0 && expect(y - order[i - 1]).toBeGreaterThanOrEqual(13 - 1e-9));
    expect(order[0]).toBeGreaterThanOrEqual(4);
    expect(order[4]).toBeLessThanOrEqual(190);
    expect(placed[0]).toBeLessThan(placed[2]);
    expect(placed[2]).toBeLessThan(placed[1]);
  });

  it('reads between samples and moves domains on linear and logarithmic axes', () => {
    const trace = {
      id: 't',
      label: 't',
      colour: 'trace1',
      stroke: 'ideal',
      x: [1, 2, 4],
      y: [10, 20, -Infinity],
    } as const;
    expect(valueAt(trace, 1.5)).toBe(15);
    expect(valueAt(trace, 4)).toBe(-Infinity);
    expect(valueAt(trace, 5)).toBeNaN();
    expect(nearest([1, 2, 4], 2.9)).toBe(1);
    expect(shifted([10, 20], false, 0.5)).toEqual([15, 25]);
    expect(shifted([1, 100], true, 0.5)).toEqual([10, 1000]);
  });
});
