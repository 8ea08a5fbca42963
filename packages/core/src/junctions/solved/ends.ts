import { symmetricPair, uniformLine, type Propagation } from '../../electrical';
import { linePoint, Sections, type Substrate } from '../../lines';
import { C0, leastSquaresSteps, share, solveComplex, type Steps } from '../../numeric';
import { layersOf, prepareSteps, type Copper, type CopperPort, type Layers, type Point } from '../../planar';
import { forms, type PairEnd } from '../contract';
import { plain, scatteringFrom, square, type Square } from '../stored';
import { box, feedOf, HEIGHT, NEAR, roomIn, type SingleJunction } from './copper';
import type { Asked } from '.';

/**
 * Two strips side by side over a length, measured between their ends or the corners of their bends, with two ends alike: each
 * strip open at one end and going on at the other, which is its own image by half a turn, or both bending away at both ends.
 * @param dimensions width and gap, m
 */
export function pairEndCopper(
  kind: PairEnd,
  [width, gap]: readonly number[],
  length: number,
  layers: Layers,
  housed: boolean,
): Copper {
  const h = width / 2;
  const polygons: Point[][] = [];
  const ports: CopperPort[] = [];
  // The first strip lies along the axis; the second one above it is its image by half a turn, or in the line between them.
  const turns = kind === 'pair-end' || kind === 'pair-end-bent';
  const room = roomIn(layers);
  // Where strips bend away, lines may go on beside one another, and far from there they still couple.
  const feed = feedOf(layers, width, housed, kind === 'pair-end' ? undefined : NEAR);
  const image = ([x, y]: Point): Point => [turns ? length - x : x, width + gap - y];
  /** A piece of the first strip and the same of the second one. */
  const put = (points: Point[]) => polygons.push(points, points.map(image));
  /** Ports of the first strip, then those of the second one. @param edges of the first strip's */
  const enter = (edges: readonly (readonly [Point, Point])[], plane: number): void => {
    for (const [a, b] of [...edges, ...edges.map(([a, b]) => [image(a), image(b)] as const)])
      ports.push({ number: ports.length + 1, edge: [a, b], plane, z0: 50 });
  };
  if (kind === 'pair-end') {
    put(box(-feed, -h, length, h));
    enter(
      [
        [
          [-feed, -h],
          [-feed, h],
        ],
      ],
      feed,
    );
  } else {
    const down = -h - feed;
    // Where the strip bends, and to which side from there it goes on.
    const corners = [[0, 1] as const, ...(turns ? [] : [[length, -1] as const])];
    put(box(h, -h, turns ? length : length - h, h));
    for (const [x, to] of corners) {
      // The outer corner, which looks at the other strip, is cut off.
      put([
        [x + to * h, h],
        [x + to * h, -h],
        [x - to * h, -h],
      ]);
      put(box(x - h, down, x + h, -h));
    }
    enter(
      corners.map(([x]) => [
        [x - h, down],
        [x + h, down],
      ]),
      feed + h,
    );
  }
  const xs = polygons.flat().map(([x]) => x);
  const ys = polygons.flat().map(([, y]) => y);
  const beyond = kind === 'pair-end' ? [0, room] : [room, 0];
  return {
    layers,
    metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
    polygons,
    ports,
    ...(housed && {
      walls: {
        x0: Math.min(...xs) - beyond[0],
        x1: Math.max(...xs) + beyond[0],
        y0: Math.min(...ys) - beyond[1],
        y1: Math.max(...ys) + beyond[1],
      },
    }),
  };
}

/** Waves of an end by its pins: what the plain end returns as it comes, or turned over. */
interface Wave {
  readonly by: readonly number[];
  readonly returned: 1 | -1;
  /** Power leaves with those of a group as one. */
  readonly group: number;
}

/** How an end is found out of pairs. */
interface Plan {
  /** Lengths that are solved, in heights, or in what stands for them where strips are wide. */
  readonly lengths: readonly number[];
  readonly waves: readonly Wave[];
  /**
   * How much it counts against the fit what two waves store besides what junctions by themselves do: what moves the phase at an
   * open end and along the strip that goes on is told apart by few lengths, so that stays small.
   */
  readonly calm: readonly (readonly number[])[];
  /** Junctions that are there without the strip beside, and at which pins. */
  readonly alone: readonly { readonly kind: SingleJunction; readonly at: readonly number[] }[];
  /** Pins of an end, what lies between and an end in one row, each with the one that it is joined to; -1: a port. */
  readonly joined: readonly number[];
  readonly ports: readonly [number, number];
  /** What lies between: one of the modes, or both. */
  readonly mode?: 0 | 1;
}

const HALF = Math.SQRT1_2;
const OPEN = {
  lengths: [4, 6, 8, 11],
  waves: [
    { by: [1, 0, 0], returned: 1, group: 0 },
    { by: [0, HALF, HALF], returned: 1, group: 0 },
    { by: [0, HALF, -HALF], returned: -1, group: 1 },
  ],
  joined: [4, 3, -1, 1, 0, 7, 8, 5, 6, -1],
  ports: [2, 9],
} as const;
const BENDS = {
  lengths: [5, 7, 10],
  waves: [
    { by: [HALF, HALF], returned: 1, group: 0 },
    { by: [HALF, -HALF], returned: -1, group: 1 },
  ],
  calm: [[0.02, 0.1], [0.02]],
  alone: [{ kind: 'mitred-bend', at: [0, 1] }],
  joined: [2, -1, 0, 4, 3, -1],
  ports: [1, 5],
} as const;
const plans: Readonly<Record<PairEnd, Plan>> = {
  'pair-end': {
    ...OPEN,
    calm: [[0.3, 0.02, 0.02], [0.3, 0.02], [0.3]],
    alone: [{ kind: 'open-end', at: [0] }],
  },
  'pair-end-bent': {
    ...OPEN,
    calm: [[0.3, 0.02, 0.02], [0.1, 0.02], [0.1]],
    alone: [
      { kind: 'open-end', at: [0] },
      { kind: 'mitred-bend', at: [1, 2] },
    ],
  },
  'pair-bends-even': { ...BENDS, mode: 0 },
  'pair-bends-odd': { ...BENDS, mode: 1 },
};

/** The same for a difference of what leaves, and for one of the modes' velocities from those of their section. */
const LOST = 0.1;
const SWIFT = 0.5;
/** What is stored grows with frequency and bends: its terms. */
const TERMS = 3;

/** An S-matrix or what is stored, between waves instead of pins or back: both ways are the same for each entry. */
function turnedBy(waves: readonly Wave[], from: Float64Array, back: boolean): Float64Array {
  const n = waves.length;
  const w = (i: number, a: number) => (back ? waves[a].by[i] : waves[i].by[a]);
  const out = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++)
      for (let a = 0; a < n; a++)
        for (let b = 0; b < n; b++) out[i * n + j] += w(i, a) * from[a * n + b] * w(j, b);
  return out;
}

/** Writes S11 and S21 of what lies between two ends, all in waves of one impedance. */
function between({ joined, ports }: Plan, end: Square, middle: Square, out: Float64Array): void {
  const all = joined.length;
  const s = square(all);
  let from = 0;
  for (const part of [end, middle, end]) {
    const n = Math.sqrt(part.re.length);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        s.re[(from + i) * all + from + j] = part.re[i * n + j];
        s.im[(from + i) * all + from + j] = part.im[i * n + j];
      }
    from += n;
  }
  // Waves into the pins from a wave of 1 into the first port: what their partners send, and that.
  const a = square(all);
  const waves = { re: new Float64Array(all), im: new Float64Array(all) };
  joined.forEach((other, i) => {
    a.re[i * all + i] = 1;
    if (other < 0) return;
    for (let j = 0; j < all; j++) {
      a.re[i * all + j] -= s.re[other * all + j];
      a.im[i * all + j] -= s.im[other * all + j];
    }
  });
  waves.re[ports[0]] = 1;
  solveComplex(all, 1, a.re, a.im, waves.re, waves.im);
  ports.forEach((pin, k) => {
    let [re, im] = [0, 0];
    for (let j = 0; j < all; j++) {
      re += s.re[pin * all + j] * waves.re[j] - s.im[pin * all + j] * waves.im[j];
      im += s.re[pin * all + j] * waves.im[j] + s.im[pin * all + j] * waves.re[j];
    }
    out[2 * k] = re;
    out[2 * k + 1] = im;
  });
}

/** S11 and S21 of solved copper as its images say that it is; of four ports those of one mode. */
function seenIn({ mode }: Plan, { re, im }: Square): Float64Array {
  const mean = (...at: number[]) =>
    [re, im].map((part) => at.reduce((sum, k) => sum + part[k], 0) / at.length) as [number, number];
  if (mode === undefined) return Float64Array.of(...mean(0, 3), ...mean(1, 2));
  // Ports: near and far of the first strip, near and far of the second one.
  const sign = mode === 0 ? 1 : -1;
  const [own, beside] = [mean(0, 5, 10, 15), mean(2, 8, 7, 13)];
  const [through, across] = [mean(1, 4, 11, 14), mean(3, 12, 6, 9)];
  return Float64Array.of(
    own[0] + sign * beside[0],
    own[1] + sign * beside[1],
    through[0] + sign * across[0],
    through[1] + sign * across[1],
  );
}

/**
 * What stands at the ends of coupled strips stores, at each frequency. Its pins cannot be solved apart, for two of them belong to
 * lines that couple: pairs of some lengths are solved instead, and what stands at their ends is what makes coupled lines with
 * the modes of their section out of them, with the least change of what junctions by themselves are (least squares).
 * @param kinds what is told of one and the same copper
 * @param single what a junction stores that is solved by itself
 */
export function* pairEndSteps(
  kinds: readonly PairEnd[],
  asked: Asked,
  single: (kind: SingleJunction, asked: Asked) => Steps<Square[]>,
): Steps<Square[][]> {
  const { medium, board, dimensions, housed, freq, accuracy } = asked;
  const plan = plans[kinds[0]];
  const { pins: n } = forms[kinds[0]];
  const alone = freq.map(() => square(n));
  for (const part of plan.alone) {
    const found = yield* share(
      single(part.kind, { ...asked, dimensions: dimensions.slice(0, 1), accuracy: 'fine' }),
      0,
      0.1,
    );
    found.forEach((m, i) =>
      part.at.forEach((a, p) =>
        part.at.forEach((b, q) => {
          alone[i].re[a * n + b] = m.re[p * part.at.length + q];
          alone[i].im[a * n + b] = m.im[p * part.at.length + q];
        }),
      ),
    );
  }
  const [width] = dimensions;
  const layers = layersOf(medium, { ...board, tand: 0 });
  const lengths = plan.lengths.map((k) => k * Math.max(HEIGHT, 0.6 * HEIGHT + 0.4 * width));
  const band = { start: freq[0], stop: freq[freq.length - 1] };
  const solved: Square[][] = [];
  for (const [i, length] of lengths.entries()) {
    const prepared = yield* share(
      prepareSteps(pairEndCopper(kinds[0], dimensions, length, layers, housed), band, accuracy),
      0.1 + (0.8 * i) / lengths.length,
      0.1 + (0.8 * (i + 0.8)) / lengths.length,
    );
    solved.push(freq.map((f) => prepared.own(f)));
  }
  const found: Square[][] = [];
  for (const [i, kind] of kinds.entries())
    found.push(
      yield* share(
        fittedSteps(kind, asked, lengths, alone, solved),
        0.9 + (0.1 * i) / kinds.length,
        0.9 + (0.1 * (i + 1)) / kinds.length,
      ),
    );
  return found;
}

/**
 * What stands at the ends of pairs, at each frequency.
 * @param alone what the junctions there store by themselves, at each frequency
 * @param solved S in waves of the ports' lines, for each length at each frequency
 */
function* fittedSteps(
  kind: PairEnd,
  { medium, board, dimensions, housed, freq }: Asked,
  lengths: readonly number[],
  alone: readonly Square[],
  solved: readonly (readonly Square[])[],
): Steps<Square[]> {
  const plan = plans[kind];
  const { waves, calm, mode } = plan;
  const { pins: n, joined } = forms[kind];
  const [width, gap] = dimensions;
  const substrate: Substrate = { ...board, tand: 0, thickness: 0, conductivity: 1e30, roughness: 0 };
  const sections = new Sections(medium, substrate);
  const strip = sections.get('strip', width);
  const pair = sections.get('pair', width, gap);
  const [lone, ...modes] = [linePoint(), linePoint(), linePoint()];
  const places = freq.map((f, i) => {
    strip.impedanceAt(f, [lone]);
    pair.at(f, modes);
    const p = new Float64Array(n * n);
    plain(new Float64Array(n).fill(lone.z0), joined, p);
    return {
      y: f / freq[freq.length - 1],
      p,
      z0: lone.z0,
      modes: modes.map(({ z0, eeff }) => ({ z0, beta: (2 * Math.PI * f * Math.sqrt(eeff)) / C0 })),
      alone: [alone[i].re, alone[i].im].map((part) => turnedBy(waves, part, false)),
      solved: solved.map((all) => seenIn(plan, all[i])),
    };
  });

  const lossless = housed || medium === 'stripline';
  const scattering = scatteringFrom(n);
  const end = square(n);
  const stored = waves.flatMap((_, a) => waves.slice(a).map((_, k) => ({ a, b: a + k, calm: calm[a][k] })));
  const swift = TERMS * (stored.length + (lossless ? 0 : n));
  const term = (x: readonly number[], k: number, y: number) =>
    y * (x[TERMS * k] + y * y * (x[TERMS * k + 1] + y * y * x[TERMS * k + 2]));
  /**
   * M at one of the frequencies. Of a junction that keeps power it is real among waves that the plain end returns alike and
   * imaginary between others; what leaves is a square, and imaginary among the former.
   */
  const at = (x: readonly number[], i: number): Square => {
    const { y, alone } = places[i];
    const [re, im] = [new Float64Array(n * n), new Float64Array(n * n)];
    stored.forEach(({ a, b }, k) => {
      const alike = waves[a].returned === waves[b].returned;
      const value = alone[alike ? 0 : 1][a * n + b] + term(x, k, y);
      const part = alike ? re : im;
      part[a * n + b] = part[b * n + a] = value;
    });
    if (!lossless) {
      const lost = waves.map(
        ({ returned }, a) =>
          Math.sqrt(Math.max(0, returned * alone[1][a * n + a])) + term(x, stored.length + a, y),
      );
      for (let a = 0; a < n; a++)
        for (let b = 0; b < n; b++)
          if (waves[a].group === waves[b].group) im[a * n + b] = waves[a].returned * lost[a] * lost[b];
    }
    return { re: turnedBy(waves, re, true), im: turnedBy(waves, im, true) };
  };
  /** What lies between the ends. */
  const middleOf = (i: number, length: number, x: readonly number[]): Square => {
    const { y, z0, modes } = places[i];
    const lines = modes.map((of, k) =>
      uniformLine((_f, line: Propagation) => {
        line.z0 = of.z0;
        line.alpha = 0;
        line.beta = of.beta * length * (1 + x[swift + 2 * k] + y * y * x[swift + 2 * k + 1]);
      }),
    );
    const part = mode === undefined ? symmetricPair(lines[0], lines[1]) : lines[mode];
    const out = square(part.pins);
    part.scatter(0, z0, out.re, out.im);
    return out;
  };
  const out = new Float64Array(4);
  const calms = [...stored.map((s) => s.calm), ...waves.map(() => LOST)];
  const residuals = (x: readonly number[], r: Float64Array): boolean => {
    let to = 0;
    places.forEach(({ y, p, solved }, i) => {
      scattering(at(x, i), p, end);
      lengths.forEach((length, k) => {
        between(plan, end, middleOf(i, length, x), out);
        for (let e = 0; e < 4; e++) r[to++] = (out[e] - solved[k][e]) / y;
      });
    });
    x.forEach((v, k) => (r[to++] = v * (k < swift ? calms[Math.floor(k / TERMS)] : SWIFT)));
    return true;
  };
  const count = swift + 2 * modes.length;
  const { x } = yield* leastSquaresSteps(
    residuals,
    new Array<number>(count).fill(0),
    4 * lengths.length * places.length + count,
    { step: 1e-5, maxIterations: 30 },
  );
  return places.map((_, i) => at(x, i));
}
