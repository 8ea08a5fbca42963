import { describe, expect, it } from 'vitest';
import { designDifferences } from '../src/compare';
import { readProject, writeProject } from '../src/formats';
import { stateCopper } from '../src/levels';
import {
  alone,
  asMade,
  backedElectrical,
  circuitOf,
  dataFinder,
  frequencies,
  modelledAt,
  networkOf,
  resolveDesign,
  seenBy,
  simulate,
  solvableSizes,
  solverAt,
  stateAt,
  type DataBlock,
  type Design,
  type Project,
} from '../src/network';
import {
  chebyshevPlaces,
  chebyshevWeights,
  drive,
  lejaPlaces,
  margin,
  NestedInterpolation,
  rationalThrough,
} from '../src/numeric';
import { review } from '../src/review';
import { backingSteps, solvingHere, type BackedData } from '../src/studies/solved';
import { entry, made, pieceOf, withDesign } from './helpers';

describe('interpolation on places that grow one by one', () => {
  it('is exact for every polynomial that its places stand for, and tells what is new of each', () => {
    const places = lejaPlaces(6);
    expect(places.slice(0, 3)).toEqual([0, 1, -1]);
    expect(new Set(places).size).toBe(6);
    const f = (x: number, y: number) => 1 - 2 * x + 3 * y - x * y + 0.5 * x * x * y + x ** 3;
    const taken: number[][] = [];
    const interpolation = new NestedInterpolation(places);
    const news: number[] = [];
    for (const index of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
      [2, 0],
      [3, 0],
      [2, 1],
      [4, 0],
    ]) {
      if (taken.length > 0) expect(margin(taken, 6)).toContainEqual(index);
      taken.push(index);
      const at = index.map((i) => places[i]);
      news.push(Math.abs(interpolation.take(index, Float64Array.of(f(at[0], at[1])))[0]));
    }
    // The last one is of a degree that the function does not have.
    expect(news[7]).toBeLessThan(1e-12);
    for (const [x, y] of [
      [0.3, -0.7],
      [-0.91, 0.44],
      [1, 1],
    ])
      expect(interpolation.at([x, y])[0]).toBeCloseTo(f(x, y), 12);
  });

  it('between Chebyshev\u2019s places takes a polynomial for itself', () => {
    const places = chebyshevPlaces(2, 10, 7);
    const weights = new Float64Array(7);
    const f = (x: number) => 1 + x - 0.2 * x ** 2 + 1e-3 * x ** 6;
    for (const x of [2, 3.1, 7.77, 10]) {
      chebyshevWeights(places, x, weights);
      expect(weights.reduce((sum, w, i) => sum + w * f(places[i]), 0)).toBeCloseTo(f(x), 9);
    }
  });
});

describe('pieces that stand on solved data', () => {
  const freq = frequencies(8e9, 13e9, 11);
  const { project, design } = made('branch-line', { freq: '10.55 GHz' });
  const swept: Design = { ...design, sweep: { start: '8 GHz', stop: '13 GHz', points: 101 } };
  const of = (p: Project, d: Design, at = freq) =>
    simulate(circuitOf(resolveDesign(p, d), 'modelled')!, at, dataFinder(p.data));
  const before = withDesign(project, swept);
  const resolved = resolveDesign(before, swept);
  const tee = resolved.pieces.find((p) => p.kind === 'tee')!;
  const [w1] = solvableSizes(resolved, [tee.id]);
  const seen: number[] = [];
  let found: BackedData | undefined;
  const backed = (): { block: DataBlock; after: Project; standing: Design } => {
    found ??= drive(
      backingSteps(before, swept, {
        ids: [tee.id],
        ranges: [
          { key: w1.key, from: 0.85 * w1.value, to: 1.1 * w1.value },
          { key: 'height', from: 0.47e-3, to: 0.55e-3 },
        ],
        accuracy: 'draft',
        tolerance: 0.004,
        watch: ({ solved }) => seen.push(solved),
      }),
    );
    const standing = { ...swept, backed: found.backed };
    return {
      block: found.block,
      standing,
      after: { ...withDesign(before, standing), data: [found.block] },
    };
  };

  it('are what the field solution says where nothing was solved, within the error that is said', () => {
    const { block } = backed();
    const over = block.over!;
    expect(seen[seen.length - 1]).toBe(found!.solves);
    expect(over.states.length).toBeLessThanOrEqual(17);
    for (const u of [
      [0.55, -0.4],
      [-0.9, 0.83],
    ]) {
      const { samples } = drive(
        solvingHere('draft')({ copper: stateCopper(over, u) }, { start: 8e9, stop: 13e9 }),
      );
      const exact = rationalThrough(samples);
      const model = modelledAt(over, u, networkOf);
      const { substrate, pieces } = stateAt(over, u);
      const piece = seenBy('modelled', { ...pieces[0], values: pieces[0].values! });
      const { electrical } = backedElectrical(
        [{ ...piece, backed: { group: 0, data: block.id, place: 0, at: u, weight: 1 } }],
        { model: 'modelled', medium: 'microstrip', substrate, f0: 10.55e9, pieces: [] },
        dataFinder([block]),
        networkOf,
      )!;
      const off = { backed: 0, model: 0 };
      const s = () => ({ re: new Float64Array(9), im: new Float64Array(9) });
      const [is, said, plain] = [s(), s(), s()];
      for (const f of freq) {
        exact(f, is.re, is.im);
        electrical.scatter(f, 50, said.re, said.im);
        model(f, plain.re, plain.im);
        const apart = (a: typeof is) =>
          Math.max(...Array.from(a.re, (x, i) => Math.hypot(x - is.re[i], a.im[i] - is.im[i])));
        off.backed = Math.max(off.backed, apart(said));
        off.model = Math.max(off.model, apart(plain));
      }
      expect(off.backed).toBeLessThan(over.error);
      expect(off.backed).toBeLessThan(0.4 * off.model);
    }
  });

  it('serve every piece like it, from either end, and searches and workers as well', () => {
    const { after, standing } = backed();
    expect(standing.backed!.length).toBe(4);
    expect(standing.backed!.filter((b) => b.reversed).length).toBe(2);
    const s = of(after, standing);
    const plain = of(before, swept);
    const apart = (a: typeof s, b: typeof s) =>
      Math.max(...a.re.map((x, i) => Math.hypot(x - b.re[i], a.im[i] - b.im[i])));
    expect(apart(s, plain)).toBeGreaterThan(5e-3);
    // The hybrid is its own mirror image both ways only if all four tees are right.
    freq.forEach((_, k) => {
      for (const [i, j, l, m] of [
        [1, 1, 2, 2],
        [1, 1, 3, 3],
        [1, 2, 4, 3],
        [1, 4, 2, 3],
      ]) {
        expect(entry(s, i, j, k).re).toBeCloseTo(entry(s, l, m, k).re, 6);
        expect(entry(s, i, j, k).im).toBeCloseTo(entry(s, l, m, k).im, 6);
      }
    });
    const circuit = circuitOf(resolveDesign(after, standing), 'modelled')!;
    expect(apart(solverAt(freq, dataFinder(after.data))(circuit)(freq), s)).toBeLessThan(1e-9);
    const sent = alone({ ...after, data: [...after.data, { ...after.data[0], id: 'other' }] }, standing);
    expect(sent.data.map((d) => d.id)).toEqual([after.data[0].id]);
    expect(apart(of(sent, standing), s)).toBe(0);
    expect(designDifferences(swept, standing)).toContain(`${tee.name} stands on solved data`);
  });

  it('fade into their models beyond what was solved, and the review says so', () => {
    const { after, standing } = backed();
    const questions = (p: Project, d: Design) =>
      review(p, d, resolveDesign(p, d)).filter((r) => r.message.includes('solved data'));
    expect(questions(after, standing)).toEqual([]);
    // Only the board leaves its range: the copper stays what it is.
    const change = (height: number) => {
      const [a, b] = [resolveDesign(after, standing), resolveDesign(before, swept)].map((d) =>
        simulate(circuitOf(asMade(d, { height }), 'modelled')!, freq, dataFinder(after.data)),
      );
      return Math.hypot(...a.re.map((x, i) => x - b.re[i]));
    };
    const [inside, near, far] = [0.04e-3, 0.052e-3, 0.5e-3].map(change);
    expect(near).toBeLessThan(0.9 * inside);
    expect(near).toBeGreaterThan(0.1 * inside);
    expect(far).toBe(0);
    const lower = (height: string) => ({ ...after, stacks: after.stacks.map((x) => ({ ...x, height })) });
    const wide = { ...standing, sweep: { ...standing.sweep, stop: '16 GHz' } };
    expect(questions(after, wide)).toEqual([]);
    expect(
      review(after, wide, resolveDesign(after, wide)).filter((r) =>
        /solved from 8.* to 13.*, and the sweep reaches beyond/.test(r.message),
      ).length,
    ).toBe(1);
    const [first] = questions(lower('1.2 mm'), standing);
    expect(first.message).toContain('height of the board is 1.2');
    const settled = first.remedies![0].apply(lower('1.2 mm'));
    expect(questions(settled, settled.designs[0]).length).toBe(3);
  });

  it('are in the project\u2019s file, and a file that says them wrong is refused', () => {
    const { after, block } = backed();
    const text = writeProject(after);
    expect(readProject(text)).toEqual(after);
    const wrong = (over: Partial<NonNullable<DataBlock['over']>>) => () =>
      readProject(writeProject({ ...after, data: [{ ...block, over: { ...block.over!, ...over } }] }));
    const { states, axes } = block.over!;
    expect(wrong({ states: [...states].reverse() })).toThrow(/states\[0\]/);
    expect(wrong({ states: states.slice(1) })).toThrow(/values|states/);
    expect(wrong({ axes: [axes[0], { ...axes[1], to: 0.1e-3 }] })).toThrow(/axes\[1\]/);
    expect(wrong({ pins: [[0, 0], [0, 1], [0, 7]] })).toThrow(/pins/); // prettier-ignore
  });

  it('of several pieces know nothing of what is joined within them later', () => {
    const { project, design } = made('lowpass-stepped', { freq: '6 GHz', order: '3' });
    const resolved = resolveDesign(project, design);
    const ids = design.pieces.flatMap((p) => (p.kind === 'port' || p.role === 'feed' ? [] : [p.id]));
    const inner = resolved.pieces
      .find((p) => p.id === ids[1])!
      .nodes.find((node) => resolved.pieces.every((p) => !p.nodes.includes(node) || ids.includes(p.id)))!;
    // A solver that says the same of all copper: what is looked at is how it is joined.
    const seen: number[] = [];
    const { block, backed } = drive(
      backingSteps(project, design, {
        ids,
        ranges: [{ key: 'er', from: 2.9, to: 3 }],
        most: 3,
        *solver({ copper }, { start, stop }) {
          seen.push(copper.ports.length);
          const [re, im] = [Float64Array.of(0, 0.9, 0.9, 0), Float64Array.of(0.1, 0, 0, 0.1)];
          yield 1;
          return { samples: [start, stop].map((x) => ({ x, re, im })) };
        },
      }),
    );
    expect(new Set(seen)).toEqual(new Set([2]));
    const standing = { ...design, backed };
    const after: Project = { ...withDesign(project, standing), data: [block] };
    const at = Float64Array.of(4e9);
    const [plain, put] = [of(project, design, at), of(after, standing, at)];
    expect(Math.abs(put.re[0] - plain.re[0]) + Math.abs(put.im[0] - plain.im[0])).toBeGreaterThan(1e-3);
    const grown = (d: Design): Design => ({
      ...d,
      pieces: [...d.pieces, pieceOf('stub', 'open-stub', { width: '1 mm', length: '5 mm' }, [inner])],
    });
    const [p, q] = [withDesign(project, grown(design)), { ...after, designs: [grown(standing)] }];
    // The models stand alone again, and the review says why.
    expect(of(q, q.designs[0], at)).toEqual(of(p, p.designs[0], at));
    expect(
      review(q, q.designs[0], resolveDesign(q, q.designs[0])).some((r) =>
        r.message.includes('stub is joined within what was solved'),
      ),
    ).toBe(true);
  });
});
