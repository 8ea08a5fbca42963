import { spawnSync } from 'node:child_process';
import { chmodSync, closeSync, existsSync, openSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { beforeAll, describe, expect, it } from 'vitest';
import { readTouchstone } from '@ditch/core/formats';
import { analyseLine } from '@ditch/core/lines';
import { buildProgram, ditch, file, program } from './program';

const board = ['--er', '2.94', '--height', '0.508mm', '--thickness', '18um', '--tand', '0.0012'];

beforeAll(buildProgram);

const json = (...args: string[]) => {
  const { status, stdout, stderr } = ditch(...args, '--json');
  expect(stderr).toBe('');
  expect(status).toBe(0);
  return JSON.parse(stdout) as Record<string, number> & {
    warnings: unknown[];
    sections: Record<string, number>[];
  };
};

describe('ditch line', () => {
  it('synthesises and analyses the same line, with every key of the contract', () => {
    const made = json(
      'line',
      'microstrip',
      ...board,
      '--freq',
      '10.55GHz',
      '--z0',
      '50ohm',
      '--theta',
      '90deg',
    );
    expect(Object.keys(made)).toEqual(
      expect.arrayContaining([
        'kind',
        'mode',
        'width',
        'length',
        'freq',
        'z0',
        'eeff',
        'thetaDeg',
        'wavelength',
        'velocityFactor',
        'lossConductor',
        'lossDielectric',
        'skinDepth',
        'warnings',
      ]),
    );
    expect(made.mode).toBe('synthesis');
    const back = json(
      'line',
      'microstrip',
      ...board,
      '--freq',
      '10.55 GHz',
      '--width',
      `${made.width}m`,
      '--length',
      `${made.length} m`,
    );
    expect(back.z0).toBeCloseTo(50, 9);
    expect(back.thetaDeg).toBeCloseTo(90, 9);
    expect(
      json(
        'line',
        'stripline',
        '--er',
        '2.2',
        '--height',
        '1mm',
        '--freq',
        '1GHz',
        '--width',
        '0.5mm',
        '--length',
        '1mm',
        '--model',
        'static',
      ).eeff,
    ).toBe(2.2);
  });

  it.each<[string, string[], RegExp]>([
    [
      'a bare number',
      ['microstrip', ...board, '--freq', '10', '--z0', '50ohm', '--theta', '90deg'],
      /^--freq: needs a unit/,
    ],
    [
      'a wrong dimension',
      ['microstrip', ...board, '--freq', '1GHz', '--z0', '50mm', '--theta', '90deg'],
      /^--z0: needs a resistance/,
    ],
    [
      'both modes',
      ['microstrip', ...board, '--freq', '1GHz', '--z0', '50ohm', '--theta', '9deg', '--width', '1mm'],
      /^--z0: belongs to synthesis/,
    ],
    [
      'a missing half',
      ['microstrip', ...board, '--freq', '1GHz', '--width', '1mm'],
      /^--length: is required/,
    ],
    [
      'a missing board',
      ['microstrip', '--er', '2', '--freq', '1GHz', '--width', '1mm', '--length', '1mm'],
      /^--height: is required/,
    ],
    [
      'a negative value',
      ['microstrip', ...board, '--freq', '-1GHz', '--width', '1mm', '--length', '1mm'],
      /^--freq: must be greater than zero/,
    ],
    [
      'NaN',
      ['microstrip', '--er', 'NaN', '--height', '1mm', '--freq', '1GHz', '--width', '1mm', '--length', '1mm'],
      /^--er: "NaN" is not a unit; needs a pure number/,
    ],
    [
      'too thick a conductor',
      [
        'stripline',
        '--er',
        '2',
        '--height',
        '1mm',
        '--thickness',
        '1mm',
        '--freq',
        '1GHz',
        '--width',
        '1mm',
        '--length',
        '1mm',
      ],
      /^--thickness: .*thinner/,
    ],
    [
      'an impossible impedance',
      ['microstrip', ...board, '--freq', '1GHz', '--z0', '3000ohm', '--theta', '90deg'],
      /^--z0: no width/,
    ],
    ['an unknown option', ['microstrip', ...board, '--colour', 'red'], /^--colour: unknown option/],
    ['an option without value', ['microstrip', '--er'], /^--er: needs a value/],
    ['an unknown kind', ['slotline', ...board], /"slotline" is not a kind of line/],
  ])('refuses %s in one line with exit code 2', (_what, args, message) => {
    const { status, stdout, stderr } = ditch('line', ...args, '--json');
    expect(stderr).toMatch(message);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(stdout).toBe('');
    expect(status).toBe(2);
  });

  it('gives the core\u2019s numbers in full precision, whatever units were typed', () => {
    const substrate = {
      er: 3.66,
      tand: 0.0037,
      height: 20 * 25.4e-6,
      thickness: 17.399e-6,
      conductivity: 4.1e7,
      roughness: 1e-6,
      cover: 2e-3,
    };
    const typed = [
      '--er',
      '3.66',
      '--tand',
      '0.0037',
      '--height',
      '20mil',
      '--thickness',
      '0.5 oz',
      '--conductivity',
      '4.1e7 S/m',
      '--roughness',
      '1000nm',
      '--cover',
      '0.2cm',
    ];
    for (const model of ['dispersive', 'static'] as const) {
      const told = json(
        'line',
        'microstrip',
        ...typed,
        '--freq',
        '5800 MHz',
        '--model',
        model,
        '--width',
        '36mil',
        '--length',
        '0.5in',
      );
      const line = analyseLine('microstrip', substrate, 36 * 25.4e-6, 5.8e9, model);
      for (const key of [
        'z0',
        'eeff',
        'lossConductor',
        'lossDielectric',
        'wavelength',
        'velocityFactor',
        'skinDepth',
      ] as const)
        expect(told[key] / line[key]).toBeCloseTo(1, 12);
      expect(told.thetaDeg).toBeCloseTo((0.0127 / line.wavelength) * 360, 9);
    }
    const stripline = json(
      'line',
      'stripline',
      '--er',
      '2.94',
      '--height',
      '1mm',
      '--freq',
      '10GHz',
      '--z0',
      '50ohm',
      '--theta',
      '0.25rad',
    );
    expect(stripline.thetaDeg).toBeCloseTo((0.25 * 180) / Math.PI, 12);
    expect(stripline.lossDielectric).toBe(0);
  });

  it('synthesises pairs by each of their three sets of values, and analyses them back', () => {
    const at = [...board, '--freq', '10GHz'];
    const made = json(
      'line',
      'coupled-microstrip',
      ...at,
      '--z0',
      '50ohm',
      '--coupling',
      '20 dB',
      '--theta',
      '90deg',
    );
    expect(made.ze * made.zo).toBeCloseTo(2500, 6);
    expect((made.ze - made.zo) / (made.ze + made.zo)).toBeCloseTo(0.1, 10);
    const across = ['--width', `${made.width}m`, '--gap', `${made.gap}m`, '--length', `${made.length}m`];
    const back = json('line', 'coupled-microstrip', ...at, ...across);
    for (const key of ['ze', 'zo', 'thetaDeg', 'couplingDb']) expect(back[key] / made[key]).toBeCloseTo(1, 9);
    expect(back).toMatchObject({ zDifferential: 2 * back.zo, zCommon: back.ze / 2, mode: 'analysis' });
    // Angle and wavelength belong to the mean of the two modes' electrical lengths.
    const index = (Math.sqrt(back.eeffEven) + Math.sqrt(back.eeffOdd)) / 2;
    expect(back.velocityFactor * index).toBeCloseTo(1, 12);
    expect(back.wavelength * 10e9 * index).toBeCloseTo(299792458, 3);
    for (const set of [
      ['--ze', `${made.ze}ohm`, '--zo', `${made.zo}ohm`],
      ['--differential', `${made.zDifferential}ohm`, '--common', `${made.zCommon}ohm`],
    ]) {
      const same = json('line', 'coupled-microstrip', ...at, ...set, '--theta', '90deg');
      expect(same.gap / made.gap).toBeCloseTo(1, 7);
    }
  });

  it('finds the slot of a width and the width of a slot of coplanar lines', () => {
    for (const kind of ['coplanar', 'grounded-coplanar']) {
      const at = [kind, ...board, '--freq', '10GHz'];
      const made = json('line', ...at, '--z0', '60ohm', '--theta', '45deg', '--slot', '0.2mm');
      expect(made.slot).toBe(0.2e-3);
      const same = json('line', ...at, '--z0', '60ohm', '--theta', '45deg', '--width', `${made.width}m`);
      expect(same.slot / 0.2e-3).toBeCloseTo(1, 8);
      const back = json(
        'line',
        ...at,
        '--width',
        `${made.width}m`,
        '--slot',
        '0.2mm',
        '--length',
        `${made.length}m`,
      );
      expect(back.z0).toBeCloseTo(60, 8);
      expect(back.thetaDeg).toBeCloseTo(45, 8);
    }
  });

  it.each<[string, string[], RegExp]>([
    ['half a set', ['coupled-microstrip', '--ze', '60ohm', '--theta', '90deg'], /^--zo: is required/],
    [
      'two sets',
      ['coupled-stripline', '--ze', '60ohm', '--coupling', '9dB', '--theta', '90deg'],
      /^--coupling: .*--ze/,
    ],
    ['an option of another kind', ['microstrip', '--gap', '1mm', '--width', '1mm'], /^--gap: .*microstrip/],
    [
      'no coupling',
      ['coupled-microstrip', '--z0', '50ohm', '--coupling', '0dB', '--theta', '9deg'],
      /^--coupling: /,
    ],
    [
      'an odd mode above the even',
      ['coupled-stripline', '--ze', '40ohm', '--zo', '50ohm', '--theta', '9deg'],
      /^--ze: /,
    ],
    [
      'a coupling out of reach',
      ['coupled-microstrip', '--z0', '50ohm', '--coupling', '0.01dB', '--theta', '9deg'],
      /^--coupling: no pair/,
    ],
    [
      'both dimensions',
      ['coplanar', '--z0', '50ohm', '--theta', '9deg', '--slot', '1mm', '--width', '1mm'],
      /^--slot: /,
    ],
    [
      'a slot out of reach',
      ['coplanar', '--z0', '900ohm', '--theta', '9deg', '--width', '1mm'],
      /^--z0: no slot/,
    ],
  ])('refuses %s', (_what, [kind, ...args], message) => {
    const { status, stdout, stderr } = ditch('line', kind, ...board, '--freq', '10GHz', ...args, '--json');
    expect(stderr).toMatch(message);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect([stdout, status]).toEqual(['', 2]);
  });

  it('warns and succeeds outside a model\u2019s range', () => {
    const wide = json(
      'line',
      'microstrip',
      ...board,
      '--freq',
      '30GHz',
      '--width',
      '12mm',
      '--length',
      '3mm',
    );
    const codes = (wide.warnings as { code: string; message: string }[]).map((w) => w.code);
    expect(codes).toContain('microstrip-impedance-dispersion-range');
    expect(codes).toContain('higher-order-mode');
    expect((wide.warnings as { message: string }[])[0].message).toMatch(/Jansen & Kirschning 1983/);
    const { stdout, status } = ditch(
      'line',
      'microstrip',
      ...board,
      '--freq',
      '30GHz',
      '--width',
      '12mm',
      '--length',
      '3mm',
    );
    expect(status).toBe(0);
    expect(stdout).toMatch(/^warning\s+Jansen/m);
    expect(stdout).toMatch(/^impedance\s+[\d.]+\u2009\u03A9$/m);
  });

  it('lists the laminates that ship, each good for a design', () => {
    const { substrates } = JSON.parse(ditch('substrates', '--json').stdout) as {
      substrates: { id: string }[];
    };
    expect(substrates.length).toBeGreaterThan(5);
    expect(ditch('substrates').stdout.split('\n')).toHaveLength(substrates.length + 2);
    for (const { id } of substrates.slice(0, 3))
      expect(
        ditch(
          'design',
          'quarter-wave',
          '--substrate',
          id,
          '--freq',
          '2.4GHz',
          '--load',
          '80ohm',
          '--out',
          file('s.json'),
        ).status,
      ).toBe(0);
  });

  it('helps', () => {
    for (const args of [
      ['--help'],
      ['line', '--help'],
      ['design', '--help'],
      ['design', 'quarter-wave', '--help'],
      ['simulate', '--help'],
      ['substrates', '--help'],
    ]) {
      const { status, stdout } = ditch(...args);
      expect(stdout).toContain('Usage: ditch');
      expect(status).toBe(0);
    }
  });
});

describe('ditch design and simulate', () => {
  const design = (...args: string[]) =>
    ditch('design', 'quarter-wave', '--freq', '10.55GHz', '--substrate', 'ptfe-2.94', ...args);

  it('design a match, simulate it matched, and override a value', () => {
    const made = JSON.parse(
      design('--load', '23-41j ohm', '--sections', '2', '--out', file('match.json'), '--json').stdout,
    ) as {
      sections: { role: string; z0: number; thetaDeg: number; width: number }[];
    };
    expect(made.sections.filter((x) => x.role === 'section').map((x) => x.thetaDeg)).toEqual([90, 90]);
    const point = ['--start', '10.55GHz', '--stop', '10.55GHz', '--points', '1'];
    expect(
      ditch('simulate', file('match.json'), '--level', 'ideal', ...point, '--out', file('a.s1p')).status,
    ).toBe(0);
    const { data } = readTouchstone(readFileSync(file('a.s1p'), 'utf8'), 1);
    expect(Math.hypot(data.re[0], data.im[0])).toBeLessThan(1e-9);
    const detuned = JSON.parse(
      ditch('simulate', file('match.json'), '--level', 'ideal', ...point, '--set', 'z1=50 ohm', '--json')
        .stdout,
    ) as { re: number[][][] };
    expect(Math.abs(detuned.re[0][0][0])).toBeGreaterThan(0.01);
    for (const name of ['b.csv', 'b.ts'])
      expect(ditch('simulate', file('match.json'), '--out', file(name)).status).toBe(0);
    expect(readTouchstone(readFileSync(file('b.ts'), 'utf8')).version).toBe(2);
    // A measured load drives the same recipe.
    expect(design('--load', file('a.s1p'), '--out', file('c.json')).stderr).toMatch(
      /^--load: .*design frequency|^$/,
    );
  });

  it.each<[string, () => { status: number | null; stderr: string; stdout: string }, RegExp]>([
    ['no --out', () => design('--load', '120ohm'), /^--out: is required/],
    [
      'a reactive load',
      () => design('--load', '41j ohm', '--out', file('x.json')),
      /^--load: takes no power/,
    ],
    [
      'a line too narrow to exist',
      () => design('--load', '4000ohm', '--out', file('x.json')),
      /^--load: .*(narrower than 1 um|no width has)/,
    ],
    [
      'too much reflection',
      () =>
        design(
          '--load',
          '120ohm',
          '--profile',
          'chebyshev',
          '--max-reflection',
          '0.5',
          '--out',
          file('x.json'),
        ),
      /^--max-reflection: must be below 0.4118/,
    ],
    [
      'a foreign laminate',
      () => design('--load', '120ohm', '--substrate', 'cheese', '--out', file('x.json')),
      /^--substrate: "cheese" does not ship/,
    ],
    [
      'a suffix of another port count',
      () => ditch('simulate', file('match.json'), '--out', file('x.s2p')),
      /^--out: .*use \.s1p/,
    ],
    [
      'one point over a span',
      () => ditch('simulate', file('match.json'), '--start', '1GHz', '--stop', '2GHz', '--points', '1'),
      /^--stop: must equal --start/,
    ],
    [
      'an empty span',
      () => ditch('simulate', file('match.json'), '--start', '2GHz', '--stop', '2GHz'),
      /^--stop: must be above/,
    ],
    [
      'too many points',
      () => ditch('simulate', file('match.json'), '--points', '100002'),
      /^--points: .*from 1 to 100001/,
    ],
    [
      'an unknown value',
      () => ditch('simulate', file('match.json'), '--set', 'nope=3'),
      /^--set: .*no value named "nope"; it has f0/,
    ],
    [
      'an override of another dimension',
      () => ditch('simulate', file('match.json'), '--set', 'zl=3mm'),
      /^--set: /,
    ],
    [
      'an unknown level',
      () => ditch('simulate', file('match.json'), '--level', 'measured'),
      /^--level: must be one of ideal, modelled, solved/,
    ],
    ['a file that is no project', () => ditch('simulate', program), /not JSON/],
    [
      'a missing file',
      () => ditch('simulate', file('gone.json')),
      /gone\.json: cannot be read \(no such file/,
    ],
  ])('refuse %s and write nothing', (_what, act, message) => {
    const { status, stderr, stdout } = act();
    expect(stderr).toMatch(message);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(stdout).toBe('');
    expect(status).toBe(2);
    expect(existsSync(file('x.json')) || existsSync(file('x.s2p'))).toBe(false);
  });

  it('leave an existing file as it was when a write fails', () => {
    writeFileSync(file('old.json'), 'kept');
    expect(design('--load', '41j ohm', '--out', file('old.json')).status).toBe(2);
    expect(readFileSync(file('old.json'), 'utf8')).toBe('kept');
    expect(design('--load', '120ohm', '--out', '/dev/full').stderr).toMatch(/^--out: .*disk is full/);
    expect(design('--load', '120ohm', '--out', file('no/such/x.json')).stderr).toMatch(
      /no such file or folder/,
    );
    chmodSync(file('old.json'), 0o644);
    expect(design('--load', '120ohm', '--out', file('old.json')).status).toBe(0);
    expect(readFileSync(file('old.json'), 'utf8')).toContain('ditch-project');
  });

  it('keep the mode of a file, leave a read-only one alone, and clear up after those that were killed', () => {
    const made = (out: string) =>
      ditch('design', 'branch-line', '--substrate', 'fr4', '--freq', '5GHz', '--out', out);
    const own = file('own.json');
    writeFileSync(own, 'old');
    chmodSync(own, 0o640);
    // What a process left behind that is gone, and what one has that is at work.
    const gone = spawnSync(process.execPath, ['-e', '']).pid;
    const left = [gone, process.pid].map((pid) => file(`.own.json.${pid}.ditch.tmp`));
    for (const path of left) writeFileSync(path, 'half');
    expect(made(own).status).toBe(0);
    expect(statSync(own).mode & 0o777).toBe(0o640);
    expect(left.map((path) => existsSync(path))).toEqual([false, true]);
    chmodSync(own, 0o444);
    const before = readFileSync(own, 'utf8');
    expect(made(own)).toMatchObject({
      status: 2,
      stderr: `--out: ${own} cannot be written (it is read-only)\n`,
    });
    expect(readFileSync(own, 'utf8')).toBe(before);
  });

  it('say in one line that standard output cannot be written', () => {
    for (const args of [['substrates', '--json'], ['--help']]) {
      const full = openSync('/dev/full', 'w');
      const { status, stderr } = spawnSync(process.execPath, [program, ...args], {
        stdio: ['ignore', full, 'pipe'],
        encoding: 'utf8',
      });
      closeSync(full);
      expect({ status, stderr }).toEqual({
        status: 2,
        stderr: 'standard output cannot be written (the disk is full)\n',
      });
    }
  });

  it('end with an answer for a lid close to the copper', () => {
    const { z0 } = json(
      ...'line microstrip --er 2.94 --height 0.5mm --thickness 18um --cover 19um'.split(' '),
      ...'--freq 10GHz --width 1mm --length 5mm'.split(' '),
    );
    expect(z0 / 0.3767).toBeCloseTo(1, 1);
  });

  it('ask which design when a file holds several', () => {
    const demo = fileURLToPath(new URL('../../../examples/ditchwater.ditch.json', import.meta.url));
    expect(ditch('simulate', demo).stderr).toMatch(/^--design: .*"detector match"/);
    expect(ditch('simulate', demo, '--design', 'detector match', '--points', '5').status).toBe(0);
  });
});
