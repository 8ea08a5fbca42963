import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frequencies, type Design, type Limit, type Project } from '../src/network';
import { excess, plotCurves, rolesOf } from '../src/plots';
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
  return excess({ x: d.freq, y: curves[0].y }, { side: 'below', level, from, to })!;
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
