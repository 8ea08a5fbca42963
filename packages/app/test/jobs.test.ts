import 'fake-indexeddb/auto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readProject } from '@ditch/core/formats';
import { alone, resolveDesign, type Design, type Project } from '@ditch/core/network';
import { initialInputs, recipes } from '@ditch/core/recipes';
import { tunables, type StudyId } from '@ditch/core/studies';
import demo from '../../../examples/ditchwater.ditch.json';
import { Cancelled, jobs, type JobContext } from '../src/bridge/jobs';
import { takenOver } from '../src/views/design/retuning';

const project: Project = readProject(JSON.stringify(demo));
const design = (id: string): Design => project.designs.find((d) => d.id === id)!;
const told: number[] = [];
const context: JobContext = {
  pause: () => Promise.resolve(false),
  progress: (d) => void told.push(d),
  enough: () => false,
};
const hasty: JobContext = { ...context, pause: () => Promise.resolve(true) };

describe('long computations', () => {
  const match = design('detector-match');
  const detuned: Design = {
    ...match,
    values: match.values.map((v) => (v.name === 'plane' ? { ...v, value: '25 deg' } : v)),
  };
  const limits = [{ id: 'l', side: 'below' as const, level: '-20', from: '10.3 GHz', to: '10.8 GHz' }];
  const limited: Design = { ...detuned, plots: [{ id: 'm', show: 'match', limits }] };

  it('retune towards the ideal response, or into limits, and say in words what is missing', async () => {
    const towards = (own: Design, study: StudyId, how = context) =>
      jobs.study({ project: alone(project, own), design: own, study }, how);
    const ideal = await towards(match, 'retune');
    if (!('value' in ideal)) throw new Error(ideal.problem);
    expect(ideal.value.after).toBeLessThanOrEqual(ideal.value.before + 1e-9);
    expect(ideal.value.limits).toBeUndefined();
    const met = await towards(limited, 'limits');
    if (!('value' in met)) throw new Error(met.problem);
    expect(met.value.before).toBeGreaterThan(0);
    expect(met.value.after).toBe(0);
    expect(await towards(detuned, 'limits')).toEqual({
      problem: expect.stringMatching(/no plot has limits/) as string,
    });
    await expect(towards(limited, 'limits', hasty)).rejects.toThrow(Cancelled);
  });

  it('draw profiles of what the first plot shows, one for each value, and report how far they are', async () => {
    const own = alone(project, match);
    const list = tunables(own, match, resolveDesign(own, match)).filter((t) => match.strip!.includes(t.key));
    told.length = 0;
    const profiles = await jobs.profiles(
      { project: own, design: match.id, tunables: list, points: 9, watched: undefined },
      context,
    );
    expect(profiles.map((p) => p.key)).toEqual(list.map((t) => t.key));
    profiles.forEach((p, i) => {
      expect(p.curves.map((c) => c.label)).toEqual(['S11']);
      expect(p.x[0] < list[i].value && list[i].value < p.x[8]).toBe(true);
    });
    const formula = { show: 'formula', formulas: ['re(Z11) in ohm'] };
    const [first] = await jobs.profiles(
      { project: own, design: match.id, tunables: list.slice(2, 3), points: 5, watched: formula },
      context,
    );
    expect(first.unit).toBe('ohm');
    expect(first.ends[0]).toBe(Math.min(...first.curves[0].y));
  });

  it('weigh every way to a goal on the board asked for, and none on a board that is not there', async () => {
    const recipe = recipes.get('single-stub')!;
    const ask = (stack: string) =>
      jobs.candidates(
        {
          project,
          recipe: recipe.id,
          inputs: initialInputs(recipe),
          stack,
          medium: 'microstrip',
          judgement: { band: 0.1, returnLoss: 20 },
        },
        context,
      );
    const all = await ask(project.stacks[0].id);
    expect(all.length).toBeGreaterThan(20);
    expect(all.every((c) => (c.figures === undefined) === (c.problem !== undefined))).toBe(true);
    expect(await ask('gone')).toEqual([]);
  });
});

describe('taking a retuning over', () => {
  it('changes what was moved and nothing that was edited meanwhile', () => {
    const from = design('hybrid');
    const names = from.values.map((v) => v.name);
    fc.assert(
      fc.property(
        fc.subarray(names),
        fc.subarray(names),
        fc.subarray(from.pieces.map((p) => p.id)),
        fc.subarray(from.pieces.map((p) => p.id)),
        (movedValues, editedValues, movedPieces, removedPieces) => {
          const retuned: Design = {
            ...from,
            values: from.values.map((v) => (movedValues.includes(v.name) ? { ...v, value: '7 mm' } : v)),
            pieces: from.pieces.map((p) => {
              if (!movedPieces.includes(p.id)) return p;
              const held: Record<string, string> = { ...p.held, widen: '0.1 mm' };
              delete held.trim;
              return { ...p, held };
            }),
          };
          const now: Design = {
            ...from,
            name: 'renamed meanwhile',
            values: from.values.map((v) => (editedValues.includes(v.name) ? { ...v, note: 'edited' } : v)),
            pieces: from.pieces.filter((p) => !removedPieces.includes(p.id)),
          };
          const taken = takenOver(now, from, retuned);
          expect(taken.name).toBe('renamed meanwhile');
          for (const v of taken.values) {
            expect(v.value).toBe(
              movedValues.includes(v.name) ? '7 mm' : from.values.find((x) => x.name === v.name)!.value,
            );
            expect(v.note === 'edited').toBe(editedValues.includes(v.name));
          }
          expect(taken.pieces.map((p) => p.id)).toEqual(now.pieces.map((p) => p.id));
          for (const p of taken.pieces) {
            const moved = movedPieces.includes(p.id);
            expect(p.held).toEqual((moved ? retuned : from).pieces.find((x) => x.id === p.id)!.held);
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});
