import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import { buildProgram, ditch, file } from './program';

beforeAll(buildProgram);

interface Made {
  readonly sections: {
    readonly id: string;
    readonly role: string;
    readonly z0?: number;
    readonly thetaDeg?: number;
    readonly width?: number;
    readonly resistance?: number;
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

  it.each<[string, string[], RegExp]>([
    ['wilkinson', ['--ratio', '0'], /^--ratio: must be greater than zero/],
    ['wilkinson', ['--ratio', '2ohm'], /^--ratio: needs a pure number/],
    ['wilkinson', ['--ratio', '2', '--sections', '2'], /^--ratio: must be 1 with several sections/],
    ['wilkinson', ['--sections', '4'], /^--sections: needs a whole number from 1 to 3/],
    ['wilkinson', ['--bandwidth', '50%'], /^--bandwidth: .*belongs to --sections 2 and 3/],
    ['wilkinson', ['--sections', '2', '--bandwidth', '300%'], /^--bandwidth: must be above zero/],
    ['wilkinson', ['--sections', '3', '--bandwidth', '-1GHz'], /^--bandwidth: must/],
    ['branch-line', ['--sections', '3'], /^--sections: needs a whole number from 1 to 2/],
    ['branch-line', ['--ratio', '400'], /^--ratio: .*no width has 1000 ohm/],
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
