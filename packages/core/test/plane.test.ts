import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readProject, writeProject } from '../src/formats';
import {
  circuitOf,
  resolveDesign,
  seenFrom,
  simulate,
  usedNames,
  type Design,
  type Plot,
} from '../src/network';
import { impedanceOf } from '../src/results';
import { review } from '../src/review';
import { matchPath } from '../src/studies';
import { seenThrough } from '../src/theory';
import { entry, made, size, withDesign } from './helpers';

const f0 = 10.55e9;
const nothing = () => undefined;
/** What one sees at a plane of a design, ohm, against a reference in ohm. */
function seen(
  design: Design,
  project = made('single-stub').project,
  look?: Plot['look'],
  reference?: number,
  level: 'ideal' | 'modelled' = 'ideal',
) {
  const resolved = resolveDesign(withDesign(project, design), design);
  const circuit = seenFrom(circuitOf(resolved, level)!, resolved, { look, reference });
  const s = circuit && simulate(circuit, Float64Array.of(f0), nothing);
  if (!s) return undefined;
  const gamma = entry(s, 1, 1);
  return { s, gamma, z: impedanceOf(gamma.re, gamma.im, s.z0[0]) };
}

describe('planes of reference', () => {
  const { project, design } = made('single-stub', { zLine: '65 ohm' });
  const zl = { re: 23, im: -41 };

  it('show the load through the line in front of it, whatever the reference', () => {
    fc.assert(
      fc.property(fc.double({ min: 5, max: 300, noNaN: true }), (reference) => {
        const at = seen(design, project, { piece: 'load', pin: 0 }, reference)!;
        expect(at.z.re).toBeCloseTo(zl.re, 8);
        expect(at.z.im).toBeCloseTo(zl.im, 8);
        const line = seen(design, project, { piece: 'line', pin: 0 }, reference)!;
        const theta = resolveDesign(project, design).pieces.find((p) => p.id === 'line')!.values!.theta.re;
        const want = seenThrough(zl, 65, theta);
        expect(line.z.re).toBeCloseTo(want.re, 8);
        expect(line.z.im).toBeCloseTo(want.im, 8);
        expect(line.s.z0[0]).toEqual({ re: reference, im: 0 });
      }),
      { numRuns: 30 },
    );
  });

  it('see conjugates to both sides of every cut through a lossless match', () => {
    const cuts: [string, number, string, number][] = [
      ['load', 0, 'line', 1],
      ['line', 0, 'tee-stub', 1],
      ['tee-stub', 0, 'feed1', 1],
    ];
    for (const [a, pa, b, pb] of cuts) {
      const there = seen(design, project, { piece: a, pin: pa })!;
      const back = seen(design, project, { piece: b, pin: pb })!;
      expect(back.z.re).toBeCloseTo(there.z.re, 7);
      expect(back.z.im).toBeCloseTo(-there.z.im, 7);
    }
  });

  it('keep a network what it is: ports move up by one and stay closed, a ring is cut open, nothing gains power', () => {
    const hybrid = made('branch-line');
    for (const piece of hybrid.design.pieces)
      piece.nodes.forEach((_n, pin) => {
        const at = seen(hybrid.design, hybrid.project, { piece: piece.id, pin }, undefined, 'modelled');
        if (piece.kind === 'port') return expect(at).toBeUndefined();
        expect(at!.s.ports).toBe(5);
        expect(size(at!.gamma)).toBeLessThanOrEqual(1 + 1e-12);
      });
    // Behind a matched port's feed stands the port itself.
    const feed = seen(hybrid.design, hybrid.project, { piece: 'feed1', pin: 1 })!;
    expect(feed.z.re).toBeCloseTo(50, 9);
  });

  it('without a pin are port 1 against another reference', () => {
    const plain = seen(design, project)!;
    expect(size(plain.gamma)).toBeLessThan(1e-9);
    expect(seen(design, project, undefined, 25)!.gamma.re).toBeCloseTo(1 / 3, 9);
  });

  it('end the way from the load where they stand', () => {
    const resolved = resolveDesign(project, design);
    for (const level of ['ideal', 'modelled'] as const)
      for (const [piece, pin, pieces] of [
        ['line', 0, ['line']],
        ['tee-stub', 0, ['line', 'stub']],
        ['load', 0, []],
      ] as const) {
        const look = { piece, pin };
        const path = matchPath(design, resolved, circuitOf(resolved, level)!, nothing, {
          look,
          reference: 80,
        })!;
        expect(path.arcs.map((a) => a.piece).filter((p) => p !== 'tee-stub')).toEqual(pieces);
        const end = path.arcs.at(-1)?.points.at(-1) ?? path.start;
        const { gamma } = seen(design, project, look, 80, level)!;
        expect(end.re).toBeCloseTo(gamma.re, 9);
        expect(end.im).toBeCloseTo(gamma.im, 9);
      }
    // Looking to the source, or beside the way, there is none.
    for (const look of [
      { piece: 'line', pin: 1 },
      { piece: 'stub', pin: 0 },
    ])
      expect(matchPath(design, resolved, circuitOf(resolved, 'ideal')!, nothing, { look })).toBeUndefined();
  });

  it('stand in the file, and what is wrong with them is said without stopping the response', () => {
    const plots: Plot[] = [
      { id: 'a', show: 'smith', look: { piece: 'line', pin: 0 }, reference: 'zline' },
      { id: 'b', show: 'smith', look: { piece: 'gone', pin: 0 } },
      { id: 'c', show: 'smith', reference: '3 mm' },
      { id: 'd', show: 'smith', look: { piece: 'port1', pin: 0 }, reference: '0 ohm' },
    ];
    const kept = readProject(writeProject(withDesign(project, { ...design, plots })));
    expect(kept.designs[0].plots).toEqual(plots);
    const resolved = resolveDesign(kept, kept.designs[0]);
    expect(resolved.planes[0]).toEqual({ plot: 'a', look: { piece: 'line', pin: 0 }, reference: 65 });
    expect(resolved.problems.map((p) => [p.place.kind, (p.place as { id: string }).id])).toEqual([
      ['plane', 'c'],
      ['plane', 'd'],
    ]);
    const gone = review(kept, kept.designs[0], resolved).filter((r) => /looked into a piece/.test(r.message));
    expect(gone.map((r) => (r.place as { id: string }).id)).toEqual(['b']);
    const after = gone[0].remedies![0].apply(kept).designs[0];
    expect(after.plots!.map((p) => p.look?.piece)).toEqual(['line', undefined, undefined, undefined]);
    expect(circuitOf(resolved, 'modelled')).toBeDefined();
    // A value that only a chart needs is in use.
    const only = {
      ...design,
      values: [...design.values, { name: 'zc', value: '30 ohm' }, { name: 'edge', value: '9 GHz' }],
    };
    const limits = [{ id: 'l', side: 'below' as const, level: '-20', from: 'edge', to: 'f0' }];
    expect(usedNames(only)).not.toContain('zc');
    const used = usedNames({
      ...only,
      plots: [
        { id: 'a', show: 'smith', reference: 'zc' },
        { id: 'm', show: 'match', limits },
      ],
    });
    expect(used.has('zc') && used.has('edge')).toBe(true);
  });
});
