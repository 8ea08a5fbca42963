import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  brent,
  cx,
  drive,
  evolutionSteps,
  gaussLegendre,
  leastSquares,
  minimax,
  planElimination,
  solveComplex,
  type Complex,
} from '../src/numeric';

const real = fc.double({ min: -10, max: 10, noNaN: true });
const complex = fc.record({ re: real, im: real });

describe('elimination by a plan', () => {
  /** A sparse system whose diagonal is large enough to be solved, as entries. */
  const system = fc.integer({ min: 3, max: 14 }).chain((size) =>
    fc.record({
      size: fc.constant(size),
      keep: fc.integer({ min: 1, max: Math.min(3, size - 1) }),
      diagonal: fc.array(fc.record({ re: fc.double({ min: 20, max: 60, noNaN: true }), im: real }), {
        minLength: size,
        maxLength: size,
      }),
      others: fc.uniqueArray(
        fc.record({ r: fc.nat(size - 1), c: fc.nat(size - 1), v: complex }).filter(({ r, c }) => r !== c),
        { maxLength: 2 * size, selector: ({ r, c }) => r * size + c },
      ),
    }),
  );

  /** The Schur complement of the last `keep` unknowns, by solving with full matrices. */
  function schur(size: number, keep: number, at: (r: number, c: number) => Complex): Complex[][] {
    const inner = size - keep;
    const [ar, ai] = [new Float64Array(inner * inner), new Float64Array(inner * inner)];
    const [br, bi] = [new Float64Array(inner * keep), new Float64Array(inner * keep)];
    for (let r = 0; r < inner; r++) {
      for (let c = 0; c < inner; c++) ({ re: ar[r * inner + c], im: ai[r * inner + c] } = at(r, c));
      for (let c = 0; c < keep; c++) ({ re: br[r * keep + c], im: bi[r * keep + c] } = at(r, inner + c));
    }
    solveComplex(inner, keep, ar, ai, br, bi);
    return Array.from({ length: keep }, (_, r) =>
      Array.from({ length: keep }, (_c, c) => {
        let sum = at(inner + r, inner + c);
        for (let k = 0; k < inner; k++)
          sum = cx.sub(sum, cx.mul(at(inner + r, k), { re: br[k * keep + c], im: bi[k * keep + c] }));
        return sum;
      }),
    );
  }

  it('leaves the Schur complement that full elimination leaves, for the values it was planned with and for others', () => {
    let repeated = 0;
    fc.assert(
      fc.property(
        system,
        fc.array(complex, { minLength: 60, maxLength: 60 }),
        ({ size, keep, diagonal, others }, fresh) => {
          const rows = Int32Array.from([...diagonal.keys(), ...others.map((o) => o.r)]);
          const columns = Int32Array.from([...diagonal.keys(), ...others.map((o) => o.c)]);
          const first = [...diagonal, ...others.map((o) => o.v)];
          const again = first.map((v, i) =>
            i < size ? { re: v.re + 1, im: -v.im } : fresh[i % fresh.length],
          );
          const plan = planElimination(
            { size, rows, columns },
            first.map((v) => v.re),
            first.map((v) => v.im),
            keep,
          )!;
          for (const values of [first, again]) {
            const re = new Float64Array(plan.slots);
            const im = new Float64Array(plan.slots);
            values.forEach((v, i) => ([re[i], im[i]] = [v.re, v.im]));
            if (!plan.reduce(re, im)) {
              // A pivot that has become small does not suit; those it was planned with do.
              expect(values).toBe(again);
              continue;
            }
            repeated += values === again ? 1 : 0;
            const dense = new Map(values.map((v, i) => [rows[i] * size + columns[i], v]));
            const want = schur(size, keep, (r, c) => dense.get(r * size + c) ?? { re: 0, im: 0 });
            want.flat().forEach((w, i) => {
              const slot = plan.schur[i];
              const got = slot < 0 ? { re: 0, im: 0 } : { re: re[slot], im: im[slot] };
              expect(cx.abs(cx.sub(got, w))).toBeLessThan(1e-9 * (1 + cx.abs(w)));
            });
          }
        },
      ),
      { numRuns: 150 },
    );
    expect(repeated).toBeGreaterThan(75);
  });

  it('says when its pivots do not suit, and leaves what has none to the Schur complement', () => {
    const pattern = { size: 2, rows: Int32Array.of(0, 0, 1, 1), columns: Int32Array.of(0, 1, 0, 1) };
    const plan = planElimination(pattern, [1, 2, 3, 4], [0, 0, 0, 0], 1)!;
    expect(
      plan.reduce(Float64Array.of(0, 2, 3, 4, 0, 0).slice(0, plan.slots), new Float64Array(plan.slots)),
    ).toBe(false);
    // The first unknown is in no equation: it joins the second, and the rest says that it is open.
    const open = planElimination(pattern, [0, 2, 0, 4], [0, 0, 0, 0], 1)!;
    expect(open.order).toBe(2);
    expect(open.reduce(Float64Array.of(0, 2, 0, 4), new Float64Array(4))).toBe(true);
    expect([...open.schur].map((slot) => (slot < 0 ? 0 : [0, 2, 0, 4][slot]))).toEqual([4, 0, 2, 0]);
    const many = Array.from({ length: 12 }, (_, k) => k);
    const singular = {
      size: 13,
      rows: Int32Array.from([...many, ...many.map(() => 12), 12]),
      columns: Int32Array.from([...many.map(() => 12), ...many, 12]),
    };
    const ones = singular.rows.map(() => 1);
    expect(
      planElimination(
        singular,
        ones,
        ones.map(() => 0),
        1,
      ),
    ).toBeUndefined();
  });
});

describe('least squares', () => {
  it('finds what an overdetermined linear system has in common, wherever it starts', () => {
    fc.assert(
      fc.property(real, real, real, real, (a, b, startA, startB) => {
        const { x, cost } = leastSquares(
          ([p, q], out) => {
            for (let k = 0; k < 6; k++) out[k] = p + q * k - (a + b * k) - (k % 2 ? 0.5 : -0.5);
            return true;
          },
          [startA, startB],
          6,
          { step: 1e-3 },
        );
        // The alternating rest is orthogonal to neither: the normal equations say where it ends.
        const slope = b + 3 / 35;
        const base = a - 1.5 / 7;
        expect(x[1]).toBeCloseTo(slope, 6);
        expect(x[0]).toBeCloseTo(base, 6);
        expect(cost).toBeLessThan(1.5);
      }),
      { numRuns: 40 },
    );
  });

  it('walks a bent valley to its end, stays within bounds, and leaves alone what nothing depends on', () => {
    const valley = ([x, y]: readonly number[], out: Float64Array) => {
      out[0] = 10 * (y - x * x);
      out[1] = 1 - x;
      return true;
    };
    const free = leastSquares(valley, [-1.2, 1], 2, { step: 1e-5, maxIterations: 200 });
    expect(free.x[0]).toBeCloseTo(1, 5);
    expect(free.x[1]).toBeCloseTo(1, 5);
    const bounded = leastSquares(valley, [-1.2, 1], 2, { step: 1e-5, maxIterations: 200, upper: [0.5, 5] });
    expect(bounded.x[0]).toBeLessThanOrEqual(0.5);
    expect(bounded.x[1]).toBeCloseTo(bounded.x[0] ** 2, 2);
    const idle = leastSquares(([x], out) => ((out[0] = x - 3), true), [0, 7], 1, { step: 1e-3 });
    expect(idle.x[0]).toBeCloseTo(3, 9);
    expect(idle.x[1]).toBe(7);
    // Impossible places are not stepped into, and an impossible start is told by its cost.
    const wall = leastSquares(([x], out) => ((out[0] = x - 3), x < 2), [0], 1, { step: 1e-3 });
    expect(wall.x[0]).toBeLessThan(2);
    expect(leastSquares(() => false, [1], 1, { step: 1 })).toEqual({ x: [1], cost: Infinity, iterations: 0 });
  });
});

describe('the largest residual made least', () => {
  const x = Array.from({ length: 401 }, (_, i) => i / 200 - 1);
  /** Errors either way of a polynomial for exp(x). */
  const errors = (c: readonly number[], out: Float64Array) => {
    x.forEach((v, i) => {
      out[2 * i] = c.reduceRight((s, k) => s * v + k, 0) - Math.exp(v);
      out[2 * i + 1] = -out[2 * i];
    });
    return true;
  };
  const find = (n: number, upper = 5) =>
    minimax(errors, Array<number>(n).fill(0), 802, {
      step: Array<number>(n).fill(1e-3),
      lower: Array<number>(n).fill(-5),
      upper: Array<number>(n).fill(upper),
    });

  it('is the best straight line through an exponential (Chebyshev), and has equal ripples', () => {
    const slope = Math.sinh(1);
    const line = find(2);
    expect(line.worst).toBeCloseTo((1 / Math.E + slope * Math.log(slope)) / 2, 5);
    expect(line.x[1]).toBeCloseTo(slope, 5);
    // Of a polynomial of four coefficients five errors are equal, with signs in turn.
    const { x: c, worst } = find(4);
    const out = new Float64Array(802);
    errors(c, out);
    const extremes = x.filter((_, i) => Math.abs(out[2 * i]) > worst * (1 - 1e-3));
    const signs = extremes.map((v) => Math.sign(out[2 * x.indexOf(v)]));
    expect(signs.filter((s, i) => i === 0 || s !== signs[i - 1])).toHaveLength(5);
  });

  it('stays within bounds, and where x is impossible', () => {
    // Where neither coefficient may be above one, e - 2 is left at the end.
    expect(find(2, 1).worst).toBeCloseTo(Math.E - 2, 5);
    expect(minimax(() => false, [0], 1, { step: [1], lower: [-1], upper: [1] })).toEqual({
      x: [0],
      worst: Infinity,
    });
  });
});

describe('differential evolution', () => {
  it('finds the deepest of many valleys within its bounds, the same for the same seed', () => {
    // Rastrigin's function: a valley at every whole number, the deepest at nothing.
    const cost = (x: readonly number[]) =>
      x.reduce((sum, v) => sum + v * v + 10 * (1 - Math.cos(2 * Math.PI * v)), 0);
    const bounds = { lower: [-5, -5, -5], upper: [5, 5, 5] };
    const run = (seed: number) =>
      drive(evolutionSteps(cost, [3, -4, 2], { ...bounds, seed, generations: 200 }));
    for (const seed of [1, 2, 3]) {
      const { x, cost: least } = run(seed);
      expect(least).toBeLessThan(1e-3);
      x.forEach((v) => expect(Math.abs(v)).toBeLessThan(0.01));
      expect(run(seed).x).toEqual(x);
    }
    expect(run(1).x).not.toEqual(run(2).x);
    const edge = drive(
      evolutionSteps(([v]) => -v, [0], {
        lower: [-1],
        upper: [2],
        seed: 5,
        generations: 60,
        enough: -Infinity,
      }),
    );
    expect(edge.x[0]).toBeGreaterThan(1.99);
    expect(edge.x[0]).toBeLessThanOrEqual(2);
  });
});

describe('roots, sums and complex numbers', () => {
  it('find the root inside a bracket to the last digits, and refuse where there is none', () => {
    fc.assert(
      fc.property(real, fc.double({ min: 0.01, max: 5, noNaN: true }), (root, steep) => {
        const f = (x: number) => steep * (x - root) + (x - root) ** 3;
        expect(brent(f, root - 3.7, root + 9.1)).toBeCloseTo(root, 9);
      }),
    );
    expect(brent((x) => x, 0, 1)).toBe(0);
    expect(() => brent((x) => x * x + 1, -1, 1)).toThrow(RangeError);
  });

  it('integrate polynomials exactly up to twice the number of nodes', () => {
    for (const n of [1, 2, 5, 16]) {
      const { nodes, weights } = gaussLegendre(n);
      for (let power = 0; power < 2 * n; power++) {
        const sum = nodes.reduce((s, x, i) => s + weights[i] * x ** power, 0);
        expect(sum).toBeCloseTo(power % 2 ? 0 : 2 / (power + 1), 12);
      }
    }
  });

  it('divide back what they multiply, square what they root, and take logarithms back', () => {
    const some = complex.filter((z) => cx.abs(z) > 1e-3);
    const near = (a: Complex, b: Complex) => cx.abs(cx.sub(a, b)) <= 1e-12 * (1 + cx.abs(b));
    fc.assert(
      fc.property(some, some, (a, b) => {
        expect(near(cx.div(cx.mul(a, b), b), a)).toBe(true);
        const root = cx.sqrt(a);
        expect(near(cx.mul(root, root), a) && root.re >= 0).toBe(true);
        expect(near(cx.exp(cx.log(a)), a)).toBe(true);
        expect(cx.abs(cx.mul(a, cx.conj(a)))).toBeCloseTo(cx.abs(a) ** 2, 9);
      }),
    );
    // Without overflow where the squares would.
    expect(cx.div({ re: 1e300, im: 1e300 }, { re: 1e300, im: 1e300 })).toEqual({ re: 1, im: 0 });
  });
});
