import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  portsOfName,
  ProjectFileError,
  readProject,
  readTouchstone,
  TouchstoneError,
  writeCsv,
  writeParameterCsv,
  writeProject,
  writeTouchstone,
} from '../src/formats';
import type { SData } from '../src/results';

/** Any S-data whose matrices are well away from singular ones. */
const anyData = (ports: number, equalReferences: boolean) =>
  fc
    .record({
      points: fc.integer({ min: 1, max: 5 }),
      seed: fc.integer(),
      z0: fc.array(fc.double({ min: 1, max: 300, noNaN: true }), { minLength: ports, maxLength: ports }),
    })
    .map(({ points, seed, z0 }): SData => {
      let state = seed | 1;
      const random = () => {
        state = (Math.imul(state, 1664525) + 1013904223) | 0;
        return state / 2 ** 31;
      };
      const size = points * ports * ports;
      const fill = () => Float64Array.from({ length: size }, () => (random() * 0.9) / ports);
      return {
        ports,
        freq: Float64Array.from({ length: points }, (_, k) => 1e9 * (k + 1) + Math.abs(random()) * 1e6),
        re: fill(),
        im: fill(),
        z0: z0.map((z) => ({ re: equalReferences ? z0[0] : z, im: 0 })),
      };
    });

const near = (a: SData, b: SData, tolerance: number) =>
  a.ports === b.ports &&
  a.freq.every((f, k) => f === b.freq[k]) &&
  a.re.every((x, i) => Math.abs(x - b.re[i]) <= tolerance && Math.abs(a.im[i] - b.im[i]) <= tolerance);

describe('Touchstone', () => {
  it('reads back what it wrote, to the last digit in RI and to rounding elsewhere', () => {
    const all = fc
      .integer({ min: 1, max: 6 })
      .chain((n) =>
        fc
          .constantFrom<1 | 2>(1, 2)
          .chain((version) => anyData(n, version === 1).map((data) => ({ data, version }))),
      );
    fc.assert(
      fc.property(
        all,
        fc.constantFrom('ri', 'ma', 'db'),
        fc.constantFrom('s', 'y', 'z'),
        ({ data, version }, format, parameter) => {
          const text = writeTouchstone(data, {
            version,
            format: format,
            parameter: parameter,
            comments: ['a\nb \u2212 50 \u03A9 \u4e2d'],
          });
          const back = readTouchstone(text, data.ports);
          const exact = format === 'ri' && parameter === 's';
          return (
            back.version === version &&
            near(back.data, data, exact ? 0 : 1e-9) &&
            back.data.z0.every((z, i) => z.re === data.z0[i].re)
          );
        },
      ),
      { numRuns: 300 },
    );
  });

  it('keeps the letter of 1.1: two-port order, rows of at most four pairs, Z over R, comments, wrapped rows', () => {
    const two = readTouchstone('! c\n# mhz s ri r 75 ! x\n100 .11 0 .21 0 .12 0 .22 0\n', 2).data;
    expect([...two.re]).toEqual([0.11, 0.12, 0.21, 0.22]);
    expect(two.freq[0]).toBe(100e6);
    expect(two.z0[0].re).toBe(75);
    const three = '# GHz S MA R 50\n1 .1 0 .2 90 .3 0\n .4 0 .5 0\n .6 0 .7 0 .8 0 .9 180\n';
    expect(readTouchstone(three, 3).data.re[8]).toBeCloseTo(-0.9, 15);
    const z = readTouchstone('# Hz Z RI R 50\n1 1 0\n', 1).data;
    expect(z.re[0]).toBe(0);
    const five = writeTouchstone(
      {
        ports: 5,
        freq: Float64Array.of(1),
        re: new Float64Array(25),
        im: new Float64Array(25),
        z0: Array(5).fill({ re: 50, im: 0 }),
      },
      { version: 1, format: 'db' },
    );
    const rows = five
      .trim()
      .split('\n')
      .slice(1)
      .map((r) => r.trim().split(/\s+/).length);
    expect(rows).toEqual([9, 2, 8, 2, 8, 2, 8, 2, 8, 2]);
    expect(five).not.toMatch(/Infinity|NaN/);
    expect(readTouchstone('1 0.5 0\n2 0.5 90\n').data).toMatchObject({ ports: 1 });
  });

  it('skips noise data and reads version 2 keywords', () => {
    const noisy =
      '# GHz S RI R 50\n1 1 0 2 0 3 0 4 0\n2 1 0 2 0 3 0 4 0\n1 0.5 0.1 20 0.3\n1.5 0.6 0.1 20 0.3\n';
    expect(readTouchstone(noisy, 2).data.freq).toHaveLength(2);
    const v2 = `[Version] 2.0
# GHz S RI
[Number of Ports] 3
[Number of Frequencies] 1
[Reference] 50
75 100
[Matrix Format] Lower
[Begin Information]
anything at all
[End Information]
[Network Data]
1 .1 0
 .2 0 .3 0
 .4 0 .5 0 .6 0
[Noise Data]
1 2 3 4 5
[End]`;
    const { data } = readTouchstone(v2);
    expect([...data.re]).toEqual([0.1, 0.2, 0.4, 0.2, 0.3, 0.5, 0.4, 0.5, 0.6]);
    expect(data.z0.map((z) => z.re)).toEqual([50, 75, 100]);
  });

  it.each([
    ['# GHz S RI R 50\n1 0.5\n', 1, /line 2: the last frequency has 1 values instead of 2/],
    ['# GHz H RI R 50\n1 0 0\n', 1, /line 1: H-parameters/],
    ['# GHz S RI R 50\n1 a 0\n', 1, /line 2: "a" is not a number/],
    ['# GHz S RI R 50\n2 0 0\n1 0 0\n', 1, /line 3: .*do not ascend/],
    ['# GHz S RI R -50\n1 0 0\n', 1, /positive number/],
    ['', 1, /no network data/],
    ['[Version] 3.0\n', 1, /version 3.0 is not read/],
  ])('refuses %j and says where', (text, ports, message) => {
    expect(() => readTouchstone(text, ports)).toThrow(message);
  });

  it('answers any mangled file with data that is whole or an error of its own', () => {
    const sources = [
      writeTouchstone(
        {
          ports: 2,
          freq: Float64Array.of(1e9, 2e9),
          re: Float64Array.of(1, 2, 3, 4, 5, 6, 7, 8),
          im: new Float64Array(8),
          z0: [
            { re: 50, im: 0 },
            { re: 50, im: 0 },
          ],
        },
        { version: 1 },
      ),
      writeTouchstone(
        {
          ports: 3,
          freq: Float64Array.of(1e9),
          re: new Float64Array(9).fill(0.2),
          im: new Float64Array(9),
          z0: Array(3).fill({ re: 50, im: 0 }),
        },
        { version: 2 },
      ),
    ];
    const mangled = fc
      .tuple(
        fc.constantFrom(...sources),
        fc.nat(400),
        fc.nat(40),
        fc.oneof(
          fc.string({ maxLength: 12 }),
          fc.constantFrom('[', ']', '\n', '#', '!', '1e999', '-', '[End]', '[Reference]', 'NaN'),
        ),
      )
      .map(([text, at, cut, insert]) => text.slice(0, at) + insert + text.slice(at + cut));
    fc.assert(
      fc.property(
        fc.oneof(mangled, fc.string()),
        fc.option(fc.integer({ min: 1, max: 4 })),
        (text, ports) => {
          try {
            const { data } = readTouchstone(text, ports ?? undefined);
            const size = data.freq.length * data.ports ** 2;
            return (
              data.re.length === size && data.re.every(Number.isFinite) && data.im.every(Number.isFinite)
            );
          } catch (error) {
            return error instanceof TouchstoneError;
          }
        },
      ),
      { numRuns: 3000 },
    );
  });

  it('says what the format cannot hold', () => {
    const data: SData = {
      ports: 2,
      freq: Float64Array.of(1),
      re: Float64Array.of(0, 1, 1, 0),
      im: new Float64Array(4),
      z0: [
        { re: 50, im: 0 },
        { re: 75, im: 0 },
      ],
    };
    expect(() => writeTouchstone(data, { version: 1 })).toThrow(/one reference/);
    expect(() =>
      writeTouchstone(
        {
          ...data,
          z0: [
            { re: 50, im: 1 },
            { re: 50, im: 1 },
          ],
        },
        { version: 2 },
      ),
    ).toThrow(/real/);
    expect([portsOfName('a.S4P'), portsOfName('a.txt')]).toEqual([4, undefined]);
  });
});

describe('CSV', () => {
  it('quotes headings, leaves gaps for what is not finite, names entries', () => {
    expect(
      writeCsv([
        { name: 'a,"b"', values: [1, NaN] },
        { name: 'c', values: [0.1] },
      ]),
    ).toBe('"a,""b""",c\r\n1,0.1\r\n,\r\n');
    const data: SData = {
      ports: 1,
      freq: Float64Array.of(1e9),
      re: Float64Array.of(0),
      im: Float64Array.of(0.1),
      z0: [{ re: 50, im: 0 }],
    };
    expect(writeParameterCsv(data, 'db')).toBe('frequency_Hz,S11_dB,S11_deg\r\n1000000000,-20,90\r\n');
  });
});

describe('project files', () => {
  const text = readFileSync(new URL('../../../examples/ditchwater.ditch.json', import.meta.url), 'utf8');
  const parsed = JSON.parse(text) as Record<string, unknown>;
  const change = (edit: (p: Record<string, never>) => void) => {
    const copy = structuredClone(parsed);
    edit(copy as Record<string, never>);
    return JSON.stringify(copy);
  };

  it.each<[string, string, RegExp]>([
    ['not JSON', '{', /not JSON/],
    ['another file', '{"a":1}', /not a Ditch project/],
    [
      'a newer version',
      change((p) => ((p as Record<string, unknown>).version = 7)),
      /newer Ditch \(format version 7; this one reads up to 2\)\. Nothing was changed/,
    ],
    [
      'a missing key',
      change((p) => delete (p.designs as { values?: unknown }[])[0].values),
      /designs\[0\]: "values" is missing/,
    ],
    [
      'a wrong type',
      change((p) => ((p.designs as { pieces: { nodes: unknown }[] }[])[1].pieces[2].nodes = 5)),
      /designs\[1\] > pieces\[2\] > nodes: must be array/,
    ],
    [
      'an unknown key',
      change((p) => ((p.stacks as Record<string, unknown>[])[0].colour = 'red')),
      /stacks\[0\]: "colour" is not known here/,
    ],
    [
      'a lost stack',
      change((p) => ((p.designs as { stack: string }[])[0].stack = 'gone')),
      /designs\[0\] > stack: there is no stack "gone"/,
    ],
    ['short data', change((p) => (p.data as { re: number[] }[])[0].re.pop()), /data\[0\]: needs 101 values/],
    [
      'a doubled id',
      change((p) => ((p.designs as { id: string }[])[1].id = 'lo-match')),
      /"lo-match" is used twice/,
    ],
  ])('refuse %s and name the place', (_what, file, message) => {
    expect(() => readProject(file)).toThrow(ProjectFileError);
    expect(() => readProject(file)).toThrow(message);
  });

  it('of version 1 open with what is said about their pieces apart from what makes them', () => {
    const settings = {
      number: '2',
      theory: '2*z0',
      retune: 'stay',
      heldAt: '5e9',
      reference: 'own',
      asked_z0: 'za',
      asked_theta: '90 deg',
    };
    const old = change((p) => {
      (p as Record<string, unknown>).version = 1;
      const design = (p.designs as { pieces: object[]; attempts?: object[] }[])[1];
      design.pieces = design.pieces.map((x) => ({ ...x, marks: undefined, settings }));
      design.attempts = [{ id: 'a', name: 'a', values: [], pieces: design.pieces }];
    });
    const read = readProject(old);
    expect(read.version).toBe(2);
    const { pieces, attempts } = read.designs[1];
    for (const piece of [...pieces, ...attempts![0].pieces])
      expect([piece.settings, piece.marks]).toEqual([
        { number: '2' },
        {
          theory: '2*z0',
          retune: 'stay',
          heldAt: '5e9',
          reference: 'own',
          asked: { z0: 'za', theta: '90 deg' },
        },
      ]);
    expect(readProject(writeProject(read))).toEqual(read);
  });

  it('hold against any mangling: read whole or refused in words', () => {
    const paths: (string | number)[][] = [];
    const walk = (value: unknown, path: (string | number)[]) => {
      if (path.length > 0 && path[0] !== 'data') paths.push(path);
      if (Array.isArray(value)) value.slice(0, 4).forEach((x, i) => walk(x, [...path, i]));
      else if (typeof value === 'object' && value !== null)
        for (const [k, x] of Object.entries(value)) walk(x, [...path, k]);
    };
    walk(parsed, []);
    const structural = fc
      .tuple(fc.constantFrom(...paths), fc.anything({ maxDepth: 1 }))
      .map(([path, value]) => {
        const copy = structuredClone(parsed);
        let target = copy as Record<string | number, unknown>;
        for (const step of path.slice(0, -1)) target = target[step] as typeof target;
        target[path[path.length - 1]] = value;
        return JSON.stringify(copy, (_k, v: unknown) => (typeof v === 'bigint' ? String(v) : v));
      });
    const textual = fc
      .tuple(fc.nat(text.length), fc.nat(80), fc.string({ maxLength: 6 }))
      .map(([at, cut, insert]) => text.slice(0, at) + insert + text.slice(at + cut));
    fc.assert(
      fc.property(fc.oneof(structural, textual), (file) => {
        try {
          return readProject(file).format === 'ditch-project';
        } catch (error) {
          return error instanceof ProjectFileError && error.message.length < 400;
        }
      }),
      { numRuns: 800 },
    );
  });
});
