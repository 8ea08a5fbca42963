import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ranked, waysTo, weigh, type Candidate } from '../src/candidates';
import { readProject, writeProject } from '../src/formats';
import { circuitOf, emptyProject, newId, resolveDesign, usedNames } from '../src/network';
import { parts } from '../src/parts';
import { initialInputs, recipes } from '../src/recipes';
import { laminates, type Stack } from '../src/stack';
import { entry, made, response, size } from './helpers';

const f0 = 10.55e9;
const recipe = recipes.get('single-stub')!;
const project = emptyProject('candidates', laminates[0]);
const context = { stack: laminates[0], medium: 'microstrip' as const, newId, data: [] };
const judged = (inputs: Record<string, string>, band = 0.1): Candidate[] =>
  waysTo(recipe, { ...initialInputs(recipe), ...inputs }).map((way) =>
    weigh(project, context, way, { band, returnLoss: 20 }),
  );

describe('ways to a match', () => {
  it('of any load: each matches at the design frequency, or says in words why it cannot be had', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 300, noNaN: true }),
        fc.double({ min: -150, max: 150, noNaN: true }),
        (re, im) => {
          const all = judged({ load: `${re}${im < 0 ? '-' : '+'}${Math.abs(im)}j ohm` });
          for (const { label, recipe: id, figures, problem } of all) {
            expect(figures === undefined).toBe(problem !== undefined);
            if (!figures) {
              expect(problem!.length).toBeGreaterThan(10);
              continue;
            }
            // A taper of its length only comes near; everything else is exact.
            if (id !== 'taper') expect([label, figures.level[100] < -150]).toEqual([label, true]);
            expect(figures.worst).toBeGreaterThanOrEqual(0);
            expect(figures.area).toBeGreaterThan(0);
            expect(figures.narrowest).toBeGreaterThan(0);
            // What the band is said to be cannot miss the design frequency where all of it is matched.
            if (figures.worst >= 20) expect(figures.bandwidth).toBeGreaterThan(0.1 * f0 * 0.95);
          }
          // Of the ways without a spacing of their own something always works.
          expect(all.filter((c) => c.recipe === 'single-stub' && c.figures)).not.toHaveLength(0);
        },
      ),
      { numRuns: 8 },
    );
  });

  it('are worse over a wider band, never better, and rank by what is asked', () => {
    const [narrow, wide] = [0.04, 0.2].map((band) => judged({}, band));
    narrow.forEach((c, i) => {
      if (c.figures) expect(wide[i].figures!.worst).toBeLessThanOrEqual(c.figures.worst + 1e-9);
    });
    const best = ranked(wide, 'bandwidth');
    const widths = best.flatMap((c) => (c.figures ? [c.figures.bandwidth ?? -1] : []));
    expect(widths).toEqual([...widths].sort((a, b) => b - a));
    const areas = ranked(wide, 'area').flatMap((c) => (c.figures ? [c.figures.area] : []));
    expect(areas).toEqual([...areas].sort((a, b) => a - b));
  });

  it('carry the load, the board and the frequency of the goal, and nothing that is not theirs', () => {
    const ways = waysTo(recipe, { ...initialInputs(recipe), freq: '5.8 GHz', load: '80 ohm' });
    for (const way of ways) {
      const own = recipes.get(way.recipe)!;
      expect(Object.keys(way.inputs).every((name) => own.fields.some((f) => f.name === name))).toBe(true);
      expect([way.inputs.freq, way.inputs.load]).toEqual(['5.8 GHz', '80 ohm']);
      for (const field of own.fields)
        if (field.type === 'choice') expect(field.options.map((o) => o.id)).toContain(way.inputs[field.name]);
    }
  });
});

describe('the design of every recipe', () => {
  const boards: [string, Stack, 'microstrip' | 'stripline'][] = [
    ['microstrip', laminates[0], 'microstrip'],
    ['under a lid', { ...laminates[0], cover: '5 mm' }, 'microstrip'],
    ['stripline', { ...laminates[0], height: '1.016 mm' }, 'stripline'],
  ];
  const every = boards.flatMap(([name, stack, medium]) =>
    [...recipes.keys()].map((id) => [id, name, stack, medium] as const),
  );

  it.each(every)(
    '%s, %s: comes back from its file as it was and gives the same response',
    (id, _name, stack, medium) => {
      const { project: own, design } = made(id, {}, stack, medium);
      const resolved = resolveDesign(own, design);
      expect(resolved.problems).toEqual([]);
      const back = readProject(writeProject(own));
      expect(back).toEqual(own);
      const freq = [0.8 * f0, f0, 1.1 * f0];
      for (const level of ['ideal', 'modelled'] as const) {
        const [was, is] = [response(own, level, freq), response(back, level, freq)];
        expect([...is.re, ...is.im]).toEqual([...was.re, ...was.im]);
        // No recipe makes power, and all of them are reciprocal.
        for (let k = 0; k < freq.length; k++)
          for (let j = 1; j <= was.ports; j++) {
            let out = 0;
            for (let i = 1; i <= was.ports; i++) {
              out += size(entry(was, i, j, k)) ** 2;
              expect(entry(was, i, j, k).re).toBeCloseTo(entry(was, j, i, k).re, 9);
            }
            expect(out).toBeLessThan(1 + 1e-9);
          }
      }
    },
  );

  it.each([...recipes.keys()])(
    '%s: uses what it names, names its pieces apart, and explains itself in figures',
    (id) => {
      const { project: own, design } = made(id);
      const used = usedNames(design);
      for (const { name } of design.values)
        expect([name, name === 'f0' || used.has(name)]).toEqual([name, true]);
      for (const list of [design.pieces.map((p) => p.id), design.pieces.map((p) => p.name)])
        expect(new Set(list).size).toBe(list.length);
      for (const piece of design.pieces)
        for (const face of Object.keys(piece.held))
          expect(parts.get(piece.kind)!.properties.some((p) => p.faces.some((f) => f.name === face))).toBe(
            true,
          );
      const own2 = recipes.get(id)!;
      const said = own2.explain(initialInputs(own2), context).join(' ');
      expect(said).toMatch(/\d/);
      expect(said).not.toMatch(/NaN|undefined|Infinity/);
      // A changed frequency carries the whole design along: it is still what it is, elsewhere.
      const moved = {
        ...design,
        values: design.values.map((v) => (v.name === 'f0' ? { ...v, value: '8 GHz' } : v)),
      };
      const resolved = resolveDesign({ ...own, designs: [moved] }, moved);
      const [a, b] = [response(own, 'ideal', [f0]), response({ ...own, designs: [moved] }, 'ideal', [8e9])];
      expect(resolved.problems).toEqual([]);
      expect(circuitOf(resolved, 'ideal')).toBeDefined();
      // The dips of a hairpin lie beside the centre, by what its folds are there.
      if (id !== 'taper')
        expect(size(entry(b, 1, 1))).toBeCloseTo(size(entry(a, 1, 1)), /hairpin|loop/.test(id) ? 1 : 6);
    },
  );
});
