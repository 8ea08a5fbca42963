import {
  GROUND,
  solveNetwork,
  symmetricPair,
  uniformLine,
  type Electrical,
  type Network,
} from '../../src/network';
import { parts, realValues, type ElectricalContext } from '../../src/parts';
import { toImpedance, fromMatrices, type SData } from '../../src/results';
import { designTransformer, seenThrough } from '../../src/theory';
import { cx } from '../../src/numeric';
import { made, response, entry } from '../helpers';
import { each, random, spaced, type Group } from './contract';

const line = (z0: number, theta: number, loss = 0): Electrical =>
  uniformLine((f, out) => {
    out.z0 = z0;
    out.alpha = loss;
    out.beta = theta * f;
  });
const at1 = Float64Array.of(1);
const port = (node: string) => ({ node, z0: { re: 50, im: 0 } });

/** |S11| of sections between 50 ohm and a load, each of angle `theta`. */
function reflectionOf(impedances: readonly number[], load: number, theta: number): number {
  let z = { re: load, im: 0 };
  for (const z0 of [...impedances].reverse()) z = seenThrough(z, z0, theta);
  return cx.abs(cx.div(cx.sub(z, { re: 50, im: 0 }), cx.add(z, { re: 50, im: 0 })));
}

/** Largest deviation from S^H S = 1 and from S = S^T. */
function deviation(d: SData): number {
  const n = d.ports;
  let worst = 0;
  for (let k = 0; k < d.freq.length; k++)
    for (let i = 1; i <= n; i++)
      for (let j = 1; j <= n; j++) {
        let sum = { re: i === j ? -1 : 0, im: 0 };
        for (let l = 1; l <= n; l++) sum = cx.add(sum, cx.mul(cx.conj(entry(d, l, i, k)), entry(d, l, j, k)));
        worst = Math.max(worst, cx.abs(sum), cx.abs(cx.sub(entry(d, i, j, k), entry(d, j, i, k))));
      }
  return worst;
}

/** A network of lossless lines between random nodes, some of them whole halves of a wave long. */
function tangle(seed: number): Network {
  const next = random(seed);
  const nodes = Array.from({ length: 3 + Math.floor(next() * 5) }, (_, i) => `n${i}`);
  const any = () => (next() < 0.1 ? GROUND : nodes[Math.floor(next() * nodes.length)]);
  const count = nodes.length + Math.floor(next() * 6);
  return {
    parts: Array.from({ length: count }, (_, i) => ({
      electrical: line(20 + 100 * next(), next() < 0.2 ? Math.PI * Math.ceil(3 * next()) : 6 * next()),
      nodes: i < nodes.length - 1 ? [nodes[i], nodes[i + 1]] : [any(), any()],
    })),
    ports: [port(nodes[0]), port(nodes[nodes.length - 1])],
  };
}

export const network: Group = {
  name: 'Network solution and theory',
  cases: [
    {
      what: 'lossless networks of lines, resonances among them',
      against: 'unitarity and reciprocity',
      over: '400 random networks of 3 to 13 lines',
      bound: 1e-11,
      absolute: true,
      errors: () =>
        Array.from({ length: 400 }, (_, i) =>
          deviation(solveNetwork(tangle(i + 1), Float64Array.of(0.3, 1))),
        ),
    },
    {
      what: 'a line cut into a thousand pieces',
      against: 'the line in one piece, with loss',
      over: '0.1 to 40 wavelengths',
      bound: 1e-11,
      absolute: true,
      errors: () =>
        [0.1, 1, 7.3, 40].map((turns) => {
          const whole = {
            parts: [{ electrical: line(70, 2 * Math.PI * turns, 0.3), nodes: ['a', 'b'] }],
            ports: [port('a'), port('b')],
          };
          const n = 1000;
          const cut = {
            parts: Array.from({ length: n }, (_, i) => ({
              electrical: line(70, (2 * Math.PI * turns) / n, 0.3 / n),
              nodes: [i === 0 ? 'a' : `m${i}`, i === n - 1 ? 'b' : `m${i + 1}`],
            })),
            ports: whole.ports,
          };
          const [x, y] = [solveNetwork(whole, at1), solveNetwork(cut, at1)];
          return Math.max(...x.re.map((v, i) => Math.hypot(v - y.re[i], x.im[i] - y.im[i])));
        }),
    },
    {
      what: 'a symmetric pair of lines',
      against:
        'Oliver 1954: matched and isolated at all frequencies, coupling (ze \u2212 zo)/(ze + zo) at a quarter wave',
      over: '3 to 20 dB',
      bound: 1e-12,
      absolute: true,
      errors: () =>
        [3, 6, 10, 20].map((dB) => {
          const c = 10 ** (-dB / 20);
          const [ze, zo] = [50 * Math.sqrt((1 + c) / (1 - c)), 50 * Math.sqrt((1 - c) / (1 + c))];
          const pair = symmetricPair(line(ze, Math.PI / 2), line(zo, Math.PI / 2));
          const d = solveNetwork(
            {
              parts: [{ electrical: pair, nodes: ['a', 'b', 'c', 'd'] }],
              ports: ['a', 'b', 'c', 'd'].map(port),
            },
            Float64Array.of(0.6, 1),
          );
          return Math.max(
            cx.abs(entry(d, 1, 1, 0)),
            cx.abs(entry(d, 4, 1, 0)),
            Math.abs(cx.abs(entry(d, 2, 1, 1)) - c),
          );
        }),
    },
    {
      what: 'S to Z and back',
      against: 'itself',
      over: '200 random passive matrices of 1 to 4 ports, complex references',
      bound: 1e-10,
      absolute: true,
      errors: () =>
        Array.from({ length: 200 }, (_, i) => {
          const next = random(i + 7);
          const n = 1 + (i % 4);
          const entryOf = () => ((next() - 0.5) * 1.6) / n;
          const d: SData = {
            ports: n,
            freq: at1,
            re: Float64Array.from({ length: n * n }, entryOf),
            im: Float64Array.from({ length: n * n }, entryOf),
            z0: Array.from({ length: n }, () => ({ re: 10 + 90 * next(), im: 60 * (next() - 0.5) })),
          };
          const z = toImpedance(d);
          const back = fromMatrices('impedance', n, at1, z.re, z.im, d.z0);
          return Math.max(...d.re.map((v, k) => Math.hypot(v - back.re[k], d.im[k] - back.im[k])));
        }),
    },
    {
      what: 'Chebyshev transformers',
      against:
        '|\u0393| = \u03C1/\u221A(1 + \u03C1\u00B2) with \u03C1 = k T(cos \u03B8/cos \u03B8m), at every frequency',
      over: '1 to 8 sections, ratios 2.4 to 10, ripple 0.02',
      bound: 1e-11,
      absolute: true,
      errors: () =>
        each([1, 2, 3, 4, 6, 8], [120, 200, 500]).flatMap(([n, load]) => {
          const m = 0.02;
          const { impedances, bandwidth } = designTransformer({
            source: 50,
            load,
            sections: n,
            profile: 'chebyshev',
            maxReflection: m,
          });
          const edge = Math.cos(((2 - bandwidth!) * Math.PI) / 4);
          return spaced(0.05, Math.PI / 2, 60).map((theta) => {
            const x = Math.cos(theta) / edge;
            const t = x <= 1 ? Math.cos(n * Math.acos(x)) : Math.cosh(n * Math.acosh(x));
            const rho = (m / Math.sqrt(1 - m * m)) * Math.abs(t);
            return Math.abs(reflectionOf(impedances, load, theta) - rho / Math.hypot(1, rho));
          });
        }),
    },
    {
      what: 'binomial transformers',
      against: 'the same with \u03C1 = k cos\u207F \u03B8',
      over: '1 to 8 sections, ratios 2.4 to 10',
      bound: 1e-11,
      absolute: true,
      errors: () =>
        each([1, 2, 3, 4, 6, 8], [120, 200, 500]).flatMap(([n, load]) => {
          const { impedances } = designTransformer({ source: 50, load, sections: n, profile: 'binomial' });
          const k = Math.abs(load - 50) / (2 * Math.sqrt(50 * load));
          return spaced(0.05, Math.PI / 2, 60).map((theta) => {
            const rho = k * Math.cos(theta) ** n;
            return Math.abs(reflectionOf(impedances, load, theta) - rho / Math.hypot(1, rho));
          });
        }),
    },
    {
      what: 'transformers, 50 to 100 ohm',
      against:
        'the tables of Pozar (Microwave Engineering, binomial and Chebyshev transformers), four decimals',
      over: 'binomial of 2 to 4 sections, Chebyshev of 2 with ripple 0.05 and 0.2',
      bound: 1.1e-4,
      absolute: true,
      errors: () =>
        [
          [undefined, 1.1892, 1.6818],
          [undefined, 1.0907, 1.4142, 1.8337],
          [undefined, 1.0444, 1.2421, 1.6102, 1.915],
          [0.05, 1.2193, 1.6402],
          [0.2, 1.3161, 1.5197],
        ].flatMap(([maxReflection, ...table]) => {
          const profile = maxReflection === undefined ? 'binomial' : 'chebyshev';
          const sections = table.length;
          const { impedances } = designTransformer({
            source: 50,
            load: 100,
            sections,
            profile,
            maxReflection,
          });
          return impedances.map((z, i) => Math.abs(z / 50 - table[i]!));
        }),
    },
    {
      what: 'Wilkinson dividers',
      against: 'matched at all ports, isolated, the split asked for',
      over: 'ratios 1 to 4 at the ideal level',
      bound: 1e-9,
      absolute: true,
      errors: () =>
        ['1', '2', '3', '4'].map((wanted) => {
          const d = response(made('wilkinson', { ratio: wanted }).project, 'ideal', [10.55e9]);
          const split = (cx.abs(entry(d, 2, 1)) / cx.abs(entry(d, 3, 1))) ** 2;
          return Math.max(
            ...[1, 2, 3].map((i) => cx.abs(entry(d, i, i))),
            cx.abs(entry(d, 2, 3)),
            Math.abs(split - Number(wanted)),
          );
        }),
    },
    {
      what: 'every part with a model',
      against: 'passivity: no more power comes out than goes in',
      over: 'the recipes\u2019 designs at the modelled level, 1 to 40 GHz',
      bound: 1e-9,
      absolute: true,
      errors: () =>
        ['quarter-wave', 'single-stub', 'branch-line', 'rat-race', 'wilkinson', 'bias-feed', 'taper'].map(
          (id) => {
            const d = response(
              made(id, id === 'taper' ? { load: '120 ohm' } : {}).project,
              'modelled',
              spaced(1e9, 40e9, 79),
            );
            let worst = 0;
            for (let k = 0; k < d.freq.length; k++)
              for (let j = 1; j <= d.ports; j++) {
                let power = 0;
                for (let i = 1; i <= d.ports; i++) power += cx.abs(entry(d, i, j, k)) ** 2;
                worst = Math.max(worst, power - 1);
              }
            return worst;
          },
        ),
    },
    {
      what: 'a mounted part in series',
      against: 'its impedance, read back from S',
      over: '1 \u03A9 to 1 k\u03A9',
      bound: 1e-9,
      errors: () =>
        [1, 10, 100, 1000].map((r) => {
          const electrical = parts
            .get('resistor')!
            .models!.ideal.electrical({ values: realValues({ r }), settings: {}, facts: {} }, {
              f0: 1,
            } as ElectricalContext);
          const d = solveNetwork(
            { parts: [{ electrical, nodes: ['a', 'b'] }], ports: [port('a'), port('b')] },
            at1,
          );
          const s = entry(d, 2, 1);
          return Math.abs((100 / s.re - 100) / r - 1);
        }),
    },
  ],
};
