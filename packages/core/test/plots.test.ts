import { describe, expect, it } from 'vitest';
import { boardDifferences, designDifferences } from '../src/compare';
import { frequencies } from '../src/network';
import { groupDelay, measureOf, measures, parseFormula, rolesOf, usualPlots } from '../src/plots';
import { entryOf, toImpedance } from '../src/results';
import { laminates } from '../src/stack';
import { entry, made, ratio, response, size } from './helpers';

const f0 = 10.55e9;
const freq = frequencies(9e9, 12e9, 61);
const curves = (id: string, recipe: string, inputs = {}) => {
  const data = response(made(recipe, inputs).project, 'ideal', freq);
  return { data, drawn: measureOf(id)!.curves(data, rolesOf(data, f0)) };
};

describe('what one wants to know of a network', () => {
  it('reads the roles of the ports from the response', () => {
    const of = (recipe: string) => rolesOf(response(made(recipe).project, 'ideal', freq), f0);
    expect(of('wilkinson')).toEqual({ ports: 3, outputs: [1, 2], isolated: [] });
    expect(of('branch-line')).toEqual({ ports: 4, outputs: [1, 2], isolated: [3] });
    expect(of('quarter-wave')).toEqual({ ports: 1, outputs: [], isolated: [] });
    expect(usualPlots(of('quarter-wave'))).toContain('match');
    for (const recipe of ['wilkinson', 'branch-line', 'rat-race', 'quarter-wave'])
      for (const id of usualPlots(of(recipe)))
        expect(id === 'smith' || measureOf(id)!.available(of(recipe))).toBe(true);
  });

  it('takes each measure from the entries it is defined by', () => {
    const k = 20;
    const { data } = curves('match', 'branch-line', { ratio: '2' });
    const dB = (i: number, j: number) => 20 * Math.log10(size(entry(data, i, j, k)));
    const at = (id: string, n = 0) => measureOf(id)!.curves(data, rolesOf(data, f0))[n].y[k];
    expect(at('match', 2)).toBeCloseTo(dB(3, 3), 9);
    expect(at('driven', 3)).toBeCloseTo(dB(4, 1), 9);
    expect(at('split', 1)).toBeCloseTo(dB(3, 1), 9);
    expect(at('isolation')).toBeCloseTo(dB(4, 1), 9);
    expect(at('imbalance')).toBeCloseTo(dB(2, 1) - dB(3, 1), 9);
    expect(at('directivity')).toBeCloseTo(dB(3, 1) - dB(4, 1), 9);
    const q = ratio(data, 2, 3, 1, k);
    expect(at('phase')).toBeCloseTo((Math.atan2(q.im, q.re) * 180) / Math.PI, 9);
    expect(at('loss')).toBeCloseTo(-10 * Math.log10(10 ** (dB(2, 1) / 10) + 10 ** (dB(3, 1) / 10)), 9);
    const wilkinson = curves('isolation', 'wilkinson');
    expect(wilkinson.drawn[0].y[3]).toBeCloseTo(20 * Math.log10(size(entry(wilkinson.data, 3, 2, 3))), 9);
    for (const m of measures) expect(m.about.length).toBeGreaterThan(20);
  });

  it('finds the delay of a line from its length', () => {
    const theta = 3.7;
    const re = freq.map((f) => Math.cos((-theta * f) / f0));
    const im = freq.map((f) => Math.sin((-theta * f) / f0));
    for (const t of groupDelay({ freq, re, im })) expect(t).toBeCloseTo(theta / (2 * Math.PI * f0), 18);
  });
});

describe('formulas on results', () => {
  const data = response(made('branch-line').project, 'modelled', freq);
  const k = 7;
  it.each([
    ['S21 in dB', (): number => 20 * Math.log10(size(entry(data, 2, 1, k)))],
    ['abs(S11) in 1', (): number => size(entry(data, 1, 1, k))],
    ['100*abs(S11)^2 in %', (): number => 1e4 * size(entry(data, 1, 1, k)) ** 2],
    ['re(Z11) in ohm', (): number => toImpedance(data).re[k * 16]],
    ['im(Y21)/im(Y21)*50 ohm in kohm', (): number => 0.05],
    [
      'S21*conj(S21) + S31*conj(S31) in 1',
      (): number => size(entry(data, 2, 1, k)) ** 2 + size(entry(data, 3, 1, k)) ** 2,
    ],
    ['freq in GHz', (): number => freq[k] / 1e9],
    ['delay(S21) in ns', (): number => groupDelay(entryOf(data, 1, 0))[k] * 1e9],
    [
      'S31/S21 in deg',
      (): number => {
        const [a, b] = [entry(data, 3, 1, k), entry(data, 2, 1, k)];
        return (Math.atan2(a.im * b.re - a.re * b.im, a.re * b.re + a.im * b.im) * 180) / Math.PI;
      },
    ],
  ] as const)('%s', (text, value) => {
    expect(parseFormula(text).curve(data).y[k]).toBeCloseTo(value(), 9);
  });

  it.each([
    ['S21', /needs its unit behind "in"/],
    ['S21 in ', /needs its unit|needs a unit/],
    ['S21/S31 in ohm', /"ohm" is the unit of a resistance or impedance, and this is a pure number/],
    ['Z11 in ohm', /is complex; say re\(\), im\(\) or abs\(\)/],
    ['Z11 in dB', /dB needs a ratio/],
    ['z0 in ohm', /"z0" is no result/],
    ['S21 + Z11 in dB', /adds a resistance/],
    ['delay(S21) in ohm', /needs a time/],
    ['S21 in parsec/', /cannot be read/],
  ])('%s is refused in words', (text, words) => {
    expect(() => parseFormula(text)).toThrow(words);
  });

  it('asks for ports that are there, and leaves holes where a value does not exist', () => {
    expect(() => parseFormula('S51 in dB').curve(data)).toThrow(
      /asks for port 5, and the network has 4 ports/,
    );
    const holes = { ...data, re: data.re.slice(), im: data.im.slice() };
    holes.re[k * 16 + 4] = holes.im[k * 16 + 4] = 0;
    const { y } = parseFormula('S11/S21 in dB').curve(holes);
    expect(y[k]).toBeNaN();
    expect(y[k + 1]).not.toBeNaN();
  });
});

describe('what differs between two states', () => {
  it('is said in words, each thing once', () => {
    const { project, design } = made('wilkinson');
    expect(designDifferences(design, design)).toEqual([]);
    const changed = {
      ...design,
      goal: '15 dB',
      sweep: { ...design.sweep, points: 801 },
      values: [...design.values.filter((v) => v.name !== 'feed'), { name: 'w', value: '1 mm' }].map((v) =>
        v.name === 'f0' ? { ...v, value: '10 GHz' } : v,
      ),
      pieces: design.pieces
        .filter((p) => p.id !== 'port3')
        .map((p) =>
          p.id === 'arm2'
            ? { ...p, name: 'upper arm', held: { ...p.held, trim: '0.1 mm' } }
            : p.id === 'tee1'
              ? { ...p, settings: { side: 'right' }, nodes: [p.nodes[1], p.nodes[0], p.nodes[2]] }
              : p,
        ),
    };
    expect(designDifferences(design, changed)).toEqual([
      'f0: 10.55 GHz \u2192 10 GHz',
      'w is new: 1 mm',
      'feed is gone',
      'tee at the common port, side: left \u2192 right',
      'tee at the common port is joined elsewhere',
      'arm 2 is now called upper arm',
      'upper arm, trim: free \u2192 0.1 mm',
      'port 3 is gone',
      'sweep, points: 401 \u2192 801',
      'goal: 20 dB \u2192 15 dB',
    ]);
    const board = { ...project, stacks: [{ ...laminates[0], height: '0.254 mm' }] };
    expect(boardDifferences(project, board, design, design)).toEqual([
      'board, height: 0.508 mm \u2192 0.254 mm',
    ]);
  });
});
