import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frequencies } from '../src/network';
import {
  decibels,
  degrees,
  entryOf,
  impedanceOf,
  interpolate,
  readMatch,
  vswr,
  type Entry,
} from '../src/results';
import { laminates, metals, readStackField, resolveStack, stackFields, type Stack } from '../src/stack';

/** A reflection that is a parabola in power around `centre`, as a match is near its best. */
const notch = (centre: number, floor: number, width: number, points = 801): Entry => {
  const freq = frequencies(5e9, 15e9, points);
  const re = Float64Array.from(freq, (f) => Math.sqrt(floor ** 2 + ((f - centre) / width) ** 2));
  return { freq, re, im: new Float64Array(points) };
};

describe('reading a match', () => {
  it('finds frequency, depth and band between the samples', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 9e9, max: 11e9, noNaN: true }),
        fc.double({ min: 0.001, max: 0.05, noNaN: true }),
        (centre, floor) => {
          const match = readMatch(notch(centre, floor, 8e9), 10e9, -20)!;
          const half = 8e9 * Math.sqrt(0.01 - floor ** 2);
          return (
            Math.abs(match.best - centre) < 1e3 &&
            Math.abs(match.level - 20 * Math.log10(floor)) < 0.05 &&
            Math.abs(match.band!.low - (centre - half)) < 2e6 &&
            Math.abs(match.band!.high - (centre + half)) < 2e6
          );
        },
      ),
    );
  });

  it('says when the goal is not met, and when the band leaves the sweep', () => {
    expect(readMatch(notch(10e9, 0.2, 8e9), 10e9, -20)!.band).toBeUndefined();
    const wide = readMatch(notch(10e9, 0.01, 800e9), 10e9, -20)!;
    expect(wide.band).toMatchObject({ openLow: true, openHigh: true, low: 5e9, high: 15e9 });
    expect(
      readMatch({ freq: new Float64Array(0), re: new Float64Array(0), im: new Float64Array(0) }, 1, -20),
    ).toBeUndefined();
  });

  it('stays inside the window of any curve, and never tells a deeper match than a sample beside it allows', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.01, max: 1, noNaN: true }), { minLength: 2, maxLength: 60 }),
        fc.double({ min: 5e9, max: 15e9, noNaN: true }),
        (sizes, near) => {
          const freq = frequencies(5e9, 15e9, sizes.length);
          const entry = { freq, re: Float64Array.from(sizes), im: new Float64Array(sizes.length) };
          const match = readMatch(entry, near, -20)!;
          const k = freq.reduce(
            (a, f, i) => (Math.abs(f - match.best) < Math.abs(freq[a] - match.best) ? i : a),
            0,
          );
          const step = freq[1] - freq[0];
          expect(Math.abs(match.best - freq[k])).toBeLessThanOrEqual(step / 2 + 1);
          expect(match.best).toBeGreaterThanOrEqual(freq[0]);
          expect(match.best).toBeLessThanOrEqual(freq[freq.length - 1]);
          expect(match.level).toBeLessThanOrEqual(20 * Math.log10(sizes[k]) + 1e-9);
        },
      ),
      { numRuns: 300 },
    );
    // A slope without a dip is read at its end, as it is.
    const slope = readMatch(notch(2e9, 0.01, 20e9), 10e9, -20)!;
    expect(slope.best).toBeCloseTo(10e9 / Math.SQRT2, -8);
    expect(slope.level).toBeGreaterThan(-13);
  });

  it('keeps to the match nearest the design frequency among equal ones', () => {
    const freq = frequencies(5e9, 15e9, 1001);
    const re = Float64Array.from(freq, (f) => 0.05 * Math.abs(Math.cos((Math.PI * (f - 10e9)) / 2e9)));
    const ripple = { freq, re, im: new Float64Array(freq.length) };
    expect(readMatch(ripple, 10.9e9, -20)!.best).toBeCloseTo(11e9, -6);
    expect(readMatch(ripple, 9.2e9, -20)!.best).toBeCloseTo(9e9, -6);
    // A dip that is deeper far off does not draw the reading away from one that is good enough.
    const lopsided = { ...ripple, re: ripple.re.map((x, k) => (freq[k] < 9.5e9 ? x : Math.hypot(x, 0.008))) };
    expect(readMatch(lopsided, 10.9e9, -20)!.best).toBeCloseTo(11e9, -6);
    expect(readMatch(lopsided, 10.9e9, -40)!.best).toBeLessThan(9.5e9);
  });
});

describe('measures of a reflection', () => {
  it('are those of the textbook', () => {
    expect(decibels(0.1, 0)).toBeCloseTo(-20, 12);
    expect(degrees(0, -1)).toBe(-90);
    expect(vswr(0.5, 0)).toBeCloseTo(3, 12);
    expect(vswr(0, 1)).toBe(Infinity);
    expect(impedanceOf(0, 1, { re: 50, im: 0 }).im).toBeCloseTo(50, 12);
    expect(impedanceOf(1, 0, { re: 50, im: 0 }).re).toBe(Infinity);
    // Power waves: no reflection means the conjugate of the reference.
    expect(impedanceOf(0, 0, { re: 23, im: 41 })).toEqual({ re: 23, im: -41 });
  });

  it('are taken entry by entry, between samples in straight lines', () => {
    const data = {
      ports: 2,
      freq: Float64Array.of(1, 2),
      re: Float64Array.of(1, 2, 3, 4, 5, 6, 7, 8),
      im: new Float64Array(8),
      z0: [
        { re: 50, im: 0 },
        { re: 50, im: 0 },
      ],
    };
    expect([...entryOf(data, 1, 0).re]).toEqual([3, 7]);
    expect(interpolate(entryOf(data, 1, 0), 1.25).re).toBe(4);
    expect(interpolate(entryOf(data, 1, 0), 0).re).toBe(3);
    expect(interpolate(entryOf(data, 1, 0), 9).re).toBe(7);
  });
});

describe('boards', () => {
  it.each(laminates.map((l) => [l.name, l] as const))('%s resolves in both media', (_name, laminate) => {
    for (const medium of ['microstrip', 'stripline'] as const) {
      const { value, problems } = resolveStack(laminate, medium);
      expect(problems).toEqual([]);
      expect(value!.substrate.er).toBe(Number(laminate.er));
      expect(metals.some((m) => m.conductivity === laminate.conductivity)).toBe(true);
    }
  });

  it.each<[keyof Stack, string, RegExp]>([
    ['er', '0.5', /at least 1/],
    ['er', '2 mm', /not a length/],
    ['height', '0 mm', /greater than zero/],
    ['height', '0.508', /needs a unit/],
    ['thickness', '3 ohm', /not a resistance/],
    ['conductivity', '5.8e7', /needs a unit: a conductivity/],
    ['tand', '-0.1', /must not be negative/],
    ['cover', '10 um', /lid must be further/],
    ['roughness', '', /is empty/],
    ['minWidth', 'f0', /"f0" is not a unit/],
  ])('say at %s = %j what is wrong', (field, text, message) => {
    const { value, problems } = resolveStack({ ...laminates[0], [field]: text }, 'microstrip');
    expect(value).toBeUndefined();
    expect(problems).toEqual([{ field, message: expect.stringMatching(message) as string }]);
  });

  it('leave the lid out of a stripline and take an empty one for open', () => {
    expect(resolveStack({ ...laminates[0], cover: '2 mm' }, 'stripline').value!.substrate.cover).toBe(
      Infinity,
    );
    expect(resolveStack({ ...laminates[0], cover: '2 mm' }, 'microstrip').value!.substrate.cover).toBeCloseTo(
      2e-3,
      15,
    );
    expect(
      readStackField(
        stackFields.find((f) => f.field === 'cover')!,
        ' ',
      ),
    ).toBe(Infinity);
    expect(resolveStack({ ...laminates[0], thickness: '2 mm' }, 'stripline').problems[0].field).toBe(
      'thickness',
    );
  });
});
