import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { readProject, writeProject } from '../src/formats';
import { liveById, liveLevels, solvedSubject, type LiveId } from '../src/levels';
import {
  circuitOf,
  emptyProject,
  frequencies,
  marked,
  resolveDesign,
  resolveSheet,
  simulate,
  type DataBlock,
  type Design,
  type Piece,
  type Project,
} from '../src/network';
import { parts } from '../src/parts';
import { review } from '../src/review';
import { recipes, dataLoad, initialInputs, RecipeError, type RecipeInputs } from '../src/recipes';
import { entryOf, readMatch } from '../src/results';
import { laminates } from '../src/stack';
import { designTransformer, seenThrough, angleToRealPlane } from '../src/theory';
import { pieceOf, response } from './helpers';

const recipe = recipes.get('quarter-wave')!;

function make(inputs: RecipeInputs, data: readonly DataBlock[] = []): { project: Project; design: Design } {
  const base = emptyProject('test', laminates[0]);
  const context = { stack: base.stacks[0], medium: 'microstrip' as const, newId: () => 'd', data };
  const design = recipe.design({ ...initialInputs(recipe), ...inputs }, context);
  return { project: { ...base, designs: [design], data }, design };
}

const edited = (project: Project, change: (d: Design) => Design): Project => ({
  ...project,
  designs: [change(project.designs[0])],
});
const withValue =
  (name: string, value: string) =>
  (d: Design): Design => ({
    ...d,
    values: d.values.map((v) => (v.name === name ? { ...v, value } : v)),
  });

/** |S11| at the ideal or modelled level. */
function reflection(project: Project, level: 'ideal' | 'modelled', freq: Float64Array): Float64Array {
  const circuit = circuitOf(resolveDesign(project, project.designs[0]), level)!;
  const blocks = new Map(project.data.map((d) => [d.id, d]));
  const data = simulate(circuit, freq, (id) => {
    const d = blocks.get(id)!;
    return {
      ports: d.ports,
      freq: Float64Array.from(d.freq),
      re: Float64Array.from(d.re),
      im: Float64Array.from(d.im),
      z0: d.z0.map(([re, im]) => ({ re, im })),
    };
  });
  return Float64Array.from(freq, (_f, k) => Math.hypot(data.re[k], data.im[k]));
}
const f0 = 10.55e9;

describe('quarter-wave transformers', () => {
  it('are the exact polynomials: equal ripple touches its limit, binomial is flat, both at every frequency', () => {
    for (const [source, load] of [
      [50, 120],
      [100, 12],
    ])
      for (const sections of [1, 2, 3, 5, 8]) {
        const maxReflection = 0.02;
        const { impedances, bandwidth } = designTransformer({
          source,
          load,
          sections,
          profile: 'chebyshev',
          maxReflection,
        });
        const flat = designTransformer({ source, load, sections, profile: 'binomial' });
        const k = Math.abs(load / source - 1) / (2 * Math.sqrt(load / source));
        const x = 1 / Math.cos((Math.PI / 2) * (1 - bandwidth! / 2));
        const kc = maxReflection / Math.sqrt(1 - maxReflection ** 2);
        for (let i = 0; i <= 40; i++) {
          const theta = (Math.PI * i) / 40;
          const seen = (zs: number[]) =>
            [...zs].reverse().reduce((z, zi) => seenThrough(z, zi, theta), { re: load, im: 0 });
          const rho = (zs: number[]) => {
            const z = seen(zs);
            return Math.hypot(z.re - source, z.im) / Math.hypot(z.re + source, z.im);
          };
          const c = x * Math.cos(theta);
          const t =
            Math.abs(c) <= 1
              ? Math.cos(sections * Math.acos(c))
              : Math.cosh(sections * Math.acosh(Math.abs(c)));
          const ripple = kc * Math.abs(t);
          expect(rho(impedances)).toBeCloseTo(ripple / Math.hypot(1, ripple), 12);
          const loss = k * Math.abs(Math.cos(theta)) ** sections;
          expect(rho(flat.impedances)).toBeCloseTo(loss / Math.hypot(1, loss), 12);
        }
      }
    // Published: three binomial sections from 1 to 2 (Matthaei, Young & Jones 1964, table 6.04-1 gives 1.09068).
    expect(
      designTransformer({ source: 1, load: 2, sections: 3, profile: 'binomial' }).impedances[0],
    ).toBeCloseTo(1.09068, 5);
  });

  it('turn any complex load real by the shortest line', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 400, noNaN: true }),
        fc.double({ min: -300, max: 300, noNaN: true }),
        (re, im) => {
          const theta = angleToRealPlane({ re, im }, 50);
          const z = seenThrough({ re, im }, 50, theta);
          return theta >= 0 && theta < Math.PI / 2 + 1e-12 && Math.abs(z.im) < 1e-9 * Math.abs(z.re) + 1e-9;
        },
      ),
    );
  });
});

describe('the quarter-wave recipe', () => {
  it('matches real, complex and measured loads exactly at the design frequency', () => {
    const block: DataBlock = {
      id: 'm',
      name: 'm.s1p',
      origin: 'imported',
      ports: 1,
      freq: [9e9, 12e9],
      re: [0.3, 0.2],
      im: [-0.4, -0.5],
      z0: [[75, 0]],
    };
    const cases: [RecipeInputs, DataBlock[]][] = [
      [{ load: '120 ohm' }, []],
      [{ load: '23-41j ohm', sections: '3' }, []],
      [{ load: '200+90j ohm', sections: '4', z0: '75 ohm' }, []],
      [{ load: dataLoad('m'), sections: '2' }, [block]],
    ];
    for (const [inputs, data] of cases) {
      const { project, design } = make(inputs, data);
      const resolved = resolveDesign(project, design);
      expect(review(project, design, resolved).filter((r) => r.severity === 'error')).toEqual([]);
      expect(reflection(project, 'ideal', Float64Array.of(f0))[0]).toBeLessThan(1e-9);
      // The real lines differ by loss, dispersion and the steps between them, here from 6 mm down to 1.3 mm in width.
      expect(reflection(project, 'modelled', Float64Array.of(f0))[0]).toBeLessThan(0.3);
    }
  });

  it('follows a changed load, frequency, board and count without being made again', () => {
    const { project } = make({ sections: '3', profile: 'chebyshev', maxReflection: '0.05' });
    const freq = frequencies(f0 / 2, 1.5 * f0, 201);
    const band = (p: Project) => Math.max(...reflection(p, 'ideal', freq).slice(80, 121));
    expect(band(project)).toBeLessThan(0.05 + 1e-12);
    expect(band(edited(project, withValue('zl', '31 ohm')))).toBeLessThan(0.05 + 1e-12);
    const moved = edited(project, withValue('f0', '5.8 GHz'));
    expect(reflection(moved, 'ideal', frequencies(5.7e9, 5.9e9, 11)).every((r) => r < 0.05 + 1e-12)).toBe(
      true,
    );
    const before = resolveDesign(project, project.designs[0]).pieces[1].values!;
    const other: Project = { ...project, stacks: [{ ...laminates[2], id: project.stacks[0].id }] };
    const after = resolveDesign(other, other.designs[0]).pieces[1].values!;
    expect(after.z0).toEqual(before.z0);
    expect(after.width.re).not.toBeCloseTo(before.width.re, 6);
  });

  it('names the entry that cannot be met', () => {
    const field = (inputs: RecipeInputs) => {
      try {
        make(inputs);
      } catch (error) {
        return error instanceof RecipeError ? error.field : error;
      }
      return undefined;
    };
    expect(field({ load: '41j ohm' })).toBe('load');
    expect(field({ load: '3 mm' })).toBe('load');
    expect(field({ sections: '0' })).toBe('sections');
    expect(field({ profile: 'chebyshev', maxReflection: '0.9' })).toBe('maxReflection');
    expect(field({ z0: '0 ohm' })).toBe('z0');
    expect(field({ freq: '10.55' })).toBe('freq');
    expect(field({ load: dataLoad('gone') })).toBe('load');
  });
});

describe('a design worked out', () => {
  const { project, design } = make({});
  const problems = (change: (d: Design) => Design) => {
    const p = edited(project, change);
    return resolveDesign(p, p.designs[0]).problems.filter((x) => !x.follows);
  };
  const hold =
    (held: Record<string, string>) =>
    (d: Design): Design => ({ ...d, pieces: d.pieces.map((p) => (p.kind === 'line' ? { ...p, held } : p)) });
  const section = (p: Project) =>
    resolveDesign(p, p.designs[0]).pieces.find((x) => x.kind === 'line')!.values!;

  it('holds either face and lets the other follow', () => {
    const electrical = section(project);
    const physical = section(
      edited(project, hold({ width: `${electrical.width.re} m`, length: 'lambda/4' })),
    );
    expect(physical.z0.re / electrical.z0.re).toBeCloseTo(1, 9);
    expect(physical.theta.re).toBeCloseTo(Math.PI / 2, 12);
    expect(physical.length.re / electrical.length.re).toBeCloseTo(1, 9);
    const helpers = section(edited(project, hold({ width: 'width(z1)', length: 'guided(z1)/4' })));
    expect(helpers.length.re / electrical.length.re).toBeCloseTo(1, 9);
  });

  it('puts each error at its own place, in words', () => {
    expect(problems(withValue('zl', '2*z0 + 3 mm'))).toEqual([
      { place: { kind: 'value', name: 'zl' }, message: 'adds a length to a resistance or impedance' },
    ]);
    expect(problems(withValue('z1', 'z1 + 1 ohm'))[0].message).toBe('depends on itself (z1 \u2192 z1)');
    const circle = problems((d) => ({
      ...d,
      values: [...d.values, { name: 'a', value: 'b' }, { name: 'b', value: 'a' }],
    }));
    expect(circle.some((p) => /depends on itself/.test(p.message))).toBe(true);
    expect(problems(hold({ z0: '1 mm', theta: '90 deg' }))[0].place).toEqual({
      kind: 'piece',
      piece: 'section1',
      face: 'z0',
    });
    expect(problems(hold({ z0: '2000 ohm', theta: '90 deg' }))[0].message).toMatch(/no width has 2000 ohm/);
    expect(problems((d) => ({ ...d, sweep: { ...d.sweep, stop: 'f0/3' } }))[0].place).toEqual({
      kind: 'sweep',
      field: 'stop',
    });
    expect(problems((d) => ({ ...d, values: d.values.filter((v) => v.name !== 'f0') }))[0].place.kind).toBe(
      'design',
    );
    expect(
      problems((d) => ({
        ...d,
        pieces: [...d.pieces, { ...d.pieces[0], id: 'p', settings: { number: '3' } }],
      }))[0].message,
    ).toMatch(/numbered/);
    expect(resolveDesign(project, design, { nope: '1' }).problems[0].message).toMatch(
      /no value named "nope"/,
    );
  });

  it('is reviewed: too narrow to etch, outside a model, unused', () => {
    const messages = (change: (d: Design) => Design) => {
      const p = edited(project, change);
      return review(p, p.designs[0], resolveDesign(p, p.designs[0]))
        .map((r) => r.message)
        .join('\n');
    };
    expect(messages((d) => d)).toBe('');
    expect(messages(hold({ width: '60 um', length: '4 mm' }))).toMatch(/narrower than the 0\.1/);
    const taper = (d: Design) => ({
      ...d,
      pieces: d.pieces.map((p) =>
        p.kind === 'line' ? { ...p, kind: 'taper', held: { z1: '50 ohm', w2: '60 um', length: '9 mm' } } : p,
      ),
    });
    expect(messages(taper)).toMatch(/narrower than the 0\.1/);
    expect(messages(hold({ width: '20 um', length: '4 mm' }))).toMatch(/Kirschning & Jansen 1982/);
    expect(messages((d) => ({ ...d, values: [...d.values, { name: 'spare', value: '1 mm' }] }))).toMatch(
      /spare: nothing uses/,
    );
  });

  it('leaves the key of a level alone where that level does not look', () => {
    const key = (level: LiveId, change: (d: Design) => Design = (d) => d) => {
      const p = edited(project, change);
      const resolved = resolveDesign(p, p.designs[0]);
      return JSON.stringify(liveById[level].subject(resolved));
    };
    const line = (how: (p: Piece) => Piece) => (d: Design) => ({
      ...d,
      pieces: d.pieces.map((p) => (p.kind === 'line' ? how(p) : p)),
    });
    // A trim is copper, what is said about a piece is neither.
    const trimmed = line((p) => ({ ...p, held: { ...p.held, trim: '20 um' } }));
    expect(key('ideal', trimmed)).toBe(key('ideal'));
    expect(key('modelled', trimmed)).not.toBe(key('modelled'));
    const said = line((p) => marked(p, { retune: 'stay', heldAt: '1e9', asked: { z0: '40 ohm' } }));
    for (const { id } of liveLevels) expect(key(id, said)).toBe(key(id));
  });

  it('is solved from what its models say they read, and from nothing else', () => {
    for (const part of parts.values())
      for (const { reads } of Object.values(part.models ?? {})) {
        const known = [
          ...part.properties.flatMap((p) => p.faces.map((f) => f.name)),
          ...(part.choices ?? []).map((c) => c.name),
          // Facts, the copper's own length of a stub, data, and where free copper has its pins.
          ...['bare1', 'bare2', 'strip', 'middles', 'length', 'data', 'sides'],
          // How the strips of a pair end, by pin.
          ...[1, 2, 3, 4].flatMap((pin) => [`open${pin}`, `away${pin}`]),
          // What turns beyond the ends of a line that curves.
          ...['turns1', 'turns2'],
          // The ends of lines that a part is mounted on, and how far apart they are.
          ...['pad1', 'pad2', 'apart'],
        ];
        for (const name of reads)
          expect([part.kind, known.includes(name), name]).toEqual([part.kind, true, name]);
      }
  });

  it('tells a line that curves what turns beyond its pins, to which side and how far on', () => {
    const mitred = (side: string) => ({ shape: 'mitred', side });
    const arc = (turn: string, nodes: string[], name: string) =>
      pieceOf(name, 'line', { width: '1 mm', length: '5 mm', turn, radius: '2 mm', lead: '1 mm' }, nodes);
    const bent = edited(project, (d) => ({
      ...d,
      pieces: [
        pieceOf('p1', 'port', { z: '50 ohm' }, ['a'], { number: '1' }),
        arc('1 rad', ['a', 'b'], 'first'),
        pieceOf('corner', 'bend', {}, ['b', 'c'], mitred('left')),
        pieceOf('between', 'line', { width: '1 mm', length: '0.5 mm' }, ['c', 'd']),
        arc('-1 rad', ['d', 'e'], 'second'),
        pieceOf('p2', 'port', { z: '50 ohm' }, ['e'], { number: '2' }),
      ],
    }));
    const { pieces, problems } = resolveDesign(bent, bent.designs[0]);
    expect(problems).toEqual([]);
    const factsOf = (id: string) => pieces.find((p) => p.id === id)!.facts;
    const close = (found: unknown, expected: readonly number[]) =>
      expected.forEach((x, i) => expect((found as number[])[i]).toBeCloseTo(x, 9));
    // From where to where, by how much to the arc's own side, and whether that is an arc: 2 mm of straight line lie between.
    close(factsOf('first').turns2, [0, 0, Math.PI / 2, 0, 1.5e-3, 3.5e-3, -1, 1]);
    // Seen from the second one, which turns to the right, both are to the other side.
    close(factsOf('second').turns1, [0.5e-3, 0.5e-3, -Math.PI / 2, 0, 2.5e-3, 4.5e-3, -1, 1]);
    expect(factsOf('first').turns1).toBeUndefined();
    expect(factsOf('between')).toEqual({});
  });

  it('tells a mounted part of the lines that end at it, not of one that it stands beside nor of a junction', () => {
    const line = (id: string, nodes: string[]) =>
      pieceOf(id, 'line', { width: '1 mm', length: '5 mm' }, nodes);
    const row = edited(project, (d) => ({
      ...d,
      pieces: [
        pieceOf('p1', 'port', { z: '50 ohm' }, ['a'], { number: '1' }),
        line('first', ['a', 'b']),
        // Two of them on the same pads, which are there once.
        pieceOf('series', 'resistor', { r: '5 ohm', span: '0.7 mm' }, ['b', 'c']),
        pieceOf('beside', 'capacitor', { c: '1 pF', span: '0.7 mm' }, ['b', 'c']),
        line('second', ['c', 'd']),
        pieceOf('tee', 'tee', {}, ['d', 'e', 'f'], { side: 'left' }),
        pieceOf('shunt', 'inductor', { l: '1 nH' }, ['f', 'ground']),
        line('third', ['e', 'g']),
        pieceOf('corner', 'tee', { w3: '1 mm' }, ['g', 'h', 'i'], { side: 'left' }),
        pieceOf('pad', 'resistor', { r: '100 ohm' }, ['h', 'ground']),
        line('last', ['i', 'j']),
        pieceOf('end', 'resistor', { r: '50 ohm' }, ['j', 'ground']),
      ],
    }));
    const { pieces, problems } = resolveDesign(row, row.designs[0]);
    expect(problems).toEqual([]);
    const facts = Object.fromEntries(pieces.map((p) => [p.id, p.facts]));
    expect(facts.series).toEqual({ pad1: [1e-3], pad2: [1e-3], apart: [0.7e-3] });
    expect(facts.end).toEqual({ pad1: [1e-3] });
    for (const id of ['beside', 'shunt', 'pad']) expect(facts[id]).toEqual({});
  });

  it('is seen from the reference planes of its ports, at every level', () => {
    const two = (length: string, plane?: string, kind = 'line'): Project => {
      const end = { z: '50 ohm' };
      return edited(project, (d) => ({
        ...d,
        pieces: [
          pieceOf('p1', 'port', { ...end, ...(plane && { plane }) }, ['a'], { number: '1' }),
          pieceOf('l', kind, kind === 'line' ? { width: '0.7 mm', length } : { r: '20 ohm' }, ['a', 'b']),
          pieceOf('p2', 'port', end, ['b'], { number: '2' }),
        ],
      }));
    };
    const f = [1e9, 7e9, 16e9];
    for (const level of ['ideal', 'modelled'] as const) {
      const [inside, shorter] = [response(two('9 mm', '2 mm'), level, f), response(two('7 mm'), level, f)];
      inside.re.forEach((re, i) => expect(re).toBeCloseTo(shorter.re[i], 9));
      inside.im.forEach((im, i) => expect(im).toBeCloseTo(shorter.im[i], 9));
    }
    const said = (p: Project) => resolveDesign(p, p.designs[0]).problems.map((x) => x.message);
    expect(said(two('9 mm', '9 mm'))).toEqual(['lies beyond the line at this port']);
    expect(said(two('', '1 mm', 'resistor'))).toEqual([
      'there is no line at this port whose inside it could lie in',
    ]);
    const solved = two('9 mm', '2 mm');
    const resolved = resolveDesign(solved, solved.designs[0]);
    expect(solvedSubject(resolved, layOut(resolved))!.copper.ports.map((p) => p.plane)).toEqual([2e-3, 0]);
  });

  it('is drawn pin to pin, to scale', () => {
    const { project: three } = make({ sections: '3', load: '23-41j ohm' });
    const resolved = resolveDesign(three, three.designs[0]);
    const layout = layOut(resolved);
    const lines = layout.pieces.filter((p) => p.kind === 'line');
    expect(lines).toHaveLength(4);
    lines.slice(1).forEach((p, i) => expect(p.pins[0].x).toBeCloseTo(lines[i].pins[1].x, 15));
    const total = resolved.pieces.reduce((sum, p) => sum + (p.values?.length?.re ?? 0), 0);
    expect(lines[3].pins[1].x - lines[0].pins[0].x).toBeCloseTo(total, 15);
    for (const p of lines) {
      const ys = p.copper[0].map((q) => q.y);
      expect(Math.max(...ys) - Math.min(...ys)).toBeCloseTo(
        resolved.pieces.find((x) => x.id === p.id)!.values!.width.re,
        15,
      );
    }
  });

  it('gives the bandwidth of a single section as the books do', () => {
    const freq = frequencies(f0 / 2, 1.5 * f0, 4001);
    const circuit = circuitOf(resolveDesign(project, design), 'ideal')!;
    const data = simulate(circuit, freq, () => undefined);
    const match = readMatch(entryOf(data, 0, 0), f0, -20)!;
    // Collin 1966, eq. 5.57: cos theta_m = 2 rho sqrt(z0 zl) / (|zl - z0| sqrt(1 - rho^2)).
    const c = ((0.1 / Math.sqrt(0.99)) * 2 * Math.sqrt(50 * 120)) / 70;
    const width = 2 - (4 / Math.PI) * Math.acos(c);
    expect((match.band!.high - match.band!.low) / f0).toBeCloseTo(width, 5);
    expect(match.best / f0).toBeCloseTo(1, 6);
  });
});

describe('the line sheet', () => {
  it('follows in both directions and keeps errors at their field', () => {
    const project = emptyProject('x');
    const sheet = resolveSheet(project);
    const back = resolveSheet({
      ...project,
      line: {
        ...project.line,
        held: { width: `${sheet.values!.width.re} m`, length: `${sheet.values!.length.re} m` },
      },
    });
    expect(back.values!.z0.re).toBeCloseTo(50, 9);
    expect(back.values!.theta.re).toBeCloseTo(Math.PI / 2, 12);
    expect(resolveSheet({ ...project, line: { ...project.line, freq: '10' } }).errors.freq).toMatch(
      /needs a unit/,
    );
    const wrong = resolveSheet({
      ...project,
      line: { ...project.line, held: { z0: '50 ohm', theta: '3 mm' } },
    });
    expect(wrong.errors.theta).toMatch(/not a length/);
    expect(wrong.values!.z0.re).toBeCloseTo(50, 9);
  });
});

describe('the demo project', () => {
  it('reads, has no errors, and writes what it read', () => {
    const text = readFileSync(new URL('../../../examples/ditchwater.ditch.json', import.meta.url), 'utf8');
    const project = readProject(text);
    for (const d of project.designs) expect(review(project, d, resolveDesign(project, d))).toEqual([]);
    expect(readProject(writeProject(project))).toEqual(project);
  });
});
