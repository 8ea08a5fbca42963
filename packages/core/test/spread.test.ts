import { describe, expect, it } from 'vitest';
import { sectionsOn, linePoint, type Substrate } from '../src/lines';
import {
  asMade,
  circuitOf,
  frequencies,
  resolveDesign,
  simulate,
  thin,
  Unmakeable,
  type Design,
} from '../src/network';
import { drive, normalQuantile, shareInterval } from '../src/numeric';
import { parts } from '../src/parts';
import { curveReadings } from '../src/plots';
import { laminates } from '../src/stack';

import {
  centreSteps,
  combinations,
  cornerSteps,
  FamilyError,
  familyDataSteps,
  familyKeys,
  familySteps,
  liveResponse,
  memberAt,
  readFamily,
  readFamilyValues,
  readTolerance,
  spreadSteps,
  ToleranceError,
  usualValues,
  variedOf,
  yieldOf,
} from '../src/studies';
import { drawing } from '../src/studies/spread/draw';
import { entry, made as madeOn, size, withDesign } from './helpers';

const made = (recipe: string, inputs: Record<string, string> = {}) =>
  madeOn(recipe, { freq: '10.55 GHz', ...inputs });

describe('a response read off few frequencies', () => {
  const freq = frequencies(5e9, 15e9, 201);
  const none = () => undefined;
  it('is within what is promised of that at all of them, in states that are like the first, and of two that differ none is given', () => {
    for (const recipe of ['branch-line', 'wilkinson', 'coupler']) {
      const { project, design } = made(recipe);
      const resolved = resolveDesign(project, design);
      const first = circuitOf(resolved, 'modelled')!;
      const few = thin(freq, simulate(first, freq, none), (at) => simulate(first, at, none))!;
      expect(few.at.length).toBeLessThan(80);
      for (const height of [0, 0.02e-3, -0.03e-3]) {
        const circuit = circuitOf(asMade(resolved, { height }), 'modelled')!;
        const [read, all] = [few.whole(simulate(circuit, few.at, none))!, simulate(circuit, freq, none)];
        const off = all.re.map((x, i) => Math.hypot(x - read.re[i], all.im[i] - read.im[i]));
        expect(Math.max(...off)).toBeLessThan(1e-5);
        expect(Math.min(...all.re)).toBeLessThan(-0.3);
      }
      // What does not follow the polynomial is noticed.
      const broken = simulate(first, few.at, none);
      broken.re[10 * first.pieces.filter((p) => p.kind === 'port').length ** 2] += 1e-3;
      expect(few.whole(broken)).toBeUndefined();
    }
  });

  it('is not tried where as many frequencies would be needed', () => {
    const { project, design } = made('bandpass-hairpin', { freq: '10 GHz' });
    const circuit = circuitOf(resolveDesign(project, design), 'modelled')!;
    expect(thin(freq, simulate(circuit, freq, none), (at) => simulate(circuit, at, none))).toBeUndefined();
  });
});

describe('how values are distributed', () => {
  it('inverts the normal distribution', () => {
    for (const [p, z] of [
      [0.5, 0],
      [0.975, 1.959963984540054],
      [0.0013498980316300933, -3],
      [0.9999683287581669, 4],
      [2.866515718791939e-7, -5],
      [7.61985302416047e-24, -10],
    ])
      expect(normalQuantile(p)).toBeCloseTo(z, 10);
    expect([0, 1].map(normalQuantile)).toEqual([-Infinity, Infinity]);
  });

  it('tells a share by the interval that Wilson gives', () => {
    // Newcombe 1998, table I, method 3.
    const published = [
      [81, 263, 0.2553, 0.3662],
      [15, 148, 0.0624, 0.1605],
      [0, 20, 0, 0.1611],
      [1, 29, 0.0061, 0.1718],
    ];
    for (const [hits, count, low, high] of published) {
      const found = shareInterval(hits, count);
      expect(found[0]).toBeCloseTo(low, 4);
      expect(found[1]).toBeCloseTo(high, 4);
      // What misses is told the other way round.
      const [a, b] = shareInterval(count - hits, count);
      expect([1 - b, 1 - a]).toEqual([expect.closeTo(found[0], 12), expect.closeTo(found[1], 12)]);
    }
    expect(shareInterval(0, 0)).toEqual([0, 1]);
  });

  it('reads plus and minus so much', () => {
    expect(readTolerance('5%', 'length')).toEqual({ amount: 0.05, relative: true, shape: 'normal' });
    expect(readTolerance('\u00B1 20 um : uniform', 'length')).toEqual({
      amount: expect.closeTo(20e-6, 12) as number,
      relative: false,
      shape: 'uniform',
    });
    for (const [text, kind, message] of [
      ['', 'length', /how much/],
      ['5', 'length', /needs a unit/],
      ['5 ohm', 'length', /needs a length/],
      ['120%', 'length', /less than 100%/],
      ['-5%', 'length', /./],
      ['5%:flat', 'length', /normal or uniform/],
      ['5%:normal:uniform', 'length', /normal or uniform/],
      ['-20 um', 'length', /./],
      ['width', 'length', /not a unit/],
    ] as const)
      expect(() => readTolerance(text, kind), text).toThrow(message);
  });
});

describe('copper as it is made', () => {
  it('is etched as if it had been drawn so', () => {
    // A line, a pair and a stub by their copper, the etched one against one that is typed with the etched sizes.
    const etch = 30e-6;
    const mm = (x: number) => `${x * 1e3} mm`;
    for (const [kind, held, etched] of [
      ['line', { width: 1e-3, length: 5e-3 }, { width: 1e-3 + etch, length: 5e-3 }],
      [
        'line-pair',
        { width: 0.8e-3, gap: 0.2e-3, length: 5e-3 },
        { width: 0.8e-3 + etch, gap: 0.2e-3 - etch, length: 5e-3 },
      ],
      ['open-stub', { width: 1e-3, length: 3e-3 }, { width: 1e-3 + etch, length: 3e-3 + etch / 2 }],
      ['shorted-stub', { width: 1e-3, length: 3e-3 }, { width: 1e-3 + etch, length: 3e-3 }],
    ] as const) {
      const { project, design } = made('quarter-wave', { zl: '100 ohm', sections: '1' });
      const alone = (faces: Record<string, number>): Design => ({
        ...design,
        pieces: [
          {
            id: 'p',
            name: 'p',
            kind,
            held: Object.fromEntries(Object.entries(faces).map(([f, x]) => [f, mm(x)])),
            nodes:
              parts.get(kind)!.pins({}, () => undefined) === 1
                ? ['a']
                : ['a', 'b', 'c', 'd'].slice(0, kind === 'line' ? 2 : 4),
          },
        ],
      });
      const modelled = (d: Design, by: number) =>
        asMade(resolveDesign(withDesign(project, d), d), { etch: by }).pieces[0].values!;
      const [a, b] = [modelled(alone(held), etch), modelled(alone(etched), 0)];
      for (const face of Object.keys(etched))
        expect(a[face].re, `${kind} ${face}`).toBeCloseTo(b[face].re, 12);
    }
  });

  it('keeps what was drawn on another board, and refuses what cannot be', () => {
    const { project, design } = made('branch-line');
    const resolved = resolveDesign(project, design);
    const other = asMade(resolved, { er: 0.1, height: -20e-6 });
    expect(other.stack!.substrate.er).toBeCloseTo(3.04, 12);
    expect(other.pieces).toBe(resolved.pieces);
    // Nothing is off: it is what it was.
    expect(circuitOf(asMade(resolved, {}), 'modelled')).toEqual(circuitOf(resolved, 'modelled'));
    for (const off of [{ er: -2 }, { height: -1e-3 }, { thickness: -1e-3 }, { etch: -5e-3 }])
      expect(() => asMade(resolved, off), JSON.stringify(off)).toThrow(Unmakeable);
  });

  it('knows of every part of copper what etching does to it', () => {
    // A width that a model reads and that etching leaves alone would be copper that no acid touches.
    for (const [kind, part] of parts)
      for (const read of part.models?.modelled.reads ?? [])
        if (part.field === 'copper' && /^(width|w\d?|entry|gap\d*|g\d|middles|strip)$/.test(read))
          expect(part.etches?.[read], `${kind} ${read}`).toBe(/^g/.test(read) ? -1 : 1);
  });

  it.each([
    ['microstrip', Infinity],
    ['microstrip', 4e-3],
    ['stripline', Infinity],
  ] as const)('reads lines on many like boards from a few: %s, lid at %s', (medium, cover) => {
    const base: Substrate = {
      ...{ er: 2.94, tand: 0.0012, height: 0.508e-3, thickness: 18e-6 },
      ...{ conductivity: 5.8e7, roughness: 0.5e-6, cover },
    };
    const among = { er: [2.85, 3.05], height: [0.48e-3, 0.54e-3], thickness: [14e-6, 22e-6] } as const;
    for (const [er, height, thickness] of [
      [2.85, 0.54e-3, 22e-6],
      [2.9, 0.49e-3, 15e-6],
      [3.04, 0.53e-3, 20e-6],
      // Beyond the ends, where the few of a normal distribution lie.
      [3.06, 0.475e-3, 18e-6],
    ]) {
      const own = { ...base, er, height, thickness };
      const [alone, one] = [own, { ...own, among }].map((s) => sectionsOn(medium, s));
      const points = () => [linePoint(), linePoint()];
      for (const width of [0.3e-3, 2e-3])
        for (const gap of [undefined, 0.2e-3]) {
          const [a, b] = [points(), points()];
          if (gap === undefined) {
            alone.get('strip', width).at(10e9, a);
            one.get('strip', width).at(10e9, b);
          } else {
            alone.get('pair', width, gap).at(10e9, a);
            one.get('pair', width, gap).at(10e9, b);
          }
          // The field solution itself is good to 2e-4.
          for (const m of gap === undefined ? [0] : [0, 1]) {
            expect(b[m].z0 / a[m].z0).toBeCloseTo(1, 4);
            expect(b[m].eeff / a[m].eeff).toBeCloseTo(1, 4);
            expect(b[m].alphaConductor / a[m].alphaConductor).toBeCloseTo(1, 3);
          }
        }
    }
  });
});

/** A quarter wave with a limit on its match, of which `slack` dB is left at the centre. */
function limited(level: string) {
  const { project, design } = made('branch-line');
  const own: Design = {
    ...design,
    plots: [
      {
        id: 'match',
        show: 'formula',
        formulas: ['S11 in dB'],
        limits: [{ id: 'l', side: 'below', level, from: '10.4 GHz', to: '10.7 GHz' }],
      },
    ],
  };
  return { project: withDesign(project, own), design: own };
}

describe('spread and yield', () => {
  const wanted = [
    { key: 'board:er', text: '2%' },
    { key: 'board:height', text: '0.1%' },
    { key: 'value:z0', text: '0.1%:uniform' },
  ];
  const { project, design } = limited('-13');

  it('draws the same of a seed, in parts and together, and each value by itself', () => {
    const run = (samples: number, from = 0, of = wanted) =>
      drive(spreadSteps(project, design, { wanted: of, samples, from, seed: 7, noCauses: true }));
    const whole = run(40);
    const [a, b] = [run(15), run(25, 15)];
    expect([...a.off, ...b.off]).toEqual([...whole.off]);
    expect([...a.miss, ...b.miss]).toEqual([...whole.miss]);
    // One more that spreads leaves the numbers of the others as they are.
    const alone = run(40, 0, wanted.slice(0, 1));
    expect([...alone.off]).toEqual([...whole.off.filter((_x, i) => i % 3 === 0)]);
    expect(run(40, 0, wanted).miss).toEqual(whole.miss);
    const other = drive(spreadSteps(project, design, { wanted, samples: 40, seed: 8, noCauses: true }));
    expect(other.off).not.toEqual(whole.off);
  });

  it('has the distribution that was asked for', () => {
    const count = 4000;
    const varied = variedOf(design, resolveDesign(project, design), wanted);
    const next = drawing(varied, 1);
    const rows = Array.from({ length: count }, next);
    const column = (i: number) => rows.map((row) => row[i]);
    const rms = (list: number[]) => Math.sqrt(list.reduce((s, x) => s + x * x, 0) / list.length);
    const mean = (list: number[]) => list.reduce((s, x) => s + x, 0) / list.length;
    // A third of the ends for normal, 1/sqrt(3) of them for uniform; the mean within four of its own deviations.
    expect(rms(column(0)) / varied[0].half).toBeCloseTo(1 / 3, 1.6);
    expect(rms(column(2)) / varied[2].half).toBeCloseTo(1 / Math.sqrt(3), 1.6);
    for (const i of [0, 1, 2])
      expect(Math.abs(mean(column(i))) / rms(column(i))).toBeLessThan(4 / Math.sqrt(count));
    expect(Math.max(...column(2).map(Math.abs))).toBeLessThanOrEqual(varied[2].half);
    // Nothing that spreads leans on another: r of independent ones is below four over root n.
    const r =
      column(0).reduce((s, x, k) => s + x * column(1)[k], 0) / count / rms(column(0)) / rms(column(1));
    expect(Math.abs(r)).toBeLessThan(4 / Math.sqrt(count));
  });

  it('misses what each sample by itself misses, on the copper that was drawn', () => {
    const { off, miss, varied } = drive(
      spreadSteps(project, design, { wanted: wanted.slice(0, 2), samples: 6, noCauses: true }),
    );
    const nominal = resolveDesign(project, design);
    for (let k = 0; k < 6; k++) {
      const [er, height] = [off[2 * k], off[2 * k + 1]];
      // The board of the sample under copper of the nominal one, with its static values solved for it alone.
      const board = circuitOf(asMade(nominal, { er, height }), 'modelled')!;
      const freq = frequencies(10.4e9, 10.7e9, 101);
      const s = simulate(board, freq, () => undefined);
      const worst = Math.max(...Array.from(freq, (_f, i) => 20 * Math.log10(size(entry(s, 1, 1, i)))));
      expect(miss[k]).toBeCloseTo(worst + 13, 2);
    }
    expect(varied.map((v) => v.nominal)).toEqual([2.94, 0.508e-3]);
    // The design as it is meant misses what it misses without any spread.
    const exact = drive(spreadSteps(project, design, { wanted: [], samples: 3 }));
    expect([...exact.miss]).toEqual([exact.meant, exact.meant, exact.meant]);
    expect(yieldOf(exact.miss).yield).toBe(exact.meant <= 0 ? 1 : 0);
  });

  it('names what costs the yield', () => {
    // Limits that the nominal design just keeps: half of what moves its centre breaks them.
    const { meant } = drive(spreadSteps(project, design, { wanted: [], samples: 1 }));
    const tight = limited(String(-13 + meant + 0.3));
    const found = drive(spreadSteps(tight.project, tight.design, { wanted, samples: 200 }));
    const told = yieldOf(found.miss);
    expect(told.yield).toBeGreaterThan(0.2);
    expect(told.yield).toBeLessThan(0.98);
    expect(told.low).toBeLessThan(told.yield);
    expect(told.high).toBeGreaterThan(told.yield);
    // Of permittivity and two that hardly spread, permittivity.
    expect(found.causes[0]).toBeGreaterThan(0.85);
    expect(found.causes.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
    // Without it nothing is missed.
    const rest = drive(spreadSteps(tight.project, tight.design, { wanted: wanted.slice(1), samples: 200 }));
    expect(yieldOf(rest.miss).yield).toBe(1);
  });

  it('keeps the curves of the plots, sample by sample', () => {
    const { freq, plots } = drive(
      spreadSteps(project, design, { wanted, samples: 5, points: 21, noCauses: true }),
    );
    expect(freq.length).toBe(21);
    expect(plots.map((p) => [p.unit, p.curves.length, p.y.length])).toEqual([['dB', 1, 5 * 21]]);
    expect(plots[0].y.every((v) => v <= 0 && v > -80)).toBe(true);
    const of = (k: number) => [...plots[0].y.subarray(21 * k, 21 * (k + 1))];
    expect(of(0)).not.toEqual(of(1));
  });

  it('says at which value a spread cannot be', () => {
    const resolved = resolveDesign(project, design);
    for (const [key, text, message] of [
      ['value:nothing', '5%', /no value named "nothing"/],
      ['board:er', '3', /spreads by as much as it is/],
      ['board:height', '5 GHz', /needs a length/],
      ['piece:feed1:z0x', '5%', /holds no such/],
      ['board:colour', '5%', /nothing that spreads/],
    ] as const)
      try {
        variedOf(design, resolved, [{ key, text }]);
        expect.unreachable(key);
      } catch (error) {
        expect(error).toBeInstanceOf(ToleranceError);
        expect((error as ToleranceError).key).toBe(key);
        expect((error as ToleranceError).message).toMatch(message);
      }
    // Etching in per cent is of the narrowest line.
    const [etch] = variedOf(design, resolved, [{ key: 'board:etch', text: '10%' }]);
    const widths = resolved.pieces.flatMap((p) => (p.kind === 'line' ? [p.values!.width.re] : []));
    expect(etch.half).toBeCloseTo(0.1 * Math.min(...widths), 9);
  });
});

describe('readings of a curve', () => {
  it('are what the curve is known to have', () => {
    // A resonance: 1/(1 + u^2) in dB, u = (x - 5)/0.5.
    const x = Float64Array.from({ length: 201 }, (_, k) => 4 + k / 100);
    const y = x.map((f) => -10 * Math.log10(1 + ((f - 5.003) / 0.25) ** 2));
    const of = (id: string) => curveReadings.find((r) => r.id === id)!.of(x, y, 5.2531);
    expect(of('f0')).toBeCloseTo(-10 * Math.log10(1 + (0.2501 / 0.25) ** 2), 3);
    expect(of('most')).toBeCloseTo(-10 * Math.log10(1 + (0.003 / 0.25) ** 2), 9);
    expect(of('most-at')).toBeCloseTo(5.003, 4);
    expect(of('least-at')).toBe(4);
    expect(of('band-centre')).toBeCloseTo(5.003, 3);
    // 10 lg 2 is what the edges of half of the power are below the top; 3 dB are a little less.
    expect(of('band')).toBeCloseTo(0.5 * Math.sqrt(10 ** 0.3 - 1), 3);
    const nothing = x.map(() => NaN);
    for (const reading of curveReadings) expect(reading.of(x, nothing, 5)).toBeNaN();
  });
});

describe('corners and centre', () => {
  const wanted = [
    { key: 'board:er', text: '2%' },
    { key: 'board:etch', text: '30 um' },
  ];
  const { project, design } = limited('-13');

  it('finds the worst of all corners', () => {
    const found = drive(cornerSteps(project, design, wanted))!;
    expect(found.looked).toBe(4);
    // By hand: every corner as copper on its board.
    const nominal = resolveDesign(project, design);
    const freq = frequencies(10.4e9, 10.7e9, 41);
    const misses = [-1, 1].flatMap((a) =>
      [-1, 1].map((b) => {
        const made = asMade(nominal, { er: a * 0.02 * 2.94, etch: b * 30e-6 });
        const s = simulate(circuitOf(made, 'modelled')!, freq, () => undefined);
        const worst = Math.max(...Array.from(freq, (_f, k) => 20 * Math.log10(size(entry(s, 1, 1, k)))));
        return { ends: [a, b], miss: worst + 13 };
      }),
    );
    const worst = misses.reduce((a, b) => (b.miss > a.miss ? b : a));
    expect(found.ends).toEqual(worst.ends);
    expect(found.miss).toBeCloseTo(worst.miss, 2);
    expect(found.meant).toBeLessThan(found.miss);
    const still = { ...design, plots: [] };
    expect(drive(cornerSteps(withDesign(project, still), still, wanted))).toBeUndefined();
  });

  it('moves a design that stands beside the middle of what it may be to where more of it is good', () => {
    // Not retuned it passes its band by the slope of its match: a little more permittivity would be better.
    const { meant } = drive(spreadSteps(project, design, { wanted: [], samples: 1 }));
    const tight = limited(String(-13 + meant + 0.1));
    const found = drive(centreSteps(tight.project, tight.design, { wanted }));
    expect(found.before.yield).toBeLessThan(0.75);
    expect(found.after.yield).toBeGreaterThan(0.97);
    expect(found.meantAfter).toBeLessThan(found.meantBefore);
    expect(found.moved.length).toBeGreaterThan(0);
    // What was asked for stays: only the copper has moved.
    expect(found.design.values).toEqual(tight.design.values);
    expect(() => drive(centreSteps(tight.project, tight.design, { wanted: [] }))).toThrow(/nothing spreads/);
  });
});

describe('families', () => {
  it('reads ranges and lists', () => {
    expect(readFamilyValues('0.1 mm .. 0.3mm : 5', 'length')).toEqual(
      [0.1, 0.15, 0.2, 0.25, 0.3].map((x) => expect.closeTo(x * 1e-3, 12) as number),
    );
    expect(readFamilyValues('2.8, 3,2.9', 'number')).toEqual([2.8, 3, 2.9]);
    expect(readFamilyValues('-20um .. 20um : 3', 'length')[1]).toBe(0);
    for (const [text, message] of [
      ['1 mm .. 2 mm', /START .. STOP : COUNT/],
      ['1 mm .. 2 mm : 0', /count/],
      ['1 mm .. 2 mm : x', /count/],
      ['1 mm .. 1 mm : 2', /ends are equal/],
      ['1 mm, 1 mm', /twice/],
      ['1 mm,,', /commas/],
      ['1 .. 2 : 3', /needs a unit/],
      ['z0 .. 2 mm : 3', /not a unit/],
    ] as const)
      expect(() => readFamilyValues(text, 'length'), text).toThrow(message);
  });

  it.each(laminates.filter((l) => ['ptfe-2.94', 'air'].includes(l.id)).map((l) => [l.id, l] as const))(
    'offers of every value a range that can be taken: %s',
    (_id, stack) => {
      const { project, design } = madeOn('branch-line', { freq: '10.55 GHz' }, stack);
      const resolved = resolveDesign(project, design);
      const keys = familyKeys(project, design, resolved);
      expect(keys.length).toBeGreaterThan(10);
      for (const { key } of keys) {
        const values = usualValues(project, design, resolved, key);
        const axes = readFamily(project, design, resolved, [{ key, values }]);
        for (const member of combinations(axes))
          expect(memberAt(project, design, axes, member).values, key).toEqual(member);
      }
    },
  );

  it('has every combination, each the design with its values, or its copper on another board', () => {
    const { project, design } = made('branch-line');
    const resolved = resolveDesign(project, design);
    const axes = readFamily(project, design, resolved, [
      { key: 'value:z0', values: '45 ohm .. 55 ohm : 3' },
      { key: 'board:er', values: '2.84, 2.94, 3.04' },
    ]);
    const all = combinations(axes);
    expect(all.length).toBe(9);
    expect(all[5]).toEqual([50, 3.04]);
    const member = (values: readonly number[]) => memberAt(project, design, axes, values).resolved;
    // As it is it is itself.
    expect(circuitOf(member([50, 2.94]), 'modelled')).toEqual(circuitOf(resolved, 'modelled'));
    // On another board the copper stays; of another impedance it does not.
    const width = (r: typeof resolved) =>
      r.pieces.find((p) => p.role !== 'feed' && p.kind === 'line')!.values!.width.re;
    expect(width(member([50, 3.04]))).toBe(width(resolved));
    expect(member([50, 3.04]).stack!.substrate.er).toBeCloseTo(3.04, 12);
    expect(width(member([55, 2.94]))).toBeLessThan(width(resolved));
    expect(
      memberAt(project, design, axes, [55, 3.04]).design.values.find((v) => v.name === 'z0')!.value,
    ).toBe('55 ohm');
    for (const [axis, message] of [
      [{ key: 'value:nothing', values: '1,2' }, /nothing that this design has/],
      [{ key: 'value:z0', values: '1,2' }, /needs a unit/],
    ] as const)
      expect(() => readFamily(project, design, resolved, [axis])).toThrow(message);
    const plot = { id: 'm', show: 'formula', formulas: ['S11 in dB'] };
    const { y, freq, failed, curves } = drive(
      familySteps(project, design, axes, { respond: liveResponse(project, 'modelled'), plot, points: 31 }),
    );
    expect([curves.length, failed.every((f) => f === undefined), y.length]).toEqual([1, true, 9 * 31]);
    // The fifth is the design as it is.
    const s = simulate(circuitOf(resolved, 'modelled')!, freq, () => undefined);
    for (let k = 0; k < 31; k++)
      expect(y[4 * 31 + k]).toBeCloseTo(20 * Math.log10(size(entry(s, 1, 1, k))), 4);
    // More permittivity under the same copper lowers its centre.
    const least = curveReadings.find((r) => r.id === 'least-at')!;
    const centre = (m: number) => least.of(freq, y.subarray(m * 31, (m + 1) * 31), 10.55e9);
    expect(centre(5)).toBeLessThan(centre(4));
    expect(centre(3)).toBeGreaterThan(centre(4));
    // A plane that a value holds follows: the line before it is so much shorter, its match the same.
    const planed = {
      ...design,
      values: [...design.values, { name: 'inwards', value: '1 mm' }],
      pieces: design.pieces.map((p) =>
        p.id === 'port1' ? { ...p, held: { ...p.held, plane: 'inwards' } } : p,
      ),
    };
    const own = { ...project, designs: [planed] };
    const over = readFamily(own, planed, resolveDesign(own, planed), [
      { key: 'value:inwards', values: '0 mm, 2 mm' },
    ]);
    const read = (formula: string) =>
      drive(
        familySteps(own, planed, over, {
          respond: liveResponse(own, 'modelled'),
          plot: { id: 'p', show: 'formula', formulas: [formula] },
          points: 3,
        }),
      ).y;
    const [sizes, angles] = [read('S11 in dB'), read('S11 in deg')];
    const feed = resolved.pieces.find((p) => p.id === 'feed1')!.values!;
    const degrees = (2 * 180 * ((feed.theta.re / Math.PI) * 2e-3)) / feed.length.re;
    // The middle of the sweep is the design frequency.
    expect(sizes[4]).toBeCloseTo(sizes[1], 1);
    expect((((angles[4] - angles[1]) % 360) + 360) % 360).toBeCloseTo(degrees, 0);
    expect(() => memberAt(project, design, [{ key: 'board:er', kind: 'number', now: 2.94 }], [0.5])).toThrow(
      FamilyError,
    );
  });

  it('drives two ports at once: a hybrid puts both waves together where their phases meet', () => {
    const { project, design } = made('branch-line');
    const resolved = resolveDesign(project, design);
    const key = 'drive:2+3:phase';
    const at = (axes: { key: string; values: string }[]) => readFamily(project, design, resolved, axes);
    const draw = (axes: { key: string; values: string }[]) =>
      drive(
        familySteps(project, design, at(axes), {
          respond: liveResponse(project, 'ideal'),
          plot: { id: 'out', show: 'outgoing' },
          points: 3,
        }),
      );
    const phases = [-135, -90, 0, 30, 90, 180];
    const { y, curves, unit } = draw([{ key, values: phases.map((p) => `${p} deg`).join(', ') }]);
    expect([unit, curves.map((c) => c.label)]).toEqual(['dB', [1, 2, 3, 4].map((p) => `out of port ${p}`)]);
    phases.forEach((phase, m) => {
      // The middle of the sweep is the design frequency. Without loss all that goes in comes out.
      const power = curves.map((_c, c) => Math.pow(10, y[(m * 4 + c) * 3 + 1] / 10));
      const share = Math.cos((((phase + 90) / 2) * Math.PI) / 180) ** 2;
      const expected = power[0] > power[3] === share > 0.5 ? share : 1 - share;
      expect(power[0]).toBeCloseTo(expected, 5);
      expect(power[0] + power[3]).toBeCloseTo(1, 5);
    });
    // 6 dB apart in quadrature: (1 + 1/2)^2 / 2 of 1 + 1/4.
    const uneven = draw([
      { key, values: '-90 deg, 90 deg' },
      { key: 'drive:2+3:level', values: `${20 * Math.log10(0.5)} dB` },
    ]);
    const best = Math.max(uneven.y[1], uneven.y[4 * 3 + 1]);
    expect(best).toBeCloseTo(10 * Math.log10(1.125 / 1.25), 4);
    expect(() =>
      at([
        { key, values: '0 deg' },
        { key: 'drive:1+4:phase', values: '0 deg' },
      ]),
    ).toThrow(/other ports/);
    expect(() =>
      drive(familyDataSteps(project, design, at([{ key, values: '0 deg' }]), liveResponse(project, 'ideal'))),
    ).toThrow(/no S-parameters/);
  });
});
