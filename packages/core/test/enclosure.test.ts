import { describe, expect, it } from 'vitest';
import { cutAt, enclosureResonances, layOut } from '../src/artwork';
import { designDifferences } from '../src/compare';
import { readProject, readProjectFile, writeProject } from '../src/formats';
import { solvedSubject } from '../src/levels';
import { emptyDesign, emptyProject, renameIn, resolveDesign, type Design } from '../src/network';
import { drive } from '../src/numeric';
import { prepareSteps, solutionFor, SOLVER, type Copper, type KeptSolution } from '../src/planar';
import { review } from '../src/review';
import { laminates } from '../src/stack';
import { pieceOf, withDesign } from './helpers';

const project = emptyProject('test', { ...laminates[0], cover: '3 mm' });
const port = (number: string, node: string) =>
  pieceOf(`p${number}`, 'port', { z: '50 ohm' }, [node], { number });
/** A line of 24 mm out of the middle of its box. */
const through = (enclosure: Partial<Design['enclosure']> = {}): Design => ({
  ...emptyDesign('test', project.stacks[0].id, 'microstrip', '10 GHz'),
  sweep: { start: '5 GHz', stop: '14 GHz', points: 11 },
  enclosure: { left: '0 mm', right: '0 mm', front: '5 mm', back: '13 mm', ...enclosure },
  pieces: [
    port('1', 'a'),
    pieceOf('line', 'line', { width: '1.28 mm', length: '24 mm' }, ['a', 'b']),
    port('2', 'b'),
  ],
});
const workedOut = (design: Design) => {
  const resolved = resolveDesign(withDesign(project, design), design);
  return { resolved, layout: layOut(resolved) };
};
const remarks = (design: Design): string[] => {
  const { resolved, layout } = workedOut(design);
  return review(withDesign(project, design), design, resolved, layout).map((r) => r.message);
};

describe('side walls', () => {
  it('make a box that the solved line feels where it resonates, and nowhere else', () => {
    const { resolved, layout } = workedOut(through());
    const [first, second] = enclosureResonances(resolved, layout);
    expect(second).toBeGreaterThan(1.2 * first);
    const { copper } = solvedSubject(resolved, layout)!;
    const solution = drive(prepareSteps(copper, { start: 5e9, stop: 14e9 }, 'draft'));
    const reflected = (share: number) => {
      const { re, im } = solution.at(share * first);
      return Math.hypot(re[0], im[0]);
    };
    // The strip pulls the empty box's resonance by a few thousandths.
    const near = [1, 1.002, 1.004, 1.006, 1.008].map(reflected);
    expect(Math.max(...near)).toBeGreaterThan(0.6);
    expect(Math.max(reflected(0.96), reflected(1.04))).toBeLessThan(0.06);
    expect(remarks(through())).toEqual([
      expect.stringMatching(/^The enclosure resonates at 9\.476.GHz, 13\.97/),
    ]);
  });

  it('follow the copper and its named values, and what ails them is said at its side', () => {
    const design = {
      ...through({ back: '2*room' }),
      values: [...through().values, { name: 'room', value: '4 mm' }],
    };
    const { resolved, layout } = workedOut(renameIn(design, 'room', 'air'));
    expect(resolved.enclosure?.back).toBeCloseTo(8e-3, 12);
    const { copper } = solvedSubject(resolved, layout)!;
    expect(copper.walls!.y1 - copper.walls!.y0).toBeCloseTo(5e-3 + 1.28e-3 + 8e-3, 9);
    expect(cutAt(resolved, layout, 0)).toEqual([[0, expect.closeTo(24e-3, 9)]]);
    expect(cutAt(resolved, layout, 1e-3)).toEqual([]);

    const wrong = workedOut(through({ front: '-1 mm', left: '3 GHz' })).resolved;
    expect(wrong.problems.map((p) => p.place)).toEqual([
      { kind: 'enclosure', side: 'left' },
      { kind: 'enclosure', side: 'front' },
    ]);
    expect(wrong.enclosure).toBeUndefined();
    expect(remarks(through({ front: '0 mm' }))).toContainEqual(
      'line touches the wall (front) where no port is, and is joined to it there.',
    );
    expect(remarks(through({ right: '2 mm' }))).toContainEqual(
      expect.stringMatching(/^Ports do not reach the wall: p2 by 2.mm\./),
    );
  });

  it('are kept in the file, with what was solved within them, and told apart in words', () => {
    const design = through();
    const { resolved, layout } = workedOut(design);
    const { copper } = solvedSubject(resolved, layout)!;
    const band = { start: 5e9, stop: 14e9 };
    const kept: KeptSolution = {
      solver: SOLVER,
      ...band,
      copper,
      accuracy: 'draft',
      complete: true,
      seconds: 1,
      samples: [{ x: 5e9, re: new Float64Array(4), im: new Float64Array(4) }],
      error: 0.01,
      unknowns: 9,
      ports: [{ number: 1, z0: 50, eeff: 2 }],
      resonances: [],
      warnings: [],
    };
    const { solutions } = readProjectFile(writeProject(withDesign(project, design), [kept]));
    expect(solutionFor(solutions, copper, band)).toBeDefined();
    // What another solver said is asked of this one.
    expect(
      [undefined, 1, SOLVER - 1, SOLVER, SOLVER + 1].map(
        (solver) =>
          solutionFor(
            solutions.map((k) => ({ ...k, solver })),
            copper,
            band,
          ) !== undefined,
      ),
    ).toEqual([false, false, false, true, false]);
    const without: Copper = { ...copper, walls: undefined };
    // What was solved within walls is not what the same copper does without them.
    expect(solutionFor(solutions, without, band)).toBeUndefined();
    expect(readProject(writeProject(withDesign(project, design))).designs[0].enclosure).toEqual(
      design.enclosure,
    );
    expect(designDifferences(design, through({ back: '9 mm' }))).toEqual(['wall, back: 13 mm \u2192 9 mm']);
    const { enclosure, ...open } = design;
    expect(enclosure).toBeDefined();
    expect(designDifferences(design, open)).toEqual(['its side walls are gone']);
  });
});
