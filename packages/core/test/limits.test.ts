import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frequencies, type Design, type Limit, type Project } from '../src/network';
import { drive } from '../src/numeric';
import { excess, over, plotCurves, rolesOf } from '../src/plots';
import { limitSteps, RetuneError, type Retuned } from '../src/studies';
import { made, response, withDesign } from './helpers';

const f0 = 10.55e9;
const match = (limits: readonly Limit[]) => [{ id: 'm', show: 'match', limits }];
const below = (level: string, from: string, to: string): Limit => ({
  id: `${level}${from}`,
  side: 'below',
  level,
  from,
  to,
});

function met(project: Project, design: Design): { result: Retuned; told: number[] } {
  const told: number[] = [];
  const steps = limitSteps(withDesign(project, design), design);
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return { result: step.value, told };
    told.push(step.value);
  }
}
/** The worst excess of the modelled match over a limit, at many more points than the search saw. */
function worst(project: Project, design: Design, level: number, from: number, to: number): number {
  const d = response(withDesign(project, design), 'modelled', frequencies(from, to, 801));
  const { curves } = plotCurves({ show: 'match' }, d, rolesOf(d, f0));
  return excess({ x: d.freq, y: curves[0].y }, { side: 'below', level, from, to }, 'dB')!.over;
}

describe('meeting the limits of the plots', () => {
  const stub = made('single-stub', { stub: 'short' });
  const design = {
    ...stub.design,
    strip: ['value:plane', 'value:stub', 'value:zl:re'],
    plots: match([below('-20', '10.2 GHz', '10.9 GHz')]),
  };

  it('finds values on the strip that keep them over the whole band, and leaves the load alone', () => {
    expect(worst(stub.project, design, -20, 10.2e9, 10.9e9)).toBeGreaterThan(2);
    const { result, told } = met(stub.project, design);
    expect(worst(stub.project, result.design, -20, 10.2e9, 10.9e9)).toBeLessThan(0.05);
    expect(result.left).toEqual(['zl, resistance']);
    expect(result.moved.map((m) => m.kind)).toEqual(['angle', 'angle']);
    expect(result.limits![0].before).toBeGreaterThan(2);
    expect(result.limits![0].after).toBeLessThanOrEqual(0);
    expect(result.design.values.find((v) => v.name === 'zl')).toEqual(
      design.values.find((v) => v.name === 'zl'),
    );
    // Progress rises and ends within the whole.
    expect(told.length).toBeGreaterThan(3);
    expect(told.every((t, i) => t > 0 && t <= 1 && (i === 0 || t >= told[i - 1] - 1e-9))).toBe(true);
    // Kept already, nothing moves.
    expect(met(stub.project, result.design).result.moved).toEqual([]);
  });

  it('moves the copper where nothing is on the strip', () => {
    const { result } = met(stub.project, { ...design, strip: [] });
    expect(result.after).toBe(0);
    expect(result.moved.length).toBeGreaterThan(0);
    expect(result.moved.every((m) => m.kind === 'length')).toBe(true);
    // The electrical document stays: copper is trimmed, not redesigned.
    const ideal = (d: Design) => response(withDesign(stub.project, d), 'ideal', [f0]).re[0];
    expect(ideal(result.design)).toBeCloseTo(ideal(design), 12);
  });

  it('gets as near as it can where they cannot be kept, never further away, and says by how much they are missed', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 8, max: 30, noNaN: true }),
        fc.double({ min: 0.5, max: 3, noNaN: true }),
        (dB, half) => {
          const limit = below(`-${dB}`, `${10.55 - half} GHz`, `${10.55 + half} GHz`);
          const wanted = { ...design, plots: match([limit]) };
          const before = worst(stub.project, wanted, -dB, f0 - half * 1e9, f0 + half * 1e9);
          const { result } = met(stub.project, wanted);
          const after = worst(stub.project, result.design, -dB, f0 - half * 1e9, f0 + half * 1e9);
          expect(after).toBeLessThanOrEqual(Math.max(before, 0) + 0.1);
          expect(Math.abs(Math.max(0, after) - result.after)).toBeLessThan(0.3);
        },
      ),
      { numRuns: 12 },
    );
  });

  it('reads measures and formulas of several ports, each in its unit', () => {
    const hybrid = made('branch-line');
    const plots = [
      {
        id: 'a',
        show: 'phase',
        limits: [
          { id: 'p1', side: 'below', level: '91', from: '10.3 GHz', to: '10.8 GHz' } as const,
          { id: 'p2', side: 'above', level: '89', from: '10.3 GHz', to: '10.8 GHz' } as const,
        ],
      },
      {
        id: 'b',
        show: 'formula',
        formulas: ['S11 in dB', 'S41 in dB'],
        limits: [below('-23', '10.4 GHz', '10.7 GHz')],
      },
    ];
    const { result } = met(hybrid.project, { ...hybrid.design, plots });
    expect(result.limits!.map((l) => l.unit)).toEqual(['deg', 'deg', 'dB']);
    expect(result.before).toBeGreaterThan(1);
    for (const l of result.limits!) expect(l.after).toBeLessThanOrEqual(0);
  });

  it('brings curves to a level within its tolerance, an angle a whole turn away too', () => {
    const hybrid = made('branch-line');
    const at = (level: string): Limit => ({
      id: level,
      side: 'at',
      level,
      tolerance: '0.4',
      from: '10.4 GHz',
      to: '10.7 GHz',
    });
    const turned = (level: string) =>
      met(hybrid.project, {
        ...hybrid.design,
        plots: [{ id: 'a', show: 'phase', limits: [at(level)] }],
      }).result;
    const [here, away] = [turned('90'), turned('-270')];
    expect(here.limits![0].before).toBeGreaterThan(0.5);
    expect(here.limits![0].after).toBeLessThanOrEqual(0);
    expect(away.limits![0].before).toBeCloseTo(here.limits![0].before, 9);
    expect(over(181, { side: 'at', level: -179.5, tolerance: 0.2 }, 'deg')).toBeCloseTo(0.3, 12);
    expect(over(181, { side: 'at', level: -179.5, tolerance: 0.2 }, 'dB')).toBeCloseTo(360.3, 12);
  });

  it('weighs one limit against another, and keeps those of every member of a family', () => {
    // Two that contradict one another: what counts more is missed by less.
    const torn = (weight: string) => {
      const limits = [
        below('-30', '9.6 GHz', '9.9 GHz'),
        { ...below('-30', '11.2 GHz', '11.5 GHz'), weight },
      ];
      return met(stub.project, { ...design, plots: match(limits) }).result.limits!.map((l) => l.after);
    };
    const [even, heavy] = [torn('1'), torn('10')];
    expect(heavy[1]).toBeLessThan(even[1] - 1);
    expect(heavy[0]).toBeGreaterThan(even[0]);
    const worse = (scale: string) => (d: Design) => ({
      ...d,
      values: d.values.map((v) => (v.name === 'plane' ? { ...v, value: `${scale}*(${v.value})` } : v)),
    });
    const family = (d: Design) => [d, worse('0.97')(d), worse('1.03')(d)];
    const steps = limitSteps(withDesign(stub.project, design), design, { members: family });
    const result = drive(steps);
    const member = family(result.design).map((d) => worst(stub.project, d, -20, 10.2e9, 10.9e9));
    expect(result.after).toBeCloseTo(Math.max(0, ...member), 1);
    expect(result.after).toBeLessThan(result.before);
  });

  it('stays within the ends that a value was given, says which of them it stands at, and ends when told', () => {
    const ranges = [{ key: 'value:stub', from: 'guided(z0)*0 + 10 deg', to: '20 deg' }];
    expect(() => met(stub.project, { ...design, ranges })).not.toThrow();
    const narrow = { ...design, ranges: [{ key: 'value:stub', from: '10 deg', to: '20 deg' }] };
    const { result } = met(stub.project, narrow);
    const stubAngle = result.moved.find((m) => m.label.startsWith('stub'))!;
    expect(stubAngle.to).toBeCloseTo((20 * Math.PI) / 180, 6);
    expect(result.stopped).toContainEqual(expect.objectContaining({ label: stubAngle.label, end: 'most' }));
    expect(result.trail!.every(([, miss], i, all) => i === 0 || miss < all[i - 1][1])).toBe(true);

    let states = 0;
    const seen: number[] = [];
    const hasty = limitSteps(withDesign(stub.project, narrow), narrow, {
      seed: 1,
      watch: (s) => {
        states = s.evaluations;
        seen.push(s.miss);
        expect(s.design().values.length).toBe(narrow.values.length);
      },
      enough: () => states >= 30,
    });
    expect(drive(hasty).solves).toBeLessThan(60);
    expect(seen.every((m, i) => i === 0 || m <= seen[i - 1])).toBe(true);
    expect(() =>
      met(stub.project, { ...design, ranges: [{ key: 'value:stub', from: '20 deg', to: '10 deg' }] }),
    ).not.toThrow();
  });

  it.each([
    ['no plot has limits', { plots: undefined }],
    ['given', { strip: ['value:zl:re', 'stack:er', 'value:f0'] }],
    ['within the sweep', { plots: match([below('-20', '40 GHz', '50 GHz')]) }],
    [
      'cannot be drawn',
      {
        plots: [
          { id: 'f', show: 'formula', formulas: ['S91 in dB'], limits: [below('-20', '10 GHz', '11 GHz')] },
        ],
      },
    ],
    [
      'has an error',
      { values: design.values.map((v) => (v.name === 'plane' ? { ...v, value: '5 mm' } : v)) },
    ],
  ])('says in words why it cannot: %s', (words, change) => {
    const broken: Design = { ...design, ...change };
    expect(() => met(stub.project, broken)).toThrow(RetuneError);
    expect(() => met(stub.project, broken)).toThrow(new RegExp(words));
  });
});
