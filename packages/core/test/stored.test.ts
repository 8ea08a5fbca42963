import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { responseOf, square, type Square } from '../src/junctions';
import { forms, SHARES, type JunctionKind } from '../src/junctions/contract';
import { plain, storedOf } from '../src/junctions/stored';
import { pairsOf } from '../src/junctions/table';

const TOP = 20e9;
const number = fc.double({ min: -1, max: 1, noNaN: true });
/** Impedances of up to four lines, and the real and imaginary parts of ten entries. */
const lines = fc.array(fc.double({ min: 20, max: 120, noNaN: true }), { minLength: 4, maxLength: 4 });
const entries = fc.array(fc.tuple(number, number), { minLength: 10, maxLength: 10 });
const kinds = fc.constantFrom<JunctionKind>('open-end', 'gap', 'step', 'tee', 'cross');

const plainOf = (kind: JunctionKind, z0: readonly number[]): Float64Array => {
  const p = new Float64Array(z0.length ** 2);
  plain(z0, forms[kind].joined, p);
  return p;
};
/** A symmetric matrix about one that is real. */
function about(
  centre: ArrayLike<number>,
  share: number,
  by: readonly (readonly [number, number])[],
  size: number,
): Square {
  const n = Math.sqrt(centre.length);
  const out = square(n);
  pairsOf(n).forEach(([i, j], k) => {
    for (const at of [i * n + j, j * n + i]) {
      out.re[at] = share * centre[at] + size * by[k][0];
      out.im[at] = size * by[k][1];
    }
  });
  return out;
}
/** What a table would hold of a junction that stores this at each of its places. */
function held(kind: JunctionKind, m: Square, x: number, leaving = 1) {
  const { pins: n } = forms[kind];
  const part = (of: Float64Array, over: number) =>
    Float64Array.from(pairsOf(n), ([i, j]) => of[i * n + j] / over);
  return {
    top: TOP,
    leaving,
    re: SHARES.map(() => part(m.re, x)),
    im: SHARES.map(() => part(m.im, x * x)),
  };
}
const apart = (a: Square, b: Square): number =>
  Math.max(...a.re.map((v, i) => Math.hypot(v - b.re[i], a.im[i] - b.im[i])));

describe('what a junction stores', () => {
  it('is all of it, however it loses: S comes back from any that is passive and reciprocal', () => {
    fc.assert(
      fc.property(kinds, lines, entries, fc.constantFrom(...SHARES), (kind, all, by, x) => {
        const z0 = all.slice(0, forms[kind].pins);
        const p = plainOf(kind, z0);
        const s = about(p, 0.88, by, 0.02);
        const out = square(z0.length);
        responseOf(kind, held(kind, storedOf(z0.length, s, p), x), () => z0)(x * TOP, z0, out);
        expect(apart(out, s)).toBeLessThan(1e-9);
      }),
      { numRuns: 60 },
    );
  });

  it('gives no power whatever a table says, and keeps it where nothing can leave', () => {
    fc.assert(
      fc.property(
        kinds,
        lines,
        entries,
        fc.double({ min: 0.05, max: 1.2, noNaN: true }),
        (kind, all, by, x) => {
          const z0 = all.slice(0, forms[kind].pins);
          const n = z0.length;
          const stored = about(new Float64Array(n * n), 0, by, 0.4);
          const power = (leaving: number): number[] => {
            const out = square(n);
            responseOf(kind, held(kind, stored, 1, leaving), () => z0)(x * TOP, z0, out);
            // Into the pins at once, with phases that differ: what comes out over what goes in.
            return [0, 1, 2].map((turn) => {
              let total = 0;
              for (let i = 0; i < n; i++) {
                let [re, im] = [0, 0];
                for (let k = 0; k < n; k++) {
                  const [c, d] = [Math.cos(turn * k), Math.sin(turn * k)];
                  re += out.re[i * n + k] * c - out.im[i * n + k] * d;
                  im += out.re[i * n + k] * d + out.im[i * n + k] * c;
                }
                total += re * re + im * im;
              }
              return total / n;
            });
          };
          for (const out of power(1)) expect(out).toBeLessThan(1 + 1e-9);
          for (const out of power(0)) expect(out).toBeCloseTo(1, 9);
        },
      ),
      { numRuns: 60 },
    );
  });
});
