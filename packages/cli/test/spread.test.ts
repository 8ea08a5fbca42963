import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { buildProgram, ditch, file } from './program';

beforeAll(buildProgram);

const [from, folder, rows] = [() => file('hybrid.json'), () => file('family'), () => file('rows.csv')];
beforeEach(() => {
  for (const path of [folder(), rows()]) rmSync(path, { recursive: true, force: true });
});
beforeAll(() => {
  ditch('design', 'branch-line', '--substrate', 'ptfe-2.94', '--freq', '10.55GHz', '--out', from());
});

/** All that a Touchstone file says, in the order in which it does. */
const numbers = (path: string): number[] =>
  readFileSync(path, 'utf8')
    .replace(/^[!#].*$/gm, '')
    .trim()
    .split(/\s+/)
    .map(Number);
/** The cells of a CSV file, line by line. */
const cells = (path: string): string[][] =>
  readFileSync(path, 'utf8')
    .trim()
    .split('\r\n')
    .map((line) => line.split(','));

describe('ditch family', () => {
  const family = (...args: string[]) => ditch('family', from(), '--out', folder(), ...args);
  const sweep = ['--start', '10GHz', '--stop', '11GHz', '--points', '5'];

  it('writes a file of each member beside an index, each what simulate writes of it', () => {
    const { status, stderr } = family(
      '--over',
      'z0=45ohm..55 ohm:3',
      '--over',
      'f0=10GHz,10.55GHz',
      ...sweep,
    );
    expect([status, stderr]).toEqual([0, '']);
    expect(readdirSync(folder()).sort()).toEqual([
      ...Array.from({ length: 6 }, (_, i) => `00${i + 1}.s4p`),
      'index.csv',
    ]);
    expect(cells(join(folder(), 'index.csv'))).toEqual([
      ['member', 'z0', 'f0', 'file'],
      ['1', '45', '10000000000', '001.s4p'],
      ['2', '45', '10550000000', '002.s4p'],
      ['3', '50', '10000000000', '003.s4p'],
      ['4', '50', '10550000000', '004.s4p'],
      ['5', '55', '10000000000', '005.s4p'],
      ['6', '55', '10550000000', '006.s4p'],
    ]);
    const alone = file('alone.s4p');
    ditch('simulate', from(), '--set', 'z0=55ohm', '--set', 'f0=10GHz', ...sweep, '--out', alone);
    const [member, same] = [join(folder(), '005.s4p'), alone].map(numbers);
    expect(member.length).toBe(5 * 33);
    member.forEach((x, i) => expect(x).toBeCloseTo(same[i], 12));
    // Made again it replaces what it made, and nothing else.
    expect(family('--over', 'z0=45ohm,50ohm', ...sweep).status).toBe(0);
    expect(readdirSync(folder()).length).toBe(3);
  });

  it('takes boards that come out otherwise under the same copper', () => {
    const { stdout } = family('--over', 'er=2.84..3.04:3', ...sweep, '--json');
    expect(
      (JSON.parse(stdout) as { members: { values: { er: number } }[] }).members.map((m) => m.values.er),
    ).toEqual([2.84, 2.94, 3.04]);
    // The nominal board is the design as it is; the others are not.
    const alone = file('nominal.s4p');
    ditch('simulate', from(), ...sweep, '--out', alone);
    const nominal = numbers(alone);
    expect(nominal.length).toBe(5 * 33);
    const off = (member: number) =>
      Math.max(...numbers(join(folder(), `00${member}.s4p`)).map((x, i) => Math.abs(x - nominal[i])));
    // The pivots may be those of the member before.
    expect(off(2)).toBeLessThan(1e-12);
    expect(off(1)).toBeGreaterThan(1e-4);
    expect(off(3)).toBeGreaterThan(1e-4);
  });

  it('says what is wrong, and makes no folder', () => {
    for (const [args, message] of [
      [[], /^--over: is required/],
      [['--over', 'nothing=1..2:3'], /^--over: nothing is called "nothing"; there are f0, z0/],
      [['--over', 'z0=1..2:3'], /^--over: z0 needs a unit/],
      [['--over', 'z0=45ohm..55ohm'], /^--over: z0 needs START .. STOP : COUNT/],
      [['--over', 'z0=45ohm..55ohm:0'], /^--over: z0 needs a count/],
      [['--over', 'z0=-5ohm..55ohm:3'], /^--over: with z0=.5.{1,2} the design fails/],
      [['--over', 'er=0.5,2'], /^--over: with er=0.5 the design fails: the permittivity/],
      [['--over', 'z0=45ohm,50ohm', '--over', 'z0=45ohm,50ohm'], /^--over: z0 is taken twice/],
      [['--over', 'z0=45ohm,50ohm', '--accuracy', 'fine'], /^--accuracy: is for --level solved only/],
    ] as const) {
      const { status, stdout, stderr } = family(...args, ...sweep);
      expect([args, status, stdout]).toEqual([args, 2, '']);
      expect(stderr).toMatch(message);
      expect(stderr.trim().split('\n').length).toBe(1);
      expect(existsSync(folder())).toBe(false);
    }
    // Somebody else's folder stays what it is.
    mkdirSync(folder());
    writeFileSync(join(folder(), 'notes.txt'), 'mine');
    const { status, stderr } = family('--over', 'z0=45ohm,50ohm', ...sweep);
    expect([status, stderr]).toEqual([2, expect.stringMatching(/^--out: .*holds notes\.txt/)]);
    expect(readdirSync(folder())).toEqual(['notes.txt']);
  });
});

describe('ditch spread', () => {
  const limit = ['--limit', 'S11 below -9 dB from 10.55 to 10.7 GHz'];
  const spread = (...args: string[]) => ditch('spread', from(), ...args);
  interface Told {
    readonly samples: number;
    readonly pass: number;
    readonly yield: number;
    readonly low: number;
    readonly high: number;
    readonly causes: readonly { readonly name: string; readonly share: number }[];
  }

  it('counts what keeps its limits, row by row, the same of the same seed', () => {
    const vary = ['--vary', 'er=4%', '--vary', 'width=20um:uniform', '--vary', 'z0=1%'];
    const run = (seed: string) =>
      spread(...vary, ...limit, '--samples', '60', '--seed', seed, '--out', rows(), '--json');
    const first = run('5');
    expect([first.status, first.stderr]).toEqual([0, '']);
    const told = JSON.parse(first.stdout) as Told;
    const [heads, ...lines] = cells(rows());
    expect(heads).toEqual(['sample', 'er', 'width', 'z0', 'miss_dB', 'pass']);
    expect(lines.length).toBe(60);
    expect(lines.filter((l) => l[5] === '1').length).toBe(told.pass);
    for (const [, er, width, , miss, pass] of lines) {
      expect(Math.abs(Number(er) - 2.94)).toBeLessThan(0.25);
      expect(Math.abs(Number(width))).toBeLessThanOrEqual(20e-6);
      expect(pass).toBe(Number(miss) <= 0 ? '1' : '0');
    }
    expect(told.samples).toBe(60);
    expect(told.yield).toBeCloseTo(told.pass / 60, 12);
    expect(told.low).toBeLessThan(told.yield);
    expect(told.high).toBeGreaterThanOrEqual(told.yield);
    expect(told.causes[0].name).toBe('er');
    expect(told.causes.reduce((sum, c) => sum + c.share, 0)).toBeCloseTo(1, 9);
    const before = readFileSync(rows(), 'utf8');
    expect(run('5').stdout).toBe(first.stdout);
    expect(readFileSync(rows(), 'utf8')).toBe(before);
    run('6');
    expect(readFileSync(rows(), 'utf8')).not.toBe(before);
  });

  it('takes what the file says where nothing is asked, and says which option is wrong', () => {
    // The laminate that ships brings its tolerances along.
    const { stdout } = spread(...limit, '--samples', '20', '--json');
    expect((JSON.parse(stdout) as Told).causes.map((c) => c.name).sort()).toEqual([
      'er',
      'height',
      'thickness',
      'width',
    ]);
    for (const [args, message] of [
      [['--vary', 'er=2%'], /^--limit: the design\u2019s plots have no limits/],
      [[...limit, '--vary', 'er'], /^--vary: needs NAME=SPREAD/],
      [[...limit, '--vary', 'er=2 mm'], /^--vary: er: needs a pure number/],
      [[...limit, '--vary', 'height=5'], /^--vary: height: needs a unit/],
      [[...limit, '--vary', 'z9=5%'], /^--vary: nothing that spreads is called "z9"/],
      [[...limit, '--vary', 'er=2%', '--vary', 'er=3%'], /^--vary: er: is given twice/],
      [[...limit, '--vary', 'er=2%', '--samples', '0'], /^--samples: /],
      [[...limit, '--vary', 'er=2%', '--out', file('rows.txt')], /^--out: .*must end in \.csv/],
      [['--limit', 'S11 below -15 dB', '--vary', 'er=2%'], /^--limit: must read like/],
    ] as const) {
      const { status, stdout, stderr } = spread(...args);
      expect([args, status, stdout]).toEqual([args, 2, '']);
      expect(stderr).toMatch(message);
      expect(stderr.trim().split('\n').length).toBe(1);
    }
    expect(existsSync(rows())).toBe(false);
  });
});
