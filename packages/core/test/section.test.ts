import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { crossSections } from '../src/lines';
import {
  agm,
  brent,
  drive,
  C0,
  EPS0,
  ETA0,
  gaussLegendre,
  Grid,
  MU0,
  solveComplex,
  solveReal,
  solveSingular,
  Table,
} from '../src/numeric';
import {
  fieldSteps,
  slotFieldSteps,
  solvePair,
  solveSlots,
  solveStrip,
  type SectionField,
} from '../src/section';
import { sectionCapacitance, solveSection } from './reference/boundary';
import { thinStripCapacitance } from './reference/thin-strip';

describe('the boundary-element solution of a cross-section', () => {
  const strip = { width: 0.6, thickness: 0.1, height: 0.45, spacing: 1, er: 1, erAbove: 1 };

  it('scales with a uniform dielectric and with size, and knows up from down', () => {
    const c = sectionCapacitance(strip, 24);
    expect(sectionCapacitance({ ...strip, er: 3.3, erAbove: 3.3 }, 24) / c).toBeCloseTo(3.3, 9);
    const small = { ...strip, width: 0.6e-3, thickness: 0.1e-3, height: 0.45e-3, spacing: 1e-3 };
    expect(sectionCapacitance(small, 24) / c).toBeCloseTo(1, 9);
    // Turned over between its planes nothing changes.
    const low = sectionCapacitance({ ...strip, height: 0.2 }, 24);
    expect(sectionCapacitance({ ...strip, height: 0.7 }, 24) / low).toBeCloseTo(1, 9);
    expect(low).toBeGreaterThan(c);
  });

  it('converges, as it says, to the exact thin strip', () => {
    const exact =
      1 /
      (C0 *
        crossSections.strip.stripline.prepare(
          { er: 1, tand: 0, height: 1, thickness: 0, conductivity: 1, roughness: 0, cover: Infinity },
          [0.6],
        ).statics[0].z0);
    const thin = { ...strip, thickness: 1e-4, height: 0.49995 };
    const { capacitance, error } = solveSection(thin, 60);
    expect(Math.abs(capacitance / exact - 1)).toBeLessThan(1e-3);
    expect(error).toBeLessThan(2e-4);
    const [coarse, fine, finer] = [12, 24, 48].map((n) => sectionCapacitance(strip, n));
    expect(Math.abs(finer - fine)).toBeLessThan(Math.abs(fine - coarse) / 2.5);
  });

  it('is bounded by its dielectrics, and a second plane far away is no plane', () => {
    const open = { width: 1, thickness: 0.05, height: 1, spacing: Infinity, er: 4, erAbove: 1 };
    const air = sectionCapacitance({ ...open, er: 1 }, 24);
    const c = sectionCapacitance(open, 24);
    expect(c / air).toBeGreaterThan(2.5);
    expect(c / air).toBeLessThan(4);
    expect(sectionCapacitance({ ...open, spacing: 400 }, 24) / c).toBeCloseTo(1, 3);
  });
});

describe('the thin strip on a dielectric', () => {
  it('has the limits of a wire and of a plate, and lies between its dielectrics', () => {
    const [narrow] = thinStripCapacitance(1e-3, 1, [{ er: 1, cover: Infinity }]);
    // A strip of width w is a wire of radius w/4: C = 2 pi eps / ln(2 h / (w/4)).
    expect(narrow / ((2 * Math.PI * EPS0) / Math.log(8e3))).toBeCloseTo(1, 6);
    const widths = [60, 80];
    const [a, b] = widths.map((w) => thinStripCapacitance(w, 1, [{ er: 5, cover: Infinity }])[0]);
    // Far from its edges each further width is a parallel plate.
    expect((b - a) / (20 * 5 * EPS0)).toBeCloseTo(1, 2);
    fc.assert(
      fc.property(
        fc.double({ min: 0.02, max: 12, noNaN: true }),
        fc.double({ min: 1.1, max: 12, noNaN: true }),
        fc.double({ min: 0.3, max: 8, noNaN: true }),
        (w, er, lid) => {
          const [air, open, airLid, covered] = thinStripCapacitance(w, 1, [
            { er: 1, cover: Infinity },
            { er, cover: Infinity },
            { er: 1, cover: lid },
            { er, cover: lid },
          ]);
          const e = open / air;
          // A lid adds capacitance and draws the field out of the dielectric.
          return e > (er + 1) / 2 - 1e-9 && e < er && airLid > air && covered > open && covered / airLid < e;
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('the section solver', () => {
  const air = { below: 1, above: 1 };
  const open = { ground: 1, cover: Infinity };

  it('tells its own error: twice the panels move a result by no more than it said', () => {
    for (const [w, t, er, cover] of [
      [0.05, 0, 2.94, Infinity],
      [2.5, 0, 10.2, 0.3],
      [0.2, 0.1, 10.2, Infinity],
      [2.5, 0.3, 2.94, 0.6],
      [10, 0.01, 2.94, Infinity],
    ]) {
      const heights = { ground: 1, cover };
      const fillings = [{ below: er, above: 1 }];
      const [as] = solveStrip(w, t, heights, fillings);
      const [finer] = solveStrip(w, t, heights, fillings, 24);
      expect(Math.abs(as.value / finer.value - 1)).toBeLessThan(Math.max(as.error, 2e-5));
      expect(as.error).toBeLessThan(2e-4);
      const [pair] = solvePair(w, 0.1, t, heights, fillings);
      const [better] = solvePair(w, 0.1, t, heights, fillings, 24);
      for (const mode of ['even', 'odd'] as const) {
        expect(Math.abs(pair[mode].value / better[mode].value - 1)).toBeLessThan(pair[mode].error);
        expect(pair[mode].error).toBeLessThan(5e-4);
      }
    }
  });

  it('makes of a pair two strips where it is wide, one strip where the gap closes', () => {
    for (const t of [0, 0.05]) {
      const fillings = [{ below: 4, above: 1 }];
      const [alone] = solveStrip(1.5, t, open, fillings);
      const [wide] = solvePair(1.5, 60, t, open, fillings);
      expect(wide.even.value / alone.value).toBeCloseTo(1, 3);
      expect(wide.odd.value / alone.value).toBeCloseTo(1, 3);
      const [both] = solveStrip(3, t, open, fillings);
      const [close] = solvePair(1.5, 1e-5, t, open, fillings);
      expect((2 * close.even.value) / both.value).toBeCloseTo(1, 4);
      // In between one mode has more and the other less than a strip alone.
      const [near] = solvePair(1.5, 0.2, t, open, fillings);
      expect(near.even.value).toBeLessThan(alone.value);
      expect(near.odd.value).toBeGreaterThan(alone.value);
    }
  });

  it('adds a plate capacitor for each further thickness, once gaps are deep', () => {
    const [a, b] = [1, 1.4].map((t) => solvePair(1, 0.05, t, open, [air])[0].odd.value);
    // Twice the voltage stands across the gap.
    expect((b - a) / (0.4 * ((2 * EPS0) / 0.05))).toBeCloseTo(1, 1);
    const below = { height: 0.5, grounded: true, cover: Infinity };
    const [c, d] = [0.3, 0.5].map((t) => solveSlots(1, 0.1, t, below, [3])[0].value);
    expect((d - c) / (0.2 * ((2 * EPS0) / 0.1))).toBeCloseTo(1, 4);
    const thin = solveSlots(1, 0.1, 0, below, [3])[0].value;
    expect(solveSlots(1, 0.1, 1e-6, below, [3])[0].value / thin).toBeCloseTo(1, 3);
  });

  it('is a line between two planes where the slots of a coplanar line are wide', () => {
    const heights = { ground: 1, cover: 1.5 };
    const [strip] = solveStrip(1.2, 0.05, heights, [{ below: 4, above: 1 }]);
    const far = { height: 1, grounded: true, cover: 1.5 };
    expect(solveSlots(1.2, 12, 0.05, far, [4])[0].value / strip.value).toBeCloseTo(1, 3);
  });
});

describe('a table', () => {
  it('reads a smooth function as it is, across its intervals, and computes nothing twice', () => {
    let calls = 0;
    const table = new Table((x) => (calls++, [Math.sin(x), Math.exp(-x)]), 1.5, 2);
    for (let x = -4; x < 4; x += 0.037) {
      const [sine, decay] = table.at(x);
      expect(sine).toBeCloseTo(Math.sin(x), 6);
      expect(decay * Math.exp(x)).toBeCloseTo(1, 6);
    }
    for (const x of [-3, 0, 1.5]) expect(table.at(x)[0]).toBeCloseTo(Math.sin(x), 12);
    // Six intervals of eight nodes, neighbours sharing one.
    expect(calls).toBe(6 * 7 + 1);
  });

  it('of two variables answers by the function first, makes its nodes little by little, and then costs nothing', () => {
    let calls = 0;
    const f = (x: number, y: number) => [Math.sin(x + 2 * y), Math.exp(x * y)];
    const grid = new Grid((x, y) => (calls++, f(x, y)), 0.5, 2);
    let most = 0;
    for (let k = 0; k < 400; k++) {
      const [x, y] = [0.5 * Math.abs(Math.sin(1.3 * k)), 0.5 + 0.5 * Math.abs(Math.cos(2.1 * k))];
      const before = calls;
      const got = grid.at(x, y);
      most = Math.max(most, calls - before);
      f(x, y).forEach((value, i) => expect(Math.abs(got[i] - value)).toBeLessThan(2e-5));
    }
    expect(most).toBe(4);
    // Five answers by the function before it is worth it, one at each of the twelve after that, and 36 nodes.
    expect(calls).toBe(5 + 12 + 36);
    for (const x of [0.1, 0.4]) expect(grid.at(x, 0.5)[0]).toBeCloseTo(f(x, 0.5)[0], 5);
  });
});

describe('numerics', () => {
  it('know their constants and the arithmetic-geometric mean', () => {
    expect(EPS0 * MU0 * C0 * C0).toBeCloseTo(1, 15);
    expect(ETA0).toBeCloseTo(376.730313, 6);
    // Gauss: 1 / agm(1, sqrt 2) = 0.8346268416740731...
    expect(1 / agm(1, Math.SQRT2)).toBeCloseTo(0.8346268416740731, 15);
  });

  it('find bracketed roots and refuse what brackets none', () => {
    expect(brent(Math.cos, 1, 2)).toBeCloseTo(Math.PI / 2, 14);
    expect(brent((x) => x ** 3 - 2, 0, 9)).toBeCloseTo(Math.cbrt(2), 14);
    expect(brent((x) => x, 0, 1)).toBe(0);
    expect(() => brent((x) => x * x + 1, -1, 1)).toThrow(RangeError);
  });

  it('integrate polynomials of degree 2n - 1 exactly', () => {
    const { nodes, weights } = gaussLegendre(6);
    for (let degree = 0; degree <= 11; degree++) {
      const sum = nodes.reduce((s, x, i) => s + weights[i] * x ** degree, 0);
      expect(sum).toBeCloseTo(degree % 2 ? 0 : 2 / (degree + 1), 13);
    }
  });

  const matrix = (n: number) =>
    fc.array(fc.double({ min: -1, max: 1, noNaN: true }), {
      minLength: 2 * n * n + 2 * n,
      maxLength: 2 * n * n + 2 * n,
    });
  it('solve real and complex systems to their residual, sparse and banded ones too', () => {
    fc.assert(
      fc.property(matrix(6), fc.integer({ min: 1, max: 5 }), (x, band) => {
        const n = 6;
        const keep = (i: number) => Math.abs(Math.floor(i / n) - (i % n)) <= band;
        const ar = Float64Array.from({ length: n * n }, (_, i) =>
          keep(i) ? x[i] + (i % (n + 1) === 0 ? 3 : 0) : 0,
        );
        const ai = Float64Array.from({ length: n * n }, (_, i) => (keep(i) ? x[n * n + i] : 0));
        const br = Float64Array.from(x.slice(2 * n * n, 2 * n * n + n));
        const bi = Float64Array.from(x.slice(2 * n * n + n));
        const [yr, yi] = [br.slice(), bi.slice()];
        if (!solveComplex(n, 1, ar.slice(), ai.slice(), yr, yi, band, band)) return false;
        const [sr, si] = [br.slice(), bi.slice()];
        solveSingular(n, 1, ar.slice(), ai.slice(), sr, si);
        let worst = 0;
        for (let i = 0; i < n; i++) {
          let [re, im] = [-br[i], -bi[i]];
          for (let j = 0; j < n; j++) {
            re += ar[i * n + j] * yr[j] - ai[i * n + j] * yi[j];
            im += ar[i * n + j] * yi[j] + ai[i * n + j] * yr[j];
          }
          worst = Math.max(worst, Math.hypot(re, im), Math.abs(sr[i] - yr[i]), Math.abs(si[i] - yi[i]));
        }
        const z = solveReal(n, ar.slice(), br.slice());
        for (let i = 0; i < n; i++)
          worst = Math.max(worst, Math.abs(z.reduce((s, v, j) => s + ar[i * n + j] * v, -br[i])));
        return worst < 1e-10;
      }),
      { numRuns: 200 },
    );
  });

  it('leave open what a consistent singular system leaves open', () => {
    // x + y = 2 twice, z = 5: the open direction gets no amplitude beyond what the equations ask.
    const ar = Float64Array.of(1, 1, 0, 1, 1, 0, 0, 0, 1);
    const right = Float64Array.of(2, 2, 5);
    expect(solveComplex(3, 1, ar.slice(), new Float64Array(9), right.slice(), new Float64Array(3))).toBe(
      false,
    );
    solveSingular(3, 1, ar, new Float64Array(9), right, new Float64Array(3));
    expect(right[0] + right[1]).toBeCloseTo(2, 15);
    expect(right[2]).toBeCloseTo(5, 15);
  });
});

describe('the field of a cross-section', () => {
  it('of a coplanar line is that of the strip where its slots are wide, and harmonic where they are not', () => {
    const reach = { x: 3, y: 1.5 };
    const counts = { columns: 61, rows: 41 };
    const wide = { width: 1, slot: 4, thickness: 0.05 };
    const around = { height: 0.8, grounded: true, cover: 1.5 };
    const slots = drive(slotFieldSteps(wide, around, 4, reach, counts));
    const strip = drive(
      fieldSteps(
        { from: 0, to: 0.5, thickness: 0.05 },
        1,
        { ground: 0.8, cover: 1.5 },
        { below: 4, above: 1 },
        reach,
        counts,
      ),
    );
    expect(slots.y).toEqual(strip.y);
    slots.potential.forEach((v, i) => expect(Math.abs(v - strip.potential[i])).toBeLessThan(1.2e-2));

    for (const [thickness, grounded] of [
      [0, false],
      [0.1, false],
      [0.1, true],
    ] as const) {
      const shape = { width: 1, slot: 0.5, thickness };
      const { x, y, potential, current } = drive(
        slotFieldSteps(shape, { height: 0.8, grounded, cover: Infinity }, 6, reach, counts),
      );
      const at = (c: number, r: number) => potential[r * x.length + c];
      // Below the metal: each place is the mean of its neighbours, as far as they are apart.
      for (const c of [3, 12, 16, 30])
        for (let r = 6; r < 34; r += 7) {
          const [dx, dy] = [x[1] - x[0], y[1] - y[0]];
          const curve =
            (at(c - 1, r) + at(c + 1, r) - 2 * at(c, r)) / dx ** 2 +
            (at(c, r - 1) + at(c, r + 1) - 2 * at(c, r)) / dy ** 2;
          expect(Math.abs(curve) * dx * dy).toBeLessThan(2e-3);
        }
      // What flows in the strip comes back in the grounds. In air, thin, as far out as is looked: densities as
      // 1/sqrt((x^2 - a^2)(x^2 - b^2)), by x = b/u.
      const flows = (side: (s: (typeof current)[number]) => boolean) =>
        current.filter(side).reduce((sum, s) => sum + 2 * s.half * s.density, 0);
      const share = -flows((s) => s.x > 0.75) / flows((s) => s.x < 0.75);
      const whole = (to: number) => {
        const n = 4000;
        let sum = 0;
        for (let i = 0; i < n; i++) {
          // u = sin t takes the edge's singularity away.
          const t = Math.asin(1 / to) + ((Math.PI / 2 - Math.asin(1 / to)) * (i + 0.5)) / n;
          sum += (Math.PI / 2 - Math.asin(1 / to)) / n / Math.sqrt(1 - (Math.sin(t) / 2) ** 2);
        }
        return sum;
      };
      const exact = whole(reach.x) / whole(1e9);
      if (grounded) expect(share).toBeLessThan(exact - 0.1);
      else expect(Math.abs(share - exact)).toBeLessThan(thickness === 0 ? 0.02 : 0.06);
    }
  });

  const mirrored = (...args: Parameters<typeof fieldSteps>): SectionField => drive(fieldSteps(...args));
  const counts = { columns: 121, rows: 60 };
  /** Charge on the ground below, by Gauss' law, F/m at 1 V. */
  const onGround = ({ x, y, potential }: SectionField, er: number) => {
    let sum = 0;
    for (let i = 0; i < x.length; i++)
      sum += ((i === 0 ? 0.5 : 1) * (x[1] - x[0]) * potential[x.length + i]) / (y[1] - y[0]);
    return er * EPS0 * sum;
  };

  it.each([0, 0.04])('ends on the planes in the charge that the solution has, thickness %f', (thickness) => {
    const b = 1;
    const heights = { ground: (b - thickness) / 2, cover: (b + thickness) / 2 };
    const vacuum = { below: 1, above: 1 };
    const reach = { x: 3, y: 1 };
    const strip = mirrored({ from: 0, to: 0.35, thickness }, 1, heights, vacuum, reach, counts);
    const [{ value }] = solveStrip(0.7, thickness, heights, [vacuum]);
    // Half of the strip, half of its field lines.
    expect(onGround(strip, 1) / (value / 4)).toBeCloseTo(1, 2);
    const [{ even }] = solvePair(0.6, 0.2, thickness, heights, [vacuum]);
    const pair = mirrored({ from: 0.1, to: 0.7, thickness }, 1, heights, vacuum, reach, counts);
    expect(onGround(pair, 1) / (even.value / 2)).toBeCloseTo(1, 2);
  });

  it.each([Infinity, 1.2])('meets copper, planes and middle as it must, lid at %f', (cover) => {
    for (const symmetry of [1, -1] as const) {
      const copper = { from: 0.1, to: 0.9, thickness: 0.05 };
      const f = mirrored(
        copper,
        symmetry,
        { ground: 0.5, cover },
        { below: 4, above: 1 },
        { x: 2, y: 1 },
        counts,
      );
      const { x, y, potential } = f;
      const n = x.length;
      const at = (px: number, py: number) => {
        const near = (axis: Float64Array, v: number) =>
          axis.reduce((k, a, i) => (Math.abs(a - v) < Math.abs(axis[k] - v) ? i : k), 0);
        return potential[near(y, py) * n + near(x, px)];
      };
      for (const v of potential) expect(v > -1e-3 && v < 1.003).toBe(true);
      for (let i = 0; i < n; i++) expect(Math.abs(potential[i])).toBeLessThan(1e-9);
      if (cover < Infinity)
        for (let i = 0; i < n; i++) expect(Math.abs(potential[(y.length - 1) * n + i])).toBeLessThan(1e-9);
      // Just off both faces of the copper it is still nearly all there, below where the field is strongest less.
      expect(at(0.5, 0.06)).toBeGreaterThan(0.95);
      expect(at(0.5, -0.009)).toBeGreaterThan(0.95);
      const middle = Array.from({ length: y.length }, (_, r) => Math.abs(potential[r * n]));
      if (symmetry === -1) expect(Math.max(...middle)).toBeLessThan(1e-9);
      else expect(Math.max(...middle)).toBeGreaterThan(0.8);
      // The current crowds at the edges, in the odd mode at the inner one, in the even mode at the outer.
      const edge = (nx: number) =>
        f.current.filter((s) => s.nx === nx).reduce((sum, s) => sum + s.density * s.half, 0);
      expect(symmetry === -1 ? edge(-1) > edge(1) : edge(1) > edge(-1)).toBe(true);
      const mean =
        f.current.reduce((sum, s) => sum + s.density * s.half, 0) /
        f.current.reduce((sum, s) => sum + s.half, 0);
      expect(mean).toBeCloseTo(1, 9);
    }
  });
});
