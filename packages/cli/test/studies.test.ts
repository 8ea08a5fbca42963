import { existsSync, readFileSync, rmSync } from 'node:fs';
import { beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { buildProgram, ditch, file } from './program';

beforeAll(buildProgram);

const [from, to] = [() => file('from.json'), () => file('to.json')];
beforeEach(() => rmSync(to(), { force: true }));

interface Found {
  readonly before: number;
  readonly after: number;
  readonly values: Readonly<Record<string, string>>;
  readonly solves: number;
}
const design = (recipe: string, ...args: string[]) =>
  ditch('design', recipe, '--substrate', 'ptfe-2.94', '--out', from(), ...args);
const search = (command: string, ...args: string[]) =>
  ditch(command, from(), '--out', to(), '--json', ...args);
/** Least and greatest |S21| in dB of a file over a band. */
function through(path: string, start: string, stop: string, level = 'modelled'): [number, number] {
  const { stdout } = ditch(
    'simulate',
    path,
    ...['--level', level, '--start', start, '--stop', stop, '--points', '101', '--json'],
  );
  const { re, im } = JSON.parse(stdout) as { re: number[][][]; im: number[][][] };
  const dB = re.map((m, k) => 20 * Math.log10(Math.hypot(m[1][0], im[k][1][0])));
  return [Math.min(...dB), Math.max(...dB)];
}

describe('ditch retune', () => {
  it('brings a hairpin back from beside its band, and writes nothing where nothing gets better', () => {
    design('bandpass-hairpin', '--freq', '5.8GHz', '--bandwidth', '8%', '--shape', 'chebyshev');
    expect(through(from(), '5.6GHz', '6GHz')[0]).toBeLessThan(-15);
    const { status, stdout } = search('retune', '--level', 'modelled');
    expect(status).toBe(0);
    const found = JSON.parse(stdout) as Found;
    expect(found.after).toBeLessThan(found.before - 20);
    expect(found.solves).toBeGreaterThan(10);
    expect(found.values['pair1.trim']).toMatch(/mm$/);
    // Some of it is lost by the ends of the resonators, which radiate.
    expect(through(to(), '5.6GHz', '6GHz')[0]).toBeGreaterThan(-2.4);
    // The intention is the same to the last digit.
    expect(through(to(), '5GHz', '6GHz', 'ideal')).toEqual(through(from(), '5GHz', '6GHz', 'ideal'));

    rmSync(to());
    design('quarter-wave', '--freq', '5.8GHz', '--load', '50ohm');
    const none = search('retune');
    expect(none.status).toBe(3);
    expect(existsSync(to())).toBe(false);
    expect((JSON.parse(none.stdout) as Found).values).toEqual({});
  });
});

describe('ditch retune --level solved', () => {
  it('brings the solved match back by few solutions, and says when copper cannot be solved', () => {
    design('single-stub', '--freq', '10.55GHz', '--load', '23-41j ohm', '--stub', 'open');
    const solvedMatch = (path: string): number => {
      const at = ['--start', '10.55GHz', '--stop', '10.55GHz', '--points', '1', '--json'];
      const { stdout } = ditch('simulate', path, '--level', 'solved', '--accuracy', 'draft', ...at);
      const { re, im } = JSON.parse(stdout) as { re: number[][][]; im: number[][][] };
      return 20 * Math.log10(Math.hypot(re[0][0][0], im[0][0][0]));
    };
    const { status, stdout } = search('retune', '--level', 'solved', '--accuracy', 'draft');
    expect(status).toBe(0);
    const found = JSON.parse(stdout) as Found;
    expect(found.solves).toBeGreaterThan(1);
    expect(found.solves).toBeLessThanOrEqual(4);
    expect(found.after).toBeLessThan(found.before - 6);
    expect(solvedMatch(to())).toBeLessThan(Math.min(-28, solvedMatch(from()) - 15));
  });
});

describe('ditch back', () => {
  it('has pieces solved over their sizes, on which the modelled level stands', () => {
    design('coupler', '--freq', '5.8GHz', '--coupling', '15dB');
    const back = (...args: string[]) => search('back', ...args);
    const over = ['--over', 'height=0.49mm..0.53mm', '--over', 'bend1.width=1.1mm..1.3mm'];
    const { status, stdout } = back(
      '--piece',
      'bend1',
      ...over,
      '--accuracy',
      'draft',
      '--tolerance',
      '0.01',
    );
    expect(status).toBe(0);
    const found = JSON.parse(stdout) as { data: string; pieces: string[]; solves: number; error: number };
    // The four corners are alike, and one of them was solved.
    expect([...found.pieces].sort()).toEqual(['bend1', 'bend2', 'bend3', 'bend4']);
    expect(found.solves).toBeLessThan(20);
    expect(found.error).toBeLessThan(0.02);
    const [was, is] = [from(), to()].map((path) => through(path, '5GHz', '6GHz'));
    expect(is).not.toEqual(was);
    expect(Math.abs(is[0] - was[0])).toBeLessThan(0.2);
    expect(through(to(), '5GHz', '6GHz', 'ideal')).toEqual(through(from(), '5GHz', '6GHz', 'ideal'));

    rmSync(to());
    for (const [args, message] of [
      [over, /^--piece: is required/],
      [['--piece', 'bend9', ...over], /^--piece: no piece is called "bend9"; there are /],
      [['--piece', 'port1', ...over], /^--over: .*"bend1.width"; there are /],
      [['--piece', 'bend1'], /^--over: is required; these pieces have bend1\.width \(/],
      [['--piece', 'bend1', '--over', 'height=2'], /^--over: needs SIZE=FROM\.\.TO/],
      [['--piece', 'bend1', '--over', 'height=2..3mm'], /^--over: height: needs a unit/],
      [['--piece', 'bend1', '--over', 'height=3mm..2mm'], /^--over: height: its lower end comes first/],
      [
        ['--piece', 'pair1', '--over', 'height=0.4mm..0.6mm'],
        /^--piece: cannot be solved: strips that couple/,
      ],
      [['--piece', 'bend1', ...over, '--tolerance', '2'], /^--tolerance: /],
    ] as const) {
      const refused = back(...args);
      expect([args, refused.status, refused.stdout]).toEqual([args, 2, '']);
      expect(refused.stderr).toMatch(message);
    }
    expect(existsSync(to())).toBe(false);
  });
});

describe('ditch meet', () => {
  const pass = ['--limit', 'S21 above -1 dB from 0 to 6 GHz'];
  const stop = ['--limit', 'S21 below -40 dB from 10.55 to 10.6GHz'];

  it('keeps limits by the copper, or by named values within their ranges, the same for the same seed', () => {
    design('lowpass-stepped', '--freq', '6GHz', '--order', '7', '--shape', 'chebyshev', '--z-low', '20ohm');
    expect(through(from(), '0.01GHz', '6GHz')[0]).toBeLessThan(-3);
    const first = search('meet', ...pass, ...stop);
    expect(first.status).toBe(0);
    expect((JSON.parse(first.stdout) as Found).after).toBe(0);
    expect(through(to(), '0.01GHz', '6GHz')[0]).toBeGreaterThan(-1.01);
    expect(through(to(), '10.55GHz', '10.6GHz')[1]).toBeLessThan(-39.9);
    // The plots of the file are its own business.
    const { designs } = JSON.parse(readFileSync(to(), 'utf8')) as { designs: { plots?: unknown }[] };
    expect(designs[0].plots).toBeUndefined();

    const free = ['zlow=10ohm..40ohm', 't1', 't2', 't3', 't4'].flatMap((f) => ['--free', f]);
    const twice = [1, 2].map(
      () => search('meet', ...pass, ...stop, ...free, '--global', '--seed', '3').stdout,
    );
    expect(twice[0]).toBe(twice[1]);
    const { after, values } = JSON.parse(twice[0]) as Found;
    expect(after).toBe(0);
    const low = Number(/^([\d.]+) ohm$/.exec(values.zlow)?.[1]);
    expect(low).toBeGreaterThanOrEqual(10);
    expect(low).toBeLessThanOrEqual(40);
  });

  it('says which option is wrong, and when nothing is to be had', () => {
    design('lowpass-stub', '--freq', '6GHz');
    for (const [args, message] of [
      [[], /no plot has limits/],
      [['--limit', 'S21 over -1 dB from 0 to 6 GHz'], /^--limit: must read like/],
      [['--limit', 'S21 above -1 GHz from 0 to 6 GHz'], /^--limit: /],
      [['--limit', 'S21 above -1 dB from 0 to 6'], /^--limit: from needs a unit/],
      [[...pass, '--free', 'nothing'], /^--free: nothing that can move is called "nothing"/],
      [[...pass, '--free', 's1=9ohm..3ohm'], /^--free: s1: the range must rise/],
      [[...pass, '--free', 's1=9GHz..10GHz'], /^--free: s1: /],
      [[...pass, '--seed', '2'], /^--seed: belongs to --global/],
      [[...pass, '--level', 'solved', '--global'], /^--global: is not for --level solved/],
      [[...pass, '--accuracy', 'draft'], /^--accuracy: is for --level solved only/],
    ] as const) {
      const { status, stdout, stderr } = search('meet', ...args);
      expect([args, status, stdout]).toEqual([args, 2, '']);
      expect(stderr).toMatch(message);
      expect(stderr.trim().split('\n').length).toBe(1);
    }
    expect(existsSync(to())).toBe(false);
    // What is kept already cannot get better.
    const kept = search('meet', '--limit', 'S21 above -60 dB from 1 to 2 GHz');
    expect([kept.status, (JSON.parse(kept.stdout) as Found).after]).toEqual([3, 0]);
    expect(existsSync(to())).toBe(false);
  });
});
