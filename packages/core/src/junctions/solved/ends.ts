import { symmetricPair, uniformLine, type Propagation } from '../../electrical';
import { linePoint, Sections, type Substrate } from '../../lines';
import { C0, leastSquaresSteps, share, solveComplex, type Steps } from '../../numeric';
import { layersOf, prepareSteps, type Copper, type Layers, type Point } from '../../planar';
import { forms } from '../contract';
import { plain, scatteringFrom, square, type Square } from '../stored';
import { box, feedOf, HEIGHT, roomIn } from './copper';
import type { Asked } from '.';

/**
 * Two strips side by side over a length, each open at one end and going on to a port at the other: it is its own image by half
 * a turn, and holds two ends of the pair alike.
 * @param dimensions width and gap, m
 */
export function pairEndCopper(
  [width, gap]: readonly number[],
  length: number,
  layers: Layers,
  housed: boolean,
): Copper {
  const [room, feed] = [roomIn(layers), feedOf(layers, width, housed)];
  const [near, far] = [-width / 2, width / 2 + gap];
  const end = (number: number, x: number, y: number) => ({
    number,
    edge: [
      [x, y],
      [x, y + width],
    ] as [Point, Point],
    plane: feed,
    z0: 50,
  });
  return {
    layers,
    metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
    polygons: [box(-feed, near, length, near + width), box(0, far, length + feed, far + width)],
    ports: [end(1, -feed, near), end(2, length + feed, far)],
    ...(housed && { walls: { x0: -feed, x1: length + feed, y0: near - room, y1: far + width + room } }),
  };
}

/** Lengths of the pairs that are solved, in heights, or in what stands for them where strips are wide. */
const LENGTHS = [4, 6, 8, 11];

/**
 * What an end stores besides what a strip that ends by itself does, between waves of its own: the open pin's, and the sum and the
 * difference of the two that are one node. Of a junction that keeps power M is real among the first two and at the last, and
 * imaginary between them. And how much each counts against the fit: what moves the phase at an open end and along the
 * strip that goes on is told apart by few lengths, so these stay small.
 */
const STORED = [
  { a: 0, b: 0, part: 're', calm: 0.3 },
  { a: 0, b: 1, part: 're', calm: 0.02 },
  { a: 1, b: 1, part: 're', calm: 0.3 },
  { a: 2, b: 2, part: 're', calm: 0.3 },
  { a: 0, b: 2, part: 'im', calm: 0.02 },
  { a: 1, b: 2, part: 'im', calm: 0.02 },
] as const;
/** What leaves as one wave is a square of these: of the open pin, beside that of a strip that ends by itself, and of the sum. */
const LOST = [
  { a: 0, calm: 0.1 },
  { a: 1, calm: 0.05 },
] as const;
/** How much a difference of the modes' velocities from those of their section counts, for each. */
const SWIFT = 0.5;
/** Each of these grows with frequency and bends: its terms. */
const TERMS = 3;
const HALF = Math.SQRT1_2;
const WAVES = [
  [1, 0, 0],
  [0, HALF, HALF],
  [0, HALF, -HALF],
] as const;

/** Adds what two waves store between them to M of the pins. */
function addBetween(a: number, b: number, value: number, part: Float64Array): void {
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 3; j++)
      part[i * 3 + j] += value * (WAVES[a][i] * WAVES[b][j] + (a === b ? 0 : WAVES[b][i] * WAVES[a][j]));
}

/** Pins of an end, a pair and an end in one row, each with the one that it is joined to; -1: a port. */
const JOINED = [4, 3, -1, 1, 0, 7, 8, 5, 6, -1];
const PORTS = [2, 9];
const ALL = JOINED.length;

/** Writes S11 and S21 of a pair of four pins between two ends, all in waves of one impedance. */
function between(end: Square, pair: Square, out: Float64Array): void {
  const s = square(ALL);
  for (const [part, from] of [
    [end, 0],
    [pair, 3],
    [end, 7],
  ] as const) {
    const n = Math.sqrt(part.re.length);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        s.re[(from + i) * ALL + from + j] = part.re[i * n + j];
        s.im[(from + i) * ALL + from + j] = part.im[i * n + j];
      }
  }
  // Waves into the pins from a wave of 1 into the first port: what their partners send, and that.
  const a = square(ALL);
  const waves = { re: new Float64Array(ALL), im: new Float64Array(ALL) };
  JOINED.forEach((other, i) => {
    a.re[i * ALL + i] = 1;
    if (other < 0) return;
    for (let j = 0; j < ALL; j++) {
      a.re[i * ALL + j] -= s.re[other * ALL + j];
      a.im[i * ALL + j] -= s.im[other * ALL + j];
    }
  });
  waves.re[PORTS[0]] = 1;
  solveComplex(ALL, 1, a.re, a.im, waves.re, waves.im);
  PORTS.forEach((pin, k) => {
    let [re, im] = [0, 0];
    for (let j = 0; j < ALL; j++) {
      re += s.re[pin * ALL + j] * waves.re[j] - s.im[pin * ALL + j] * waves.im[j];
      im += s.re[pin * ALL + j] * waves.im[j] + s.im[pin * ALL + j] * waves.re[j];
    }
    out[2 * k] = re;
    out[2 * k + 1] = im;
  });
}

/**
 * What the end of a coupled strip stores, at each frequency. Its pins cannot be solved apart, for two of them belong to lines that
 * couple: pairs of some lengths are solved instead, and what stands at their ends is what makes coupled lines with the modes of
 * their section out of them (least squares).
 */
export function* pairEndSteps(
  { medium, board, dimensions, housed, freq, accuracy }: Asked,
  alone: readonly Square[],
): Steps<Square[]> {
  const [width, gap] = dimensions;
  const layers = layersOf(medium, { ...board, tand: 0 });
  const unit = Math.max(HEIGHT, 0.6 * HEIGHT + 0.4 * width);
  const lengths = LENGTHS.map((k) => k * unit);
  const band = { start: freq[0], stop: freq[freq.length - 1] };
  const solved: Float64Array[][] = [];
  for (const [i, length] of lengths.entries()) {
    const prepared = yield* share(
      prepareSteps(pairEndCopper(dimensions, length, layers, housed), band, accuracy),
      (0.9 * i) / lengths.length,
      (0.9 * (i + 0.8)) / lengths.length,
    );
    solved.push(
      freq.map((f) => {
        const { re, im } = prepared.own(f);
        // It is its own image by half a turn.
        return Float64Array.of((re[0] + re[3]) / 2, (im[0] + im[3]) / 2, re[2], im[2]);
      }),
    );
  }
  const substrate: Substrate = { ...board, tand: 0, thickness: 0, conductivity: 1e30, roughness: 0 };
  const sections = new Sections(medium, substrate);
  const strip = sections.get('strip', width);
  const pair = sections.get('pair', width, gap);
  const [lone, ...modes] = [linePoint(), linePoint(), linePoint()];
  const { pins, joined } = forms['pair-end'];
  const scattering = scatteringFrom(pins);
  const [m, end] = [square(pins), square(pins)];
  const out = new Float64Array(4);
  const top = freq[freq.length - 1];
  const places = freq.map((f, i) => {
    strip.impedanceAt(f, [lone]);
    pair.at(f, modes);
    const p = new Float64Array(pins * pins);
    plain([lone.z0, lone.z0, lone.z0], joined, p);
    const of = modes.map((mode) => ({ z0: mode.z0, beta: (2 * Math.PI * f * Math.sqrt(mode.eeff)) / C0 }));
    return { y: f / top, p, z0: lone.z0, modes: of, solved: solved.map((all) => all[i]) };
  });
  const lossless = housed || medium === 'stripline';
  const swift = TERMS * (STORED.length + (lossless ? 0 : LOST.length));
  const term = (x: readonly number[], k: number, y: number) =>
    y * (x[TERMS * k] + y * y * (x[TERMS * k + 1] + y * y * x[TERMS * k + 2]));
  /** Writes M at one of the frequencies. */
  const at = (x: readonly number[], i: number) => {
    const { y } = places[i];
    m.re.fill(0);
    m.im.fill(0);
    m.re[0] = alone[i].re[0];
    STORED.forEach(({ a, b, part }, k) => addBetween(a, b, term(x, k, y), m[part]));
    if (lossless) return;
    const lost = [Math.sqrt(Math.max(0, alone[i].im[0])), 0];
    LOST.forEach(({ a }, k) => (lost[a] += term(x, STORED.length + k, y)));
    for (let a = 0; a < 2; a++) for (let b = a; b < 2; b++) addBetween(a, b, lost[a] * lost[b], m.im);
  };
  /** Writes S of the pair. */
  const pairAt = (i: number, length: number, x: readonly number[], to: Square) => {
    const { y, z0, modes } = places[i];
    const [even, odd] = modes.map((mode, k) =>
      uniformLine((_f, line: Propagation) => {
        line.z0 = mode.z0;
        line.alpha = 0;
        line.beta = mode.beta * length * (1 + x[swift + 2 * k] + y * y * x[swift + 2 * k + 1]);
      }),
    );
    symmetricPair(even, odd).scatter(0, z0, to.re, to.im);
  };
  const four = square(4);
  const calm = [...STORED, ...LOST].map((unknown) => unknown.calm);
  const residuals = (x: readonly number[], r: Float64Array): boolean => {
    let to = 0;
    places.forEach(({ y, p, solved }, i) => {
      at(x, i);
      scattering(m, p, end);
      lengths.forEach((length, k) => {
        pairAt(i, length, x, four);
        between(end, four, out);
        for (let e = 0; e < 4; e++) r[to++] = (out[e] - solved[k][e]) / y;
      });
    });
    x.forEach((v, k) => (r[to++] = v * (k < swift ? calm[Math.floor(k / TERMS)] : SWIFT)));
    return true;
  };
  const count = swift + 4;
  const { x } = yield* share(
    leastSquaresSteps(
      residuals,
      new Array<number>(count).fill(0),
      4 * lengths.length * places.length + count,
      {
        step: 1e-5,
        maxIterations: 30,
      },
    ),
    0.9,
    1,
  );
  return places.map((_, i) => {
    at(x, i);
    return { re: m.re.slice(), im: m.im.slice() };
  });
}
