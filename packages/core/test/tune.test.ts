import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ranked, waysTo, weigh } from '../src/candidates';
import { readProject, writeProject } from '../src/formats';
import { circuitOf, GROUND, resolveDesign, type Design, type Project } from '../src/network';
import { cx } from '../src/numeric';
import { initialInputs, recipes } from '../src/recipes';
import {
  blended,
  faceKey,
  inAttempt,
  keepAttempt,
  matchPath,
  pathArc,
  profileOf,
  rangeOf,
  shareNearest,
  tunables,
  tuned,
  whyStill,
  type Tunable,
} from '../src/studies';
import { entry, made, response, size, withDesign } from './helpers';

const f0 = 10.55e9;
const stub = (inputs = {}) => made('single-stub', inputs);
const list = (project: Project, design: Design) => tunables(project, design, resolveDesign(project, design));
const find = (project: Project, design: Design, key: string): Tunable =>
  list(project, design).find((t) => t.key === key)!;
const own = (project: Project): Design => project.designs[0];
/** A design changed by hand: values by name, faces by piece. */
const edited = (design: Design, values: Record<string, string>): Design => ({
  ...design,
  values: design.values.map((v) => (values[v.name] === undefined ? v : { ...v, value: values[v.name] })),
});

describe('values under the hand', () => {
  it('are all values, held faces and the board, each as what it is', () => {
    const { project, design } = stub();
    const keys = list(project, design).map((t) => t.key);
    for (const key of ['value:f0', 'value:zl:re', 'value:zl:im', 'value:plane', 'stack:er', 'stack:height'])
      expect(keys).toContain(key);
    // What a face holds by the name of a value alone is that value, and stands there once.
    expect(keys.filter((k) => k.includes('piece:stub'))).toEqual([]);
    expect(
      faceKey(
        design,
        design.pieces.find((p) => p.id === 'stub')!,
        'theta',
      ),
    ).toBe('value:stub');
    expect(find(project, design, 'value:plane').expression).toContain('stubplane');
    expect(find(project, design, 'value:zl:im')).toMatchObject({
      value: -41,
      min: undefined,
      kind: 'impedance',
    });
    // zp is complex and follows: there is no one number to turn.
    expect(keys).not.toContain('value:zp');
  });

  it('come back as they were put, in the unit they were typed in, and leave all others alone', () => {
    const { project, design } = stub();
    const keys = list(project, design).map((t) => t.key);
    fc.assert(
      fc.property(fc.constantFrom(...keys), fc.double({ min: 0.6, max: 1.6, noNaN: true }), (key, factor) => {
        const before = list(project, design);
        const t = before.find((x) => x.key === key)!;
        const value = t.value === 0 ? factor : t.value * factor;
        const next = tuned(project, design.id, t, value);
        expect(find(next, own(next), key).value / value).toBeCloseTo(1, 6);
        // A second time the same number changes nothing: what is written is what is read.
        expect(tuned(next, design.id, find(next, own(next), key), value)).toEqual(next);
        const texts = (p: Project) => [
          ...own(p).values.map((v) => v.value),
          ...own(p).pieces.flatMap((x) => Object.values(x.held)),
          // A laminate that ships becomes the project's own and goes by another id.
          ...p.stacks.flatMap((s) => Object.values({ ...s, id: '' })),
        ];
        const [was, is] = [texts(project), texts(next)];
        expect(was.filter((text, i) => text !== is[i]).length).toBeLessThanOrEqual(1);
      }),
      { numRuns: 120 },
    );
    const unit = (key: string, value: number, name: string) =>
      own(tuned(project, design.id, find(project, design, key), value)).values.find((v) => v.name === name)!
        .value;
    expect(unit('value:f0', 9.8e9, 'f0')).toBe('9.8 GHz');
    expect(unit('value:zl:im', 12.5, 'zl')).toBe('23+12.5j ohm');
    expect(unit('value:feed', 0.0031, 'feed')).toBe('3.1 mm');
    // An expression gives way to a number in the usual unit.
    expect(unit('value:plane', Math.PI / 6, 'plane')).toBe('30 deg');
  });

  it('reach half of themselves to either side, and never what cannot exist', () => {
    const t = (over: Partial<Tunable>): Tunable => ({
      key: 'value:x',
      label: 'x',
      kind: 'impedance',
      value: 40,
      shown: '',
      min: undefined,
      expression: undefined,
      ...over,
    });
    expect(rangeOf(t({}))).toEqual([20, 60]);
    expect(rangeOf(t({ value: 0, min: undefined }))).toEqual([-10, 10]);
    expect(rangeOf(t({ value: 1.2, min: 1, kind: 'number' }))).toEqual([1, 1.7999999999999998]);
  });
});

describe('profiles', () => {
  it('are the match itself over the value', () => {
    const { project, design } = stub();
    const t = find(project, design, 'value:zl:re');
    const profile = profileOf(project, design.id, t, 'ideal', [15, 31], 17);
    for (const k of [0, 5, 16]) {
      const there = tuned(project, design.id, t, profile.x[k]);
      const s = size(entry(response(there, 'ideal', [f0]), 1, 1));
      expect(10 ** (profile.curves[0].y[k] / 20)).toBeCloseTo(s, 9);
    }
    expect(profile.still).toBeUndefined();
  });

  it('show the touch of a value that others follow as what is left of it', () => {
    // The line and the stub of the recipe follow the load: the ideal match stays.
    const { project, design } = stub();
    const t = find(project, design, 'value:zl:im');
    expect(Math.max(...profileOf(project, design.id, t, 'ideal', [-50, -30], 9).curves[0].y)).toBeLessThan(
      -150,
    );
    const fixed = edited(design, { plane: '15.9 deg', stub: '124.6 deg' });
    const p = withDesign(project, fixed);
    const y = profileOf(p, design.id, find(p, fixed, 'value:zl:im'), 'ideal', [-50, -30], 9).curves[0].y;
    expect(Math.max(...y)).toBeGreaterThan(-15);
  });

  it('draw every curve of the plot that is watched, named as there, between the ends of its kind', () => {
    const { project, design } = made('branch-line');
    const t = find(project, design, 'value:z0');
    const phase = profileOf(project, design.id, t, 'ideal', [40, 60], 5, { show: 'phase' });
    expect(phase.curves.map((c) => c.label)).toEqual(['S21/S31']);
    // The system impedance is that of ports and lines: the quadrature stays.
    for (const y of phase.curves[0].y) expect(y).toBeCloseTo(90, 6);
    const usual = profileOf(project, design.id, t, 'modelled', [40, 60], 5);
    expect(usual.curves.map((c) => c.label)).toEqual(['S11', 'S21', 'S31', 'S41']);
    expect([usual.unit, usual.ends]).toEqual(['dB', [-40, 0]]);
    const formula = { show: 'formula', formulas: ['S11 in ohm'] };
    expect(profileOf(project, design.id, t, 'ideal', [40, 60], 5, formula).curves).toEqual([]);
    const delay = profileOf(project, design.id, t, 'ideal', [40, 60], 5, { show: 'delay' });
    // A quarter wave takes about a quarter of a period and the ring stores more.
    for (const y of delay.curves[0].y) expect(y).toBeGreaterThan(0.25e9 / f0);
  });

  it('say why a value moves nothing', () => {
    const { project, design } = stub();
    const unused = { ...design, values: [...design.values, { name: 'spare', value: '3 mm' }] };
    const alone = {
      ...design,
      values: [...design.values, { name: 'far', value: '3 mm' }],
      pieces: [
        ...design.pieces,
        { id: 'x', name: 'x', kind: 'line', held: { z0: '50 ohm', length: '2*far' }, nodes: ['q1', 'q2'] },
      ],
    };
    const grounded = {
      ...design,
      pieces: [
        ...design.pieces,
        { id: 'r', name: 'r', kind: 'resistor', held: { r: '50 ohm' }, nodes: ['ground', 'ground'] },
      ],
    };
    const still = (d: Design, key: string, level: 'ideal' | 'modelled' = 'ideal') => {
      const p = withDesign(project, d);
      const t = find(p, d, key);
      return profileOf(p, d.id, t, level, rangeOf(t), 5).still;
    };
    expect(still(unused, 'value:spare')).toBe('no piece uses it');
    expect(still(alone, 'value:far')).toContain('not connected to a port');
    expect(still(grounded, 'piece:r:r')).toMatch(/not connected|grounded/);
    expect(still(design, 'stack:tand')).toContain('do not depend on it');
    expect(still(design, 'stack:tand', 'modelled')).toBeUndefined();
    expect(whyStill(design, resolveDesign(project, design), 'value:plane')).toContain('at this level');
  });
});

describe('attempts', () => {
  it('are kept in the file, come back whole, and blend in proportion', () => {
    const { project, design } = stub();
    const fixed = edited(design, { plane: '20 deg', stub: '100 deg' });
    const other = edited(fixed, { stub: '140 deg', zl: '33-21j ohm' });
    const kept = { ...fixed, attempts: keepAttempt(other, 'a1', 'longer').attempts };
    const p = withDesign(project, kept);
    const read = readProject(writeProject(p));
    expect(own(read).attempts).toEqual(kept.attempts);
    const [attempt] = own(read).attempts!;
    expect(inAttempt(kept, attempt).values).toEqual(other.values);
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 0.99, noNaN: true }), (share) => {
        const there = own(blended(p, kept, attempt, share));
        const value = (key: string) => find(withDesign(project, there), there, key).value;
        expect((value('value:stub') * 180) / Math.PI).toBeCloseTo(100 + 40 * share, 4);
        expect(value('value:zl:re')).toBeCloseTo(23 + 10 * share, 4);
        expect(value('value:zl:im')).toBeCloseTo(-41 + 20 * share, 4);
        expect(there.values.find((v) => v.name === 'plane')!.value).toBe('20 deg');
      }),
      { numRuns: 20 },
    );
    expect(own(blended(p, kept, attempt, 0)).values).toEqual(kept.values);
    expect(own(blended(p, kept, attempt, 1)).values).toEqual(other.values);
  });
});

describe('the way on the Smith chart', () => {
  const pathOf = (project: Project, design: Design, level: 'ideal' | 'modelled' = 'ideal') => {
    const resolved = resolveDesign(project, design);
    return matchPath(design, resolved, circuitOf(resolved, level)!, () => undefined);
  };

  it.each([
    ['single-stub', {}],
    ['single-stub', { pair: 'pair', stub: 'short', solution: '2' }],
    ['double-stub', { spacing: '135 deg', offset: '20 deg' }],
    ['single-stub', { stub: 'radial' }],
    ['quarter-wave', { load: '23-41j ohm', sections: '3' }],
    ['l-section', {}],
    ['pi-section', { pass: 'high' }],
    ['t-section', { values: 'e24' }],
    ['line-and-part', { part: 'series' }],
  ])('leads from the load to the response without a gap: %s %j', (id, inputs) => {
    const { project, design } = made(id, inputs);
    for (const level of ['ideal', 'modelled'] as const) {
      const path = pathOf(project, design, level)!;
      expect(path.start.re).toBeCloseTo((23 ** 2 + 41 ** 2 - 2500) / (73 ** 2 + 41 ** 2), 9);
      let here = path.start;
      const resolved = resolveDesign(project, design);
      for (const arc of path.arcs) {
        expect(Math.hypot(arc.points[0].re - here.re, arc.points[0].im - here.im)).toBeLessThan(1e-3);
        here = arc.points[arc.points.length - 1];
        // By itself a piece that lies in the way begins and ends where it does on the way as a whole.
        const { nodes } = design.pieces.find((p) => p.id === arc.piece)!;
        if (
          design.pieces.some(
            (p) => /tee|cross/.test(p.kind) && p.nodes.slice(2).some((n) => nodes.includes(n)),
          )
        )
          continue;
        const alone = pathArc(design, resolved, circuitOf(resolved, level)!, () => undefined, arc.piece)!;
        for (const [p, q] of [
          [alone.points[0], arc.points[0]],
          [alone.points.at(-1)!, here],
        ])
          expect(Math.hypot(p.re - q.re, p.im - q.im)).toBeLessThan(1e-3);
      }
      const s = entry(response(project, level, [f0]), 1, 1);
      expect(here.re).toBeCloseTo(s.re, 9);
      expect(here.im).toBeCloseTo(s.im, 9);
    }
  });

  it('draws lines as circles around their impedance and stubs as circles of constant conductance', () => {
    const { project, design } = stub();
    const path = pathOf(project, design)!;
    const [line, shunt] = path.arcs;
    expect([line.piece, shunt.piece]).toEqual(['line', 'stub']);
    const radius = Math.hypot(path.start.re, path.start.im);
    for (const p of line.points) expect(Math.hypot(p.re, p.im)).toBeCloseTo(radius, 9);
    const conductance = ({ re, im }: { re: number; im: number }) =>
      (1 - re * re - im * im) / ((1 + re) ** 2 + im * im);
    for (const p of shunt.points) expect(conductance(p)).toBeCloseTo(1, 6);
  });

  it('draws mounted parts as circles of their own, in the direction that their value grows or shrinks', () => {
    const z = ({ re, im }: { re: number; im: number }) =>
      cx.div({ re: 50 * (1 + re), im: 50 * im }, { re: 1 - re, im: -im });
    for (const pass of ['low', 'high']) {
      const { project, design } = made('l-section', { load: '120+30j ohm', pass, pad: '0 mm' });
      const [across, along] = pathOf(project, design)!.arcs;
      for (const p of across.points) {
        expect(cx.div({ re: 1, im: 0 }, z(p)).re).toBeCloseTo(120 / (120 ** 2 + 30 ** 2), 9);
      }
      for (const p of along.points) expect(z(p).re).toBeCloseTo(50, 4);
      // A larger capacitor across and a larger coil in series go further; of the others a smaller one does.
      expect([across.inverse ?? false, along.inverse ?? false]).toEqual(
        pass === 'low' ? [false, false] : [true, true],
      );
    }
  });

  it('passes parts that hang at a node without a junction: to ground, or with what is behind them', () => {
    const { project, design } = made('l-section', { pad: '0 mm' });
    const on = design.pieces.find((p) => p.kind === 'tee')!.nodes;
    const without = design.pieces.filter((p) => p.kind !== 'tee');
    const joined = (ground: boolean) => ({
      ...design,
      pieces: without.flatMap((p) => {
        // All that met the tee meets at one node; the part goes straight to ground, or to its via.
        const nodes = p.nodes.map((n) => (on.includes(n) ? on[0] : n));
        if (p.kind === 'via') return ground ? [] : [{ ...p, nodes }];
        return [{ ...p, nodes: ground && p.id === 'part1' ? [nodes[0], GROUND] : nodes }];
      }),
    });
    for (const ground of [true, false]) {
      const bare = joined(ground);
      const path = pathOf(withDesign(project, bare), bare)!;
      expect(path.arcs.map((a) => a.piece).slice(0, 2)).toEqual(['part1', 'part2']);
      const end = path.arcs[path.arcs.length - 1].points.at(-1)!;
      expect(size(end)).toBeLessThan(1e-9);
      // Half of the part is half of its susceptance, wherever it stands.
      const there = path.at('part1', 0.5)!;
      expect(there.re).toBeCloseTo(pathOf(project, design)!.at('part1', 0.5)!.re, 9);
    }
  });

  it('finds the length at which an arc ends where the hand is', () => {
    const { project, design } = stub();
    fc.assert(
      fc.property(
        fc.constantFrom('line', 'stub'),
        fc.double({ min: 0.75, max: 1.25, noNaN: true }),
        (id, share) => {
          const path = pathOf(project, design)!;
          const wanted = path.at(id, share)!;
          expect(shareNearest(path, id, wanted, 0.3)).toBeCloseTo(share, 3);
          // Beside the arc it is the nearest point that counts, and the stride is bounded.
          const far = shareNearest(path, id, { re: -0.9, im: 0.4 }, 0.1)!;
          expect(Math.abs(far - 1)).toBeLessThanOrEqual(0.1 + 1e-9);
        },
      ),
      { numRuns: 40 },
    );
    expect(shareNearest(pathOf(project, design)!, 'tee-stub', { re: 0, im: 0 }, 0.3)).toBeUndefined();
  });

  it('is told only where there is one way', () => {
    for (const id of ['branch-line', 'wilkinson', 'tee-divider', 'rat-race']) {
      const { project, design } = made(id);
      expect(pathOf(project, design)).toBeUndefined();
    }
  });
});

describe('candidates', () => {
  const recipe = recipes.get('single-stub')!;
  const { project } = stub();
  const context = { stack: project.stacks[0], medium: 'microstrip' as const, newId: () => 'c', data: [] };
  const ways = waysTo(recipe, { ...initialInputs(recipe), load: '10 ohm' });
  const weighed = ways.map((w) => weigh(project, context, w, { band: 0.1, returnLoss: 20 }));

  it('come from every recipe that takes the same goal, each with the load asked for', () => {
    expect(new Set(ways.map((w) => w.recipe))).toEqual(
      new Set([
        ...['single-stub', 'double-stub', 'quarter-wave', 'taper'],
        ...['l-section', 'pi-section', 't-section', 'line-and-part'],
      ]),
    );
    expect(new Set(ways.map((w) => w.key)).size).toBe(ways.length);
    for (const w of ways) expect(w.inputs.load).toBe('10 ohm');
  });

  it('are weighed by figures of their own response', () => {
    for (const c of weighed) {
      if (!c.figures) {
        expect(c.problem).toBeTruthy();
        continue;
      }
      const { design } = made(c.recipe, c.inputs);
      const p = withDesign(project, design);
      for (const f of [0.95, 1.05]) {
        const s = size(entry(response(p, 'ideal', [f * f0]), 1, 1));
        expect(-20 * Math.log10(s)).toBeGreaterThanOrEqual(c.figures.worst - 1e-9);
      }
      expect(c.figures.area).toBeGreaterThan(1e-6);
      expect(c.figures.narrowest).toBeGreaterThan(1e-4);
    }
    // A real load far from the source: the quarter wave is the widest of the single sections.
    const band = (label: string) => weighed.find((c) => c.label === label)?.figures?.bandwidth ?? 0;
    expect(band('two quarter waves, maximally flat')).toBeGreaterThan(band('one quarter wave'));
    expect(band('one quarter wave')).toBeGreaterThan(band('open stub, near plane'));
  });

  it.each(['worst', 'bandwidth', 'narrowest', 'area'] as const)(
    'are ranked by %s, what cannot be last',
    (by) => {
      const order = ranked(weighed, by);
      expect(order).toHaveLength(weighed.length);
      const figures = order.flatMap((c) => (c.figures ? [c.figures[by] ?? -1] : []));
      const sorted = [...figures].sort((a, b) => (by === 'area' ? a - b : b - a));
      expect(figures).toEqual(sorted);
      const firstMissing = order.findIndex((c) => !c.figures);
      if (firstMissing >= 0) expect(order.slice(firstMissing).every((c) => !c.figures)).toBe(true);
    },
  );
});
