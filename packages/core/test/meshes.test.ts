import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { readProjectFile } from '../src/formats';
import { NotSolvable, solvedSubject } from '../src/levels';
import { newId, resolveDesign } from '../src/network';
import { drive } from '../src/numeric';
import { CopperError, meshOf, solveSteps, type Copper, type Point } from '../src/planar';
import { outlinesOf } from '../src/polygons';
import { initialInputs, recipes } from '../src/recipes';
import { areaOf, check, line, MM, port, rect, TOP } from './copper';
import { random } from './validation';
import { stubbed } from './validation/planar';

describe('meshes of copper', () => {
  it('cover the union of its polygons, whatever way round they are, and carry current over every inner edge', () => {
    const one = meshOf(line, TOP, 'normal');
    check(one);
    const parts = [rect(0, 0, 6, 2), rect(4, 0, 10, 2).reverse(), rect(5, 1, 7, 2)];
    const overlapping = meshOf({ ...line, polygons: parts }, TOP, 'normal');
    expect(areaOf(overlapping)).toBeCloseTo(areaOf(one), 12);
    // Edges stand outside by what a strip of cells seems narrower.
    expect(areaOf(one) / (20 * MM * MM)).toBeGreaterThan(1);
    expect(areaOf(one) / (20 * MM * MM)).toBeLessThan(1.05);
  });

  it('take any outline: turned, curved, with a hole', () => {
    check(meshOf(stubbed(0.4), TOP, 'normal'));
    const circle = (r: number, turns: number) =>
      Array.from({ length: 48 }, (_, i): Point => {
        const a = (turns * 2 * Math.PI * i) / 48;
        return [(5 + r * Math.cos(a)) * MM, (1 + r * Math.sin(a)) * MM];
      });
    // A ring with two feeds: a polygon that goes round, its hole cut off by a slit of no width.
    const ring: Point[] = [
      ...circle(3, 1),
      circle(3, 1)[0],
      circle(2, -1)[0],
      ...circle(2, -1).slice(1),
      circle(2, -1)[0],
    ];
    const copper: Copper = {
      ...line,
      polygons: [rect(-3, 0.5, 2.5, 1.5), rect(7.5, 0.5, 13, 1.5), ring],
      ports: [port(1, -3, 0.5, 1.5), port(2, 13, 0.5, 1.5)],
    };
    const mesh = meshOf(copper, TOP, 'normal');
    check(mesh);
    const drawn = Math.PI * (9 - 4) + 2 * 5 * 1;
    expect(areaOf(mesh) / (drawn * MM * MM)).toBeGreaterThan(0.97);
    expect(areaOf(mesh) / (drawn * MM * MM)).toBeLessThan(1.1);
  });

  it('are rectangles along a straight strip of any direction, and no finer than a tip is long', () => {
    const turn = ([x, y]: Point): Point => [0.9 * x - Math.sqrt(0.19) * y, Math.sqrt(0.19) * x + 0.9 * y];
    const strip = (tip: number): Copper => {
      const [a, b, c, d] = rect(0, 0, 12, 1);
      const corners = [a, b, [(12 + tip) * MM, tip * MM] as const, [12 * MM, tip * MM] as const, c, d];
      // Beside it lies another one, so that its sides are cut differently.
      const polygons = [tip > 0 ? corners : [a, b, c, d], rect(2, 1.27, 12, 2.27)].map((p) => p.map(turn));
      return { ...line, polygons, ports: [{ ...port(1, 0, 0, 1), edge: [turn(a), turn(d)] }] };
    };
    const meshes = [0, 0.3].map((tip) => meshOf(strip(tip), TOP, 'normal'));
    meshes.forEach(check);
    const rectangles = meshes[0].cells.filter((c) => c.corners.length === 8);
    expect(areaOf({ ...meshes[0], cells: rectangles }) / areaOf(meshes[0])).toBeGreaterThan(0.7);
    expect(meshes[1].bases.length).toBeLessThan(meshes[0].bases.length + 250);
  });

  it('say which port is wrong, and why', () => {
    const wrong = (ports: Copper['ports']) => () =>
      drive(solveSteps({ ...line, ports }, Float64Array.of(TOP)));
    expect(wrong([])).toThrow('there is no port');
    expect(wrong([port(1, 3, 0, 2)])).toThrow('does not lie on the outline');
    expect(wrong([port(2, 0, 0, 2)])).toThrow('1 is missing');
    expect(wrong([port(1, 0, 0, 2), port(1, 10, 0, 2)])).toThrow('taken by another port');
    expect(wrong([port(1, 0, 1, 1)])).toThrow('has no length');
    expect(wrong([{ ...port(1, 0, 0, 2), z0: 0 }])).toThrow(CopperError);
    expect(wrong([port(1, 0, 0, 1.5), port(2, 0, 1, 2)])).toThrow('overlaps that of port 1');
  });

  it('is neither joined nor apart: a slot of no length is none, others are refused with their place', () => {
    /** A line of 10 mm with a slot from below in its middle, mm. */
    const slotted = (length: number): Copper => ({
      ...line,
      polygons: [
        [
          [0, 0],
          [5, 0],
          [5, 1],
          [5 + length, 1],
          [5 + length, 0],
          [10, 0],
          [10, 2],
          [0, 2],
        ].map(([x, y]): Point => [x * MM, y * MM]),
      ],
      ports: [port(1, 0, 0, 2), port(2, 10, 0, 2)],
    });
    const mesh = (copper: Copper) => () => meshOf(copper, 10e9, 'draft');
    expect(mesh(slotted(0))().bases.length).toBe(
      mesh({ ...slotted(0), polygons: [rect(0, 0, 10, 2)] })().bases.length,
    );
    expect(mesh(slotted(5e-5))).toThrow(/within 0\.05 um of itself at 5(\.0001)?, [01] mm/);
    const touching = { ...slotted(0), polygons: [rect(0, 0, 5, 2), rect(5, 2, 10, 4)] };
    expect(mesh(touching)).toThrow('touches itself in one point at 5, 2 mm');
    // Far more than there is memory for is refused before it is meshed.
    expect(mesh({ ...slotted(0), polygons: [rect(0, 0, 1e3, 1e3)] })).toThrow(RangeError);
  });

  it('take parts that meet at any angle for one piece, though their corners stand in whole nanometres', () => {
    const next = random(11);
    for (let i = 0; i < 40; i++) {
      const angle = 2 * Math.PI * next();
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      const turned = (p: Point[]) => p.map(([x, y]): Point => [c * x - s * y, s * x + c * y]);
      const step = [rect(0, 0, 5, 2), rect(5, 0.3 + next(), 9, 1.8)].map(turned);
      const outlines = outlinesOf(step);
      expect(outlines).toHaveLength(1);
      expect(outlines[0]).toHaveLength(8);
    }
  });

  it('are found for the copper of every recipe, near copper and short jogs included', () => {
    const { project } = readProjectFile(
      readFileSync(new URL('../../../examples/ditchwater.ditch.json', import.meta.url), 'utf8'),
    );
    let meshed = 0;
    for (const recipe of recipes.values()) {
      const context = { stack: project.stacks[0], medium: 'microstrip' as const, newId, data: [] };
      const design = recipe.design(initialInputs(recipe), context);
      const resolved = resolveDesign({ ...project, designs: [design] }, design);
      let copper: Copper;
      try {
        copper = solvedSubject(resolved, layOut(resolved))!.copper;
      } catch (error) {
        expect(error).toBeInstanceOf(NotSolvable);
        continue;
      }
      const mesh = meshOf(copper, resolved.sweep!.stop, 'draft');
      expect(areaOf(mesh), recipe.id).toBeGreaterThan(0);
      expect(mesh.bases.length, recipe.id).toBeLessThan(3000);
      expect(Math.min(...mesh.cells.map((cell) => cell.area)), recipe.id).toBeGreaterThan(0);
      meshed++;
    }
    expect(meshed).toBeGreaterThan(20);
  });
});
