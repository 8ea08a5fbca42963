import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { crossSections, thinStripCapacitance } from '../src/lines';
import {
  agm,
  brent,
  C0,
  EPS0,
  ETA0,
  gaussLegendre,
  MU0,
  solveComplex,
  solveReal,
  solveSingular,
} from '../src/numeric';
import { sectionCapacitance, solveSection } from '../src/section';

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
