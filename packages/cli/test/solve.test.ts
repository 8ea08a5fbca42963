import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { beforeAll, describe, expect, it } from 'vitest';
import { readTouchstone } from '@ditch/core/formats';
import solved from '../../core/test/reference/planar.json' with { type: 'json' };
import { buildProgram, ditch, file } from './program';

beforeAll(buildProgram);

const stub = solved.circuits.find((c) => c.name === 'stub')!;
const copper = file('stub.copper.json');
const write = (change: object) => writeFileSync(copper, JSON.stringify({ ...stub.copper, ...change }));

describe('solve', () => {
  it('solves copper without a project, and says how', () => {
    write({});
    const out = file('stub.s2p');
    const { status, stdout, stderr } = ditch(
      ...['solve', copper, '--start', '1.03GHz', '--stop', '7.03GHz', '--points', '9', '--accuracy', 'draft'],
      ...['--out', out, '--json'],
    );
    expect([status, stderr]).toEqual([0, '']);
    const told = JSON.parse(stdout) as Record<string, unknown>;
    expect(told).toMatchObject({ boxResonances: [], warnings: [], file: out });
    expect(told.unknowns).toBeGreaterThan(80);
    expect((told.solvedAt as number[]).length).toBeGreaterThan(4);
    expect((told.ports as { number: number; z0: number; eeff: number }[]).map((p) => p.number)).toEqual([
      1, 2,
    ]);
    const [{ z0, eeff }] = told.ports as { z0: number; eeff: number }[];
    expect(z0 / stub.z0[4]).toBeCloseTo(1, 2);
    expect(eeff / stub.eeff[4]).toBeCloseTo(1, 2);
    const { data } = readTouchstone(readFileSync(out, 'utf8'), 2);
    // Away from the notch, where a draft is as good as it need be.
    stub.s[1].forEach((row, i) =>
      row.forEach(([re, im], j) => {
        const at = (1 * 2 + i) * 2 + j;
        expect(Math.hypot(data.re[at] - re, data.im[at] - im)).toBeLessThan(0.03);
      }),
    );
  });

  it('refuses what cannot be solved in one line, and writes nothing', () => {
    const refused = (change: object, ...more: string[]) => {
      write(change);
      const out = file('never.s2p');
      const { status, stdout, stderr } = ditch(
        ...[
          'solve',
          copper,
          '--start',
          '1GHz',
          '--stop',
          '2GHz',
          '--points',
          '3',
          '--json',
          '--out',
          out,
          ...more,
        ],
      );
      expect([status, stdout, existsSync(out)]).toEqual([2, '', false]);
      expect(stderr.trim().split('\n')).toHaveLength(1);
      return stderr;
    };
    expect(refused({ version: 7 })).toContain('newer');
    expect(refused({ copper: [] })).toContain('copper');
    expect(refused({ ports: [stub.copper.ports[0], { ...stub.copper.ports[1], number: 3 }] })).toContain(
      '2 is missing',
    );
    expect(
      refused(
        {
          ports: [
            {
              ...stub.copper.ports[0],
              edge: [
                [0.001, 0],
                [0.001, 0.001],
              ],
            },
          ],
        },
        '--out',
        file('n.s1p'),
      ),
    ).toContain('port 1: its edge does not lie on the outline');
    expect(refused({}, '--accuracy', 'best')).toMatch(/^--accuracy: must be one of draft, normal, fine/);
    expect(refused({}, '--out', file('x.s3p'))).toContain('use .s2p');
  });

  it('solves the copper of a design, and joins what is none', () => {
    /** A design by a recipe on one board at 3 GHz. */
    const design3 = (recipe: string, path: string, ...given: readonly string[]) =>
      ditch('design', recipe, '--substrate', 'ptfe-2.94', '--freq', '3GHz', ...given, '--out', path);
    const design = file('match.ditch.json');
    const made = design3('quarter-wave', design, '--load', '100ohm');
    expect(made.status).toBe(0);
    const read = (level: string) => {
      const sweep = ['--start', '2GHz', '--stop', '4GHz', '--points', '3', '--json'];
      const { stdout, stderr } = ditch('simulate', design, '--level', level, ...sweep);
      expect(stderr).toBe('');
      const { re, im } = JSON.parse(stdout) as { re: number[][][]; im: number[][][] };
      return re.map((_m, k) => Math.hypot(re[k][0][0], im[k][0][0]));
    };
    const [solved, modelled] = ['solved', 'modelled'].map(read);
    // A match of 100 ohm at 3 GHz, an octave around it a third is sent back.
    expect(modelled[1]).toBeLessThan(0.02);
    solved.forEach((s, k) => expect(Math.abs(s - modelled[k])).toBeLessThan(0.03));

    const stubbed = file('stub.ditch.json');
    design3('single-stub', stubbed, '--load', '100ohm', '--stub', 'short');
    // Many points are read off few solutions: what is joined to the copper takes no time of its own.
    const many = ditch(
      'simulate',
      design,
      '--level',
      'solved',
      '--points',
      '4001',
      '--accuracy',
      'draft',
      '--json',
    );
    expect((JSON.parse(many.stdout) as { freq: number[] }).freq).toHaveLength(4001);

    // A stub that a hole grounds is solved with it: the line is matched through it.
    const grounded = JSON.parse(
      ditch('simulate', stubbed, '--level', 'solved', '--points', '3', '--accuracy', 'draft', '--json')
        .stdout,
    ) as { re: number[][][]; im: number[][][] };
    expect(Math.hypot(grounded.re[1][0][0], grounded.im[1][0][0])).toBeLessThan(0.1);
    expect(Math.hypot(grounded.re[0][0][0], grounded.im[0][0][0])).toBeGreaterThan(0.5);

    const crossed = file('tandem.ditch.json');
    design3('tandem-coupler', crossed);
    const refused = ditch('simulate', crossed, '--level', 'solved', '--points', '3', '--json');
    expect([refused.status, refused.stdout]).toEqual([2, '']);
    expect(refused.stderr).toMatch(
      /^--level: design .* cannot be solved: .* is copper and something else at once/,
    );
    expect(ditch('simulate', design, '--accuracy', 'fine').stderr).toContain(
      '--accuracy: is for --level solved only',
    );
  });
});

describe('ditch artwork', () => {
  const project = () => file('artwork.json');
  const artwork = (...args: string[]) => ditch('artwork', project(), ...args);

  it('writes what a shop takes, by the suffix or by the format, and copper that can be solved', () => {
    expect(
      ditch('design', 'branch-line', '--freq', '10.55GHz', '--substrate', 'ptfe-2.94', '--out', project())
        .status,
    ).toBe(0);
    interface Told {
      readonly files: readonly string[];
      readonly area: number;
      readonly width: number;
      readonly narrowest: number;
    }
    const told = (...args: string[]): Told => {
      const { status, stdout, stderr } = artwork(...args, '--json');
      expect([status, stderr]).toEqual([0, '']);
      return JSON.parse(stdout) as Told;
    };
    const dxf = told('--out', file('board.dxf'));
    expect(readFileSync(file('board.dxf'), 'utf8')).toMatch(/\nLWPOLYLINE\n[\s\S]*\nCOPPER\n/);
    expect(told('--out', file('board.x'), '--format', 'gdsii').area).toBe(dxf.area);
    expect([...readFileSync(file('board.x')).subarray(0, 6)]).toEqual([0, 6, 0, 2, 2, 88]);
    const wider = told('--out', file('board.svg'), '--etch', '10um');
    expect(wider.narrowest - dxf.narrowest).toBeCloseTo(10e-6, 9);
    expect(wider.width - dxf.width).toBeCloseTo(10e-6, 9);
    const gerber = told('--out', file('shop'));
    expect(gerber.files).toEqual(['copper-top.gbr', 'ground.gbr', 'outline.gbr', 'drill.drl']);
    expect(readdirSync(file('shop')).sort()).toEqual([...gerber.files].sort());
    told('--out', file('copper.json'));
    const solved = ditch(
      'solve',
      file('copper.json'),
      ...['--start', '10GHz', '--stop', '11GHz', '--points', '3', '--accuracy', 'draft', '--json'],
    );
    expect((JSON.parse(solved.stdout) as { ports: unknown[] }).ports.length).toBe(4);
  });

  it('writes a panel of several designs, its parts, and checks it', () => {
    const demo = fileURLToPath(new URL('../../../examples/ditchwater.ditch.json', import.meta.url));
    const panel = ['--panel', 'gauge head panel'];
    const { status, stdout } = ditch('artwork', demo, ...panel, '--out', file('panel.gds'), '--json');
    expect(status).toBe(0);
    const told = JSON.parse(stdout) as { area: number; width: number };
    expect(told.area).toBeGreaterThan(250e-6);
    expect(told.width).toBeCloseTo(56e-3, 4);
    expect(ditch('artwork', demo, ...panel, '--out', file('parts.csv')).status).toBe(0);
    expect(readFileSync(file('parts.csv'), 'utf8')).toMatch(/^part,value,count,.*\r\nresistor,100 ohm,1,/);
    // A shop that asks for more sends it back, with the place; the demo's own has nothing to say (tested beside the files).
    const project = JSON.parse(readFileSync(demo, 'utf8')) as { shop: { edge: string } };
    project.shop.edge = '1 mm';
    writeFileSync(file('strict.json'), JSON.stringify(project));
    const refused = ditch('check', file('strict.json'), ...panel, '--json');
    expect(refused.status).toBe(1);
    const { findings } = JSON.parse(refused.stdout) as { findings: { rule: string; at: number[] }[] };
    expect(new Set(findings.map((f) => f.rule))).toEqual(new Set(['edge', 'holeEdge']));
    expect(findings.every((f) => f.at.length === 2 && f.at[0] > -1e-6 && f.at[0] < 57e-3)).toBe(true);
    for (const [args, message] of [
      [['--panel', 'none'], /^--panel: there is no panel "none"; the file has "gauge head panel"/],
      [[...panel, '--design', 'hybrid'], /^--panel: give either a design or a panel/],
    ] as const) {
      const wrong = ditch('check', demo, ...args);
      expect([wrong.status, wrong.stderr]).toEqual([2, expect.stringMatching(message)]);
    }
  });

  it('says which option is wrong, and leaves nothing behind', () => {
    for (const [args, message] of [
      [[], /^--out: is required/],
      [['--out', file('board.png')], /^--format: "\.png" says no format/],
      [['--out', file('no/such/board.dxf')], /no\/such\/board\.dxf/],
      [['--out', file('b.dxf'), '--format', 'paper'], /^--format: must be one of/],
      [['--out', file('b.dxf'), '--etch', '10'], /^--etch: needs a unit/],
      [['--out', file('b.dxf'), '--etch', '-3um'], /^--etch: /],
      [['--out', file('c.json'), '--etch', '3um'], /^--etch: is for what is made/],
      [['--out', file('b.dxf'), '--design', 'none'], /^--design: /],
    ] as const) {
      const { status, stdout, stderr } = artwork(...args);
      expect([args, status, stdout]).toEqual([args, 2, '']);
      expect(stderr).toMatch(message);
      expect(stderr.trim().split('\n').length).toBe(1);
    }
    expect(existsSync(file('b.dxf'))).toBe(false);
    expect(existsSync(file('no'))).toBe(false);
  });
});
