import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import { buildProgram, ditch, file } from './program';

beforeAll(buildProgram);

interface Made {
  readonly sections: {
    readonly id: string;
    readonly role: string;
    readonly z0?: number;
    readonly ze?: number;
    readonly zo?: number;
    readonly gap?: number;
    readonly length?: number;
    readonly thetaDeg?: number;
    readonly width?: number;
    readonly resistance?: number;
    readonly capacitance?: number;
    readonly inductance?: number;
    readonly reach?: number;
    readonly angleDeg?: number;
  }[];
}
const common = ['--freq', '10.55GHz', '--substrate', 'ptfe-2.94'];
const design = (recipe: string, ...args: string[]) =>
  ditch('design', recipe, ...common, '--out', file('d.json'), ...args);
function make(recipe: string, ...args: string[]): Made {
  const { status, stdout, stderr } = design(recipe, '--json', ...args);
  expect(stderr).toBe('');
  expect(status).toBe(0);
  return JSON.parse(stdout) as Made;
}
/** |S| at the design frequency, ideal. */
function sizes(): number[][] {
  const { stdout } = ditch(
    'simulate',
    file('d.json'),
    ...['--level', 'ideal', '--start', '10.55GHz', '--stop', '10.55GHz', '--points', '1', '--json'],
  );
  const { re, im } = JSON.parse(stdout) as { re: number[][][]; im: number[][][] };
  return re[0].map((row, i) => row.map((x, j) => Math.hypot(x, im[0][i][j])));
}
const of = (made: Made, role: string) => made.sections.filter((s) => s.role === role);
const impedances = (made: Made, role: string) => of(made, role).map((s) => Number(s.z0!.toFixed(4)));

describe('ditch design: dividers and hybrids', () => {
  it('tee-divider: arms of their own impedance, or a quarter wave to the system', () => {
    const bare = make('tee-divider', '--ratio', '2');
    expect(impedances(bare, 'arm')).toEqual([75, 150]);
    expect(sizes()[0][0]).toBeLessThan(1e-9);
    const matched = make('tee-divider', '--match');
    expect(impedances(matched, 'section')).toEqual([70.7107, 70.7107]);
    expect(of(matched, 'section').map((s) => s.thetaDeg)).toEqual([90, 90]);
    expect(impedances(matched, 'feed')).toEqual([50, 50, 50]);
    expect(sizes()[1][0] ** 2).toBeCloseTo(0.5, 9);
  });

  it('wilkinson: arms, resistor and transformers in the standard arrangement; several sections', () => {
    const even = make('wilkinson');
    expect(impedances(even, 'arm')).toEqual([70.7107, 70.7107]);
    expect(of(even, 'isolation')).toEqual([
      expect.objectContaining({ resistance: expect.closeTo(100, 9) as number }),
    ]);
    expect(of(even, 'transformer')).toEqual([]);
    const uneven = make('wilkinson', '--ratio', '0.25');
    // Pozar's K^2 = P3/P2 = 4: 158.1 and 39.5 ohm, 125 ohm, 70.7 and 35.4 ohm.
    expect(impedances(uneven, 'arm')).toEqual([158.1139, 39.5285]);
    expect(of(uneven, 'isolation')[0].resistance).toBeCloseTo(125, 9);
    expect(impedances(uneven, 'transformer')).toEqual([70.7107, 35.3553]);
    const s = sizes();
    expect(s[2][0] / s[1][0]).toBeCloseTo(2, 9);
    for (const sections of ['2', '3']) {
      const several = make('wilkinson', '--sections', sections);
      expect(of(several, 'arm')).toHaveLength(2 * Number(sections));
      expect(of(several, 'isolation')).toHaveLength(Number(sections));
      expect(of(several, 'arm').every((x) => Math.abs(x.thetaDeg! - 90) < 1e-9)).toBe(true);
    }
  });

  it('branch-line and rat-race: quadrature and phase, on stripline too', () => {
    expect(impedances(make('branch-line', '--sections', '2'), 'through')).toEqual([50, 50, 50, 50]);
    const hybrid = make('branch-line', '--ratio', '2', '--medium', 'stripline');
    expect(impedances(hybrid, 'through')).toEqual([40.8248, 40.8248]);
    expect(impedances(hybrid, 'branch')).toEqual([70.7107, 70.7107]);
    let s = sizes();
    expect(s[1][0] ** 2).toBeCloseTo(2 / 3, 9);
    expect(s[3][0]).toBeLessThan(1e-9);
    const ring = make('rat-race');
    expect(of(ring, 'ring').map((x) => Math.round(x.thetaDeg!))).toEqual([90, 270, 90, 90]);
    s = sizes();
    expect(s[3][0]).toBeLessThan(1e-9);
    expect(s[2][1]).toBeLessThan(1e-9);
    const table = design('rat-race').stdout;
    expect(table).toMatch(/arc12\s+70\.711/);
  });

  it('coupler: even and odd impedances with their copper, exact at the ports', () => {
    const pair = of(make('coupler', '--coupling', '15 dB'), 'coupled')[0];
    const c = Math.pow(10, -15 / 20);
    expect(pair.ze).toBeCloseTo(50 * Math.sqrt((1 + c) / (1 - c)), 9);
    expect(pair.ze! * pair.zo!).toBeCloseTo(2500, 8);
    expect(pair.thetaDeg).toBeCloseTo(90, 9);
    expect(pair.width! > 0 && pair.gap! > 0 && pair.length! > 0).toBe(true);
    expect(pair).not.toHaveProperty('z0');
    const s = sizes();
    expect(s[2][0]).toBeCloseTo(c, 9);
    expect(s[3][0]).toBeLessThan(1e-9);
    const three = of(
      make('coupler', '--coupling', '20dB', '--sections', '3', '--medium', 'stripline'),
      'coupled',
    );
    expect(three.map((x) => x.ze!.toFixed(2))).toEqual(['50.63', '56.68', '50.63']);
    expect(sizes()[2][0]).toBeCloseTo(0.1, 9);
  });

  const load = ['--load', '23-41j ohm'];
  const ids = (made: Made) => made.sections.map((s) => `${s.id}:${s.role}`);
  it('single-stub: exact matches from source to load, in both solutions', () => {
    const lines = ['1', '2'].map((solution) => {
      const stub = make('single-stub', ...load, '--solution', solution, '--stub', 'short');
      expect(ids(stub)).toEqual(['feed1:feed', 'stub:stub', 'line:line']);
      expect(sizes()[0][0]).toBeLessThan(1e-9);
      return of(stub, 'line')[0].thetaDeg!;
    });
    expect(lines[0]).toBeLessThan(lines[1]);
    expect(
      make('single-stub', ...load, '--pair', '--z-stub', '70ohm', '--z-line', '60 ohm').sections,
    ).toHaveLength(4);
    expect(sizes()[0][0]).toBeLessThan(1e-9);
  });

  it('double-stub: likewise, with and without an offset', () => {
    const first = ['1', '2'].map((solution) => {
      const stubs = make(
        'double-stub',
        ...load,
        '--spacing',
        '135deg',
        '--offset',
        '10deg',
        '--solution',
        solution,
      );
      expect(ids(stubs)).toEqual(['feed1:feed', 'stub2:stub', 'spacing:line', 'stub1:stub', 'offset:line']);
      expect(of(stubs, 'line').map((s) => Math.round(s.thetaDeg!))).toEqual([135, 10]);
      expect(sizes()[0][0]).toBeLessThan(1e-9);
      return stubs.sections[3].thetaDeg!;
    });
    expect(first[0]).toBeLessThan(first[1]);
    expect(ids(make('double-stub', ...load, '--spacing', '0.5rad'))).not.toContain('offset:line');
  });

  it('sections of mounted parts: exact, and their parts told as what they are', () => {
    const l = make('l-section', '--load', '200-100j ohm', '--z0', '100 ohm', '--pad', '0 mm');
    expect(ids(l)).toEqual(['feed1:feed', 'part2:part', 'part1:part']);
    // The textbook's 38.8 nH and 0.92 pF at 500 MHz, scaled with frequency.
    expect(l.sections[1].inductance).toBeCloseTo((38.8e-9 * 0.5) / 10.55, 10);
    expect(l.sections[2].capacitance).toBeCloseTo((0.92e-12 * 0.5) / 10.55, 15);
    expect(sizes()[0][0]).toBeLessThan(1e-9);
    const t = make('t-section', ...load, '--q', '3', '--values', 'E24');
    expect(of(t, 'pad')).toHaveLength(3);
    for (const { capacitance, inductance } of of(t, 'part'))
      expect(Number(((capacitance ?? 0) * 1e12 + (inductance ?? 0) * 1e9).toPrecision(2))).toBeCloseTo(
        (capacitance ?? 0) * 1e12 + (inductance ?? 0) * 1e9,
        9,
      );
    make('line-and-part', '--load', 'series 23 ohm, 0.37 pF', '--part', 'series', '--solution', '2');
    expect(sizes()[0][0]).toBeLessThan(1e-9);
    expect(design('pi-section', ...load).stdout).toMatch(/part2\s+[\d.]+\s[np]H/);
  });

  it('radial stubs and bias feeds: their reach beside the lines', () => {
    const stub = make('single-stub', ...load, '--stub', 'radial', '--angle', '90 deg');
    expect(of(stub, 'stub')[0]).toEqual(
      expect.objectContaining({ angleDeg: expect.closeTo(90, 9) as number }),
    );
    expect(sizes()[0][0]).toBeLessThan(1e-9);
    const feed = make('bias-feed', '--z-high', '110 ohm');
    expect(ids(feed)).toEqual(['feed1:feed', 'feed2:feed', 'quarter:quarter', 'stub:stub', 'supply:feed']);
    expect(feed.sections[3].reach).toBeLessThan(5e-3);
    const s = sizes();
    expect(s[2][0]).toBeLessThan(1e-9);
    expect(s[1][0]).toBeCloseTo(1, 9);
  });

  it('stub matches take loads of elements and loads from files, on stripline too', () => {
    make('single-stub', '--load', 'parallel 60 ohm, 0.2 pF', '--medium', 'stripline');
    expect(sizes()[0][0]).toBeLessThan(1e-9);
    writeFileSync(file('load.s1p'), '# GHz Z RI R 50\n9 0.5 -0.9\n12 0.42 -0.7\n');
    make('double-stub', '--load', file('load.s1p'), '--spacing', '140deg');
    expect(sizes()[0][0]).toBeLessThan(1e-9);
  });

  it.each<[string, string[], RegExp]>([
    ['single-stub', [], /^--load: is required/],
    ['single-stub', ['--load', '-3ohm'], /^--load: must not be negative/],
    ['single-stub', ['--load', '50'], /^--load: needs a unit/],
    ['single-stub', ['--load', 'j20 ohm'], /^--load: takes no power/],
    ['single-stub', ['--load', '20ohm', '--angle', '60deg'], /^--angle: .*it belongs to --stub radial/],
    ['l-section', ['--load', '10 ohm', '--pad', '0mm'], /^--form: shunt cannot match it/],
    ['pi-section', ['--load', '10 ohm', '--q', '0.5', '--pad', '0mm'], /^--q: is too low .* at least 2/],
    ['bias-feed', ['--z-high', '40 ohm'], /^--z-high: must be above/],
    ['single-stub', ['--load', 'series 1 pF'], /^--load: takes no power without a resistance/],
    ['single-stub', ['--load', '20 ohm', '--solution', '3'], /^--solution: /],
    ['single-stub', ['--load', '20 ohm', '--stub', 'half'], /^--stub: /],
    ['single-stub', ['--load', '20 ohm', '--z-stub', '0ohm'], /^--z-stub: must be greater than zero/],
    ['single-stub', ['--load', '20 ohm', '--z-line', '49 mm'], /^--z-line: needs a resistance or impedance/],
    ['single-stub', ['--load', '45 ohm', '--z-line', '20 ohm'], /^--z-line: .*never brings the load/],
    ['single-stub', ['--load', '20 ohm', '--spacing', '90deg'], /^--spacing: unknown option/],
    ['double-stub', ['--load', '10 ohm', '--spacing', '90deg'], /^--spacing: .*forbidden region.*26\.57/],
    ['double-stub', ['--load', '10 ohm', '--spacing', '180deg'], /^--spacing: .*multiple of 180 deg/],
    ['double-stub', ['--load', '10 ohm', '--spacing', '0deg'], /^--spacing: must be greater than zero/],
    ['double-stub', ['--load', '10 ohm', '--offset', '-1deg'], /^--offset: must not be negative/],
    ['double-stub', ['--load', '10 ohm', '--offset', '4mm'], /^--offset: needs an angle/],
    ['wilkinson', ['--ratio', '0'], /^--ratio: must be greater than zero/],
    ['wilkinson', ['--ratio', '2ohm'], /^--ratio: needs a pure number/],
    ['wilkinson', ['--ratio', '2', '--sections', '2'], /^--ratio: must be 1 with several sections/],
    ['wilkinson', ['--sections', '4'], /^--sections: needs a whole number from 1 to 3/],
    ['wilkinson', ['--bandwidth', '50%'], /^--bandwidth: .*belongs to --sections 2 and 3/],
    ['wilkinson', ['--sections', '2', '--bandwidth', '300%'], /^--bandwidth: must be above zero/],
    ['wilkinson', ['--sections', '3', '--bandwidth', '-1GHz'], /^--bandwidth: must/],
    ['branch-line', ['--sections', '3'], /^--sections: needs a whole number from 1 to 2/],
    ['branch-line', ['--ratio', '400'], /^--ratio: .*no width has 1000 ohm/],
    ['coupler', ['--coupling', '20'], /^--coupling: needs a unit/],
    ['coupler', ['--coupling', '0dB'], /^--coupling: must be greater than zero/],
    ['coupler', ['--coupling', '3dB'], /^--coupling: .*gap of .*change --coupling/],
    ['coupler', ['--coupling', '0.2dB'], /^--coupling: /],
    ['coupler', ['--sections', '2'], /^--sections: must be one of 1, 3, 5/],
    ['coupler', ['--ripple', '0.2dB'], /^--ripple: .*belongs to --profile ripple/],
    ['rat-race', ['--ratio', 'NaN'], /^--ratio: /],
    ['rat-race', ['--sections', '1'], /^--sections: unknown option/],
    ['tee-divider', ['--match', '--z0', '-5ohm'], /^--z0: must be greater than zero/],
    ['tee-divider', ['--load', '50ohm'], /^--load: unknown option/],
  ])('%s %j is an error at its option, and the file stays', (recipe, args, words) => {
    writeFileSync(file('d.json'), 'precious');
    const { status, stdout, stderr } = design(recipe, ...args, '--json');
    expect(stderr).toMatch(words);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(stdout).toBe('');
    expect(status).toBe(2);
    expect(readFileSync(file('d.json'), 'utf8')).toBe('precious');
  });

  it('help names every option of a recipe and writes nothing', () => {
    const { status, stdout } = ditch('design', 'wilkinson', '--help');
    expect(status).toBe(0);
    for (const option of ['--ratio', '--sections', '--bandwidth', '--freq', '--z0', '--medium', '--out'])
      expect(stdout).toContain(option);
    expect(ditch('design', 'tee-divider', '--help').stdout).toMatch(/--match\s/);
    expect(existsSync(file('nothing.json'))).toBe(false);
  });
});

describe('ditch design: filters', () => {
  it('by the names and meanings of the contract, sections from source to load', () => {
    const stepped = make('lowpass-stepped', '--order', '6', '--z-low', '20ohm', '--z-high', '120ohm');
    expect(impedances(stepped, 'section')).toEqual([20, 120, 20, 120, 20, 120]);
    // The half-power point stands at the cutoff.
    expect(sizes()[1][0] ** 2).toBeCloseTo(0.5, 9);
    const low = make('lowpass-stub', '--order', '3', '--shape', 'chebyshev', '--ripple', '3dB');
    expect(impedances(low, 'stub').map((z) => Number(z.toFixed(1)))).toEqual([64.9, 70.3, 64.9]);
    expect(new Set([...of(low, 'stub'), ...of(low, 'line')].map((s) => s.thetaDeg))).toEqual(new Set([45]));
    const stop = make('bandstop-stub', '--order', '3', '--bandwidth', '50%');
    expect(of(stop, 'stub').length).toBe(3);
    expect(sizes()[1][0]).toBeLessThan(1e-9);
    make('bandpass-stub', '--order', '3', '--shape', 'chebyshev', '--ripple', '0.1dB', '--bandwidth', '50%');
    expect(sizes()[0][0]).toBeLessThan(1e-6);
    const coupled = make('bandpass-coupled', '--order', '3', '--bandwidth', '0.5GHz');
    const [first, second, third, last] = of(coupled, 'coupled');
    expect([third.ze, last.zo]).toEqual([second.ze, first.zo]);
    expect(first.gap!).toBeLessThan(second.gap!);
    const hairpin = make('bandpass-hairpin', '--order', '3', '--bandwidth', '5%', '--fold', '1.8mm');
    expect(of(hairpin, 'fold').map((s) => s.length!.toPrecision(6))).toEqual(Array(3).fill('0.00180000'));
  });

  it('that cannot be say which option to change', () => {
    const even = design('lowpass-stub', '--order', '4', '--shape', 'chebyshev');
    expect([even.status, even.stdout]).toEqual([2, '']);
    expect(even.stderr).toMatch(/^--order: .*take 3 or 5\n$/);
    expect(design('lowpass-stepped', '--z-low', '49ohm', '--z-high', '51ohm').stderr).toMatch(/^--z-high: /);
    expect(design('bandpass-stub', '--bandwidth', '0%').stderr).toMatch(/^--bandwidth: /);
    expect(design('bandpass-coupled', '--shape', 'butterworth', '--ripple', '1dB').stderr).toMatch(
      /^--ripple: .*--shape chebyshev/,
    );
  });
});
