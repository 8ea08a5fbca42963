import { describe, expect, it } from 'vitest';
import { initialWishes, readWishes, realisationsOf, realiseSteps } from '../src/candidates';
import { drive } from '../src/numeric';
import { newId, resolveDesign } from '../src/network';
import { review } from '../src/review';
import {
  approximate,
  delayAt,
  filterShapes,
  leastOrder,
  leastOrderFor,
  lossAt,
  lostFor,
  meeting,
  normalised,
  specifiedLoss,
  type FilterSpecification,
} from '../src/theory';
import { made } from './helpers';

const over = (from: number, to: number, f: (w: number) => number): number[] =>
  Array.from({ length: 2001 }, (_, i) => f(from + ((to - from) * i) / 2000));

describe('shapes of a low-pass', () => {
  it('meet a goal with the least order: one less does not', () => {
    for (const goal of [
      { passLoss: 0.5, stopFrom: 1.5, stopLoss: 40 },
      { passLoss: 3, stopFrom: 2, stopLoss: 25 },
      { passLoss: 3, stopFrom: 5, stopLoss: 25 },
    ])
      for (const { id } of filterShapes) {
        // What is smooth never falls so steeply, but for the goal with the most room.
        let order;
        try {
          order = leastOrder(id, goal);
        } catch (error) {
          expect(['bessel', 'gaussian']).toContain(id);
          expect(String(error)).toMatch(/more room/);
          expect(goal.stopFrom).toBeLessThan(5);
          continue;
        }
        const least = (n: number) => {
          const a = approximate(id, n, goal);
          expect(Math.max(...over(0, 1, (w) => lossAt(a, w)))).toBeLessThan(goal.passLoss + 1e-9);
          expect(Math.min(...over(0, 8, (w) => lossAt(a, w)))).toBeGreaterThan(-1e-9);
          return Math.min(...over(goal.stopFrom, 12, (w) => lossAt(a, w)));
        };
        expect([id, least(order)]).toEqual([id, expect.closeTo(Math.max(least(order), goal.stopLoss), 6)]);
        if (order > 1) expect(least(order - 1)).toBeLessThan(goal.stopLoss);
      }
  });

  it('swing where they shall, and have their zeros on the axis', () => {
    const goal = { passLoss: 0.2, stopFrom: 1.3, stopLoss: 45 };
    for (const id of ['chebyshev', 'inverse', 'elliptic'] as const) {
      const order = leastOrder(id, goal);
      const a = approximate(id, order, goal);
      const pass = over(0, 1, (w) => lossAt(a, w));
      const dips = pass.filter((y, i) => i > 0 && i < 2000 && y > pass[i - 1] && y >= pass[i + 1]);
      if (id !== 'inverse') for (const y of dips) expect(y).toBeCloseTo(goal.passLoss, 5);
      const stop = over(goal.stopFrom, 20, (w) => Math.min(200, lossAt(a, w)));
      const peaks = stop.filter((y, i) => i > 0 && i < 2000 && y < stop[i - 1] && y <= stop[i + 1]);
      if (id !== 'chebyshev') {
        expect(a.zeros.length).toBe(2 * Math.floor(order / 2));
        for (const y of peaks) expect(y).toBeCloseTo(Math.min(...peaks), 0);
      }
    }
  });

  it('have the published poles', () => {
    // Bessel of third order at 3 dB, and the delay's flatness: as many derivatives vanish as the order says.
    const bessel = approximate('bessel', 3, { passLoss: 10 * Math.log10(2), stopFrom: 2, stopLoss: 10 });
    const upper = bessel.poles.filter((p) => p.im > 1e-9)[0];
    expect(upper.re).toBeCloseTo(-1.0474, 4);
    expect(upper.im).toBeCloseTo(0.9993, 4);
    expect(bessel.poles.find((p) => Math.abs(p.im) < 1e-9)!.re).toBeCloseTo(-1.3227, 4);
    expect(delayAt(bessel, 0.2) / delayAt(bessel, 0)).toBeCloseTo(1, 4);
    // Third-order elliptic of 1 dB ripple and 30 dB (Zverev 1967, C03-type): its pass and stop bands fit at one frequency.
    const elliptic = approximate('elliptic', 3, { passLoss: 1, stopFrom: 1.5, stopLoss: 30 });
    const zero = elliptic.zeros.find((z) => z.im > 0)!.im;
    expect(lossAt(elliptic, 1)).toBeCloseTo(1, 9);
    // The stop band's ripple begins at its edge with the depth that it comes back to far away.
    const far = over(zero * 1.2, 30, (w) => lossAt(elliptic, w));
    expect(Math.min(...far)).toBeCloseTo(lossAt(elliptic, 1.5), 3);
    // A Gaussian's loss is the series of the exponential.
    const gaussian = approximate('gaussian', 8, { passLoss: 3, stopFrom: 2, stopLoss: 10 });
    expect(lossAt(gaussian, 0.5)).toBeCloseTo(3 / 4, 3);
  });
});

describe('a filter\u2019s specification', () => {
  const low: FilterSpecification = {
    kind: 'lowpass',
    edges: [6e9],
    passLoss: 0.5,
    stop: [10.55e9, 10.55e9],
    stopLoss: 40,
  };
  const band: FilterSpecification = {
    kind: 'bandpass',
    edges: [5.6e9, 6e9],
    passLoss: 0.2,
    stop: [4.8e9, 5e9],
    stopLoss: 30,
  };

  it('has its edges where they are asked for, of every kind', () => {
    const all: FilterSpecification[] = [
      low,
      band,
      { ...low, kind: 'highpass', stop: [3e9, 3e9] },
      { ...band, kind: 'bandstop', edges: [4e9, 7e9], stop: [5e9, 5.5e9] },
    ];
    for (const spec of all) {
      for (const f of spec.edges) expect(normalised(spec, f)).toBeCloseTo(1, 12);
      const a = meeting(spec, 'chebyshev');
      for (const f of spec.edges) expect(specifiedLoss(spec, a, f)).toBeCloseTo(spec.passLoss, 9);
      for (const f of spec.stop) expect(specifiedLoss(spec, a, f)).toBeGreaterThan(spec.stopLoss - 1e-9);
      expect(leastOrderFor(spec, 'elliptic')!).toBeLessThanOrEqual(a.order);
    }
    // Cohn 1959: 4.34 times the sum of the elements over quality and width, for little loss.
    const a = meeting(band, 'butterworth');
    const g = a.poles.reduce((sum, p) => sum - p.re / (p.re * p.re + p.im * p.im), 0);
    const width = 0.4 / Math.sqrt(5.6 * 6);
    expect(lostFor(band, a, 5000) / ((20 / Math.LN10) * (g / (5000 * width)))).toBeCloseTo(1, 2);
  });

  it('says at the wish what cannot be', () => {
    expect(readWishes(initialWishes).errors).toEqual({});
    for (const [change, field] of [
      [{ edge: '12 GHz' }, 'stopFrom'],
      [{ edge: 'six' }, 'edge'],
      [{ passLoss: '5 dB' }, 'passLoss'],
      [{ stopLoss: '0.3 dB' }, 'stopLoss'],
      [{ stopTo: '9 GHz' }, 'stopTo'],
      [{ kind: 'bandpass', low: '7 GHz' }, 'high'],
      [{ kind: 'bandpass', stopFrom: '5.7 GHz' }, 'stopFrom'],
      [{ kind: 'bandstop' }, 'stopFrom'],
      [{ kind: 'highpass' }, 'stopFrom'],
      [{ z0: '-50 ohm' }, 'z0'],
    ] as const) {
      const { spec, errors } = readWishes({ ...initialWishes, ...change });
      expect([change, spec, Object.keys(errors)[0]]).toEqual([change, undefined, field]);
    }
  });

  it('becomes copper that keeps it, or says which value stands in the way', () => {
    const { project } = made('quarter-wave');
    const [stack] = project.stacks;
    const context = { stack, medium: 'microstrip' as const, newId, data: [] };
    const found = realisationsOf(low, '50 ohm', 120).map((way) =>
      drive(realiseSteps({ ...project, designs: [] }, context, low, way)),
    );
    const kept = found.filter((r) => r.made && r.made.missed.modelled <= 0);
    expect(kept.map((r) => r.recipe)).toContain('lowpass-stub');
    for (const r of found) {
      if (!r.made) {
        expect(r.problem).toMatch(/\w/);
        continue;
      }
      const { design, missed, narrowest, again } = r.made;
      expect(missed.ideal).toBeLessThanOrEqual(1e-6);
      expect(narrowest).toBeGreaterThan(0.99e-4);
      expect(again).toBeGreaterThan(10.55e9);
      // Its plots carry the specification, and the review has no error.
      expect(design.plots![0].limits!.map((l) => l.side)).toEqual(['above', 'below']);
      const resolved = resolveDesign({ ...project, designs: [design] }, design);
      expect(review(project, design, resolved).filter((x) => x.severity === 'error')).toEqual([]);
    }
    // What no shop etches is none, however well it would do.
    expect(found.map((r) => r.problem).filter((p) => p?.includes('etches'))).toEqual([
      expect.stringMatching(/^stub 1, left would be [\d.]+\s.m wide, narrower than the 0.1\smm that this/),
    ]);
    const narrow = realisationsOf(band, '50 ohm', 120).find((w) => w.recipe === 'bandpass-stub')!;
    expect(drive(realiseSteps({ ...project, designs: [] }, context, band, narrow)).problem).toMatch(
      /wider than it is long/,
    );
  });
});
