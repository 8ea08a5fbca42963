import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { analyseLine, synthesiseWidth } from '../src/lines';
import { C0 } from '../src/numeric';
import {
  dataBlock,
  emptyProject,
  resolveDesign,
  scopeHelp,
  usedNames,
  type Design,
  type Piece,
  type Project,
} from '../src/network';
import { laminates, resolveStack } from '../src/stack';
import { designTransformer } from '../src/theory';

const board = resolveStack(laminates[0], 'microstrip').value!.substrate;
const f0 = 10e9;
const port: Piece = {
  id: 'p1',
  name: 'one',
  kind: 'port',
  held: { z: '50 ohm' },
  settings: { number: '1' },
  nodes: ['a'],
};

function project(values: Record<string, string>, pieces: Piece[] = [port]): Project {
  const design: Design = {
    id: 'd',
    name: 'd',
    stack: laminates[0].id,
    medium: 'microstrip',
    values: [
      { name: 'f0', value: '10 GHz' },
      ...Object.entries(values).map(([name, value]) => ({ name, value })),
    ],
    pieces,
    sweep: { start: '1 GHz', stop: '2 GHz', points: 3 },
    markers: [],
    goal: '20 dB',
    overlays: [],
  };
  return { ...emptyProject('t'), designs: [design] };
}
const resolve = (p: Project) => resolveDesign(p, p.designs[0]);
/** The value of one expression in a design. */
const evaluate = (text: string, pieces?: Piece[]) => {
  const { values, problems } = resolve(project({ x: text }, pieces));
  return values.get('x') ?? problems.find((q) => q.place.kind === 'value')?.message;
};
const number = (text: string): number => (evaluate(text) as { re: number }).re;

describe('what expressions of a design know', () => {
  it('lines of the design\u2019s own board', () => {
    const width = synthesiseWidth('microstrip', board, 70, f0);
    expect(number('width(70 ohm)')).toBeCloseTo(width, 15);
    expect(number('impedance(0.8 mm)')).toBeCloseTo(analyseLine('microstrip', board, 0.8e-3, f0).z0, 10);
    expect(number('guided(70 ohm)')).toBeCloseTo(analyseLine('microstrip', board, width, f0).wavelength, 12);
    expect(number('lambda0')).toBeCloseTo(C0 / f0, 15);
    expect(number('impedance(width(33 ohm)) / 33 ohm')).toBeCloseTo(1, 12);
  });

  it('the exact transformers, section by section', () => {
    const binomial = designTransformer({
      source: 50,
      load: 130,
      sections: 4,
      profile: 'binomial',
    }).impedances;
    const ripple = designTransformer({
      source: 50,
      load: 130,
      sections: 3,
      profile: 'chebyshev',
      maxReflection: 0.04,
    }).impedances;
    binomial.forEach((z, i) => expect(number(`binomial(50 ohm, 130 ohm, 4, ${i + 1})`)).toBeCloseTo(z, 10));
    ripple.forEach((z, i) =>
      expect(number(`chebyshev(50 ohm, 130 ohm, 3, 0.04, ${i + 1})`)).toBeCloseTo(z, 10),
    );
  });

  it('impedances seen through lines', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 5, max: 300 }),
        fc.integer({ min: -200, max: 200 }),
        fc.integer({ min: 20, max: 120 }),
        (re, im, z0) => {
          const load = `(${re}${im < 0 ? '-' : '+'}${Math.abs(im)}j) * 1 ohm`;
          const quarter = evaluate(`seen(${load}, ${z0} ohm, 90 deg) * ${load} / 1 ohm^2`) as {
            re: number;
            im: number;
          };
          const half = evaluate(`seen(${load}, ${z0} ohm, 180 deg) - ${load}`) as { re: number; im: number };
          const turned = evaluate(`seen(${load}, ${z0} ohm, realplane(${load}, ${z0} ohm))`) as {
            re: number;
            im: number;
          };
          return (
            Math.abs(quarter.re / (z0 * z0) - 1) < 1e-9 &&
            Math.hypot(half.re, half.im) < 1e-9 * z0 * z0 &&
            Math.abs(turned.im) < 1e-8 * (1 + turned.re)
          );
        },
      ),
      { numRuns: 100 },
    );
  });

  it('the load, constant or measured, at the design frequency', () => {
    const load: Piece = { id: 'l', name: 'load', kind: 'load', held: { z: '23-41j ohm' }, nodes: ['a'] };
    expect(evaluate('load()', [port, load])).toMatchObject({ re: 23, im: -41 });
    const block = dataBlock('m', 'imported', {
      ports: 1,
      freq: Float64Array.of(9e9, 11e9),
      re: Float64Array.of(0, 0),
      im: Float64Array.of(0.5, 0.5),
      z0: [{ re: 50, im: 0 }],
    });
    const measured = {
      ...project({ x: 'load()' }, [port, { ...load, held: {}, settings: { data: block.id } }]),
      data: [block],
    };
    const x = resolve(measured).values.get('x')!;
    // z = 50 (1 + j/2) / (1 - j/2)
    expect(x.re).toBeCloseTo(30, 12);
    expect(x.im).toBeCloseTo(40, 12);
    expect(evaluate('load()')).toBe('the design has no load');
  });

  it.each([
    ['width(1 mm)', 'width(): value 1 needs a resistance or impedance such as 50 ohm, not a length'],
    ['width(1 ohm, 2 ohm)', 'width() takes one value: a resistance or impedance'],
    ['width(5000 ohm)', /no width has 5000 ohm/],
    ['binomial(50 ohm, 100 ohm, 2, 3)', 'has no section 3'],
    ['binomial(50 ohm, 100 ohm, 2.5, 1)', /the number of sections must be a whole number/],
    ['chebyshev(50 ohm, 100 ohm, 2, 0.9, 1)', /the largest reflection must be below 0.3333/],
    ['lambda/4', /lambda, the guided wavelength, is known only in the fields of a line/],
    ['nothing(3)', '"nothing" is not a function here'],
    ['constructor(3)', '"constructor" is not a function here'],
  ])('%s is refused in words', (text, message) => {
    const said = evaluate(text);
    if (typeof message === 'string') expect(said).toBe(message);
    else expect(said).toMatch(message);
  });

  it('names of its own, but not those of units and functions', () => {
    const said = (name: string) => resolve(project({ [name]: '1 mm' })).problems.map((p) => p.message);
    expect(said('mm')).toEqual(['"mm" is a unit or a function and cannot be a name']);
    expect(said('sqrt')).toEqual(['"sqrt" is a unit or a function and cannot be a name']);
    expect(said('w50')).toEqual([]);
    expect(usedNames(project({ x: 'f0 * 1 ns' }).designs[0]).has('f0')).toBe(true);
    expect(scopeHelp.every((s) => s.about.length > 5)).toBe(true);
  });
});

describe('the artwork of any document', () => {
  const line = (id: string, a: string, b: string): Piece => ({
    id,
    name: id,
    kind: 'line',
    held: { width: '1 mm', length: '5 mm' },
    nodes: [a, b],
  });
  it('places what no port reaches apart, mounted parts between their lines, and nothing twice', () => {
    const pieces = [
      port,
      line('l1', 'a', 'b'),
      { id: 'c', name: 'c', kind: 'capacitor', held: { c: '1 pF' }, nodes: ['b', 'c'] },
      line('l2', 'c', 'd'),
      line('island', 'x', 'y'),
    ];
    const { pieces: placed, box } = layOut(resolve(project({}, pieces)));
    expect(placed.map((p) => p.id).sort()).toEqual(['c', 'island', 'l1', 'l2', 'p1']);
    const at = (id: string) => placed.find((p) => p.id === id)!;
    expect(at('c').pins[0].x).toBeCloseTo(5e-3, 15);
    expect(at('l2').pins[0].x).toBeCloseTo(at('c').pins[1].x, 15);
    expect(at('island').pins[0].y).toBeLessThan(-1e-3);
    expect(box.width).toBeCloseTo(at('l2').pins[1].x, 15);
  });

  it('closes a ring without end and draws nothing where nothing can be drawn', () => {
    const ring = layOut(resolve(project({}, [port, line('l1', 'a', 'b'), line('l2', 'b', 'a')])));
    expect(ring.pieces).toHaveLength(3);
    const broken = layOut(resolve(project({}, [{ ...port, held: { z: 'oops' } }])));
    expect(broken.pieces).toEqual([]);
    expect(broken.box.width).toBe(0);
  });
});
