import { effect, signal } from '@preact/signals-core';
import { beforeEach, describe, expect, it } from 'vitest';
import { layOut } from '@ditch/core/artwork';
import { readProject } from '@ditch/core/formats';
import { resolveDesign, type Design } from '@ditch/core/network';
import demo from '../../../examples/ditchwater.ditch.json';
import { derived, sameEntries } from '../src/live';
import { NOTHING, type Result } from '../src/responses/store';
import { artworkOf, picturesOf } from '../src/views/design/pictures';
import type { Aside, Scene } from '../src/views/design/stage';

const project = readProject(JSON.stringify(demo));
const hybrid = project.designs.find((d) => d.id === 'hybrid')!;

const answer = (ports: number): Result => ({
  data: {
    ports,
    freq: Float64Array.of(9e9, 10e9, 11e9),
    re: new Float64Array(3 * ports * ports),
    im: new Float64Array(3 * ports * ports),
    z0: Array.from({ length: ports }, () => ({ re: 50, im: 0 })),
  },
  match: undefined,
});

const sceneOf = (design: Design, results: ReadonlyMap<string, Result>): Scene => {
  const resolved = resolveDesign(project, design);
  return {
    project: { ...project, designs: [design] },
    design,
    resolved,
    layout: layOut(resolved),
    subjects: new Map(),
    counted: 'modelled',
    responses: { ...NOTHING, results },
    walked: { arcs: [] },
    solved: { known: false },
  };
};

describe('what the page draws from', () => {
  const results = new Map([
    ['ideal', answer(4)],
    ['modelled', answer(4)],
  ]);
  let scene = signal(sceneOf(hybrid, results));
  const aside = signal<Aside>({ hovered: undefined, beside: [] });
  beforeEach(() => {
    scene = signal(sceneOf(hybrid, results));
  });

  it('changes where the scene says something else, and nowhere else', () => {
    const pictures = picturesOf(scene, aside);
    const drawings = { sources: 0, markers: 0, limits: 0, plots: 0, goal: 0 };
    for (const what of ['sources', 'markers', 'limits', 'plots', 'goal'] as const)
      effect(() => {
        void pictures[what].value;
        drawings[what]++;
      });
    expect(pictures.sources.value.map((s) => s.id)).toEqual(['modelled', 'ideal']);
    const first = hybrid.markers[0];
    scene.value = sceneOf(
      { ...hybrid, markers: [{ ...first, freq: '9.75 GHz' }, ...hybrid.markers.slice(1)] },
      results,
    );
    expect(drawings).toEqual({ sources: 1, markers: 2, limits: 1, plots: 1, goal: 1 });
    expect(pictures.markers.value[0]).toMatchObject({ x: 9.75e9, label: '9.75\u2009GHz', fixed: false });
    // One level's new answer redraws the curves alone.
    scene.value = {
      ...scene.peek(),
      responses: { ...NOTHING, results: new Map([...results, ['modelled', answer(4)]]) },
    };
    expect(drawings).toEqual({ sources: 2, markers: 2, limits: 1, plots: 1, goal: 1 });
  });

  it('keeps the copper of the last right entry, dimmed, while one is wrong', () => {
    const artwork = artworkOf(scene);
    const { layout } = artwork.value;
    expect(layout.pieces.length).toBeGreaterThan(10);
    const wrong = hybrid.values.map((v) => (v.name === 'z0' ? { ...v, value: '50 ohm +' } : v));
    scene.value = sceneOf({ ...hybrid, values: wrong }, results);
    expect(artwork.value.dim).toBe(true);
    expect(artwork.value.layout).toBe(layout);
    expect(artwork.value.design.values).toBe(wrong);
    scene.value = sceneOf(hybrid, results);
    expect(artwork.value.dim).toBe(false);
    expect(artwork.value.layout).not.toBe(layout);
  });
});

describe('derived', () => {
  it('stays the same object while it says the same, whatever it was worked out of', () => {
    const at = signal({ x: 1, beside: 'a' });
    const x = derived(() => ({ x: at.value.x }));
    const list = derived(() => [{ of: at.value.beside, x: x.value }], sameEntries);
    const seen = [x.value, list.value];
    at.value = { x: 1, beside: 'a' };
    expect([x.value, list.value]).toEqual(seen);
    expect(x.value).toBe(seen[0]);
    expect(list.value).toBe(seen[1]);
    at.value = { x: 1, beside: 'b' };
    expect(x.value).toBe(seen[0]);
    expect(list.value).not.toBe(seen[1]);
    at.value = { x: 2, beside: 'b' };
    expect(x.value).toEqual({ x: 2 });
  });
});
