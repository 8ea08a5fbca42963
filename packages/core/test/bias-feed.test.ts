import { describe, expect, it } from 'vitest';
import { layOut, nearPieces } from '../src/artwork';
import { resolveDesign } from '../src/network';
import { C0 } from '../src/numeric';
import { reachOf } from '../src/theory';
import { RecipeError, type RecipeInputs } from '../src/recipes';
import { review } from '../src/review';
import { laminates, type Stack } from '../src/stack';
import { retune } from '../src/studies';
import { entry, made, response, size, withDesign } from './helpers';

const f0 = 10.55e9;
const stripline: Stack = { ...laminates[0], height: '1.016 mm' };
const ends: readonly RecipeInputs[] = [
  { end: 'radial' },
  { end: 'radial', angle: '90 deg' },
  { end: 'open' },
  { end: 'pair', zStub: '45 ohm' },
];

describe('bias feed', () => {
  it.each(ends)(
    '%j: at the design frequency the line notices nothing and nothing reaches the supply',
    (inputs) => {
      for (const medium of ['microstrip', 'stripline'] as const) {
        const { project } = made(
          'bias-feed',
          inputs,
          medium === 'stripline' ? stripline : laminates[0],
          medium,
        );
        const d = response(project, 'ideal', [f0, 1.1 * f0]);
        expect(size(entry(d, 1, 1))).toBeLessThan(1e-9);
        expect(size(entry(d, 2, 1))).toBeCloseTo(1, 9);
        expect(size(entry(d, 3, 1))).toBeLessThan(1e-9);
        // Beside it, at least what the quarter wave alone returns: (pi/4)(z0/zhigh) a tenth.
        expect(size(entry(d, 1, 1, 1))).toBeGreaterThan((Math.PI / 4) * 0.5 * 0.1 * 0.98);
        expect(size(entry(d, 1, 1, 1))).toBeLessThan(0.2);
      }
    },
  );

  it.each(ends)(
    '%j: lies on the boards without a question, and retuning brings the decoupling back',
    (inputs) => {
      for (const [stack, medium] of [
        [laminates[0], 'microstrip'],
        [stripline, 'stripline'],
      ] as const) {
        const { project, design } = made('bias-feed', inputs, stack, medium);
        const resolved = resolveDesign(project, design);
        const layout = layOut(resolved);
        expect(layout.closures).toEqual([]);
        expect(nearPieces(resolved, layout, 100e-6)).toEqual([]);
        expect(review(project, design, resolved, layout)).toEqual([]);
        const { design: after } = retune(project, design);
        const d = response(withDesign(project, after), 'modelled', [f0]);
        expect(size(entry(d, 1, 1))).toBeLessThan(0.03);
        expect(size(entry(d, 3, 1))).toBeLessThan(0.03);
        expect(-20 * Math.log10(size(entry(d, 2, 1)))).toBeLessThan(0.15);
      }
    },
  );

  it('names what cannot be: a feed no higher than the line, an end that is none', () => {
    for (const [inputs, field] of [
      [{ zHigh: '50 ohm' }, 'zHigh'],
      [{ zHigh: '5000 ohm' }, 'zHigh'],
      [{ end: 'shorted' }, 'end'],
      [{ angle: '200 deg' }, 'angle'],
      [{ end: 'open', zStub: '-1 ohm' }, 'zStub'],
    ] as const) {
      let found: unknown;
      try {
        made('bias-feed', inputs);
      } catch (error) {
        found = error;
      }
      expect(found).toBeInstanceOf(RecipeError);
      expect((found as RecipeError).field).toBe(field);
    }
  });
});

describe('a board with a lid', () => {
  it('is matched and decoupled as exactly, whose lines are field solutions', () => {
    const stack: Stack = { ...laminates[0], cover: '4 mm' };
    expect(size(entry(response(made('bias-feed', {}, stack).project, 'ideal', [f0]), 3, 1))).toBeLessThan(
      1e-9,
    );
    const stub = made('single-stub', { stub: 'radial', solution: '2' }, stack);
    expect(size(entry(response(stub.project, 'ideal', [f0]), 1, 1))).toBeLessThan(1e-9);
  });
});

describe('the reach of a radial stub', () => {
  const eeff = 2.3;
  const quarter = C0 / (4 * f0 * Math.sqrt(eeff));
  /** Lines of one impedance per width, as a plate would have them. */
  const plate = (w: number) => ({ z0: 0.05 / w, eeff });

  it('of a narrow opening on lines of one impedance is that of the uniform stub', () => {
    const flat = () => ({ z0: 50, eeff });
    expect(reachOf(Infinity, 1e-3, 1e-3, f0, flat)).toBeCloseTo(quarter, 12);
    for (const theta of [0.1, 0.7, 1.2, 1.9, 2.8])
      expect(reachOf(Math.tan(theta) / 50, 1e-3, 1e-3, f0, flat)).toBeCloseTo(
        (theta / (Math.PI / 2)) * quarter,
        9,
      );
  });

  it('is shorter than a quarter wave, the more so the wider it opens, and grows with the susceptance asked for', () => {
    const short = [20, 60, 120].map((deg) => reachOf(Infinity, 1e-3, (deg * Math.PI) / 180, f0, plate)!);
    expect(short[0]).toBeLessThan(quarter);
    expect(short[1]).toBeLessThan(short[0]);
    expect(short[2]).toBeLessThan(short[1]);
    const rising = [0.005, 0.02, 0.1, Infinity, -0.1, -0.02].map((b) => reachOf(b, 1e-3, 1, f0, plate)!);
    rising.slice(1).forEach((r, i) => expect(r).toBeGreaterThan(rising[i]));
    expect(reachOf(0, 1e-3, 1, f0, plate)).toBeUndefined();
  });
});
