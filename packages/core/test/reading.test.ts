import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { writeTouchstone } from '../src/formats';
import { circuitOf, createSolver, frequencies, networkOf, resolveDesign, solveNetwork } from '../src/network';
import { parseFormula, plotCurves, proposeLimit, rolesOf } from '../src/plots';
import { decibels, entryOf, interpolate, readMatch, sharpenMatch, withPoints } from '../src/results';
import { limitSteps } from '../src/studies';
import {
  formatImpedance,
  formatQuantity,
  formatVswr,
  meantEntry,
  parseExpression,
  QuantityError,
  readQuantity,
  showLengthsIn,
} from '../src/units';
import { made, response, withDesign } from './helpers';

const f0 = 10.55e9;
const coarse = frequencies(0.5e9, 16e9, 12);

/** A match at one level: its network, and S11 and |S11|^2 anywhere. */
function match(level: 'ideal' | 'modelled', inputs: Record<string, string> = {}) {
  const { project, design } = made('quarter-wave', { load: '120 ohm', ...inputs });
  const network = networkOf(circuitOf(resolveDesign(project, design), level)!, () => undefined);
  const solver = createSolver(network);
  const [re, im] = [new Float64Array(1), new Float64Array(1)];
  let solutions = 0;
  const s11 = (f: number) => {
    solver.solve(f, re, im, 0);
    solutions++;
    return { re: re[0], im: im[0] };
  };
  return {
    network,
    s11,
    at: (f: number) => {
      const s = s11(f);
      return s.re * s.re + s.im * s.im;
    },
    /** Solutions since it was asked last. */
    count: () => {
      const made = solutions;
      solutions = 0;
      return made;
    },
  };
}

describe('what is read between the samples of a coarse sweep', () => {
  it.each(['1', '2', '3'])('is what a fine sweep of %s sections says', (sections) => {
    for (const level of ['ideal', 'modelled'] as const) {
      const { network, at, s11, count } = match(level, { sections });
      const read = (freq: Float64Array) => {
        const entry = entryOf(solveNetwork(network, freq), 0, 0);
        count();
        const sharp = sharpenMatch(readMatch(entry, f0, -20)!, entry, f0, -20, s11);
        // The samples are known already, however many of them lie in the band.
        expect(count()).toBeLessThan(45);
        return sharp;
      };
      const [rough, fine] = [read(coarse), read(frequencies(0.5e9, 16e9, 4001))];
      expect(rough.best / fine.best).toBeCloseTo(1, 8);
      expect(at(rough.best)).toBeLessThanOrEqual(at(fine.best) * 1.0001 + 1e-20);
      for (const edge of ['low', 'high'] as const) {
        expect(rough.band![edge] / fine.band![edge]).toBeCloseTo(1, 7);
        expect(10 * Math.log10(at(rough.band![edge]))).toBeCloseTo(-20, 5);
      }
      if (level === 'ideal') expect([rough.best, rough.level < -180]).toEqual([f0, true]);
    }
  });

  it('finds no band where the goal is not met, and an open one where the sweep ends inside it', () => {
    const { network, s11 } = match('modelled');
    const entry = entryOf(solveNetwork(network, coarse), 0, 0);
    expect(sharpenMatch(readMatch(entry, f0, -90)!, entry, f0, -90, s11).band).toBeUndefined();
    const near = entryOf(solveNetwork(network, frequencies(10.4e9, 10.7e9, 4)), 0, 0);
    expect(sharpenMatch(readMatch(near, f0, -20)!, near, f0, -20, s11).band).toMatchObject({
      openLow: true,
      openHigh: true,
    });
  });

  it('stands at its own frequency among the samples', () => {
    const { network, at } = match('modelled');
    const swept = solveNetwork(network, coarse);
    const all = withPoints(swept, solveNetwork(network, Float64Array.of(1e9, coarse[3] * (1 + 1e-14), f0)));
    expect(all.freq).toHaveLength(14);
    expect([...all.freq]).toEqual([...all.freq].sort((a, b) => a - b));
    const s = interpolate(entryOf(all, 0, 0), f0);
    expect(s.re * s.re + s.im * s.im).toBe(at(f0));
    expect(decibels(s.re, s.im)).toBeLessThan(-50);
    const rough = interpolate(entryOf(swept, 0, 0), f0);
    expect(decibels(rough.re, rough.im) - decibels(s.re, s.im)).toBeGreaterThan(3);
  });
});

describe('formulas on plots', () => {
  const { project } = made('branch-line');
  const data = response(project, 'ideal', frequencies(9e9, 12e9, 5));
  const { values } = resolveDesign(project, project.designs[0]);

  it('know the named values of the design, and results in small letters', () => {
    const [a, b] = ['re(Z11/z0) in 1', 're(z11/(50 ohm)) in 1'].map(
      (t) => parseFormula(t, values).curve(data).y,
    );
    // z11 may be a value's name and is none here.
    a.forEach((y, k) => expect(b[k]).toBeCloseTo(y, 12));
    expect(parseFormula('s21 in dB').curve(data).y).toEqual(parseFormula('S21 in dB').curve(data).y);
    expect(parseFormula('freq/f0 in 1', values).curve(data).y[4]).toBeCloseTo(12 / 10.55, 12);
    expect(() => parseFormula('S21*zx in dB', values)).toThrow(/no named value/);
    const plot = { show: 'formula', formulas: ['abs(S21)*z0 in ohm'] };
    expect(plotCurves(plot, data, rolesOf(data, f0), values).curves[0].y[2]).toBeCloseTo(50 / Math.SQRT2, 1);
  });

  it('ask a port that is not there in words', () => {
    const one = response(made('quarter-wave').project, 'ideal', [f0]);
    expect(() => parseFormula('S22 in dB').curve(one)).toThrow(/port 2, and the network has one port/);
  });
});

describe('limits', () => {
  it.each([
    ['match', 'dB', { S11: -30 }, { side: 'below', level: '-20' }],
    ['driven', 'dB', { S11: -40, S21: -3, S31: -3, S41: -50 }, { level: '-20', curves: ['S11', 'S41'] }],
    ['split', 'dB', { S21: -3.1, S31: -3.4 }, { side: 'above', level: '-4' }],
    ['directivity', 'dB', { x: 32 }, { side: 'above', level: '20' }],
    ['imbalance', 'dB', { x: 0.1 }, { side: 'below', level: '0.5' }],
    ['phase', 'deg', { x: 90.2 }, { side: 'at', level: '90', tolerance: '5' }],
    ['formula', '1', { x: 0.31 }, { side: 'below', level: '0.35' }],
  ])('are proposed for %s where they make sense', (show, unit, at, expected) => {
    const ids = Object.keys(at);
    const found = proposeLimit(
      show,
      unit,
      ids.map((id) => ({ id })),
      (i) => Object.values(at)[i],
      20,
    );
    expect(found).toMatchObject(expected);
  });

  it('name the curves they are about, and search for those alone', () => {
    const { project, design } = made('branch-line');
    const limited = (curves?: readonly string[]) => {
      const limits = [
        { id: 'l', side: 'below' as const, level: '-20', from: 'f0', to: 'f0', ...(curves && { curves }) },
      ];
      const own = { ...design, plots: [{ id: 'p', show: 'driven', limits }] };
      const steps = limitSteps(withDesign(project, own), own);
      let step = steps.next();
      while (!step.done) step = steps.next();
      return step.value.limits![0];
    };
    // What passes at -3 dB cannot lie below -20; what is meant can.
    expect(limited().after).toBeGreaterThan(10);
    expect(limited(['S11', 'S41'])).toMatchObject({
      label: expect.stringMatching(/^S11, S41 below/) as string,
    });
    expect(limited(['S11', 'S41']).after).toBeLessThanOrEqual(0);
  });
});

describe('what somebody types into a field of the page', () => {
  it.each([
    ['50', 'impedance', '50 ohm'],
    ['23-41j', 'impedance', '23-41j ohm'],
    ['90', 'angle', '90 deg'],
    ['20', 'level', '20 dB'],
    ['0.5', 'length', '0.5'],
    ['10.55', 'frequency', '10.55'],
    ['10.55GHZ', 'frequency', '10.55GHz'],
    ['10.55 ghz', 'frequency', '10.55 GHz'],
    ['50 OHM', 'impedance', '50 ohm'],
    ['50R', 'impedance', '50ohm'],
    ['4R7', 'impedance', '4.7 ohm'],
    ['36MIL', 'length', '36mil'],
    ['2*z0', 'impedance', '2*z0'],
    ['z0', 'impedance', 'z0'],
    ['100 MOHM', 'impedance', '100 MOHM'],
    ['', 'impedance', ''],
  ] as const)('%s in %s is %s', (text, kind, meant) => {
    expect(meantEntry(text, kind, new Set(['z0', 'R']))).toBe(text === '50R' ? '50R' : meant);
    expect(meantEntry(text, kind)).toBe(meant);
  });

  it('is right as it is wherever it can be read already', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-3, max: 1e6, noNaN: true }),
        fc.constantFrom('mm', 'mil', 'um', 'GHz', 'MHz', 'ohm', 'kohm', 'deg', 'dB', 'pF', 'nH', 'S', 'mS'),
        (x, unit) => meantEntry(`${x} ${unit}`, 'impedance') === `${x} ${unit}`,
      ),
    );
  });

  it('is strict elsewhere, and says what may have been meant', () => {
    expect(() => readQuantity('50', { kind: 'impedance' })).toThrow(/needs a unit/);
    const said = (text: string) => {
      try {
        parseExpression(text).evaluate({ names: () => ['z0', 'Slot'], value: () => undefined });
        return '';
      } catch (error) {
        return error instanceof QuantityError ? error.message : 'no sentence';
      }
    };
    expect(said('10 ghz')).toMatch(/did you mean GHz\?/);
    expect(said('100 MOHM')).toMatch(/did you mean mohm or Mohm\?/);
    expect(said('2*Z0')).toMatch(/did you mean z0\?/);
    expect(said('slot')).toMatch(/did you mean Slot\?/);
    expect(said('sqrt')).toMatch(/sqrt is a function: write sqrt\(/);
    expect(said('nonsense')).not.toMatch(/did you mean/);
  });
});

describe('numbers that somebody would say', () => {
  it('call an open, a short and total reflection so', () => {
    expect(formatImpedance({ re: -1.1e17, im: 3 })).toBe('open');
    expect(formatImpedance({ re: Infinity, im: 0 })).toBe('open');
    expect(formatImpedance({ re: 1e-12, im: -1e-12 })).toBe('short');
    expect(formatImpedance({ re: 50, im: 1e-9 })).toBe('50\u2009\u03A9');
    expect(formatImpedance({ re: 1e-12, im: -41 })).toBe('\u2212j41\u2009\u03A9');
    expect(formatVswr(9e15)).toBe('total reflection');
    expect(formatVswr(Infinity)).toBe('total reflection');
    expect(formatVswr(1.5)).toBe('1.5');
  });

  it('are in mil where the page is', () => {
    try {
      showLengthsIn('mil');
      expect(formatQuantity(1.27e-3, 'length')).toBe('50\u2009mil');
      expect(formatQuantity(1.27e-3, 'length', { typed: true })).toBe('50 mil');
      expect(formatQuantity(50, 'impedance')).toBe('50\u2009\u03A9');
    } finally {
      showLengthsIn('mm');
    }
    expect(formatQuantity(1.27e-3, 'length')).toBe('1.27\u2009mm');
  });

  it('are plain letters in comments of Touchstone', () => {
    const data = response(made('quarter-wave').project, 'ideal', [f0]);
    const comments = [
      'quarter wave, 50\u2009\u03A9 to 130\u2009\u03A9, \u03B5r 2.94, 18 \u00B5m, 90\u00B0, \u201Cboard\u201D',
    ];
    const [first] = writeTouchstone(data, { version: 1, comments }).split('\n');
    expect(first).toBe('! quarter wave, 50 ohm to 130 ohm, er 2.94, 18 um, 90 deg, "board"');
  });
});
