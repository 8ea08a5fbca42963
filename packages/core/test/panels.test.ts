import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  acrossAt,
  arranged,
  checkPlan,
  copperOf,
  distanceOf,
  freePlace,
  inTheWay,
  panelOf,
  placedPlan,
  planOf,
  readShop,
  shapeAt,
  shopProblem,
  spotAt,
  usualShop,
  writeBill,
  type BoardPlan,
  type Tile,
} from '../src/making';
import { etchedWord, wordWidth } from '../src/making/letters';
import { resolveDesign, type Panel, type Project } from '../src/network';
import { areaOf, boxOf, changed, circle, cutOpen, type Point, type Ring } from '../src/polygons';
import { made } from './helpers';

const shop = readShop(usualShop, { minWidth: 0.1e-3, minGap: 0.1e-3 });
const rect = (x: number, y: number, w: number, h: number): Ring =>
  [
    [x, y],
    [x + w, y],
    [x + w, y + h],
    [x, y + h],
  ].map(([u, v]): Point => [u * 1e-3, v * 1e-3]);

/** A board of 20 by 10 mm with some copper on it, mm. */
const boardOf = (outlines: readonly Ring[], more: Partial<BoardPlan> = {}): BoardPlan => ({
  name: 'board',
  chord: 1e-6,
  ...copperOf(outlines),
  board: rect(0, 0, 20, 10),
  holes: [],
  words: [],
  etched: [],
  ports: [],
  mounted: [],
  narrowest: undefined,
  narrowestGap: undefined,
  ...more,
});
const told = (plan: BoardPlan) => checkPlan(plan, shop).map((f) => f.rule);

describe('checks before making', () => {
  it('find what is too narrow or too near, where it is and by how much, and nothing beside it', () => {
    expect(told(boardOf([rect(2, 2, 5, 0.1), rect(2, 2.2, 5, 0.1)]))).toEqual([]);
    const thin = checkPlan(boardOf([rect(2, 2, 5, 0.08)]), shop);
    expect(thin.map((f) => f.rule)).toEqual(['width']);
    expect(thin[0].text).toContain('80');
    expect(thin[0].at[1]).toBeCloseTo(2e-3, 6);
    const near = checkPlan(boardOf([rect(2, 2, 5, 1), rect(2, 3.06, 5, 1)]), shop);
    expect(near.map((f) => f.rule)).toEqual(['gap']);
    expect(near[0].text).toMatch(/^60.*not joined/);
    // Two corners that look at each other, 0.06 by 0.06 mm apart; and a slot in one piece of copper.
    expect(told(boardOf([rect(2, 2, 1, 1), rect(3.06, 3.06, 1, 1)]))).toEqual(['gap']);
    const comb: Ring = [
      [2, 2],
      [6, 2],
      [6, 4],
      [4.05, 4],
      [4.05, 3],
      [4, 3],
      [4, 4],
      [2, 4],
    ].map(([x, y]): Point => [x * 1e-3, y * 1e-3]);
    const [slit] = checkPlan(boardOf([comb]), shop);
    expect([slit.rule, slit.text]).toEqual(['gap', expect.stringContaining('a slot 50')]);
    // A round pad is narrow nowhere but across, however many sides it has.
    expect(told(boardOf([circle([5e-3, 5e-3], 0.06e-3, 1e-6)]))).toEqual([]);
    expect(told(boardOf([circle([5e-3, 5e-3], 0.04e-3, 1e-6)]))).toEqual(['width']);
    // Mitred until 0.07 mm are left at the corner, though both lines are 0.3 mm wide.
    const left = 0.07 * Math.SQRT2;
    const mitre: Ring = [
      [2, 2],
      [4.4 + left, 2],
      [5, 2.6 - left],
      [5, 5],
      [4.7, 5],
      [4.7, 2.3],
      [2, 2.3],
    ].map(([x, y]): Point => [x * 1e-3, y * 1e-3]);
    const [corner] = checkPlan(boardOf([mitre]), shop);
    expect(corner.rule).toBe('width');
    expect(Math.hypot(corner.to![0] - corner.at[0], corner.to![1] - corner.at[1])).toBeCloseTo(0.07e-3, 9);
  });

  it('find slivers, copper at the rim and beyond it, and copper that runs into other copper', () => {
    const tip: Ring = [
      [2, 2],
      [6, 2],
      [2, 3],
    ].map(([x, y]): Point => [x * 1e-3, y * 1e-3]);
    const [sliver] = checkPlan(boardOf([tip]), shop).filter((f) => f.rule === 'sliver');
    expect(sliver.text).toContain(`${Number(((Math.atan(1 / 4) * 180) / Math.PI).toPrecision(3))}°`);
    expect(told(boardOf([rect(2, 0.2, 1, 1)]))).toEqual(['edge']);
    expect(told(boardOf([rect(2, 0.25, 1, 1)]))).toEqual([]);
    expect(told(boardOf([rect(19, 4, 2, 1)]))).toContain('outside');
    expect(told(boardOf([rect(2, 2, 4, 1), rect(3, 1, 1, 4)]))).toEqual(['overlap']);
    // A line may reach the rim where it ends at a port.
    const line = rect(0, 4, 5, 0.5);
    expect(told(boardOf([line]))).toEqual(['edge']);
    const port = { number: '1', x: 0, y: 4.25e-3, angle: Math.PI, width: 0.5e-3 };
    expect(told(boardOf([line], { ports: [port] }))).toEqual([]);
  });

  it('find holes that cannot be drilled, have too little copper, or stand at the rim or at one another', () => {
    const pad = (x: number, y: number, hole: number, copper: number): Partial<BoardPlan> => ({
      holes: [{ x: x * 1e-3, y: y * 1e-3, diameter: hole * 1e-3 }],
      ...copperOf([circle([x * 1e-3, y * 1e-3], (copper / 2) * 1e-3, 1e-7)]),
    });
    expect(told(boardOf([], pad(5, 5, 0.3, 0.51)))).toEqual([]);
    expect(told(boardOf([], pad(5, 5, 0.3, 0.48)))).toEqual(['ring']);
    expect(told(boardOf([], pad(5, 5, 0.15, 0.5)))).toEqual(['drill']);
    expect(told(boardOf([], pad(0.35, 5, 0.3, 0.52)))).toEqual(['edge', 'holeEdge']);
    const two = boardOf([rect(4, 4, 3, 2)], {
      holes: [5, 5.45].map((x) => ({ x: x * 1e-3, y: 5e-3, diameter: 0.3e-3 })),
    });
    expect(told(two)).toEqual(['web']);
    const bare = boardOf([], { holes: [{ x: 5e-3, y: 5e-3, diameter: 0.3e-3 }] });
    expect(checkPlan(bare, shop)[0].text).toContain('not wholly in copper');
    const listed = readShop({ ...usualShop, drills: '0.3 mm, 0.5 mm' }, { minWidth: 0, minGap: 0 });
    expect([0.3e-3, 0.4e-3, 0.5e-3].map(listed.drills)).toEqual([true, false, true]);
    expect(shopProblem('drills', '2 mm .. 1 mm')).toBe('must go upwards');
    expect(shopProblem('ring', '3 GHz')).toMatch(/length/);
    expect(shopProblem('edge', '0.3 mm')).toBeUndefined();
  });

  it('find words over copper', () => {
    const word = (x: number) => ({ words: [{ x: x * 1e-3, y: 2.2e-3, height: 0.5e-3, text: 'A1' }] });
    expect(told(boardOf([rect(2, 2, 2, 1)], word(2.5)))).toEqual(['word']);
    expect(told(boardOf([rect(2, 2, 2, 1)], word(6)))).toEqual([]);
    expect(told(boardOf([rect(2, 2, 2, 1)], word(19.9)))).toEqual(['word']);
  });
});

describe('measuring', () => {
  const plan = boardOf([
    rect(2, 2, 6, 1),
    rect(2, 3.5, 6, 1),
    rect(12, 2, 4, 4),
    [...rect(13, 3, 2, 2)].reverse(),
  ]);
  it('tells distances, widths, angles and areas', () => {
    const top = spotAt(plan, [4e-3, 3.02e-3], 1e-4)!;
    const low = spotAt(plan, [5e-3, 3.49e-3], 1e-4)!;
    expect([top.kind, low.kind]).toEqual(['side', 'side']);
    const apart = distanceOf(top, low);
    expect(apart.distance).toBeCloseTo(0.5e-3, 12);
    expect(apart.angle).toBeCloseTo(0, 12);
    const corner = spotAt(plan, [8.01e-3, 2.01e-3], 1e-4)!;
    expect(corner.kind).toBe('corner');
    const across = distanceOf(corner, spotAt(plan, [12e-3, 5e-3], 1e-4)!);
    expect([across.distance, across.dx, across.dy].map((v) => Number((v * 1e3).toFixed(9)))).toEqual([
      4, 4, 0,
    ]);
    expect(distanceOf(top, spotAt(plan, [12e-3, 5e-3], 1e-4)!).angle).toBeCloseTo(Math.PI / 2, 12);
    expect(spotAt(plan, [10e-3, 8e-3], 1e-4)).toBeUndefined();
    expect(acrossAt(plan, [5e-3, 2.4e-3])).toMatchObject({ copper: true });
    expect(acrossAt(plan, [5e-3, 2.4e-3])!.distance).toBeCloseTo(1e-3, 12);
    expect(acrossAt(plan, [5e-3, 3.2e-3])!.distance).toBeCloseTo(0.5e-3, 12);
    const frame = shapeAt(plan, [12.5e-3, 2.5e-3])!;
    expect(frame.area).toBeCloseTo(12e-6, 12);
    expect(frame.rim).toBeCloseTo(24e-3, 12);
    expect(shapeAt(plan, [14e-3, 4e-3])).toBeUndefined();
  });
});

/** Some designs on one board, arranged. */
function panelled(ids: readonly string[], more: Partial<Panel> = {}): { project: Project; panel: Panel } {
  const designs = ids.map((id, i) => {
    const one = made(id, { freq: '10.55 GHz' });
    return { ...one.design, id: `d${i}`, name: `${id} ${i}`, stack: one.project.stacks[0].id };
  });
  const project = { ...made(ids[0], { freq: '10.55 GHz' }).project, designs };
  const panel: Panel = {
    id: 'p',
    name: 'panel',
    width: '',
    height: '',
    margin: '3 mm',
    placed: designs.map((d, i) => ({ id: `t${i}`, design: d.id, x: `${100 * i} mm`, y: '0 mm' })),
    ...more,
  };
  const { tiles } = panelOf(project, panel);
  const places = arranged(tiles, 3e-3);
  return {
    project,
    panel: {
      ...panel,
      placed: panel.placed.map((p, i) => {
        const { x, y } = places.get(tiles[i])!;
        return { ...p, x: `${x * 1e3} mm`, y: `${y * 1e3} mm` };
      }),
    },
  };
}

describe('a panel', () => {
  const ids = ['branch-line', 'wilkinson', 'bias-feed', 'single-stub'];

  it('has every design whole and upright or turned, beside one another, with holes and ports where the copper is', () => {
    const { project, panel } = panelled(ids);
    const turned = {
      ...panel,
      placed: panel.placed.map((p, i) => (i === 0 ? { ...p, turns: 2 as const } : p)),
    };
    for (const one of [panel, turned]) {
      const { plan, problems, tiles } = panelOf(project, one);
      expect(problems).toEqual([]);
      const alone = project.designs.map((d) => planOf(d.name, resolveDesign(project, d))!);
      const sum = alone.reduce((s, p) => s + p.area, 0);
      expect(plan!.area / sum).toBeCloseTo(1, 6);
      expect(plan!.ports.length).toBe(alone.reduce((s, p) => s + p.ports.length, 0));
      expect(tiles.every((t) => inTheWay(t, tiles).length === 0)).toBe(true);
      // A design's copper is that of the panel, so that it can be moved by itself.
      expect(new Set(tiles.flatMap((t) => t.copper!))).toEqual(new Set(plan!.outlines));
      expect(tiles.flatMap((t) => t.copper!).every((ring) => plan!.outlines.includes(ring))).toBe(true);
      // Every port stands at the end of copper: a little inside there is some, a little outside none.
      for (const { x, y, angle } of plan!.ports) {
        const at = (d: number): Point => [x + d * Math.cos(angle), y + d * Math.sin(angle)];
        expect(shapeAt(plan!, at(-2e-5)) !== undefined).toBe(true);
        expect(shapeAt(plan!, at(2e-5))).toBeUndefined();
      }
    }
    const bill = writeBill(panelOf(project, panel).plan!);
    expect(bill.split('\r\n')[1]).toMatch(/^resistor,100 ohm,1,wilkinson 1,/);
  });

  it('says at the field what is wrong, and keeps what is right', () => {
    const { project, panel } = panelled(ids);
    const [a, b, ...rest] = panel.placed;
    const wrong = panelOf(project, {
      ...panel,
      placed: [
        a,
        { ...b, x: a.x, y: a.y },
        ...rest.map((p) => ({ ...p, x: 'here' })),
        { ...a, id: 't9', design: 'gone' },
      ],
    });
    expect(wrong.problems.map((p) => [p.placed, p.field])).toEqual([
      ['t2', 'x'],
      ['t3', 'x'],
      ['t9', undefined],
      ['t0', undefined],
      ['t1', undefined],
    ]);
    expect(wrong.problems[4].message).toMatch(/^overlaps branch-line 0 by /);
    const small = panelOf(project, { ...panel, width: '5 mm' });
    expect(small.problems.length).toBeGreaterThan(0);
    expect(new Set(small.problems.map((p) => p.message))).toEqual(new Set(['reaches beyond the board']));
    const other = { ...project.stacks[0], id: 's2', name: 'other' };
    const mixed = {
      ...project,
      stacks: [...project.stacks, other],
      designs: project.designs.map((d, i) => (i === 1 ? { ...d, stack: 's2' } : d)),
    };
    expect(panelOf(mixed, panel).problems.map((p) => `${p.placed} ${p.message}`)).toEqual([
      't1 stands on another board than branch-line 0: a panel is of one',
    ]);
  });

  it('has launches at ports of the rim, fences that keep off, marks and letters; and is then in order', () => {
    const { project, panel } = panelled(['branch-line', 'bias-feed']);
    // The hybrid goes to the left edge, so that two of its ports stand at the rim.
    const full: Panel = {
      ...panel,
      placed: panel.placed.map((p, i) => (i === 0 ? { ...p, x: '0 mm' } : p)),
      letters: '1 mm',
      marks: '1 mm',
      launches: { gap: '0.4 mm', width: '2 mm', length: '3 mm', hole: '0.5 mm' },
      fence: { sides: ['right', 'back'], hole: '0.5 mm', pitch: '2 mm', inset: '1.2 mm' },
    };
    const bare = panelOf(project, { ...panel, placed: full.placed }).plan!;
    const { plan, problems } = panelOf(project, full);
    expect(problems).toEqual([]);
    const { x1, y1 } = boxOf(plan!.board);
    const holes = plan!.holes.slice(bare.holes.length);
    const launch = holes.filter((h) => h.x < 3.1e-3);
    expect(launch.length).toBe(3 * 2);
    for (const h of holes.filter((one) => !launch.includes(one)))
      expect(Math.min(Math.abs(x1 - h.x - 1.2e-3), Math.abs(y1 - h.y - 1.2e-3))).toBeLessThan(1e-9);
    expect(plan!.words).toEqual([]);
    expect(plan!.etched.map((w) => w.text)).toEqual(expect.arrayContaining(['1', '4', 'bias-feed 1']));
    // Nothing that was added lies over anything else: areas add up.
    const together = cutOpen(changed([], plan!.copper)).reduce((s, r) => s + areaOf(r), 0);
    expect(together / plan!.area).toBeCloseTo(1, 6);
    expect(plan!.area).toBeGreaterThan(bare.area + 4 * 6e-6);
    expect(checkPlan(plan!, shop)).toEqual([]);
  });

  it('takes a rim of any form', () => {
    const { project, panel } = panelled(['branch-line']);
    const rim: Point[] = [
      [0, 0],
      [40e-3, 0],
      [40e-3, 20e-3],
      [20e-3, 40e-3],
      [0, 20e-3],
    ];
    const { plan } = panelOf(project, { ...panel, outline: rim });
    expect(plan!.board).toEqual(rim);
    expect(checkPlan(plan!, shop)).toEqual([]);
    const cut = panelOf(project, { ...panel, outline: rim.map(([x, y]): Point => [x, y / 3]) });
    expect(checkPlan(cut.plan!, shop).some((f) => f.rule === 'outside')).toBe(true);
  });

  it('is turned by quarters about the corner of its board', () => {
    const plan = boardOf([rect(1, 2, 3, 1)]);
    const quarter = placedPlan(plan, 1, 5e-3, 0);
    expect(boxOf(quarter.board)).toEqual({ x0: 5e-3, x1: 15e-3, y0: 0, y1: 20e-3 });
    const { x0, x1, y0, y1 } = boxOf(quarter.outlines[0]);
    expect([x0, x1, y0, y1].map((v) => Number((v * 1e3).toFixed(9)))).toEqual([12, 13, 1, 4]);
    const back = placedPlan(placedPlan(quarter, 1, 0, 0), 2, 0, 0);
    back.outlines[0].forEach(([x, y], i) => {
      expect(x).toBeCloseTo(plan.outlines[0][i][0], 12);
      expect(y).toBeCloseTo(plan.outlines[0][i][1], 12);
    });
  });

  it('gives a tile the nearest free place', () => {
    const size = fc.integer({ min: 1, max: 9 });
    fc.assert(
      fc.property(
        fc.array(fc.record({ x: fc.nat(30), y: fc.nat(30), width: size, height: size }), { maxLength: 6 }),
        fc.record({
          x: fc.integer({ min: -5, max: 35 }),
          y: fc.integer({ min: -5, max: 35 }),
          width: size,
          height: size,
        }),
        (boxes, own) => {
          const tiles = boxes.map((b, i): Tile => ({ id: String(i), name: '', ...b }));
          const tile: Tile = { id: 'own', name: '', ...own };
          const { x, y } = freePlace(tile, tiles);
          expect(inTheWay({ ...tile, x, y }, tiles)).toEqual([]);
          expect(Math.min(x, y)).toBeGreaterThanOrEqual(0);
          // No place of whole steps is free and nearer.
          const far = Math.hypot(x - own.x, y - own.y);
          for (let u = 0; u < 40; u++)
            for (let v = 0; v < 40; v++)
              if (Math.hypot(u - own.x, v - own.y) < far - 1e-9)
                expect(inTheWay({ ...tile, x: u, y: v }, tiles).length).toBeGreaterThan(0);
        },
      ),
      { numRuns: 60 },
    );
  });
});

it('letters are as high and wide as asked, in strokes no narrower than may be', () => {
  const all = Array.from({ length: 94 }, (_, i) => String.fromCharCode(33 + i)).join('');
  for (const least of [0.1e-3, 0.22e-3]) {
    const rings = etchedWord(all, 1e-3, least);
    expect(rings.every((r) => r.length >= 3)).toBe(true);
    const { x1 } = boxOf(rings.flat());
    expect(x1).toBeLessThan(wordWidth(all, 1e-3));
    const bar = boxOf(etchedWord('I', 1e-3, least).flat());
    expect(bar.x1 - bar.x0).toBeGreaterThan(0.97 * Math.max(least, 1e-3 / 8));
    expect(bar.y1 - bar.y0 - (bar.x1 - bar.x0)).toBeCloseTo(1e-3, 4);
  }
});
