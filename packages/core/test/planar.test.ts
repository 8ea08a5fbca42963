import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { CopperFileError, readCopper, readProject, readProjectFile, writeProject } from '../src/formats';
import { answer, joinedSubject, solvedSubject } from '../src/levels';
import { resolveDesign } from '../src/network';
import { uniformLine } from '../src/electrical';
import { drive, rationalFit, type Sample } from '../src/numeric';
import {
  estimateSteps,
  extended,
  layersOf,
  meshOf,
  prepareSteps,
  solutionFor,
  solveSteps,
  type Copper,
  type Estimates,
  type Point,
} from '../src/planar';
import { junctionCopper } from '../src/junctions/solved';
import { denseOf, rowOf } from '../src/planar/dense';
import { depthOf, kernelOf } from '../src/planar/kernel';
import { besselJ0, openRemainder, realJ0 } from '../src/planar/open';
import { pairsOf } from '../src/planar/local';
import { swiftOf } from '../src/planar/metal';
import { rectangle, rectangleHalf } from '../src/planar/mesh';
import { sweepPlan, sweepSteps } from '../src/planar/sweep';
import { blockOf, gathering, symmetryBy } from '../src/planar/symmetry';
import { check, layers, line, MM, port, rect, TOP } from './copper';
import { entry, made, pieceOf, size, withDesign } from './helpers';
import { random } from './validation';

describe('pieces of the solution', () => {
  it('integrate 1/R over a square with itself (closed form), and over squares that touch', () => {
    const z = 1e4;
    const pairs = pairsOf([rectangle(0, 0, 1, 1), rectangle(1, 0, 2, 1), rectangle(0, 0, 2, 1)], z);
    const of = (o: number, s: number) => {
      pairs.sum.fill(0);
      pairs.add(o, s, 1, 0, 1, 0);
      // Less the images, which are far away.
      return pairs.sum[18];
    };
    const square = 4 * (Math.log(1 + Math.SQRT2) + (1 - Math.SQRT2) / 3);
    const images = (5 - 10 / 2 + 10 / 3 - 5 / 4 + 1 / 5) / z;
    expect(of(0, 0) + images).toBeCloseTo(square, 3);
    // Both halves with themselves and with one another are the whole with itself.
    expect((2 * of(0, 0) + 2 * of(0, 1)) / of(2, 2)).toBeCloseTo(1, 4);
  });

  it('see of a function itself what they see of another in its place, however small its cells', () => {
    const layers = layersOf('microstrip', { er: 2.94, tand: 0, height: 0.5 * MM, cover: Infinity });
    for (const size of [2e-3, 2e-1]) {
      const side = size * MM;
      /** One function over two squares, and the same once more a trifle aside. */
      const cells = [0, 1, 0, 1].map((at, k) => {
        const x = at * side + (k > 1 ? 1e-6 * side : 0);
        return rectangle(x, 0, x + side, side);
      });
      const bases = [0, 2].map((k) => [
        rectangleHalf(k, cells[k], 'right', 1),
        rectangleHalf(k + 1, cells[k + 1], 'left', -1),
      ]);
      const z = depthOf(layers);
      const mesh = { cells, bases, ports: [] };
      const symmetry = symmetryBy(mesh, 2);
      const block = blockOf(symmetry.classes[0]);
      openRemainder(
        mesh,
        layers,
        z,
        symmetry,
        2,
      )(kernelOf(layers, TOP, z), TOP, gathering(symmetry, [block]).put);
      for (const part of [block.one, block.two]) {
        expect(part[0]).not.toBe(0);
        for (const k of [1, 3]) expect(Math.abs(part[k] / part[0] - 1)).toBeLessThan(1e-3);
      }
    }
  });

  it('know Bessel\u2019s function of complex numbers', () => {
    // Abramowitz & Stegun 1964, table 9.1, and by its series for a complex argument.
    expect(besselJ0(1, 0).re).toBeCloseTo(0.7651976865579666, 14);
    expect(besselJ0(20, 0).re).toBeCloseTo(0.16702466434058316, 12);
    const { re, im } = besselJ0(1, 1);
    expect(re).toBeCloseTo(0.9376084768060293, 13);
    expect(im).toBeCloseTo(-0.4965299476091221, 13);
    const [below, above] = [besselJ0(11.9058822, 1.5).re, besselJ0(11.9058824, 1.5).re];
    // Where the series goes over into the asymptotic form.
    expect(Math.abs(below - above)).toBeLessThan(2e-7);
    // Of real numbers by a quicker way: the same, and the published first zero and value at 50.
    for (let x = 0; x < 60; x += 0.0371) expect(Math.abs(realJ0(x) - besselJ0(x, 0).re)).toBeLessThan(2e-10);
    expect(realJ0(2.404825557695773)).toBeCloseTo(0, 9);
    expect(realJ0(50)).toBeCloseTo(0.05581232767, 9);
  });

  it('solve dense systems of any order, real and complex', () => {
    const next = random(3);
    for (const n of [1, 2, 47, 48, 49, 101])
      for (const kind of ['real', 'complex', 'symmetric'] as const) {
        const complex = kind !== 'real';
        const fill = (m: number) => Float64Array.from({ length: m }, () => next() - 0.5);
        const matrix = denseOf(n, complex);
        for (const part of [matrix.re, matrix.im]) {
          part?.set(fill(n * n));
          if (!part || kind !== 'symmetric') continue;
          for (let i = 0; i < n; i++) for (let j = 0; j < i; j++) part[i * n + j] = part[j * n + i];
        }
        const [re, im] = [matrix.re.slice(), matrix.im?.slice()];
        const [xr, xi] = [fill(2 * n), complex ? fill(2 * n) : new Float64Array(2 * n)];
        const [br, bi] = [new Float64Array(2 * n), new Float64Array(2 * n)];
        for (let i = 0; i < n; i++)
          for (let k = 0; k < n; k++)
            for (let c = 0; c < 2; c++) {
              const y = im ? im[i * n + k] : 0;
              br[2 * i + c] += re[i * n + k] * xr[2 * k + c] - y * xi[2 * k + c];
              bi[2 * i + c] += re[i * n + k] * xi[2 * k + c] + y * xr[2 * k + c];
            }
        const factors = kind === 'symmetric' ? matrix.factoriseSymmetric()! : matrix.factorise();
        factors.solve(2, br, complex ? bi : undefined);
        const miss = Math.max(
          ...br.map((v, i) => Math.abs(v - xr[i])),
          ...bi.map((v, i) => (complex ? Math.abs(v - xi[i]) : 0)),
        );
        expect(miss).toBeLessThan(1e-9);
      }
    // Without exchanges nothing comes of a matrix whose first corner is none: that is noticed.
    const corner = denseOf(2, true);
    corner.re.set([1e-18, 1, 1, 1e-18]);
    expect(corner.factoriseSymmetric()).toBeUndefined();
  });

  it('take a large symmetric matrix apart in single precision and refine, and in double where that is too little', () => {
    const n = 203;
    const m = 6;
    const next = random(11);
    // Two rows that are nearly one: single precision does not tell them apart, and double does.
    for (const apart of [1, 1e-8]) {
      const matrix = denseOf(n, true);
      const { re, im } = matrix;
      for (let i = 0; i < n; i++)
        for (let j = i; j < n; j++) {
          re[i * n + j] = i === j ? 4 : (next() - 0.5) / n;
          im![i * n + j] = (next() - 0.5) / n;
        }
      for (let j = 0; j < n; j++)
        for (const i of [n - 2, n - 1]) if (j < i) re[j * n + i] = im![j * n + i] = 0;
      re[(n - 1) * n - 2] = re[(n - 1) * n - 1] = 1;
      re[n * n - 1] = 1 + apart;
      im![(n - 1) * n - 2] = im![(n - 1) * n - 1] = im![n * n - 1] = 0;
      const at = (i: number, j: number) => (i < j ? i * n + j : j * n + i);
      const x = Float64Array.from({ length: n * m }, () => next() - 0.5);
      const [br, bi] = [new Float64Array(n * m), new Float64Array(n * m)];
      for (let i = 0; i < n; i++)
        for (let k = 0; k < n; k++)
          for (let c = 0; c < m; c++) {
            br[i * m + c] += re[at(i, k)] * x[k * m + c];
            bi[i * m + c] += im![at(i, k)] * x[k * m + c];
          }
      matrix.factoriseSymmetric()!.solve(m, br, bi);
      // As exact as rounding of what is known leaves it.
      const miss = Math.max(...br.map((v, i) => Math.hypot(v - x[i], bi[i])));
      expect(miss).toBeLessThan(1e-14 / Math.min(apart, 1e-3));
      // The matrix itself is what it was where single precision did.
      expect(re[0] === 4 && re[n] === 0 && re[n + 1] === 4).toBe(apart === 1);
    }
  });

  it('add weighted products of rows to a matrix', () => {
    const next = random(5);
    for (const n of [1, 2, 5, 8])
      for (const count of [1, 4, 7]) {
        const matrix = denseOf(n, true, 1, count);
        const [table] = matrix.tables;
        for (let i = 0; i < n; i++)
          for (let m = 0; m < count; m++) table[i * rowOf(count) + m] = next() - 0.5;
        const w = Float64Array.from({ length: count }, next);
        matrix.im!.fill(1);
        matrix.addProducts(0, w, 'im');
        for (let i = 0; i < n; i++)
          for (let j = i; j < n; j++) {
            const exact = w.reduce(
              (s, v, m) => s + v * table[i * rowOf(count) + m] * table[j * rowOf(count) + m],
              1,
            );
            expect(matrix.im![i * n + j]).toBeCloseTo(exact, 12);
          }
      }
  });
});

describe('a sweep from few solutions', () => {
  /** A resonator between two ports: two poles in all. */
  const resonant = (f: number, q: number): Sample => {
    const d = { re: 1, im: q * (f - 1 / f) };
    const size2 = d.re ** 2 + d.im ** 2;
    const through = { re: d.re / size2, im: -d.im / size2 };
    return {
      x: f,
      re: Float64Array.of(through.re, 1 - through.re),
      im: Float64Array.of(through.im, -through.im),
    };
  };

  it('finds a function with few poles from few samples', () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 60, noNaN: true }), (q) => {
        const samples = Array.from({ length: 7 }, (_, i) => resonant(0.6 + 0.15 * i, q));
        const fit = rationalFit(samples, 4);
        const [re, im] = [new Float64Array(2), new Float64Array(2)];
        for (let f = 0.61; f < 1.5; f += 0.037) {
          fit(f, re, im);
          const exact = resonant(f, q);
          expect(Math.hypot(re[0] - exact.re[0], im[0] - exact.im[0])).toBeLessThan(1e-5);
        }
      }),
    );
  });

  it('stops when it has it, tells of every curve, and solves every point where there are few', () => {
    const freq = Float64Array.from({ length: 201 }, (_, i) => 0.5 + 0.005 * i);
    const errors: number[] = [];
    const swept = drive(
      sweepSteps(
        freq,
        1e-3,
        (f) => resonant(f, 40),
        (now) => errors.push(now.error),
      ),
    );
    expect(swept.samples.length).toBeLessThan(20);
    expect(errors[0]).toBe(Infinity);
    expect(errors[errors.length - 1]).toBeLessThan(5e-4);
    freq.forEach((f, k) => expect(swept.re[2 * k]).toBeCloseTo(resonant(f, 40).re[0], 3));
    const few = drive(sweepSteps(freq.slice(0, 4), 1e-3, (f) => resonant(f, 40)));
    expect(few.samples).toHaveLength(4);
    expect(few.error).toBe(0);
    // Two at once come to the same; what is known already is not asked for again.
    const conversation = (known: readonly Sample[]) => {
      const plan = sweepPlan(freq, 1e-3, known, 2);
      const asked: number[] = [];
      for (let step = plan.next(); ;) {
        if (step.done) return { asked, swept: step.value };
        asked.push(...step.value.wanted);
        step = plan.next(step.value.wanted.map((f) => resonant(f, 40)));
      }
    };
    const { asked, swept: both } = conversation([]);
    expect(new Set(asked).size).toBe(asked.length);
    freq.forEach((f, k) => expect(both.re[2 * k]).toBeCloseTo(resonant(f, 40).re[0], 3));
    const part = both.samples.slice(0, 8);
    const rest = conversation(part);
    expect(rest.asked.filter((f) => part.some((s) => s.x === f))).toEqual([]);
    expect(rest.asked.length).toBeLessThan(asked.length);
  });
});

describe('the copper of a design', () => {
  const { project: demo, solutions } = readProjectFile(
    readFileSync(new URL('../../../examples/ditchwater.ditch.json', import.meta.url), 'utf8'),
  );
  const subjectOf = (name: string) => {
    const design = demo.designs.find((d) => d.name === name)!;
    const resolved = resolveDesign(demo, design);
    const sweep = resolved.sweep!;
    return { sweep, top: sweep.stop, subject: solvedSubject(resolved, layOut(resolved))! };
  };

  it('has ports where ports, loads and mounted parts meet it, a pad where one stands at the side of a line', () => {
    const { top, subject } = subjectOf('local oscillator divider');
    expect(subject.nodes).toEqual(['p1', 'r2', 'r3', 'p2', 'p3']);
    expect(subject.rest.pieces.map((p) => p.kind).sort()).toEqual(['port', 'port', 'port', 'resistor']);
    const mesh = meshOf(subject.copper, top, 'draft');
    check(mesh);
    expect(mesh.ports.map((p) => p.before > 0)).toEqual([false, true, true, false, false]);
    const hybrid = subjectOf('quadrature hybrid').subject;
    expect(hybrid.nodes).toEqual(['p1', 'p2', 'p3', 'p4']);
  });

  it('has been solved in the demo file, and what is joined to it answers with it', () => {
    // Solved by `node scripts/demo.mjs`, which is due when this fails.
    for (const [name, limit] of [
      ['local oscillator divider', -12],
      ['quadrature hybrid', -25],
      ['second-harmonic stop filter', -12],
    ] as const) {
      const { sweep, subject } = subjectOf(name);
      const found = solutionFor(solutions, subject.copper, sweep);
      expect(found?.complete, name).toBe(true);
      const freq = Float64Array.of(found!.samples[2].x, name.endsWith('filter') ? 4e9 : 10.55e9);
      const joined = answer(joinedSubject(subject, found!.samples, 'demo'), () => undefined);
      const data = drive(joined.sample(freq));
      for (let k = 0; k < 2; k++)
        for (let i = 1; i <= data.ports; i++) {
          let power = 0;
          for (let j = 1; j <= data.ports; j++) power += size(entry(data, j, i, k)) ** 2;
          expect(power).toBeLessThan(1 + 1e-6);
        }
      expect(20 * Math.log10(size(entry(data, 1, 1, 1))), name).toBeLessThan(limit);
      // What was solved of other copper is not taken for it.
      const moved = subject.copper.polygons.map((ring, i) =>
        i > 0 ? ring : ring.map(([x, y]): Point => [x, y + 1e-7]),
      );
      expect(solutionFor(solutions, { ...subject.copper, polygons: moved }, sweep)).toBeUndefined();
      expect(solutionFor(solutions, subject.copper, { ...sweep, stop: 2 * sweep.stop })).toBeUndefined();
    }
    const written = readProjectFile(writeProject(demo, solutions));
    expect(written.project).toEqual(demo);
    expect(written.solutions).toEqual(solutions);
    const wrong = writeProject({ ...demo, data: [] }, solutions).replace('"re":[', '"re":[1,');
    expect(() => readProject(wrong)).toThrow(/solutions\[0\]: needs \d+ values/);
  });

  it('carries the current that goes through it, cell by cell', () => {
    const [{ z0, eeff }] = drive(solveSteps(line, Float64Array.of(3e9), { accuracy: 'draft' })).ports;
    const own = { ...line, ports: line.ports.map((p) => ({ ...p, z0 })) };
    const prepared = drive(prepareSteps(own, { start: 3e9, stop: 3e9 }, 'draft'));
    const { corners, first, x } = prepared.flow(3e9, [
      { re: 1, im: 0 },
      { re: 0, im: 0 },
    ]);
    // Cells that stand above one another carry all of it together.
    const columns = new Map<string, { at: number; re: number; im: number }>();
    for (let c = 0; c + 1 < first.length; c++) {
      const own = corners.subarray(2 * first[c], 2 * first[c + 1]);
      const [xs, ys] = [0, 1].map((d) => own.filter((_, i) => i % 2 === d));
      const [x0, x1, high] = [Math.min(...xs), Math.max(...xs), Math.max(...ys) - Math.min(...ys)];
      const column = columns.get(x0.toFixed(9)) ?? { at: (x0 + x1) / 2, re: 0, im: 0 };
      column.re += x.re[c] * high;
      column.im += x.im[c] * high;
      columns.set(x0.toFixed(9), column);
    }
    const list = [...columns.values()].sort((a, b) => a.at - b.at);
    expect(list.length).toBeGreaterThan(4);
    const beta = (2 * Math.PI * 3e9 * Math.sqrt(eeff)) / 299_792_458;
    for (const { at, re, im } of list.slice(1, -1)) {
      expect(Math.hypot(re, im) * Math.sqrt(z0)).toBeCloseTo(1, 1.5);
      const turn = Math.atan2(im, re) - Math.atan2(list[1].im, list[1].re);
      expect(turn).toBeCloseTo(-beta * (at - list[1].at), 1);
    }
  });

  it('is weighed before it is solved', () => {
    const { sweep, subject } = subjectOf('quadrature hybrid');
    const [one, two] = [1, 2].map((workers) => drive(estimateSteps(subject.copper, sweep, 0.0137, workers)));
    const of = (estimates: Estimates) =>
      Object.values(estimates).map((e) =>
        typeof e === 'string' ? { unknowns: 0, bytes: 0, seconds: 0 } : e,
      );
    expect(of(one)[1].unknowns).toBe(meshOf(subject.copper, sweep.stop, 'normal').bases.length);
    for (const key of ['unknowns', 'bytes', 'seconds'] as const) {
      const list = of(one).map((e) => e[key]);
      expect(list).toEqual([...list].sort((a, b) => a - b));
      expect(list[0]).toBeGreaterThan(0);
    }
    // What a helper shares are the frequencies, not what goes before them.
    expect(of(two)[1].seconds).toBeLessThan(0.7 * of(one)[1].seconds);
    expect(of(two)[1].seconds).toBeGreaterThan(0.5 * of(one)[1].seconds);
    const apart = { ...subject.copper, ports: [{ ...subject.copper.ports[0], number: 1, plane: 0 }] };
    const inside = { ...apart, polygons: [...apart.polygons, rect(30, 30, 31, 31)] };
    expect(() => drive(estimateSteps(inside, sweep, 0.01))).not.toThrow();
  });

  it('is joined to ground where a stub ends in a hole', () => {
    const { subject } = subjectOf('detector match');
    expect(subject.nodes).toEqual(['p1', 'far', 'hole of stub']);
    expect(subject.copper.ports.map((p) => p.ends)).toEqual([undefined, undefined, true]);
    expect(subject.rest.pieces.map((p) => p.kind)).toEqual(['port', 'load', 'via']);
    // Shorted, the hole is what the line sees: all of a wave comes back from it.
    const short = joinedSubject(
      {
        nodes: ['a', 'b'],
        rest: { ...subject.rest, pieces: [subject.rest.pieces[0], subject.rest.pieces[2]] },
      },
      [{ x: 5e9, re: Float64Array.of(0, 1, 1, 0), im: new Float64Array(4) }],
      '',
    );
    const pieces = short.pieces.map((p, i) => ({ ...p, nodes: [['a', 'b'][i]] }));
    const data = drive(answer({ ...short, pieces }, () => undefined).sample(Float64Array.of(5e9)));
    expect(size(entry(data, 1, 1))).toBeCloseTo(1, 2);
    expect(Math.abs(Math.atan2(entry(data, 1, 1).im, entry(data, 1, 1).re))).toBeGreaterThan(2.3);
  });

  it('is refused by the piece that stands in the way', () => {
    const design = demo.designs.find((d) => d.id === 'detector-match')!;
    const bent = {
      ...demo,
      stacks: demo.stacks.map((s) => ({ ...s, bentAlong: '40 mm' })),
    };
    const resolved = resolveDesign(bent, { ...design, medium: 'microstrip' });
    expect(() => solvedSubject(resolved, layOut(resolved))).toThrow(/bent board/);
  });
});

describe('solved copper', () => {
  it('is the same however near to a junction a plane is', () => {
    // A tee whose arms end 0.3 mm and 3 mm behind it, seen from the same planes.
    const tee = (more: number): Copper => ({
      layers: layersOf('microstrip', { er: 2.94, tand: 0, height: 0.508 * MM, cover: Infinity }),
      metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
      polygons: [rect(0, -0.64, 4.94 + more, 0.64), rect(3.36, 0, 4.64, 1.5 + more)],
      ports: [
        port(1, 0, -0.64, 0.64),
        { ...port(2, 4.94 + more, -0.64, 0.64), plane: more * MM },
        {
          number: 3,
          edge: [
            [3.36 * MM, (1.5 + more) * MM],
            [4.64 * MM, (1.5 + more) * MM],
          ],
          plane: more * MM,
          z0: 50,
        },
      ],
    });
    const freq = Float64Array.of(10e9);
    const [near, far] = [0, 2.7].map(
      (more) => drive(solveSteps(tee(more), freq, { accuracy: 'draft' })).data,
    );
    near.re.forEach((re, i) => {
      expect(Math.hypot(re - far.re[i], near.im[i] - far.im[i])).toBeLessThan(4e-3);
    });
    // The lines set in front of it are none of the mesh that is asked for.
    expect(extended(tee(2.7)).polygons).toHaveLength(2);
    expect(extended(tee(0)).polygons).toHaveLength(4);
  });

  it('is meshed as ever where an arc begins a few micrometres behind a corner', () => {
    const { project, design } = made('quarter-wave');
    const line = (id: string, nodes: string[], held: Record<string, string>) =>
      pieceOf(id, 'line', held, nodes);
    const meshed = (lead: string) => {
      const arm = (id: string, nodes: string[], turn: string) =>
        line(id, nodes, { width: '0.6735 mm', length: '5.24 mm', turn, radius: '1.66 mm', lead });
      const tried = withDesign(project, {
        ...design,
        pieces: [
          ...[1, 2, 3].map((n) => pieceOf(`p${n}`, 'port', { z: '50 ohm' }, [`o${n}`], { number: `${n}` })),
          line('feed', ['o1', 'in'], { width: '1.2743 mm', length: '4 mm' }),
          pieceOf('tee', 'tee', {}, ['down', 'up', 'in'], { side: 'left' }),
          arm('a2', ['up', 'o2'], '-90 deg'),
          arm('a3', ['down', 'o3'], '90 deg'),
        ],
      });
      const resolved = resolveDesign(tried, tried.designs[0]);
      const mesh = meshOf(solvedSubject(resolved, layOut(resolved))!.copper, 12e9, 'fine');
      check(mesh);
      return mesh.bases.length;
    };
    const [at, behind] = ['0.63715 mm', '0.64 mm'].map(meshed);
    expect(behind / at).toBeGreaterThan(0.9);
    expect(behind / at).toBeLessThan(1.1);
  });

  it('is a line where it is one: from zero frequency on, in the open and in a box', () => {
    const walls = { x0: 0, x1: 10 * MM, y0: -7 * MM, y1: 9 * MM };
    const boxed: Copper = {
      ...line,
      walls,
      layers: { ...layers, above: { ...layers.above, height: 5 * MM } },
    };
    for (const copper of [line, boxed]) {
      const curves: number[] = [];
      const solution = drive(
        solveSteps(copper, Float64Array.of(0, 2e6, 2e9, 4e9), {
          accuracy: 'draft',
          watch: (data) => curves.push(data.freq.length),
        }),
      );
      expect(curves.length).toBeGreaterThan(0);
      const { data, ports } = solution;
      const [{ z0, eeff }] = ports;
      expect(z0).toBeGreaterThan(55);
      expect(z0).toBeLessThan(62);
      for (let k = 0; k < 4; k++) {
        // 8 mm between the planes, of an impedance that is not that of the ports.
        const theta = (2 * Math.PI * data.freq[k] * Math.sqrt(eeff) * 8 * MM) / 299_792_458;
        const g = (z0 - 50) / (z0 + 50);
        const d = { re: 1 - g * g * Math.cos(2 * theta), im: g * g * Math.sin(2 * theta) };
        const through = (1 - g * g) / size(d);
        expect(size(entry(data, 2, 1, k))).toBeCloseTo(through, 1.7);
        expect(size(entry(data, 1, 1, k)) ** 2 + size(entry(data, 2, 1, k)) ** 2).toBeCloseTo(1, 2);
        expect(size(entry(data, 1, 1, k)) ** 2 + size(entry(data, 2, 1, k)) ** 2).toBeLessThan(1 + 1e-9);
        const [there, back] = [entry(data, 2, 1, k), entry(data, 1, 2, k)];
        expect(Math.hypot(there.re - back.re, there.im - back.im)).toBeLessThan(1e-12);
      }
    }
  });

  it('goes on to the walls that its ports look at, and says so where none is straight ahead', () => {
    const inside = (turn: number): Copper => {
      const [c, s] = [Math.cos(turn), Math.sin(turn)];
      const at = ([x, y]: Point): Point => [x * c - y * s, x * s + y * c];
      return {
        ...line,
        polygons: line.polygons.map((ring) => ring.map(at)),
        ports: line.ports.map((p) => ({ ...p, edge: [at(p.edge[0]), at(p.edge[1])] as const })),
        layers: { ...layers, above: { ...layers.above, height: 5 * MM } },
        walls: { x0: -6 * MM, x1: 17 * MM, y0: -7 * MM, y1: 9 * MM },
      };
    };
    const { data, ports, warnings } = drive(
      solveSteps(inside(0), Float64Array.of(3.5e9, 4e9, 4.5e9), { accuracy: 'draft', meshError: false }),
    );
    expect(warnings).toEqual([]);
    const { z0, eeff } = ports[0];
    data.freq.forEach((f, k) => {
      const theta = (2 * Math.PI * f * Math.sqrt(eeff) * 8 * MM) / 299_792_458;
      const wave = uniformLine((_f, out) => Object.assign(out, { z0, alpha: 0, beta: theta }));
      const [re, im] = [new Float64Array(4), new Float64Array(4)];
      wave.scatter(f, 50, re, im);
      for (const [i, j] of [
        [1, 1],
        [2, 1],
      ] as const) {
        const s = entry(data, i, j, k);
        const at = (i - 1) * 2 + j - 1;
        expect(Math.hypot(s.re - re[at], s.im - im[at])).toBeLessThan(3e-3);
      }
    });
    const turned = drive(
      solveSteps(inside(0.3), Float64Array.of(1e9), { accuracy: 'draft', meshError: false }),
    );
    expect(turned.warnings[0]).toMatch(/^Port 1 ends inside of the walls/);
    // Nor where another line passes in front of it, whose corners are far off.
    const crossed = { ...inside(0), polygons: [...line.polygons, rect(-4, -6, -3, 8)] };
    expect(extended(crossed).ports.map((p) => p.edge[0][0])).toEqual([0, 17 * MM]);
    expect(size(entry(turned.data, 2, 1, 0))).toBeGreaterThan(0.98);
  });

  it('takes nothing for a line of thick metal that lies across one', () => {
    const thick = { conductivity: 5.8e7, thickness: 0.035 * MM, roughness: 0 };
    const copper: Copper = { ...line, metal: thick };
    const alone = swiftOf(copper, 0, 5e9);
    expect(alone).toBeGreaterThan(0.9);
    expect(alone).toBeLessThan(0.999);
    // What is left of a wide line between two junctions, and a piece that is none but for rounding.
    for (const long of [0.2, 1e-7]) {
      const pieces = [rect(0, 0, 5, 2), rect(5, 0, 5 + long, 2), rect(5 + long, 0, 10, 2)];
      expect(swiftOf({ ...copper, polygons: pieces }, 0, 5e9)).toBeCloseTo(alone, 12);
    }
  });

  it('is the same whichever way it lies, and from either end, where its lines are meshed finer at one edge', () => {
    const [wide, gap, long, feed] = [1.27 * MM, 0.1 * MM, 3 * MM, 1.5 * MM];
    /** Two strips side by side with a port at opposite ends, turned by an angle. */
    const coupled = (angle: number): Copper => {
      const at = (x: number, y: number): Point => [
        x * Math.cos(angle) - y * Math.sin(angle),
        x * Math.sin(angle) + y * Math.cos(angle),
      ];
      const strip = (x0: number, x1: number, y: number) =>
        [at(x0, y), at(x1, y), at(x1, y + wide), at(x0, y + wide)] as const;
      const [first, second] = [strip(-feed, long, 0), strip(0, long + feed, wide + gap)];
      return {
        layers: layersOf('microstrip', { er: 2.94, tand: 0, height: 0.508 * MM, cover: Infinity }),
        metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
        polygons: [[...first], [...second]],
        ports: [
          { number: 1, edge: [first[0], first[3]], plane: feed, z0: 50 },
          { number: 2, edge: [second[1], second[2]], plane: feed, z0: 50 },
        ],
      };
    };
    const seen = (angle: number) =>
      drive(prepareSteps(coupled(angle), { start: 4e9, stop: 8e9 }, 'draft')).at(4e9);
    const lying = seen(0);
    for (const [angle, ends, within] of [
      [0, 1e-6, 1e-6],
      [Math.PI / 2, 1e-6, 1e-3],
      [Math.PI / 6, 1e-3, 0.01],
    ]) {
      const { re, im } = seen(angle);
      expect(Math.hypot(re[0] - re[3], im[0] - im[3])).toBeLessThan(ends);
      for (const i of [0, 2])
        expect(Math.hypot(re[i] - lying.re[i], im[i] - lying.im[i])).toBeLessThan(within);
    }
  });

  it('is in a box what it is, however far above its resonances the band goes on', () => {
    const board = { er: 4.4, height: 0.508 * MM, cover: 2.286 * MM, tand: 0, thickness: 0 };
    const boxed = junctionCopper('step', [1.018 * MM, 0.231 * MM], layersOf('microstrip', board), true);
    const seen = (start: number, stop: number) =>
      drive(prepareSteps(boxed, { start, stop }, 'draft')).own(4e9);
    const low = seen(3e9, 5e9);
    // The box around the line that tells what stands at the ports resonates below the end of these bands.
    for (const start of [2.6e9, 2.9e9]) {
      const s = seen(start, 28e9);
      s.re.forEach((re, i) => expect(Math.hypot(re - low.re[i], s.im[i] - low.im[i])).toBeLessThan(4e-4));
    }
  });

  it('loses power upwards where walls have no lid, and gives none', () => {
    const copper: Copper = {
      ...line,
      polygons: [rect(0, 0, 30, 2), rect(15, 2, 17, 12)],
      ports: [port(1, 0, 0, 2), port(2, 30, 0, 2)],
      walls: { x0: 0, x1: 30 * MM, y0: -15 * MM, y1: 18 * MM },
    };
    const { data } = drive(solveSteps(copper, Float64Array.of(1e9, 6e9, 8e9), { accuracy: 'draft' }));
    const kept = [0, 1, 2].map((k) => size(entry(data, 1, 1, k)) ** 2 + size(entry(data, 2, 1, k)) ** 2);
    for (const power of kept) expect(power).toBeLessThan(1 + 1e-9);
    expect(kept[0]).toBeGreaterThan(0.999);
    expect(kept[1]).toBeLessThan(0.99);
  });

  it('is read from a file that says what is wrong with it', () => {
    const file = {
      format: 'ditch-copper',
      version: 1,
      stack: { medium: 'stripline', er: 3, height: 2 * MM, conductivity: null },
      copper: line.polygons,
      ports: [{ number: 1, edge: line.ports[0].edge }],
    };
    const { layers: read, metal, ports } = readCopper(JSON.stringify(file));
    expect(read.below.height).toBeCloseTo(MM, 12);
    expect(read.above).toEqual(read.below);
    expect(metal.conductivity).toBe(Infinity);
    expect(ports[0]).toMatchObject({ plane: 0, z0: 50 });
    const wrong = (change: object) => () => readCopper(JSON.stringify({ ...file, ...change }));
    expect(wrong({ format: 'x' })).toThrow(CopperFileError);
    expect(wrong({ version: 2 })).toThrow('newer');
    expect(wrong({ ports: [{ number: 0, edge: line.ports[0].edge }] })).toThrow('ports[0] > number');
    expect(wrong({ copper: [[[0, 0]]] })).toThrow('copper[0]');
    expect(wrong({ walls: { x0: 0, x1: 5 * MM, y0: 0, y1: 5 * MM } })).toThrow('reaches beyond the walls');
    expect(wrong({ extra: 1 })).toThrow('"extra" is not known here');
    expect(() => readCopper('{')).toThrow('not JSON');
  });
});
