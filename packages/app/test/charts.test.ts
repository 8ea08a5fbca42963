import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { LevelId } from '@ditch/core/levels';
import { boxOf, linesOf, overlap, placeAround, rowsOf } from '../src/charts/labels';
import { scaleOf, ticksOf } from '../src/charts/axis';
import { nearest, shifted, spread, valueAt } from '../src/charts/domain';
import type { Trace } from '../src/charts/types';
import { curvePath, pixelsOf, planePath } from '../src/charts/path';
import { drawPlot, missed, axisRange, sourcesOf } from '../src/views/design/plots';

/** Points of a path, a list for every stretch without interruption. */
const stretches = (d: string): number[][][] =>
  d
    .split('M')
    .slice(1)
    .map((part) => part.split('L').map((p) => p.split(' ').map(Number)));

describe('curves as paths', () => {
  /** Distance from a point to a line through points. */
  const away = (x: number, y: number, line: number[][]): number =>
    Math.min(
      ...line.map(([ax, ay], i) => {
        const [dx, dy] = [(line[i + 1] ?? line[i])[0] - ax, (line[i + 1] ?? line[i])[1] - ay];
        const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
        return Math.hypot(x - ax - t * dx, y - ay - t * dy);
      }),
    );

  it('passes every sample within a fifth of a pixel and turns at samples only, on linear and logarithmic axes', () => {
    const value = fc.double({ min: 0.1, max: 100, noNaN: true });
    // Rough ones, and smooth ones of which most is left out.
    const smooth = fc
      .tuple(fc.double({ min: 0.01, max: 0.4, noNaN: true }), fc.double({ min: 0, max: 6, noNaN: true }))
      .map(([w, p]) => Array.from({ length: 160 }, (_, k) => 0.1 + 99 * Math.sin(w * k + p) ** 2));
    fc.assert(
      fc.property(
        fc.oneof(fc.array(value, { minLength: 2, maxLength: 60 }), smooth),
        fc.boolean(),
        fc.boolean(),
        (ys, logX, logY) => {
          const xs = ys.map((_, i) => i + 1);
          const toX = pixelsOf(logX, [1, ys.length], 0, 300);
          const toY = pixelsOf(logY, [0.1, 100], 200, 0);
          const [points] = stretches(curvePath(xs, ys, toX, toY, 1e4, -1e4));
          const share = (v: number, a: number, b: number, log: boolean) =>
            log ? Math.log(v / a) / Math.log(b / a) : (v - a) / (b - a);
          const at = xs.map((x, i) => [
            300 * share(x, 1, ys.length, logX),
            200 * (1 - share(ys[i], 0.1, 100, logY)),
          ]);
          return (
            at.every(([x, y]) => away(x, y, points) < 0.2) &&
            points.every(([x, y]) =>
              at.some(([u, v]) => Math.abs(x - u) < 0.0501 && Math.abs(y - v) < 0.0501),
            )
          );
        },
      ),
    );
  });

  it('draws a circle of the plane with few points and without a corner that one would see', () => {
    const turn = Float64Array.from({ length: 401 }, (_, k) => (k * 2 * Math.PI) / 400);
    const d = planePath(turn.map(Math.cos), turn.map(Math.sin), 150, 150, 140);
    const [points] = stretches(d);
    expect(points.length).toBeLessThan(140);
    for (const a of turn)
      expect(away(150 + 140 * Math.cos(a), 150 - 140 * Math.sin(a), points)).toBeLessThan(0.2);
  });

  it('keeps the extremes of every column where samples crowd, so that no notch is lost', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -60, max: 0, noNaN: true }), { minLength: 4000, maxLength: 4000 }),
        (list) => {
          const n = 4000;
          const ys = Float64Array.from(list);
          const xs = Float64Array.from({ length: n }, (_, k) => k);
          const toX = pixelsOf(false, [0, n - 1], 0, 100);
          const toY = pixelsOf(false, [-60, 0], 600, 0);
          const [points] = stretches(curvePath(xs, ys, toX, toY, 1e4, -1e4));
          if (points.length > 4 * 102) return false;
          for (let column = 0; column < 100; column++) {
            const inside = xs.filter((k) => Math.floor(toX(k)) === column);
            const lowest = inside.reduce((a, k) => (ys[k] < ys[a] ? k : a));
            const highest = inside.reduce((a, k) => (ys[k] > ys[a] ? k : a));
            for (const k of [lowest, highest]) if (away(toX(k), toY(ys[k]), points) > 0.2) return false;
          }
          return true;
        },
      ),
      { numRuns: 20 },
    );
  });

  it('interrupts where a sample is no number, ends at the edge where it is infinite, and draws nothing of nothing', () => {
    const toX = pixelsOf(false, [0, 10], 0, 10);
    const toY = pixelsOf(false, [-10, 0], 10, 0);
    const path = (ys: number[]) => curvePath(Object.keys(ys).map(Number), ys, toX, toY, 50, -40);
    expect(path([NaN, -1, -2, NaN, NaN, -3, -Infinity, Infinity])).toBe('M1 1L2 2M5 3L6 50L7 -40');
    expect(path([])).toBe('');
    expect(path([NaN, NaN])).toBe('');
  });
});

describe('reading and arranging', () => {
  it('reads between samples, and nowhere outside them', () => {
    const trace = { id: 't', label: 't', colour: 'trace1', kind: { role: 'level', level: 'ideal' } } as const;
    const line = { ...trace, x: [1, 2, 4], y: [10, 20, -Infinity] };
    expect([1, 1.5, 2, 0.9, 4.1].map((x) => valueAt(line, x))).toEqual([10, 15, 20, NaN, NaN]);
    expect(valueAt(line, 3.9)).toBe(-Infinity);
    expect([nearest([1, 2, 4], 2.9), nearest([1, 2, 4], 3.1)]).toEqual([1, 2]);
    expect(shifted([1, 100], true, 0.5).map((v) => Math.round(v))).toEqual([10, 1000]);
    expect(shifted([1, 100], false, 0.5)).toEqual([50.5, 149.5]);
  });

  it('keeps labels apart, inside and in their order', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -50, max: 350, noNaN: true }), { minLength: 1, maxLength: 20 }),
        (wanted) => {
          const placed = spread(wanted, 13, 4, 300);
          const order = wanted.map((_, i) => i).sort((a, b) => wanted[a] - wanted[b]);
          const sorted = order.map((i) => placed[i]);
          return (
            sorted.every((y) => y >= 4 - 1e-9 && y <= 300 + 1e-9) &&
            sorted.every((y, k) => k === 0 || y - sorted[k - 1] >= 13 - 1e-9)
          );
        },
      ),
    );
  });
});

describe('plots of a response', () => {
  /** A matched splitter with a phase between its outputs that grows with frequency, moved by `turn` degrees. */
  const splitter = (turn: number, drop = 3) => {
    const freq = Float64Array.of(1e9, 2e9, 3e9);
    const re = new Float64Array(27);
    const im = new Float64Array(27);
    freq.forEach((_, k) => {
      const size = Math.pow(10, -drop / 20);
      const angle = ((90 + 10 * k + turn) * Math.PI) / 180;
      for (const [i, j, a] of [
        [1, 0, 0],
        [0, 1, 0],
        [2, 0, angle],
        [0, 2, angle],
      ]) {
        re[k * 9 + i * 3 + j] = size * Math.cos(a);
        im[k * 9 + i * 3 + j] = size * Math.sin(a);
      }
    });
    return { ports: 3, freq, re, im, z0: [50, 50, 50].map((x) => ({ re: x, im: 0 })) };
  };
  const roles = { ports: 3, outputs: [1, 2], isolated: [] };

  it('holds the axis still while a value moves a little, and follows when the curve leaves it', () => {
    const range = (turn: number) =>
      axisRange(
        drawPlot(
          { id: 'p', show: 'formula', formulas: ['S31/S21 in deg'] },
          sourcesOf([{ level: 'ideal', data: splitter(turn) }], undefined, []),
          roles,
        ),
      )!;
    expect(range(0.1)).toEqual(range(0));
    expect(range(0.5)).toEqual(range(0));
    const far = range(30);
    expect(far).not.toEqual(range(0));
    expect(far[0]).toBeLessThan(120);
    expect(far[1]).toBeGreaterThan(140);
  });

  it('gives a quantity one colour at every level, and imported data the references of the design', () => {
    const other = splitter(0);
    const measured = { ...other, z0: other.z0.map(() => ({ re: 75, im: 0 })) };
    const block = {
      id: 'm',
      name: 'measured',
      origin: 'imported' as const,
      ports: 3,
      freq: [...measured.freq],
      z0: measured.z0.map((z) => [z.re, z.im] as const),
      re: [...measured.re],
      im: [...measured.im],
    };
    const sources = sourcesOf(
      [
        { level: 'ideal', data: splitter(0) },
        { level: 'modelled', data: splitter(5) },
      ],
      splitter(6),
      [block],
    );
    expect(sources.map((s) => s.id)).toEqual(['modelled', 'ideal', 'influence', 'm']);
    expect(sources[3].data.z0.map((z) => z.re)).toEqual([50, 50, 50]);
    const { traces, problem } = drawPlot({ id: 'p', show: 'match' }, sources, roles);
    expect(problem).toBeUndefined();
    const colours = new Map<string, Set<string>>();
    for (const t of traces.filter((t) => t.kind.role !== 'overlay')) {
      const quantity = t.id.slice(t.id.indexOf('-') + 1);
      colours.set(quantity, (colours.get(quantity) ?? new Set()).add(t.colour));
    }
    expect(colours.size).toBeGreaterThan(0);
    for (const set of colours.values()) expect(set.size).toBe(1);
    const mixed = drawPlot(
      { id: 'p', show: 'formula', formulas: ['S21 in dB', 'S31 in deg'] },
      sources,
      roles,
    );
    expect(mixed.problem).toContain('share one unit');
    expect(
      drawPlot({ id: 'p', show: 'formula', formulas: ['S51 in dB'] }, sources, roles).problem,
    ).toBeTruthy();
  });

  it('tells by how much the shown level keeps or misses its limits', () => {
    const trace = (level: LevelId, y: number[]): Trace => ({
      id: level,
      label: '',
      colour: 'trace1',
      kind: { role: 'level', level },
      x: [1, 2, 3],
      y,
    });
    const limit = (side: 'below' | 'above', level: number, from = 1, to = 3) => ({ side, level, from, to });
    const both = [trace('ideal', [0, 0, 0]), trace('modelled', [-30, -18, -25])];
    expect(missed(both, [limit('below', -20)], 'dB')).toBe(2);
    expect(missed(both, [limit('below', -20, 2.5, 3)], 'dB')).toBe(-5);
    expect(missed(both, [limit('above', -40), limit('below', -10)], 'dB')).toBe(-8);
    expect(missed(both, [limit('above', -26)], 'dB')).toBe(4);
    expect(missed([both[0]], [limit('below', -3)], 'dB')).toBe(3);
    expect(missed(both, [], 'dB')).toBeUndefined();
    expect(missed(both, [limit('below', -20, 7, 9)], 'dB')).toBeUndefined();
    expect(missed([trace('modelled', [NaN, -Infinity, NaN])], [limit('below', -20)], 'dB')).toBe(-Infinity);
  });
});

describe('axes', () => {
  it('are ruled at round values inside them, about as many as there is room for', () => {
    expect(ticksOf(false, [0, 10], 5)).toEqual([0, 2, 4, 6, 8, 10]);
    expect(ticksOf(true, [0.5, 3], 5)).toEqual([0.5, 0.6, 0.7, 0.8, 0.9, 1, 2, 3]);
    expect(ticksOf(true, [0.01, 10], 5)).toEqual([0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10]);
    expect(ticksOf(true, [1e-6, 1e6], 4)).toEqual(Array.from({ length: 13 }, (_, k) => Number(`1e${k - 6}`)));
  });

  it('lead to pixels and back', () => {
    for (const log of [false, true])
      for (const value of [1, 3.3, 40]) {
        const scale = scaleOf(log, [1, 40], 300, 20);
        expect(scale.invert(scale(value))).toBeCloseTo(value, 9);
      }
    expect(scaleOf(true, [1, 100], 0, 200)(10)).toBeCloseTo(100, 9);
  });
});

describe('labels on charts', () => {
  const bounds = { x: 0, y: 0, width: 400, height: 300 };
  const anyPoints = fc.array(
    fc.record({
      x: fc.integer({ min: 40, max: 360 }),
      y: fc.integer({ min: 40, max: 260 }),
      text: fc.constantFrom('10.55\u2009GHz', '5.8\u2009GHz', '21.1\u2009GHz'),
    }),
    { maxLength: 8 },
  );
  it('lie on nothing that is taken, nor on one another, inside the picture', () => {
    fc.assert(
      fc.property(anyPoints, (points) => {
        const taken = [boxOf({ text: '0.5', x: 200, y: 150, anchor: 'middle' })];
        const placed = placeAround(points, taken, bounds).flatMap((p) => (p ? [boxOf(p)] : []));
        const all = [...taken, ...placed];
        return all.every((a, i) => all.slice(i + 1).every((b) => !overlap(a, b)));
      }),
    );
    // With room for one, it is there.
    expect(placeAround([{ x: 200, y: 150, text: 'f0' }], [], bounds)[0]?.text).toBe('f0');
  });

  it('of marks take as many rows as they need', () => {
    expect(rowsOf([10, 60, 200].map((x) => ({ x, text: '10.55 GHz' })))).toEqual([0, 1, 0]);
    expect(rowsOf([10, 12, 14].map((x) => ({ x, text: '10.55 GHz' })))).toEqual([0, 1, 2]);
  });

  it('are broken between words, and cut only where two lines do not hold them', () => {
    expect(linesOf('board 3, measured')).toEqual(['board 3, measured']);
    expect(linesOf('modelled, 23 \u2212 j41 \u03A9, er 2.94')).toEqual([
      'modelled, 23 \u2212 j41 \u03A9,',
      'er 2.94',
    ]);
    expect(linesOf('x'.repeat(40))).toEqual([`${'x'.repeat(21)}\u2026`]);
    expect(spread([10, 10], [26, 13], 0, 100)).toEqual([10, 29.5]);
  });
});
