import { readFileSync } from 'node:fs';
import { createParser } from '@tracespace/parser';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { readCopper, readProject, writeCopper } from '../src/formats';
import { readDrawing } from '../src/formats/drawing';
import { readDxf } from '../src/formats/drawing/dxf';
import { readGerber } from '../src/formats/drawing/gerber';
import { areaOf, boxOf, changed, copperAround, cutOpen, type Ring } from '../src/polygons';
import { solvedSubject } from '../src/levels';
import {
  checkPlan,
  limitsFor,
  madeOf,
  planOf,
  rimOf,
  usualShop,
  writeBill,
  writeBoardDxf,
  writeBoardSvg,
  writeDrill,
  writeGdsii,
  writeGerber,
} from '../src/making';
import { emptyDesign, emptyProject, resolveDesign } from '../src/network';
import { made, pieceOf } from './helpers';

/** Area of polygons together, m^2. */
const together = (rings: readonly Ring[]): number =>
  cutOpen(changed([], rings)).reduce((sum, r) => sum + Math.abs(areaOf(r)), 0);
const planned = (id: string, inputs: Record<string, string> = {}, etch = 0) => {
  const { project, design } = made(id, { freq: '5.8 GHz', ...inputs });
  const resolved = resolveDesign(project, design);
  return { resolved, plan: planOf(design.name, resolved, { etch })! };
};

/** Polygons by layer of a GDSII stream, m, read record by record. */
function readGdsii(bytes: Uint8Array): { layers: Map<number, Ring[]>; words: string[]; unit: number } {
  const view = new DataView(bytes.buffer);
  const layers = new Map<number, Ring[]>();
  const words: string[] = [];
  let [at, layer, unit, isText] = [0, 0, 0, false];
  const real = (from: number): number => {
    let fraction = 0;
    for (let i = 7; i >= 1; i--) fraction = (fraction + bytes[from + i]) / 256;
    return (bytes[from] & 128 ? -1 : 1) * fraction * 16 ** ((bytes[from] & 127) - 64);
  };
  while (at < bytes.length) {
    const long = view.getUint16(at);
    const type = bytes[at + 2];
    if (type === 0x03) unit = real(at + 12);
    if (type === 0x0c || type === 0x08) isText = type === 0x0c;
    if (type === 0x0d) layer = view.getInt16(at + 4);
    if (type === 0x19)
      words.push(String.fromCharCode(...bytes.subarray(at + 4, at + long)).replace('\0', ''));
    if (type === 0x10 && !isText) {
      const ring: [number, number][] = [];
      for (let k = at + 4; k < at + long; k += 8)
        ring.push([view.getInt32(k) * unit, view.getInt32(k + 4) * unit]);
      expect(ring[0]).toEqual(ring[ring.length - 1]);
      layers.set(layer, [...(layers.get(layer) ?? []), ring.slice(0, -1)]);
    }
    at += long;
  }
  expect(at).toBe(bytes.length);
  return { layers, words, unit };
}

/** Polygons of a group of an SVG drawing at scale 1, m. */
function readSvg(text: string, group: string): Ring[] {
  const body = new RegExp(`<g id="${group}"[^>]*>(.*?)</g>`, 's').exec(text)![1];
  return [...body.matchAll(/ d="M([^"]+)Z"/g)].map(([, d]) =>
    d.split('L').map((p): [number, number] => {
      const [x, y] = p.split(' ').map(Number);
      return [x * 1e-3, y * 1e-3];
    }),
  );
}

describe('files for a shop', () => {
  it.each([
    ['branch-line', {}, 4, 0],
    ['wilkinson', {}, 3, 0],
    ['bias-feed', {}, 3, 0],
    ['bandpass-hairpin', {}, 2, 0],
    ['single-stub', { load: '20 ohm', stub: 'short' }, 1, 1],
    ['bandpass-interdigital', {}, 2, 5],
  ])('say the same copper in every format: %s', (id, inputs: Record<string, string>, ports, holes) => {
    const { plan } = planned(id, inputs);
    expect(plan.area).toBeGreaterThan(1e-6);
    expect(Math.abs(together(plan.copper) / plan.area - 1)).toBeLessThan(1e-8);
    const own = (rings: readonly Ring[]) => {
      // As large, and nothing of it anywhere else.
      expect(Math.abs(together(rings) / plan.area - 1)).toBeLessThan(1e-6);
      expect(Math.abs(together([...rings, ...plan.copper]) / plan.area - 1)).toBeLessThan(2e-6);
    };
    const dxf = readDrawing(writeBoardDxf(plan));
    expect(dxf.layers.map((l) => l.name).sort()).toEqual(
      [...(holes > 0 ? ['DRILL'] : []), 'COPPER', 'OUTLINE'].sort(),
    );
    own(dxf.layers.find((l) => l.name === 'COPPER')!.outlines);

    const gds = readGdsii(writeGdsii(plan));
    expect(gds.unit).toBeCloseTo(1e-9, 22);
    own(gds.layers.get(1)!);
    expect(gds.layers.get(2)!.length).toBe(1);
    expect(gds.layers.get(3)?.length ?? 0).toBe(holes);
    expect(gds.words.sort()).toEqual(Array.from({ length: ports }, (_, i) => String(i + 1)));

    const svg = writeBoardSvg(plan);
    const high = plan.board[2][1];
    own(readSvg(svg, 'copper').map((ring) => ring.map(([x, y]): [number, number] => [x, high - y])));
    expect(svg).toContain(`width="${Number((plan.board[2][0] * 1e3).toFixed(6))}mm"`);

    const files = writeGerber(plan);
    const gerber = readDrawing(files['copper-top.gbr']);
    own(gerber.layers.flatMap((l) => l.outlines));
    expect(files['copper-top.gbr']).toContain('%TF.FileFunction,Copper,L1,Top*%');
    const drill = createParser();
    drill.feed(files['drill.drl']);
    const { filetype, children } = drill.results();
    expect(filetype).toBe('drill');
    const hits = children.flatMap((c) => (c.type === 'graphic' ? [c.coordinates] : []));
    expect(hits.length).toBe(holes);
    plan.holes.forEach((h, i) => {
      expect(Number(hits[i].x)).toBeCloseTo(h.x * 1e3, 3);
      expect(Number(hits[i].y)).toBeCloseTo(h.y * 1e3, 3);
    });
    expect(files['drill.drl']).toBe(writeDrill(plan));
  });

  it('say the same of the demo panel of five designs, letters, launches and fence', () => {
    const project = readProject(readFileSync('examples/ditchwater.ditch.json', 'utf8'));
    const [{ id, placed }] = project.panels!;
    expect(placed.length).toBe(5);
    const { plan, problems } = madeOf(project, { panel: id });
    expect(problems).toEqual([]);
    expect(checkPlan(plan!, limitsFor(project, { panel: id }))).toEqual([]);
    const whole = together(plan!.copper);
    expect(Math.abs(whole / plan!.area - 1)).toBeLessThan(1e-6);
    const files = writeGerber(plan!);
    const read = [
      readDxf(writeBoardDxf(plan!), 2e-6).layers.find((l) => l.name === 'COPPER')!.outlines,
      readGerber(files['copper-top.gbr'], 2e-6).layers.flatMap((l) => l.outlines),
      readGdsii(writeGdsii(plan!)).layers.get(1)!,
    ];
    for (const rings of read) expect(Math.abs(together(rings) / whole - 1)).toBeLessThan(1e-6);
    expect(files['drill.drl'].match(/^X/gm)!.length).toBe(plan!.holes.length);
    expect(files['copper-top.gbr']).toContain('G04 Curves are straight sides, off by at most 1 um*');
    expect(writeBill(plan!)).toContain('resistor,100 ohm,1,local oscillator divider');
    // The rim comes back out of its own files.
    for (const file of [files['outline.gbr'], writeBoardDxf(plan!)]) {
      const { x1, y1 } = boxOf(rimOf(readDrawing(file)));
      const board = boxOf(plan!.board);
      expect(Math.hypot(x1 - board.x1, y1 - board.y1)).toBeLessThan(2e-6);
    }
    // Widened by what is etched away, everywhere.
    const wide = madeOf(project, { panel: id }, 20e-6).plan!;
    expect(wide.area).toBeGreaterThan(plan!.area);
    expect(wide.narrowest! - plan!.narrowest!).toBeCloseTo(20e-6, 9);
  }, 60_000);

  it('have land around every hole where the shop wishes', () => {
    const { project, design } = made('single-stub', { freq: '5.8 GHz', load: '20 ohm', stub: 'short' });
    const own = (lands: boolean) => ({
      ...project,
      designs: [design],
      shop: { ...usualShop, ...(lands && { lands }) },
    });
    const what = { design: design.id };
    const [bare, landed] = [false, true].map((lands) => madeOf(own(lands), what).plan!);
    expect(checkPlan(bare, limitsFor(own(false), what)).map((f) => f.rule)).toEqual(['ring']);
    expect(checkPlan(landed, limitsFor(own(true), what))).toEqual([]);
    const [hole] = landed.holes;
    expect(copperAround(landed.outlines, [hole.x, hole.y]) - hole.diameter / 2).toBeGreaterThan(0.0999e-3);
    expect(landed.area - bare.area).toBeGreaterThan(0);
  });

  it('keep arcs within a micrometre, where the screen takes fewer sides', () => {
    const { resolved, plan } = planned('bias-feed');
    const stub = resolved.pieces.find((p) => p.kind === 'radial-stub')!;
    const screen = layOut(resolved).pieces.find((p) => p.id === stub.id)!.copper[0];
    const fine = layOut(resolved, 1e-6).pieces.find((p) => p.id === stub.id)!.copper[0];
    expect(fine.length).toBeGreaterThan(2 * screen.length);
    // The rim is what lies farthest out: its corners on a circle, the middles of its sides at most a micrometre inside.
    const rim = fine.slice(1, -1);
    const [a, b, c] = [rim[0], rim[Math.floor(rim.length / 2)], rim[rim.length - 1]];
    const d = 2 * (a.x * (b.y - c.y) + b.x * (c.y - a.y) + c.x * (a.y - b.y));
    const q = (p: typeof a) => p.x ** 2 + p.y ** 2;
    const x = (q(a) * (b.y - c.y) + q(b) * (c.y - a.y) + q(c) * (a.y - b.y)) / d;
    const y = (q(a) * (c.x - b.x) + q(b) * (a.x - c.x) + q(c) * (b.x - a.x)) / d;
    const radius = Math.hypot(a.x - x, a.y - y);
    rim.slice(1).forEach((p, i) => {
      expect(Math.abs(Math.hypot(p.x - x, p.y - y) - radius)).toBeLessThan(1e-9);
      expect(radius - Math.hypot((p.x + rim[i].x) / 2 - x, (p.y + rim[i].y) / 2 - y)).toBeLessThan(1e-6);
    });
    expect(plan.copper.flat().length).toBeGreaterThan(rim.length);
  });

  it('make up for etching by half at every edge, corners carried on', () => {
    const project = emptyProject('test');
    const [port1, line, port2] = [
      pieceOf('p1', 'port', { z: '50 ohm' }, ['a'], { number: '1' }),
      pieceOf('l1', 'line', { width: '1 mm', length: '7 mm' }, ['a', 'b']),
      pieceOf('p2', 'port', { z: '50 ohm' }, ['b'], { number: '2' }),
    ];
    const design = {
      ...emptyDesign('line', project.stacks[0].id, 'microstrip', '5 GHz'),
      pieces: [port1, line, port2],
    };
    const resolved = resolveDesign({ ...project, designs: [design] }, design);
    const plan = planOf('line', resolved, { etch: 40e-6 })!;
    expect(plan.area).toBeCloseTo(1.04e-3 * 7.04e-3, 11);
    expect([plan.width, plan.height, plan.narrowest!].map((v) => Number((v * 1e3).toFixed(6)))).toEqual([
      7.04, 1.04, 1.04,
    ]);
    expect(plan.narrowestGap).toBeUndefined();
    // Holes in copper close by as much.
    const [ring, wide] = [planned('branch-line').plan, planned('branch-line', {}, 20e-6).plan];
    const around = 2 * (ring.width + ring.height);
    expect(wide.area - ring.area).toBeGreaterThan(0.9 * around * 10e-6);
    // As much at every one of the many sides of a ring of arcs.
    const [round, larger] = [planned('rat-race').plan, planned('rat-race', {}, 20e-6).plan];
    const drawn = changed([], round.copper).flat();
    const sides = drawn.reduce(
      (sum, r) =>
        sum +
        r.reduce((s, [x, y], i) => {
          const [u, v] = r[(i + 1) % r.length];
          return s + Math.hypot(u - x, v - y);
        }, 0),
      0,
    );
    // Rings stand in a unit of their own.
    const unit = Math.sqrt(round.area / drawn.reduce((sum, r) => sum + areaOf(r), 0));
    expect((larger.area - round.area) / (sides * unit * 10e-6)).toBeCloseTo(1, 1);
    expect(together(larger.copper) / larger.area).toBeCloseTo(1, 6);
    expect(() => planned('bandpass-hairpin', {}, 0.5e-3)).toThrow(/closes the narrowest gap/);
    const hairpin = [0, 20e-6].map((etch) => planned('bandpass-hairpin', {}, etch).plan.narrowestGap!);
    expect(hairpin[1]).toBeCloseTo(hairpin[0] - 20e-6, 9);
    expect(() => planOf('line', resolved, { etch: -1e-6 })).toThrow(RangeError);
  });

  it('hand the copper on to be solved elsewhere', () => {
    const { resolved } = planned('lowpass-stub');
    const { copper } = solvedSubject(resolved, layOut(resolved))!;
    const { medium, stack } = resolved;
    const read = readCopper(writeCopper(copper, { medium, substrate: stack!.substrate }));
    expect(read).toEqual(copper);
  });
});
