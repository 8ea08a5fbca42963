import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { mirrorPieces } from '../src/grow';
import { provideTables } from '../src/junctions';
import { junctionTables } from '../src/junctions/tables';
import {
  asMade,
  circuitOf,
  emptyDesign,
  resolveDesign,
  simulate,
  type Piece,
  type Project,
} from '../src/network';
import { solvedSubject } from '../src/levels/copper';
import { review } from '../src/review';
import type { MediumId } from '../src/lines';
import { entryOf } from '../src/results';
import { entry, made, pieceOf, response, size, withDesign } from './helpers';

/** A design of one pair of coupled lines with a port at each pin. */
function coupler(held: Readonly<Record<string, string>>, settings = {}): Project {
  const { project } = made('branch-line');
  const pieces: Piece[] = [
    { id: 'pair', name: 'pair', kind: 'line-pair', held, settings, nodes: ['a', 'b', 'c', 'd'] },
    ...['a', 'c', 'b', 'd'].map((node, i) => ({
      id: `port${i + 1}`,
      name: `port ${i + 1}`,
      kind: 'port',
      held: { z: '50 ohm' },
      settings: { number: String(i + 1) },
      nodes: [node],
    })),
  ];
  const design = {
    ...emptyDesign('coupler', project.designs[0].stack, 'microstrip', '10 GHz'),
    values: [{ name: 'f0', value: '10 GHz' }],
    pieces,
  };
  return withDesign(project, design);
}
const of = (project: Project) => resolveDesign(project, project.designs[0]);
/** S-matrix at a frequency: 1 in, 2 through, 3 coupled, 4 isolated. */
function scattering(project: Project, level: 'ideal' | 'modelled', f: number) {
  const data = simulate(circuitOf(of(project), level)!, Float64Array.of(f), () => undefined);
  return (i: number, j: number) => {
    const { re, im } = entryOf(data, i - 1, j - 1);
    return Math.hypot(re[0], im[0]);
  };
}
const matched = (c: number) => {
  const root = Math.sqrt((1 + c) / (1 - c));
  return { ze: `${50 * root} ohm`, zo: `${50 / root} ohm` };
};

describe('coupled lines', () => {
  it('couple a quarter wave exactly as their impedances say, isolated and matched', () => {
    for (const c of [0.1, 0.3, Math.SQRT1_2]) {
      const s = scattering(coupler({ ...matched(c), theta: '90 deg' }), 'ideal', 10e9);
      expect(s(3, 1)).toBeCloseTo(c, 12);
      expect(s(2, 1)).toBeCloseTo(Math.sqrt(1 - c * c), 12);
      expect(s(1, 1)).toBeLessThan(1e-12);
      expect(s(4, 1)).toBeLessThan(1e-12);
    }
    // Away from the centre: jC sin/(sqrt(1 - C^2) cos + j sin).
    const [c, theta] = [0.3, Math.PI / 3];
    const s = scattering(coupler({ ...matched(c), theta: '90 deg' }), 'ideal', (10e9 * 2) / 3);
    const bottom = Math.hypot(Math.sqrt(1 - c * c) * Math.cos(theta), Math.sin(theta));
    expect(s(3, 1)).toBeCloseTo((c * Math.sin(theta)) / bottom, 12);
  });

  it('are lossless and reciprocal as an ideal, passive as copper, and alike from every pin', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 3, noNaN: true }),
        fc.double({ min: 0.05, max: 3, noNaN: true }),
        fc.double({ min: 1, max: 20, noNaN: true }),
        fc.double({ min: 1e8, max: 40e9, noNaN: true }),
        (w, g, l, f) => {
          const project = coupler({ width: `${w} mm`, gap: `${g} mm`, length: `${l} mm` });
          for (const level of ['ideal', 'modelled'] as const) {
            const s = scattering(project, level, f);
            for (const i of [1, 2, 3, 4]) {
              const power = [1, 2, 3, 4].reduce((sum, j) => sum + s(j, i) ** 2, 0);
              if (level === 'ideal' ? Math.abs(power - 1) > 1e-12 : power > 1 + 1e-12) return false;
              for (const j of [1, 2, 3, 4]) if (Math.abs(s(i, j) - s(j, i)) > 1e-12) return false;
              if (Math.abs(s(i, i) - s(1, 1)) > 1e-12) return false;
            }
          }
          return true;
        },
      ),
      { numRuns: 15 },
    );
  });

  it('couple less the wider the gap, and forward only what their unequal velocities make', () => {
    const levels = ['0.1 mm', '0.4 mm', '1.6 mm'].map((gap) => {
      const s = scattering(coupler({ width: '1.2 mm', gap, theta: '90 deg' }), 'modelled', 10e9);
      return [s(3, 1), s(4, 1)];
    });
    expect(levels[0][0]).toBeGreaterThan(levels[1][0]);
    expect(levels[1][0]).toBeGreaterThan(levels[2][0]);
    // A microstrip pair has directivity of some 10 dB; one in one dielectric has all of it.
    expect(levels[1][1]).toBeGreaterThan(0.01);
    const between = coupler({ ...matched(0.2), theta: '90 deg' });
    const design = { ...between.designs[0], medium: 'stripline' as const };
    const s = scattering(withDesign(between, design), 'modelled', 10e9);
    expect(s(4, 1)).toBeLessThan(2e-3);
    expect(s(3, 1)).toBeCloseTo(0.2, 2);
  });

  it('follow from impedances, from copper, and from one of each', () => {
    const values = of(coupler({ ze: '60 ohm', zo: '42 ohm', theta: '90 deg' })).pieces[0].values!;
    const mm = (x: number) => `${x * 1e3} mm`;
    const ways: Readonly<Record<string, string>>[] = [
      { width: mm(values.width.re), gap: mm(values.gap.re), length: mm(values.length.re) },
      { ze: '60 ohm', gap: mm(values.gap.re), length: 'lambda/4' },
      { width: mm(values.width.re), zo: '42 ohm', theta: '90 deg' },
    ];
    for (const held of ways) {
      const back = of(coupler(held)).pieces[0].values!;
      for (const face of ['ze', 'zo', 'theta', 'width', 'gap', 'length'])
        // To the error of a table, which answers once a neighbourhood has been asked for a few times.
        expect(Math.abs(back[face].re / values[face].re - 1)).toBeLessThan(3e-6);
    }
    const wrong = (held: Readonly<Record<string, string>>) => of(coupler(held)).problems[0];
    expect(wrong({ ze: '40 ohm', zo: '60 ohm', theta: '90 deg' })).toMatchObject({
      place: { face: 'zo' },
      message: expect.stringMatching(/less than the even/) as string,
    });
    expect(wrong({ ze: '900 ohm', zo: '3 ohm', theta: '90 deg' }).place).toMatchObject({ face: 'zo' });
    expect(wrong({ ze: '60 ohm', zo: '40 ohm', length: '1 mm', trim: '2 mm' }).place).toMatchObject({
      face: 'trim',
    });
  });

  it('lie side by side on the copper, the second strip on the side asked for, and are questioned', () => {
    const held = { width: '1 mm', gap: '0.05 mm', length: '5 mm' };
    const project = coupler(held);
    const { pieces, closures } = layOut(of(project));
    const [pair] = pieces.filter((p) => p.id === 'pair');
    expect(closures).toEqual([]);
    expect(pair.copper).toHaveLength(2);
    expect(pair.pins.map((p) => [p.x, p.y].map((v) => Math.round(v * 1e8) / 1e5))).toEqual([
      [0, 0],
      [0, 1.05],
      [5, 0],
      [5, 1.05],
    ]);
    const [right] = layOut(of(coupler(held, { side: 'right' }))).pieces.filter((p) => p.id === 'pair');
    expect(right.pins[1].y).toBeCloseTo(-1.05e-3, 12);
    const mirrored = mirrorPieces(project.designs[0], ['pair']);
    expect(mirrored.pieces[0].settings).toMatchObject({ side: 'right' });
    const remarks = review(project, project.designs[0], of(project));
    expect(remarks.some((r) => /0\.05|50/.test(r.message) && /etches/.test(r.message))).toBe(true);
  });
});

describe('two lines that run side by side', () => {
  const z0 = { width: '1.2 mm' };
  /** There, across and back: a hairpin of lines `apart` from middle to middle. */
  const hairpin = (apart: string, back = '8 mm'): Project => {
    const { project } = made('branch-line');
    const bend = { shape: 'square', side: 'left' };
    const pieces: Piece[] = [
      pieceOf('port1', 'port', { z: '50 ohm' }, ['a'], { number: '1' }),
      pieceOf('there', 'line', { ...z0, length: '8 mm' }, ['a', 'b']),
      pieceOf('corner', 'bend', {}, ['b', 'c'], bend),
      pieceOf('across', 'line', { ...z0, length: apart }, ['c', 'd']),
      pieceOf('corner2', 'bend', {}, ['d', 'e'], bend),
      pieceOf('back', 'line', { ...z0, length: back }, ['e', 'f']),
      pieceOf('port2', 'port', { z: '50 ohm' }, ['f'], { number: '2' }),
    ];
    const design = {
      ...emptyDesign('hairpin', project.designs[0].stack, 'microstrip', '10 GHz'),
      values: [{ name: 'f0', value: '10 GHz' }],
      pieces,
    };
    return withDesign(project, design);
  };
  const asked = (project: Project) =>
    review(project, project.designs[0], of(project)).filter((r) => /couple/.test(r.message));

  it('are questioned when they couple, and become a pair that keeps the copper', () => {
    expect(asked(hairpin('3 mm'))).toEqual([]);
    const project = hairpin('1.5 mm');
    const [remark] = asked(project);
    expect(remark.message).toMatch(/there and back run 0\.3\u2009mm apart over 8\u2009mm/);
    const after = remark.remedies![0].apply(project);
    const pair = after.designs[0].pieces.find((p) => p.kind === 'line-pair')!;
    expect(pair.nodes).toEqual(['a', 'f', 'b', 'e']);
    const { width, gap, length } = of(after).pieces.find((p) => p.kind === 'line-pair')!.values!;
    expect([width.re, gap.re, length.re].map((x) => Number((x * 1e3).toFixed(6)))).toEqual([1.2, 0.3, 8]);
    // The ring of pair, bends and the short line closes where the lines stood.
    expect(layOut(of(after)).closures).toEqual([]);
    expect(asked(after)).toEqual([]);
    const s = scattering(after, 'modelled', 10e9);
    const before = scattering(project, 'modelled', 10e9);
    expect(Math.abs(s(2, 1) - before(2, 1))).toBeGreaterThan(1e-3);
  });

  it('of different lengths are questioned without a remedy that would change the copper', () => {
    const [remark] = asked(hairpin('1.5 mm', '5 mm'));
    expect(remark.remedies).toBeUndefined();
    expect(remark.message).toMatch(/one width and length/);
  });
});

describe('an array of coupled lines', () => {
  /** An array, or a pair, with a port at every pin named. */
  const ported = (
    kind: string,
    held: Readonly<Record<string, string>>,
    nodes: readonly string[],
  ): Project => {
    const project = coupler({ ...matched(0.2), theta: '90 deg' });
    const [design] = project.designs;
    const pieces: Piece[] = [
      { id: 'lines', name: 'lines', kind, held, nodes },
      ...nodes.flatMap((node, i) =>
        node.startsWith('x')
          ? []
          : [
              {
                id: `port${i}`,
                name: `port ${i}`,
                kind: 'port',
                held: { z: '50 ohm' },
                settings: { number: String(nodes.slice(0, i + 1).filter((n) => !n.startsWith('x')).length) },
                nodes: [node],
              },
            ],
      ),
    ];
    return withDesign(project, { ...design, pieces });
  };
  const solved = (project: Project, level: 'ideal' | 'modelled') =>
    simulate(circuitOf(of(project), level)!, Float64Array.of(2e9, 5e9, 10e9, 14e9), () => undefined);

  it('is a pair where its third line is far, and lines that know nothing of one another where all are', () => {
    const along = { width: '1 mm', length: '10 mm' };
    const pair = solved(ported('line-pair', { ...along, gap: '0.3 mm' }, ['a', 'b', 'c', 'd']), 'modelled');
    const array = solved(
      ported('line-array-3', { ...along, gap1: '0.3 mm', gap2: '6 mm' }, ['a', 'b', 'x1', 'c', 'd', 'x2']),
      'modelled',
    );
    pair.re.forEach((re, i) => {
      expect(Math.abs(re - array.re[i])).toBeLessThan(3e-3);
      expect(Math.abs(pair.im[i] - array.im[i])).toBeLessThan(3e-3);
    });
    const loose = { z0: '60 ohm', gap1: '12 mm', gap2: '12 mm', theta: '70 deg' };
    const three = solved(ported('line-array-3', loose, ['x1', 'a', 'x2', 'x3', 'b', 'x4']), 'ideal');
    const one = solved(ported('line', { z0: '60 ohm', theta: '70 deg' }, ['a', 'b']), 'ideal');
    one.re.forEach((re, i) => expect(three.re[i]).toBeCloseTo(re, 4));
  });

  it('couples a quarter wave of two neighbours as a pair of that coupling does, and is its own image turned over', () => {
    const nodes = Array.from({ length: 10 }, (_, i) => `n${i}`);
    const held = { z0: '50 ohm', theta: '90 deg', k1: '0.2', k2: '0.1', k3: '0.1', k4: '0.2' };
    for (const level of ['ideal', 'modelled'] as const) {
      const s = solved(ported('line-array-5', held, nodes), level);
      const n = 10;
      const turned = (i: number) => (i < 5 ? 4 - i : 14 - i);
      for (let k = 0; k < 4; k++)
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++) {
            const at = (a: number, b: number) => s.re[(k * n + a) * n + b];
            expect(at(i, j)).toBeCloseTo(at(turned(i), turned(j)), 9);
            expect(at(i, j)).toBeCloseTo(at(j, i), 9);
          }
    }
    const two = solved(
      ported('line-array-3', { z0: '50 ohm', theta: '90 deg', k1: '0.2', gap2: '12 mm' }, [
        'a',
        'b',
        'x1',
        'c',
        'd',
        'x2',
      ]),
      'ideal',
    );
    const same = solved(
      ported('line-pair', { ...matched(0.2), theta: '90 deg' }, ['a', 'b', 'c', 'd']),
      'ideal',
    );
    same.re.forEach((re, i) => expect(Math.abs(two.re[i] - re)).toBeLessThan(4e-3));
  });

  it('says which coupling no gap has', () => {
    const project = ported('line-array-3', { width: '1 mm', length: '10 mm', k1: '0.9', gap2: '1 mm' }, [
      'a',
      'b',
      'x1',
      'c',
      'd',
      'x2',
    ]);
    expect(of(project).problems).toContainEqual(
      expect.objectContaining({ place: { kind: 'piece', piece: 'lines', face: 'k1' } }),
    );
  });
});

describe('ends of coupled lines', () => {
  beforeAll(() => provideTables(junctionTables));
  afterAll(() => provideTables([]));

  /** Two strips of which each ends open beside the other, which goes on. Lengths in mm. */
  function block(
    { w = 1.2, gap = 0.15, length = 4.6, trim = 0, feed = 1, er = '2.94' },
    medium: MediumId = 'microstrip',
    more: readonly Piece[] = [],
  ): Project {
    const { project } = made('branch-line');
    const [stack] = project.stacks;
    const lossless = { ...stack, er, tand: '0', conductivity: '1e15 S/m', roughness: '0 um' };
    const line = (id: string, nodes: readonly string[]) =>
      pieceOf(id, 'line', { width: `${w} mm`, length: `${feed} mm` }, nodes);
    const open = (id: string, node: string) => pieceOf(id, 'open-end', { trim: `${trim} mm` }, [node]);
    const port = (number: number, node: string) =>
      pieceOf(`port${number}`, 'port', { z: '50 ohm' }, [node], { number: String(number) });
    const pieces = [
      port(1, 'a'),
      line('l1', ['a', 'n1']),
      pieceOf('pair', 'line-pair', { width: `${w} mm`, gap: `${gap} mm`, length: `${length} mm` }, [
        'n1',
        'o2',
        'o3',
        'n4',
      ]),
      open('e2', 'o2'),
      open('e3', 'o3'),
      line('l2', ['n4', 'b']),
      port(2, 'b'),
      ...more,
    ];
    return withDesign(
      { ...project, stacks: [lossless] },
      {
        ...emptyDesign('block', stack.id, medium, '10 GHz'),
        values: [{ name: 'f0', value: '10 GHz' }],
        pieces,
      },
    );
  }
  const factsOf = (project: Project) => of(project).pieces.find((p) => p.id === 'pair')!.facts;
  const without = (project: Project, ...ids: string[]): Project =>
    withDesign(project, {
      ...project.designs[0],
      pieces: project.designs[0].pieces.filter((p) => !ids.includes(p.id)),
    });

  it('are no copper with a capacitance across them, which a field solution would miss', () => {
    const subject = (bridge?: string) => {
      const project = block({});
      const pieces = project.designs[0].pieces.map((p) =>
        p.id === 'pair' && bridge ? { ...p, held: { ...p.held, bridge } } : p,
      );
      const resolved = of(withDesign(project, { ...project.designs[0], pieces }));
      return solvedSubject(resolved, layOut(resolved));
    };
    expect(subject()!.copper.ports).toHaveLength(2);
    expect(() => subject('20 fF')).toThrow(/end capacitance of pair is not in its copper/);
  });

  it('are known where one strip ends open beside another that goes on, with what its end adds', () => {
    expect(factsOf(block({ trim: -0.2 }))).toEqual({ open2: [-0.2e-3], open3: [-0.2e-3] });
    // Etched, a strip is longer at its open end by half of what it is wider, whatever is cut off.
    const etched = asMade(of(block({ trim: -0.2 })), { etch: 30e-6 });
    const [open] = etched.pieces.find((p) => p.id === 'pair')!.facts.open2 as readonly number[];
    expect(open).toBeCloseTo(-0.185e-3, 9);
    // A strip that nothing meets, an end at which something else hangs too, and two ends side by side are none.
    expect(factsOf(without(block({}), 'l1', 'port1'))).toEqual({ open3: [0] });
    expect(factsOf(without(block({}), 'e2'))).toEqual({ open3: [0] });
    const stub = pieceOf('stub', 'open-stub', { width: '1 mm', length: '2 mm' }, ['o2']);
    expect(factsOf(block({}, 'microstrip', [stub]))).toEqual({ open3: [0] });
    const both = block({});
    const ended = both.designs[0].pieces.map((p) =>
      p.id === 'l1' ? pieceOf('l1', 'open-end', {}, ['n1']) : p,
    );
    expect(factsOf(withDesign(both, { ...both.designs[0], pieces: ended }))).toEqual({ open3: [0] });
  });

  /** A pair whose four ends bend, away from one another if nothing else is said. Lengths in mm. */
  function bent(
    { w = 1.2, gap = 0.2, length = 5, er = '2.94', shape = 'mitred', side = 'left' },
    medium: MediumId = 'microstrip',
    away: readonly boolean[] = [true, true, true, true],
  ): Project {
    const own = block({ w, gap, length, er }, medium);
    const sides = ['left', 'right', 'right', 'left'];
    const pieces = ['n1', 'n2', 'n3', 'n4'].flatMap((node, pin) => {
      const turns = (sides[pin] === 'left') === (away[pin] === (side === 'left')) ? 'left' : 'right';
      return [
        pieceOf(`bend${pin + 1}`, 'bend', {}, [node, `b${pin + 1}`], { shape, side: turns }),
        pieceOf(`line${pin + 1}`, 'line', { width: `${w} mm`, length: '1 mm' }, [
          `b${pin + 1}`,
          `p${pin + 1}`,
        ]),
        pieceOf(`port${pin + 1}`, 'port', { z: '50 ohm' }, [`p${pin + 1}`], { number: String(pin + 1) }),
      ];
    });
    const pair = own.designs[0].pieces.find((p) => p.id === 'pair')!;
    return withDesign(own, {
      ...own.designs[0],
      pieces: [{ ...pair, nodes: ['n1', 'n2', 'n3', 'n4'], settings: { side } }, ...pieces],
    });
  }

  it('are known where strips bend away from one another, on whichever side the second one lies', () => {
    const right = [Math.PI / 2];
    const all = { away1: right, away2: right, away3: right, away4: right };
    expect(factsOf(bent({}))).toEqual(all);
    expect(factsOf(bent({ side: 'right' }))).toEqual(all);
    expect(factsOf(bent({ shape: 'square' }))).toEqual({});
    expect(factsOf(bent({}, 'microstrip', [true, true, false, true]))).toEqual({
      away1: right,
      away2: right,
      away4: right,
    });
    // The other way round it is the same bend.
    const project = bent({});
    const turned = project.designs[0].pieces.map((p) =>
      p.id === 'bend1'
        ? { ...p, nodes: [...p.nodes].reverse(), settings: { ...p.settings, side: 'right' } }
        : p,
    );
    expect(factsOf(withDesign(project, { ...project.designs[0], pieces: turned }))).toEqual(all);
  });

  /** The largest difference in S that tables of ends make. */
  function change(project: Project, f: number): number {
    const apart = response(project, 'modelled', [f]);
    provideTables(junctionTables.filter((t) => !t.kind.startsWith('pair-')));
    const alone = response(project, 'modelled', [f]);
    provideTables(junctionTables);
    return Math.max(...apart.re.map((x, i) => Math.hypot(x - alone.re[i], apart.im[i] - alone.im[i])));
  }

  it.each([
    ['an open end', block],
    ['bends', bent],
  ])('of %s couple to the strip beside, and the less the wider the gap', (_what, of) => {
    const [near, middle, far] = [0.15, 0.6, 1.2].map((gap) => change(of({ gap }), 14e9));
    expect(near).toBeGreaterThan(0.02);
    expect(middle).toBeLessThan(near);
    expect(far).toBeLessThan(near / 2);
  });

  it('stand where the strip ends: cut off, the pair is shorter and the lines to it longer', () => {
    for (const medium of ['microstrip', 'stripline'] as const)
      for (const trim of [-0.3, 0.2]) {
        const a = response(block({ w: 1, length: 5, trim }, medium), 'modelled', [3e9, 9e9, 15e9]);
        const b = response(
          block({ w: 1, length: 5 + 2 * trim, feed: 1 - trim }, medium),
          'modelled',
          [3e9, 9e9, 15e9],
        );
        a.re.forEach((x, i) => expect(Math.hypot(x - b.re[i], a.im[i] - b.im[i])).toBeLessThan(1e-5));
        // And that is not what a line of the whole length with a longer end would be.
        const c = response(block({ w: 1, length: 5 }, medium), 'modelled', [9e9]);
        expect(size({ re: entry(c, 2, 1).re - a.re[6], im: entry(c, 2, 1).im - a.im[6] })).toBeGreaterThan(
          0.002,
        );
      }
  });

  it('give no power and are reciprocal at any size, board and frequency', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<MediumId>('microstrip', 'stripline'),
        fc.boolean(),
        fc.double({ min: 0.1, max: 3, noNaN: true }),
        fc.double({ min: 0.02, max: 2, noNaN: true }),
        fc.double({ min: 1, max: 9, noNaN: true }),
        fc.double({ min: -1, max: 0.4, noNaN: true }),
        fc.double({ min: 1.5, max: 13, noNaN: true }),
        fc.double({ min: 1e6, max: 40e9, noNaN: true }),
        (medium, bends, w, gap, length, trim, er, f) => {
          const sizes = { w, gap, length, er: String(er) };
          const s = response(bends ? bent(sizes, medium) : block({ ...sizes, trim }, medium), 'modelled', [
            f,
          ]);
          for (let from = 1; from <= s.ports; from++) {
            let power = 0;
            for (let to = 1; to <= s.ports; to++) {
              const [there, back] = [entry(s, to, from), entry(s, from, to)];
              expect(size({ re: there.re - back.re, im: there.im - back.im })).toBeLessThan(1e-9);
              power += size(there) ** 2;
            }
            expect(power).toBeLessThan(1 + 1e-6);
          }
        },
      ),
      { numRuns: 80 },
    );
  });
});
