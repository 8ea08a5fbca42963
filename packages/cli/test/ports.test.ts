import { readFileSync, writeFileSync } from 'node:fs';
import { beforeAll, expect, it } from 'vitest';
import { readTouchstone, writeProject } from '@ditch/core/formats';
import { emptyProject, type Design, type Piece, type Project } from '@ditch/core/network';
import { buildProgram, ditch, file } from './program';

const port = (number: string, node: string, z: string): Piece => ({
  id: `p${number}`,
  name: `port ${number}`,
  kind: 'port',
  held: { z },
  settings: { number },
  nodes: [node],
});
const line = (id: string, a: string, b: string, z0: string, theta: string): Piece => ({
  id,
  name: id,
  kind: 'line',
  held: { z0, theta },
  nodes: [a, b],
});

/** A T divider by hand: quarter waves of 70.7 ohm from the common port to two others, with a step of reference. */
const design = (pieces: Piece[]): Design => ({
  id: 'tee',
  name: 'tee',
  stack: 'ptfe-2.94',
  medium: 'microstrip',
  values: [{ name: 'f0', value: '5 GHz' }],
  pieces,
  sweep: { start: 'f0', stop: '1.2*f0', points: 3 },
  markers: [],
  goal: '20 dB',
  overlays: [],
});
const project = (pieces: Piece[]): Project => ({ ...emptyProject('by hand'), designs: [design(pieces)] });
const arms = [
  line('upper', 'n', 'b', 'sqrt(2)*50 ohm', '90 deg'),
  line('lower', 'n', 'c', 'sqrt(2)*50 ohm', '90 deg'),
];

beforeAll(async () => {
  await buildProgram();
  writeFileSync(
    file('tee.json'),
    writeProject(
      project([port('1', 'n', '50 ohm'), ...arms, port('2', 'b', '50 ohm'), port('3', 'c', '50 ohm')]),
    ),
  );
  writeFileSync(
    file('mixed.json'),
    writeProject(
      project([port('1', 'n', '50 ohm'), ...arms, port('2', 'b', '75 ohm'), port('3', 'c', '50 ohm')]),
    ),
  );
});
const simulate = (...args: string[]) => ditch('simulate', ...args);
const ideal = ['--level', 'ideal'];

it('writes three ports row by row, matched and split as theory says', () => {
  expect(simulate(file('tee.json'), ...ideal, '--out', file('tee.s3p')).status).toBe(0);
  const text = readFileSync(file('tee.s3p'), 'utf8');
  const rows = text.split('\n').filter((r) => /^[\d ]/.test(r));
  expect(rows.map((r) => r.trim().split(/\s+/).length)).toEqual([7, 6, 6, 7, 6, 6, 7, 6, 6]);
  const { data } = readTouchstone(text, 3);
  const s = (i: number, j: number) => Math.hypot(data.re[(i - 1) * 3 + j - 1], data.im[(i - 1) * 3 + j - 1]);
  expect(s(1, 1)).toBeLessThan(1e-12);
  expect(s(2, 1)).toBeCloseTo(Math.SQRT1_2, 12);
  expect(s(3, 1)).toBeCloseTo(Math.SQRT1_2, 12);
  // A lossless three-port cannot be matched at all ports: half of the outputs comes back or crosses over.
  expect(s(2, 2)).toBeCloseTo(0.5, 12);
  expect(s(3, 2)).toBeCloseTo(0.5, 12);
});

it('asks for one reference in 1.1, takes it from --z0, and keeps each port\u2019s own in 2.0 and CSV', () => {
  const refused = simulate(file('mixed.json'), ...ideal, '--out', file('mixed.s3p'));
  expect(refused.status).toBe(2);
  expect(refused.stderr).toMatch(/^--out: .*different reference impedances.*--z0.*\.ts/);
  expect(simulate(file('mixed.json'), ...ideal, '--z0', '60ohm', '--out', file('mixed.s3p')).status).toBe(0);
  const one = readTouchstone(readFileSync(file('mixed.s3p'), 'utf8'), 3).data;
  expect(one.z0.map((z) => z.re)).toEqual([60, 60, 60]);
  expect(simulate(file('mixed.json'), ...ideal, '--out', file('mixed.ts')).status).toBe(0);
  const own = readTouchstone(readFileSync(file('mixed.ts'), 'utf8')).data;
  expect(own.z0.map((z) => z.re)).toEqual([50, 75, 50]);
  expect(simulate(file('mixed.json'), ...ideal, '--out', file('mixed.csv'), '--format', 'ma').status).toBe(0);
  expect(readFileSync(file('mixed.csv'), 'utf8').split('\r\n')[0]).toBe(
    `frequency_Hz,${[11, 12, 13, 21, 22, 23, 31, 32, 33].flatMap((n) => [`S${n}_mag`, `S${n}_deg`]).join(',')}`,
  );
  // The same network against either reference: its impedance matrix, between quarter waves, is one.
  const z = (name: string) => readTouchstone(readFileSync(file(name), 'utf8'), 3).data;
  for (const format of ['ri', 'ma', 'db']) {
    for (const [name, args] of [
      ['a.ts', []],
      ['b.ts', ['--z0', '60ohm']],
    ] as const)
      expect(
        simulate(
          file('mixed.json'),
          ...ideal,
          ...args,
          '--start',
          '5.5GHz',
          '--stop',
          '6GHz',
          '--parameter',
          'z',
          '--format',
          format,
          '--out',
          file(name),
        ).status,
      ).toBe(0);
    const raw = (name: string) =>
      readFileSync(file(name), 'utf8').split('[Network Data]')[1].trim().split(/\s+/).map(Number);
    raw('a.ts').forEach(
      (x, i) => !Number.isNaN(x) && expect(raw('b.ts')[i]).toBeCloseTo(x, format === 'ri' ? 8 : 6),
    );
  }
  expect(z('mixed.ts').freq).toHaveLength(3);
});

it('says where impedance parameters do not exist, and lists what a person wants to see', () => {
  const direct = project([
    port('1', 'a', '50 ohm'),
    line('through', 'a', 'b', '50 ohm', '180 deg'),
    port('2', 'b', '50 ohm'),
  ]);
  writeFileSync(file('through.json'), writeProject(direct));
  const none = simulate(
    file('through.json'),
    ...ideal,
    '--start',
    '5GHz',
    '--stop',
    '5GHz',
    '--points',
    '1',
    '--parameter',
    'z',
    '--out',
    file('z.s2p'),
  );
  expect(none.stderr).toMatch(/^--parameter: the impedance parameters do not exist at 5000000000 Hz/);
  expect(none.status).toBe(2);
  const table = simulate(file('tee.json')).stdout.trim().split('\n');
  expect(table[0]).toBe('tee, modelled');
  expect(table[1]).toMatch(/frequency\s+\|S11\| dB\s+\|S12\| dB/);
  expect(table).toHaveLength(5);
  const log = JSON.parse(
    simulate(
      file('tee.json'),
      ...ideal,
      '--start',
      '1GHz',
      '--stop',
      '100GHz',
      '--points',
      '3',
      '--scale',
      'log',
      '--json',
    ).stdout,
  ) as { freq: number[]; z0: number[][] };
  expect(log.freq[1] / 10e9).toBeCloseTo(1, 12);
  expect(log.freq[2]).toBe(100e9);
  expect(log.z0).toEqual([
    [50, 0],
    [50, 0],
    [50, 0],
  ]);
});

it('explains a design that cannot be simulated at its place', () => {
  const cases: [Piece[], RegExp][] = [
    [[port('1', 'a', '0 ohm')], /piece "p1", z: must be greater than zero/],
    [[port('2', 'a', '50 ohm')], /ports must be numbered/],
    [[], /it has no port/],
    [
      [port('1', 'a', '50 ohm'), { ...line('l', 'a', 'b', '50 ohm', '90 deg'), nodes: ['a'] }],
      /piece "l": needs 2 pins, not 1/,
    ],
    [
      [port('1', 'a', '50 ohm'), { ...line('l', 'a', 'b', '50 ohm', '90 deg'), kind: 'spring' }],
      /no part of kind "spring"/,
    ],
    [
      [port('1', 'a', '50 ohm'), { ...line('l', 'a', 'b', '50 ohm', '90 deg'), held: { z0: '50 ohm' } }],
      /piece "l", theta: needs electrical length or length/,
    ],
    [
      [
        port('1', 'a', '50 ohm'),
        { ...line('l', 'a', 'b', '50 ohm', '90 deg'), held: { z0: '50 ohm', width: '1 mm', theta: '9 deg' } },
      ],
      /cannot both be held/,
    ],
  ];
  for (const [pieces, message] of cases) {
    writeFileSync(file('bad.json'), writeProject(project(pieces)));
    const { status, stderr } = simulate(file('bad.json'));
    expect(stderr).toMatch(message);
    expect(status).toBe(2);
  }
});
