import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readFileSync } from 'node:fs';
import { readProject } from '../src/formats';
import { provideTables } from '../src/junctions';
import { junctionTables } from '../src/junctions/tables';
import { drive, solveComplex } from '../src/numeric';
import {
  cascade,
  changingSlowly,
  circuitOf,
  createSolver,
  createSystem,
  dataFinder,
  fromAdmittance,
  fromChain,
  fromScattering,
  GROUND,
  networkOf,
  resolveDesign,
  samplingSteps,
  seriesImpedance,
  solveNetwork,
  symmetricPair,
  termination,
  uniformLine,
  type Electrical,
  type Network,
} from '../src/network';
import {
  ConversionError,
  fromMatrices,
  renormalise,
  toAdmittance,
  toImpedance,
  type SData,
} from '../src/results';

/** A lossless line of impedance z0 and angle theta at f = 1. */
const line = (z0: number, theta: number): Electrical =>
  uniformLine((f, out) => {
    out.z0 = z0;
    out.alpha = 0;
    out.beta = theta * f;
  });
const port = (node: string, re = 50, im = 0) => ({ node, z0: { re, im } });
const part = (electrical: Electrical, ...nodes: string[]) => ({ electrical, nodes });
const at1 = Float64Array.of(1);
const solve = (network: Network, freq = at1) => solveNetwork(network, freq);
const s = (d: SData, i: number, j: number, k = 0) => {
  const at = (k * d.ports + i - 1) * d.ports + j - 1;
  return { re: d.re[at], im: d.im[at] };
};
const size = (z: { re: number; im: number }) => Math.hypot(z.re, z.im);
const QUARTER = Math.PI / 2;

/** Largest deviation from S^H S = 1 and from S = S^T. */
function deviation(d: SData): number {
  const n = d.ports;
  let worst = 0;
  for (let k = 0; k < d.freq.length; k++)
    for (let i = 1; i <= n; i++)
      for (let j = 1; j <= n; j++) {
        let re = i === j ? -1 : 0;
        let im = 0;
        for (let l = 1; l <= n; l++) {
          const a = s(d, l, i, k);
          const b = s(d, l, j, k);
          re += a.re * b.re + a.im * b.im;
          im += a.re * b.im - a.im * b.re;
        }
        const [x, y] = [s(d, i, j, k), s(d, j, i, k)];
        worst = Math.max(worst, Math.hypot(re, im), Math.hypot(x.re - y.re, x.im - y.im));
      }
  return worst;
}

describe('a symmetric pair of lines', () => {
  it('is two lines that know nothing of one another where its modes are equal', () => {
    const apart = {
      parts: [part(line(70, 0.8), 'a', 'c'), part(line(70, 0.8), 'b', 'd')],
      ports: ['a', 'b', 'c', 'd'].map((n) => port(n)),
    };
    const pair = { ...apart, parts: [part(symmetricPair(line(70, 0.8), line(70, 0.8)), 'a', 'b', 'c', 'd')] };
    const [x, y] = [solve(apart), solve(pair)];
    for (let k = 0; k < 16; k++) {
      expect(y.re[k]).toBeCloseTo(x.re[k], 12);
      expect(y.im[k]).toBeCloseTo(x.im[k], 12);
    }
  });

  it('couples backwards by (ze - zo)/(ze + zo) over a quarter wave, matched and isolated, at any frequency', () => {
    // ze zo = 50^2: matched at every frequency (Oliver 1954).
    const [ze, zo] = [50 * Math.SQRT2, 50 / Math.SQRT2];
    const c = (ze - zo) / (ze + zo);
    const network = {
      parts: [part(symmetricPair(line(ze, QUARTER), line(zo, QUARTER)), 'in', 'near', 'far', 'still')],
      ports: ['in', 'near', 'far', 'still'].map((n) => port(n)),
    };
    const d = solve(network, Float64Array.of(0.4, 1, 1.3));
    for (let k = 0; k < 3; k++) {
      expect(size(s(d, 1, 1, k))).toBeLessThan(1e-12);
      expect(size(s(d, 4, 1, k))).toBeLessThan(1e-12);
    }
    expect(s(d, 2, 1, 1).re).toBeCloseTo(c, 12);
    expect(s(d, 3, 1, 1).im).toBeCloseTo(-Math.sqrt(1 - c * c), 12);
    expect(deviation(d)).toBeLessThan(1e-12);
  });
});

describe('network solution', () => {
  it('keeps any lossless network of lines lossless and reciprocal, resonances included', () => {
    const nodes = fc.constantFrom('a', 'b', 'c', 'd', 'e', GROUND);
    const angle = fc.oneof(
      fc.constantFrom(0, QUARTER, 2 * QUARTER, 4 * QUARTER),
      fc.double({ min: 0, max: 7, noNaN: true }),
    );
    const anyLine = fc.tuple(fc.double({ min: 10, max: 150, noNaN: true }), angle, nodes, nodes);
    fc.assert(
      fc.property(fc.array(anyLine, { minLength: 1, maxLength: 12 }), (lines) => {
        const network = {
          parts: lines.map(([z0, theta, a, b]) => part(line(z0, theta), a, b)),
          ports: [port('a'), port('b', 75), port('c', 30)],
        };
        return deviation(solve(network)) < 1e-12;
      }),
      { numRuns: 1000 },
    );
  });

  it('agrees with nodal analysis, which knows no waves, for any lossy network of one- to four-pin parts', () => {
    const nodes = fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f', GROUND);
    const y = fc.record({
      re: fc.double({ min: 1e-4, max: 0.1, noNaN: true }),
      im: fc.double({ min: -0.1, max: 0.1, noNaN: true }),
    });
    // A part of n pins as a star or a delta of admittances between its pins and to ground: passive and reciprocal.
    const anyPart = fc.integer({ min: 1, max: 4 }).chain((pins) =>
      fc.record({
        at: fc.array(nodes, { minLength: pins, maxLength: pins }),
        shunt: fc.array(y, { minLength: pins, maxLength: pins }),
        between: fc.array(y, { minLength: pins * pins, maxLength: pins * pins }),
      }),
    );
    const reference = fc.record({
      re: fc.double({ min: 5, max: 200, noNaN: true }),
      im: fc.double({ min: -60, max: 60, noNaN: true }),
    });
    fc.assert(
      fc.property(
        fc.array(anyPart, { minLength: 1, maxLength: 14 }),
        reference,
        reference,
        (list, za, zb) => {
          const names = ['a', 'b', 'c', 'd', 'e', 'f'];
          const full = names.map(() => names.map(() => ({ re: 0, im: 0 })));
          names.forEach((_, i) => (full[i][i] = { re: 1e-11, im: 0 }));
          const parts = list.map(({ at, shunt, between }) => {
            const n = at.length;
            const own = Array.from({ length: n * n }, () => ({ re: 0, im: 0 }));
            const add = (i: number, j: number, value: { re: number; im: number }, sign: number) => {
              own[i * n + j].re += sign * value.re;
              own[i * n + j].im += sign * value.im;
              const [p, q] = [names.indexOf(at[i]), names.indexOf(at[j])];
              if (p >= 0 && q >= 0)
                full[p][q] = {
                  re: full[p][q].re + sign * value.re,
                  im: full[p][q].im + sign * value.im,
                };
            };
            for (let i = 0; i < n; i++) {
              add(i, i, shunt[i], 1);
              for (let j = 0; j < i; j++)
                for (const [p, q, sign] of [
                  [i, i, 1],
                  [j, j, 1],
                  [i, j, -1],
                  [j, i, -1],
                ])
                  add(p, q, between[i * n + j], sign);
            }
            const electrical = fromAdmittance(n, (_f, re, im) =>
              own.forEach((v, k) => ((re[k] = v.re), (im[k] = v.im))),
            );
            return part(electrical, ...at);
          });
          const ports = [
            { node: 'a', z0: za },
            { node: 'b', z0: zb },
          ];
          const got = solve({ parts, ports });
          // Each port in turn drives the nodes through its reference; waves follow from voltages by their definition.
          return [0, 1].every((driven) => {
            const n = names.length;
            const ar = new Float64Array(n * n);
            const ai = new Float64Array(n * n);
            const br = new Float64Array(n);
            const bi = new Float64Array(n);
            full.forEach((row, i) =>
              row.forEach((v, j) => {
                ar[i * n + j] = v.re;
                ai[i * n + j] = v.im;
              }),
            );
            ports.forEach(({ z0 }, q) => {
              const d = z0.re * z0.re + z0.im * z0.im;
              ar[q * n + q] += z0.re / d;
              ai[q * n + q] -= z0.im / d;
              if (q === driven) {
                const e = 2 * Math.sqrt(z0.re);
                br[q] = (e * z0.re) / d;
                bi[q] = (-e * z0.im) / d;
              }
            });
            if (!solveComplex(n, 1, ar, ai, br, bi)) return false;
            return ports.every(({ z0 }, q) => {
              const e = q === driven ? 2 * Math.sqrt(z0.re) : 0;
              // b = (V - Z* I) / (2 sqrt R) with the current I = (E - V) / Z into the network.
              const d = z0.re * z0.re + z0.im * z0.im;
              const [dr, di] = [e - br[q], -bi[q]];
              const ir = (dr * z0.re + di * z0.im) / d;
              const ii = (di * z0.re - dr * z0.im) / d;
              const wr = (br[q] - (z0.re * ir + z0.im * ii)) / (2 * Math.sqrt(z0.re));
              const wi = (bi[q] - (z0.re * ii - z0.im * ir)) / (2 * Math.sqrt(z0.re));
              const b = s(got, q + 1, driven + 1);
              return Math.hypot(b.re - wr, b.im - wi) < 1e-7;
            });
          });
        },
      ),
      { numRuns: 400 },
    );
  });

  it('keeps its accuracy when a plan made for other values is used again, frequency by frequency', () => {
    // The same pattern each time; the angles put every pivot through zero somewhere.
    const ladder = (angles: readonly number[]): Network => ({
      parts: angles.flatMap((theta, i) => [
        part(line(20 + 15 * i, theta), `n${i}`, `n${i + 1}`),
        part(line(100 - 10 * i, 2 * theta), `n${i + 1}`, i % 2 ? GROUND : `n${i}`),
      ]),
      ports: [port('n0'), port(`n${angles.length}`, 75)],
    });
    const freq = Float64Array.from({ length: 41 }, (_, k) => k * 0.1);
    const angle = fc.oneof(
      fc.constantFrom(0, QUARTER, 2 * QUARTER),
      fc.double({ min: 0, max: 3, noNaN: true }),
    );
    fc.assert(
      fc.property(fc.array(angle, { minLength: 5, maxLength: 5 }), (angles) => {
        const swept = solve(ladder(angles), freq);
        // Solved one by one from the other end, so that another plan stands at the beginning of each.
        const single = [...freq].reverse().map((f) => solve(ladder(angles), Float64Array.of(f)));
        single.reverse();
        return (
          deviation(swept) < 1e-11 &&
          freq.every((_, k) =>
            [0, 1, 2, 3].every(
              (x) =>
                Math.hypot(swept.re[4 * k + x] - single[k].re[x], swept.im[4 * k + x] - single[k].im[x]) <
                1e-10,
            ),
          )
        );
      }),
      { numRuns: 60 },
    );
  });

  it('does not break on half waves, opens, shorts and a ring that resonates unexcited', () => {
    expect(
      s(solve({ parts: [part(line(50, QUARTER), 'a', 'open')], ports: [port('a')] }), 1, 1).re,
    ).toBeCloseTo(-1, 14);
    expect(
      s(solve({ parts: [part(line(50, QUARTER), 'a', GROUND)], ports: [port('a')] }), 1, 1).re,
    ).toBeCloseTo(1, 14);
    expect(
      s(solve({ parts: [part(line(99, 2 * QUARTER), 'a', 'b')], ports: [port('a'), port('b')] }), 2, 1).re,
    ).toBeCloseTo(-1, 14);
    const ring = [part(line(70, 2 * QUARTER), 'a', 'b'), part(line(70, 2 * QUARTER), 'b', 'a')];
    const d = solve({ parts: ring, ports: [port('a'), port('b')] });
    expect(s(d, 2, 1).re).toBeCloseTo(-1, 12);
    const wire = seriesImpedance((_f, out) => ((out.re = 0), (out.im = 0)));
    expect(s(solve({ parts: [part(wire, 'a', 'b')], ports: [port('a'), port('b')] }), 2, 1).re).toBeCloseTo(
      1,
      15,
    );
    const gap = seriesImpedance((_f, out) => ((out.re = 0), (out.im = -Infinity)));
    expect(s(solve({ parts: [part(gap, 'a', 'b')], ports: [port('a'), port('b')] }), 1, 1).re).toBeCloseTo(
      1,
      13,
    );
    expect(s(solve({ parts: [], ports: [port('a'), port('a')] }), 2, 1).re).toBeCloseTo(1, 15);
    expect(s(solve({ parts: [], ports: [port(GROUND)] }), 1, 1).re).toBeCloseTo(-1, 15);
  });

  it('taken together part by part answers as all of its equations do, one-way parts and trapped waves included', () => {
    const oneWay = (gain: number): Electrical => ({
      pins: 2,
      scatter(_f, _zn, re, im) {
        re.set([0.2, 0.05, gain, -0.3]);
        im.set([0.1, 0, gain / 2, 0]);
      },
    });
    const any = fc.record({
      parts: fc.array(
        fc.record({
          kind: fc.constantFrom('line', 'one-way', 'pair', 'end'),
          value: fc.double({ min: 0.2, max: 1.4, noNaN: true }),
          nodes: fc.array(fc.constantFrom('a', 'b', 'c', 'd', 'e', GROUND), { minLength: 4, maxLength: 4 }),
        }),
        { minLength: 1, maxLength: 9 },
      ),
      z: fc.tuple(fc.constantFrom(50, 75), fc.constantFrom(0, 20)),
    });
    fc.assert(
      fc.property(any, ({ parts, z }) => {
        const network: Network = {
          parts: parts.map(({ kind, value, nodes }) => {
            if (kind === 'line') return part(line(100 * value, value), ...nodes.slice(0, 2));
            if (kind === 'one-way') return part(oneWay(value), ...nodes.slice(0, 2));
            if (kind === 'pair') return part(symmetricPair(line(80, value), line(40, value)), ...nodes);
            return part(
              termination((_f, out) => Object.assign(out, { re: 20 * value, im: 50 })),
              nodes[0],
            );
          }),
          ports: [port('a'), port('b', ...z)],
        };
        const [re, im] = [new Float64Array(8), new Float64Array(8)];
        createSolver(network).solve(1, re, im, 0);
        createSystem(network).solve(1, re, im, 4);
        for (let i = 0; i < 4; i++) {
          expect(re[i]).toBeCloseTo(re[i + 4], 8);
          expect(im[i]).toBeCloseTo(im[i + 4], 8);
        }
      }),
      { numRuns: 400 },
    );
    // Nearly closed mirrors half a wave apart let everything through, by that many turns of the wave.
    const mirror: Electrical = {
      pins: 2,
      scatter(_f, _zn, re, im) {
        re.fill(Math.sqrt(1 - 1e-6), 0, 4);
        im.fill(0, 0, 4);
        re[1] = re[2] = 0;
        im[1] = im[2] = 1e-3;
      },
    };
    const resonant = [new Float64Array(4), new Float64Array(4)] as const;
    cascade([mirror, line(50, Math.PI), mirror]).scatter(1, 50, ...resonant);
    expect(Math.hypot(resonant[0][2], resonant[1][2])).toBeCloseTo(1, 6);
    // A half wave between two opens rings for ever; behind them nobody hears it.
    const gap = seriesImpedance((_f, out) => Object.assign(out, { re: Infinity, im: 0 }));
    const closedIn = [part(gap, 'a', 'x'), part(line(50, Math.PI), 'x', 'y'), part(gap, 'y', 'b')];
    const alone = solve({ parts: closedIn, ports: [port('a'), port('b')] });
    expect(s(alone, 1, 1).re).toBeCloseTo(1, 12);
    expect(size(s(alone, 2, 1))).toBeLessThan(1e-12);
  });

  it('gives the textbook branch-line coupler', () => {
    const r = 50 / Math.SQRT2;
    const d = solve({
      parts: [
        part(line(r, QUARTER), 'a', 'b'),
        part(line(r, QUARTER), 'd', 'c'),
        part(line(50, QUARTER), 'a', 'd'),
        part(line(50, QUARTER), 'b', 'c'),
      ],
      ports: ['a', 'b', 'c', 'd'].map((n) => port(n)),
    });
    expect(size(s(d, 1, 1))).toBeLessThan(1e-14);
    expect(size(s(d, 4, 1))).toBeLessThan(1e-14);
    expect(s(d, 2, 1).im).toBeCloseTo(-Math.SQRT1_2, 14);
    expect(s(d, 3, 1).re).toBeCloseTo(-Math.SQRT1_2, 14);
  });

  it('measures power waves: a conjugate match reflects nothing', () => {
    const load = termination((_f, out) => ((out.re = 23), (out.im = -41)));
    expect(size(s(solve({ parts: [part(load, 'a')], ports: [port('a', 23, 41)] }), 1, 1))).toBeLessThan(
      1e-15,
    );
  });

  it('takes one part in all its descriptions to the same result', () => {
    const [z0, theta] = [80, 0.7];
    const [c, sn] = [Math.cos(theta), Math.sin(theta)];
    const chain = fromChain((_f, re, im) => {
      re.set([c, 0, 0, c]);
      im.set([0, z0 * sn, sn / z0, 0]);
    });
    const admittance = fromAdmittance(2, (_f, re, im) => {
      re.fill(0);
      im.set([-c / sn / z0, 1 / sn / z0, 1 / sn / z0, -c / sn / z0]);
    });
    const references = [
      { re: 30, im: 12 },
      { re: 90, im: -5 },
    ];
    const own = renormalise(
      solve({ parts: [part(line(z0, theta), 'a', 'b')], ports: [port('a'), port('b')] }),
      references,
    );
    const scattering = fromScattering(2, references, (_f, re, im) => {
      re.set(own.re);
      im.set(own.im);
    });
    const within = (e: Electrical) =>
      solve({
        parts: [part(line(33, 1.1), 'p', 'a'), part(e, 'a', 'b'), part(line(120, 0.4), 'b', GROUND)],
        ports: [port('p'), port('b', 75, 9)],
      });
    const expected = within(line(z0, theta));
    for (const e of [chain, admittance, scattering]) {
      const d = within(e);
      for (let i = 0; i < 4; i++) {
        expect(d.re[i]).toBeCloseTo(expected.re[i], 13);
        expect(d.im[i]).toBeCloseTo(expected.im[i], 13);
      }
    }
  });
});

describe('a sweep', () => {
  const sweep = Float64Array.from({ length: 401 }, (_, k) => 0.5 + k / 400);
  /** A reflection of size one with a phase, that counts how often it is worked out. */
  const slow = (phase: (f: number) => number) => {
    const seen = { count: 0 };
    const electrical = changingSlowly({
      pins: 1,
      scatter(f, _zn, re, im) {
        seen.count++;
        re[0] = Math.cos(phase(f));
        im[0] = Math.sin(phase(f));
      },
    });
    return {
      seen,
      network: { parts: [part(line(70, 1), '1', '2'), part(electrical, '2')], ports: [port('1')] },
    };
  };
  const worst = (a: SData, b: SData) =>
    a.re.reduce((most, re, k) => Math.max(most, Math.hypot(re - b.re[k], a.im[k] - b.im[k])), 0);
  const pointwise = (network: Network, freq: Float64Array) =>
    drive(samplingSteps(network, freq, createSolver(network)));

  it('reads parts that change slowly at a few places, and those that bend at every point', () => {
    const smooth = slow((f) => 3 * f + Math.sin(f));
    const swept = solveNetwork(smooth.network, sweep);
    expect(smooth.seen.count).toBeLessThan(70);
    expect(worst(swept, pointwise(smooth.network, sweep))).toBeLessThan(1e-8);
    // A kink, however small, is kept.
    const bent = slow((f) => 3 * f + 1e-6 * Math.abs(f - 0.83));
    const kept = solveNetwork(bent.network, sweep);
    expect(bent.seen.count).toBeGreaterThan(sweep.length);
    expect(worst(kept, pointwise(bent.network, sweep))).toBe(0);
    // Few points are worked out one by one.
    const few = slow((f) => f);
    solveNetwork(few.network, sweep.subarray(0, 20));
    expect(few.seen.count).toBe(20);
  });

  it('of any design of the demo says what all of its points say', () => {
    const project = readProject(
      readFileSync(new URL('../../../examples/ditchwater.ditch.json', import.meta.url), 'utf8'),
    );
    provideTables(junctionTables);
    try {
      for (const design of project.designs) {
        const resolved = resolveDesign(project, design);
        const network = networkOf(circuitOf(resolved, 'modelled')!, dataFinder(project.data));
        const { start, stop } = resolved.sweep!;
        const freq = Float64Array.from(sweep, (x) => start + (stop - start) * (x - 0.5));
        expect(worst(solveNetwork(network, freq), pointwise(network, freq)), design.name).toBeLessThan(1e-8);
      }
    } finally {
      provideTables([]);
    }
  });
});

describe('conversions', () => {
  const complex = fc.record({
    re: fc.double({ min: 5, max: 200, noNaN: true }),
    im: fc.double({ min: -80, max: 80, noNaN: true }),
  });
  it('renormalise, Z and Y and back are identities', () => {
    fc.assert(
      fc.property(
        complex,
        complex,
        complex,
        fc.double({ min: 0.2, max: 1.3, noNaN: true }),
        (a, b, z, theta) => {
          const shunt = termination((_f, out) => ((out.re = z.re), (out.im = z.im)));
          const d = solve({
            parts: [part(line(70, theta), 'a', 'b'), part(shunt, 'b')],
            ports: [
              { node: 'a', z0: a },
              { node: 'b', z0: b },
            ],
          });
          const moved = renormalise(renormalise(d, [b, { re: 50, im: 0 }]), [a, b]);
          const zz = toImpedance(d);
          const viaZ = fromMatrices('impedance', 2, d.freq, zz.re, zz.im, [a, b]);
          const yy = toAdmittance(d);
          const viaY = fromMatrices('admittance', 2, d.freq, yy.re, yy.im, [a, b]);
          return [moved, viaZ, viaY].every((x) =>
            x.re.every((v, i) => Math.abs(v - d.re[i]) + Math.abs(x.im[i] - d.im[i]) < 1e-10),
          );
        },
      ),
    );
  });

  it('say where Z and Y do not exist instead of inventing numbers', () => {
    const through = solve({ parts: [part(line(50, 0), 'a', 'b')], ports: [port('a'), port('b')] });
    expect(() => toImpedance(through)).toThrow(ConversionError);
    expect(() => toAdmittance(through)).toThrow(/admittance parameters do not exist at 1 Hz/);
  });
});
