import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frequencies, GROUND, networkOf, simulate, solveNetwork, type Circuit } from '../src/network';
import type { Model } from '../src/parts';
import { impedanceOf, type SData } from '../src/results';

const board = {
  er: 3.66,
  tand: 0.0037,
  height: 0.422e-3,
  thickness: 18e-6,
  conductivity: 5.8e7,
  roughness: 1e-6,
  cover: Infinity,
};
const real = (x: number) => ({ re: x, im: 0 });
type Piece = Circuit['pieces'][number];
const piece = (
  kind: string,
  nodes: string[],
  values: Record<string, number | { re: number; im: number }>,
  settings = {},
): Piece => ({
  kind,
  nodes,
  settings,
  facts: {},
  values: Object.fromEntries(
    Object.entries(values).map(([k, v]) => [k, typeof v === 'number' ? real(v) : v]),
  ),
});
const port = (number: number, node: string, z = 50) =>
  piece('port', [node], { z }, { number: String(number) });
const circuit = (pieces: Piece[], model: Model = 'ideal'): Circuit => ({
  model,
  medium: 'microstrip',
  substrate: board,
  f0: 10e9,
  pieces,
});
const none = () => undefined;

describe('lumped parts', () => {
  const f = frequencies(1e9, 20e9, 60);
  it('are their impedances at every frequency', () => {
    const data = simulate(
      circuit([
        port(1, 'a'),
        piece('resistor', ['a', 'b'], { r: 17 }),
        piece('inductor', ['b', 'c'], { l: 1.2e-9 }),
        piece('capacitor', ['c', GROUND], { c: 0.4e-12 }),
      ]),
      f,
      none,
    );
    f.forEach((freq, k) => {
      const z = impedanceOf(data.re[k], data.im[k], data.z0[0]);
      const w = 2 * Math.PI * freq;
      expect(z.re).toBeCloseTo(17, 9);
      expect(z.im).toBeCloseTo(w * 1.2e-9 - 1 / (w * 0.4e-12), 8);
    });
  });

  it('have their limits at zero frequency and zero value', () => {
    const at = (kind: string, face: string, value: number, freq: number) => {
      const d = simulate(
        circuit([port(1, 'a'), piece(kind, ['a', 'b'], { [face]: value }), port(2, 'b')]),
        Float64Array.of(freq),
        none,
      );
      return Math.hypot(d.re[1], d.im[1]);
    };
    expect(at('capacitor', 'c', 1e-12, 0)).toBeCloseTo(0, 15);
    expect(at('capacitor', 'c', 0, 5e9)).toBeCloseTo(0, 15);
    expect(at('inductor', 'l', 1e-9, 0)).toBeCloseTo(1, 15);
    expect(at('resistor', 'r', 0, 5e9)).toBeCloseTo(1, 15);
  });

  it('resonate: a series LC shorts its node exactly at resonance', () => {
    const [l, c] = [1e-9, 0.2e-12];
    const f0 = 1 / (2 * Math.PI * Math.sqrt(l * c));
    const d = simulate(
      circuit([
        port(1, 'a'),
        port(2, 'a'),
        piece('inductor', ['a', 'm'], { l }),
        piece('capacitor', ['m', GROUND], { c }),
      ]),
      Float64Array.of(f0),
      none,
    );
    expect(Math.hypot(d.re[1], d.im[1])).toBeLessThan(1e-12);
    expect(d.re[0]).toBeCloseTo(-1, 12);
  });
});

describe('data', () => {
  const line = circuit(
    [
      port(1, 'a', 30),
      piece('line', ['a', 'b'], { z0: 70, theta: 1, width: 1e-3, length: 3e-3 }),
      port(2, 'b', 90),
    ],
    'modelled',
  );
  const f = frequencies(2e9, 20e9, 37);
  const measured = simulate(line, f, none);

  it('as a block behaves as the network it was taken from, between other references', () => {
    const around = (middle: Piece) =>
      circuit([port(1, 'x'), piece('resistor', ['x', 'a'], { r: 5 }), middle, port(2, 'b', 20)], 'modelled');
    const direct = simulate(around(line.pieces[1]), f, none);
    const viaData = simulate(around(piece('block', ['a', 'b'], {}, { data: 'm' })), f, () => measured);
    direct.re.forEach((x, i) => {
      expect(viaData.re[i]).toBeCloseTo(x, 12);
      expect(viaData.im[i]).toBeCloseTo(direct.im[i], 12);
    });
  });

  it('is linear between samples, constant outside, and the same in any order of asking', () => {
    const one: SData = {
      ports: 1,
      freq: Float64Array.of(1e9, 3e9),
      re: Float64Array.of(0.2, 0.6),
      im: Float64Array.of(0, -0.4),
      z0: [real(50)],
    };
    const load = circuit([port(1, 'a'), piece('load', ['a'], {}, { data: 'l' })]);
    const network = networkOf(load, () => one);
    const at = (...freq: number[]) => [...solveNetwork(network, Float64Array.from(freq)).re];
    expect(at(0, 1e9, 2e9, 3e9, 9e9).map((x) => Number(x.toFixed(12)))).toEqual([0.2, 0.2, 0.4, 0.6, 0.6]);
    expect(at(9e9, 2e9, 1e9).map((x) => Number(x.toFixed(12)))).toEqual([0.6, 0.4, 0.2]);
  });
});

describe('modelled networks', () => {
  it('are passive and reciprocal whatever is joined, from zero frequency on', () => {
    const nodes = fc.constantFrom('a', 'b', 'c', 'd', GROUND);
    const between = fc.tuple(nodes, nodes);
    const value = fc.double({ min: 0.05, max: 3, noNaN: true });
    const any = fc
      .tuple(fc.constantFrom('line', 'resistor', 'capacitor', 'inductor'), between, value, value)
      .map(([kind, pins, x, y]) => {
        if (kind === 'line')
          return piece('line', pins, { z0: 50, theta: 1, width: x * 1e-3, length: y * 5e-3 });
        return piece(kind, pins, { r: x * 50, c: x * 1e-12, l: x * 1e-9 });
      });
    fc.assert(
      fc.property(fc.array(any, { minLength: 1, maxLength: 9 }), (pieces) => {
        const d = simulate(
          circuit([port(1, 'a'), port(2, 'b', 75), ...pieces], 'modelled'),
          Float64Array.of(0, 1e8, 7e9, 33e9),
          none,
        );
        for (let k = 0; k < 4; k++) {
          const p = k * 4;
          const power = (j: number) =>
            d.re[p + j] ** 2 + d.im[p + j] ** 2 + d.re[p + 2 + j] ** 2 + d.im[p + 2 + j] ** 2;
          if (!(power(0) <= 1 + 1e-11 && power(1) <= 1 + 1e-11)) return false;
          if (Math.hypot(d.re[p + 1] - d.re[p + 2], d.im[p + 1] - d.im[p + 2]) > 1e-11) return false;
        }
        return true;
      }),
      { numRuns: 400 },
    );
  });

  it('lose as much as their attenuation says', () => {
    const length = 0.05;
    const d = simulate(
      circuit(
        [
          port(1, 'a', 50),
          piece('line', ['a', 'b'], { z0: 50, theta: 1, width: 0.9e-3, length }),
          port(2, 'b', 50),
        ],
        'modelled',
      ),
      Float64Array.of(10e9),
      none,
    );
    const lost = 1 - d.re.slice(0, 1)[0] ** 2 - d.im[0] ** 2 - d.re[2] ** 2 - d.im[2] ** 2;
    const longer = simulate(
      circuit(
        [
          port(1, 'a', 50),
          piece('line', ['a', 'b'], { z0: 50, theta: 1, width: 0.9e-3, length: 2 * length }),
          port(2, 'b', 50),
        ],
        'modelled',
      ),
      Float64Array.of(10e9),
      none,
    );
    const lostTwice = 1 - longer.re[0] ** 2 - longer.im[0] ** 2 - longer.re[2] ** 2 - longer.im[2] ** 2;
    expect(Math.log(1 - lostTwice) / Math.log(1 - lost)).toBeCloseTo(2, 1);
  });
});
