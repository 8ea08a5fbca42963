import { C0, cx, share, solveComplex, type Complex, type Sample, type Steps } from '../numeric';
import type { SData } from '../results';
import { CopperError, liesOn, widthOf, type Accuracy, type Band, type Copper, type Point } from './contract';
import { freeMesh } from './free';
import { gridMesh, isManhattan, WIDEST, type Grading } from './grid';
import type { Mesh } from './mesh';
import { checkPorts, feedOf, knownSteps, type Feed, type Known, type Spread } from './ports';
import { sheetLayersOf, sheetOf, swiftOf, wideningOf } from './metal';
import { areaOf, outlinesOf } from '../polygons';
import { checkOutlines } from './outline';
import { boxResonances } from './resonance';
import { extended } from './extend';
import { flowOf, type Flow } from './flow';
import { freePorts, launched } from './launch';
import { bridged, facingPorts } from './mounted';
import { sweepSteps, type Swept } from './sweep';
import { systemSteps, type Admittance, type Outside } from './system';
import { makePassive, referred, wavesOf } from './waves';

/** What an accuracy asks for. */
interface Effort {
  /** The cell at an edge, of the width there. */
  readonly edge: number;
  /** The same where triangles are needed, which are coarser than rectangles of their size. */
  readonly free: number;
  readonly gap: number;
  /** The longest cell in widths of the narrowest port, and of the shortest wavelength. */
  readonly widths: number;
  readonly wavelength: number;
  /** What two approximations of the sweep may differ by. */
  readonly sweep: number;
}

/** Coarser than any accuracy: what a draft is compared with. */
type Level = Accuracy | 'rough';

const efforts: Readonly<Record<Level, Effort>> = {
  rough: { edge: 1 / 3, free: 1 / 4, gap: 2, widths: 1.5, wavelength: 1 / 10, sweep: 1e-2 },
  draft: { edge: 1 / 4, free: 1 / 5, gap: 2, widths: 1, wavelength: 1 / 14, sweep: 1e-2 },
  normal: { edge: 1 / 6, free: 1 / 9, gap: 3, widths: 1, wavelength: 1 / 18, sweep: 2e-3 },
  fine: { edge: 1 / 14, free: 1 / 20, gap: 5, widths: 0.5, wavelength: 1 / 36, sweep: 5e-4 },
};

/**
 * Unknowns of a grid from which is looked for a cheaper mesh, and the share of them that makes one worth it: what crosses
 * triangles is less certain by several times (narrow lines between stubs: 0.05 instead of 0.005 in S at an edge).
 */
const MANY = 300;
const FEWER = 0.6;

/** Unknowns whose matrix still fits into the memory that kernels can have (4 GiB), with what is beside it. */
const MOST = 15_000;
const tooMany = (unknowns: number): RangeError =>
  new RangeError(
    `the copper takes ${unknowns} unknowns, more than there is memory for (${MOST}); a coarser accuracy or a lower end of the band takes fewer`,
  );

/** Frequencies of the band at which lines and their ends are worked out; a polynomial stands between them. */
const NODES = 7;

/** Which of those, of the first to the last, tell how the waves of lines that go on are spread across them. */
const PROFILED = [0.3, 0.8];

/** Below this share of the band's end nothing is solved: the charges there say no more than at it, and digits are lost. */
const LOWEST = 1e-3;

/** A port as it was solved, in the middle of the band. */
export interface SolvedPort {
  readonly number: number;
  readonly z0: number;
  readonly eeff: number;
}

/** The planar field solution of a piece of copper. */
export interface Solution {
  readonly data: SData;
  readonly unknowns: number;
  /** Frequencies solved, Hz; what lies between them is a rational function. */
  readonly solvedAt: readonly number[];
  /** Estimated error of S, absolute: of what lies between the samples, and of the mesh. */
  readonly error: number;
  readonly ports: readonly SolvedPort[];
  /** Resonances of the box inside the sweep, Hz. */
  readonly resonances: readonly number[];
  /** What the engineer should know, in sentences. */
  readonly warnings: readonly string[];
}

export interface SolveOptions {
  readonly accuracy?: Accuracy;
  /** Told of a first curve and of every better one. */
  readonly watch?: (data: SData, swept: Pick<Swept, 'error' | 'samples'>) => void;
  /** Whether the error tells what another mesh makes of it, which takes as long as many a sweep; absent: yes. */
  readonly meshError?: boolean;
}

/** Whether all ports that are at no wall are the whole end of a line, so that what is behind them is one. */
function endLines({ polygons, ports, walls }: Copper): boolean {
  if (walls) return true;
  const corners = outlinesOf(polygons).flat();
  const isCorner = ([x, y]: Point) => corners.some(([u, v]) => Math.hypot(x - u, y - v) < 2e-9);
  return ports.every(({ edge }) => edge.every(isCorner));
}

/** The mesh of a piece of copper. @throws CopperError, RangeError where it has more cells than there is memory for */
export function meshOf(copper: Copper, highest: number, accuracy: Level, wider = wideningOf(copper)): Mesh {
  const effort = efforts[accuracy];
  const { below, above } = copper.layers;
  const widths = copper.ports.map(widthOf);
  const wave = C0 / (highest * Math.sqrt((below.er + above.er) / 2));
  const grading: Grading = {
    edge: effort.edge,
    widest: WIDEST * Math.min(below.height, above.height),
    gap: effort.gap,
    wider,
    // What is far from any edge changes with the height, however narrow a line somewhere else is.
    longest: Math.min(
      effort.widths * Math.max(Math.min(...widths), Math.min(below.height, above.height)),
      effort.wavelength * wave,
    ),
  };
  const outlines = outlinesOf(copper.polygons);
  checkOutlines(outlines);
  // Even of the largest cells there would be more than can be solved: that is said before anything is meshed.
  const least = outlines.reduce((sum, ring) => sum + areaOf(ring), 0) / grading.longest ** 2;
  if (least > MOST) throw tooMany(Math.round(2 * least));
  const free = () => freeMesh(copper, { ...grading, edge: effort.free });
  if (!isManhattan(copper) || !endLines(copper)) return free();
  const grid = gridMesh(copper, grading);
  if (grid.bases.length < MANY) return grid;
  // Lines of a grid go on to the next edge, which costs more than triangles where corners nearly face one another.
  try {
    const other = free();
    return other.bases.length < FEWER * grid.bases.length ? other : grid;
  } catch (error) {
    if (error instanceof CopperError) return grid;
    throw error;
  }
}

/** A quantity of a line or its end over frequency, as a polynomial through its nodes. */
function through(nodes: readonly number[], values: readonly number[]): (f: number) => number {
  const weights = nodes.map((x, i) => nodes.reduce((w, y, j) => (i === j ? w : w / ((x - y) / nodes[0])), 1));
  return (f) => {
    let [top, bottom] = [0, 0];
    for (let i = 0; i < nodes.length; i++) {
      if (f === nodes[i]) return values[i];
      const w = weights[i] / (f - nodes[i]);
      top += w * values[i];
      bottom += w;
    }
    return top / bottom;
  };
}

/** A port's line over the band. */
type Line = (f: number) => Known;

function lineThrough(nodes: readonly number[], known: readonly Known[]): Line {
  const of = (read: (k: Known, f: number) => number) =>
    through(
      nodes,
      known.map((k, i) => read(k, nodes[i])),
    );
  // Over frequency all of them are smooth and nearly constant.
  const beta = of((k, f) => k.beta / f);
  const alpha = of((k, f) => k.alpha / Math.sqrt(f));
  const own = of((k) => k.own);
  const z0 = of((k) => k.z0);
  const turn = of((k) => k.turn);
  const [yr, yi] = [of((k) => k.shunt.re), of((k, f) => k.shunt.im / f)];
  const [zr, zi] = [of((k) => k.series.re), of((k, f) => k.series.im / f)];
  return (f) => ({
    beta: f * beta(f),
    alpha: Math.sqrt(f) * alpha(f),
    own: own(f),
    z0: z0(f),
    turn: turn(f),
    shunt: { re: yr(f), im: f * yi(f) },
    series: { re: zr(f), im: f * zi(f) },
  });
}

/** The same where a part is mounted: it meets voltage and current at its pad, whose side may be that of wider copper. */
const asItIs =
  (line: Line): Line =>
  (f) => {
    const known = line(f);
    return { ...known, z0: known.own };
  };

/** A port as its own line is taken off. */
interface Embedded {
  /** How far inside its plane lies, m. */
  readonly plane: number;
  /** Whether a part is mounted at the end of its line, which stores what an end stores. */
  readonly stores: boolean;
  /** Length of line, m, whose current goes on to the port without its charge; absent: current enters at the end of the line. */
  readonly bridge?: number;
}

/** What is taken off at a port. */
function takenAt(
  { shunt, series, own, turn, alpha, beta }: Known,
  { stores, bridge }: Embedded,
): { readonly shunt: Complex; readonly series: Complex } {
  if (bridge === undefined) return { shunt, series };
  // Of its line that length has no capacitance, and the end that it leaves is there where a part is mounted.
  const along = cx.mul({ re: alpha * bridge, im: beta * bridge }, { re: own, im: own * turn });
  return { shunt: stores ? { re: 0, im: 0 } : shunt, series: along };
}

/** S-parameters in waves of the ports' own lines from raw admittances: without what stands at the ends, moved to the planes. */
function embedded(
  { re, im }: Admittance,
  lines: readonly Known[],
  ports: readonly Embedded[],
): { re: Float64Array; im: Float64Array } {
  const n = ports.length;
  const yr = Float64Array.from(re);
  const yi = Float64Array.from(im);
  const taken = lines.map((line, p) => takenAt(line, ports[p]));
  taken.forEach(({ shunt }, p) => {
    yr[p * n + p] -= shunt.re;
    yi[p * n + p] -= shunt.im;
  });
  // (1 - Y z)^-1 Y takes impedances z out that are in series with the ports.
  if (taken.some(({ series }) => series.re !== 0 || series.im !== 0)) {
    const ar = new Float64Array(n * n);
    const ai = new Float64Array(n * n);
    taken.forEach(({ series }, q) => {
      for (let p = 0; p < n; p++) {
        const x = cx.mul({ re: yr[p * n + q], im: yi[p * n + q] }, series);
        ar[p * n + q] = (p === q ? 1 : 0) - x.re;
        ai[p * n + q] = -x.im;
      }
    });
    solveComplex(n, n, ar, ai, yr, yi);
  }
  // Where a part is mounted the current goes on through it, but the charge that an end stores is there.
  taken.forEach(({ shunt }, p) => {
    if (!ports[p].stores) return;
    yr[p * n + p] += shunt.re;
    yi[p * n + p] += shunt.im;
  });
  const s = wavesOf(
    n,
    yr,
    yi,
    lines.map((k) => ({ re: k.own, im: k.own * k.turn })),
  );
  const turn = (p: number): Complex => ({
    re: lines[p].alpha * ports[p].plane,
    im: lines[p].beta * ports[p].plane,
  });
  for (let p = 0; p < n; p++)
    for (let q = 0; q < n; q++) {
      const at = p * n + q;
      const moved = cx.mul({ re: s.re[at], im: s.im[at] }, cx.exp(cx.add(turn(p), turn(q))));
      s.re[at] = moved.re;
      s.im[at] = moved.im;
    }
  return s;
}

/** Copper ready to be solved at one frequency of its band after the other. */
export interface Prepared extends Omit<Solution, 'data' | 'solvedAt' | 'error'> {
  readonly hasTriangles: boolean;
  /** S-parameters in the ports' references. */
  at(f: number): Sample;
  /** The same in travelling waves of the ports' own lines. */
  own(f: number): Sample;
  /** Impedances (ohm) and phase constants (rad/m) of the ports' own lines. */
  lines(f: number): { readonly z0: number; readonly beta: number }[];
  /** The current on the mesh at a frequency (Hz) with waves sent into the ports. @param drive sqrt(W), peak, by number */
  flow(f: number, drive: readonly Complex[]): Flow;
}

/**
 * Prepares copper: mesh, ports and everything that no frequency of the band changes.
 * @throws CopperError in words, RangeError where the matrix would need more memory than there is
 */
export function* prepareSteps(copper: Copper, { start, stop }: Band, accuracy: Level): Steps<Prepared> {
  checkPorts(copper.ports);
  const sorted = extended({ ...copper, ports: [...copper.ports].sort((a, b) => a.number - b.number) });
  const { ports } = sorted;
  const least = LOWEST * stop;
  const wider = wideningOf(sorted);
  const mesh = meshOf(sorted, stop, accuracy, wider);
  if (mesh.bases.length > MOST) throw tooMany(mesh.bases.length);
  const { walls } = sorted;
  const layers = { ...sheetLayersOf(sorted), swift: swiftOf(sorted, wider, (start + stop) / 2) };
  // Without walls lines go on behind ports that have room for it.
  const middle = Math.max(least, (start + stop) / 2);
  const air = C0 / middle;
  const going = ports.flatMap((p, i) => (p.ends ? [] : [i]));
  const free = walls ? [] : freePorts(mesh, layers, air, going);
  const feeds = ports.map((_, i) => feedOf(mesh, i, sorted, wider, free.includes(i)));

  // Nodes as Chebyshev has them; of a band that is narrow fewer say as much.
  const lowest = Math.max(least, start);
  const ratio = stop / lowest;
  const many = ratio < 1.02 ? 1 : ratio < 1.5 ? 4 : ratio < 3.5 ? 5 : NODES;
  const nodes = Array.from({ length: many }, (_, i) =>
    many === 1
      ? (lowest + stop) / 2
      : (lowest + stop) / 2 - ((stop - lowest) / 2) * Math.cos((Math.PI * (i + 0.5)) / many),
  );
  const sheet = sheetOf(sorted, feeds, (lowest + stop) / 2);
  const profiled = [...new Set(PROFILED.map((at) => Math.round(at * (many - 1))))];
  const found = new Map<string, { readonly known: readonly Spread[]; readonly line: Line }>();
  const lines: Line[] = [];
  const spreads: { port: number; profiles: readonly Spread[] }[] = [];
  for (const [port, feed] of feeds.entries()) {
    const key = keyOf(feed);
    let own = found.get(key);
    if (!own) {
      const known = yield* share(
        knownSteps(feed, layers, nodes, sheet),
        (0.6 * port) / ports.length,
        (0.6 * (port + 1)) / ports.length,
      );
      own = { known, line: lineThrough(nodes, known) };
      found.set(key, own);
    }
    const { known, line } = own;
    lines.push(ports[port].ends ? asItIs(line) : line);
    if (free.includes(port)) spreads.push({ port, profiles: profiled.map((k) => known[k]) });
  }

  const facing = facingPorts(mesh, sorted);
  const planes = ports.map((p, i): Embedded => {
    const { before } = mesh.ports[i];
    // A piece of line that is set in front ends there, not the copper.
    const pair = facing.find((f) => f.ports.includes(i));
    return {
      plane: p.plane + before,
      stores: p.ends === true && before === 0,
      bridge: pair && pair.drawn - before,
    };
  });
  const { mesh: whole, ...beyond } = launched(bridged(mesh, facing), layers, air, spreads);
  const system = yield* share(systemSteps(whole, layers, walls, sheet, beyond), 0.6, 1);
  const places = profiled.map((k) => nodes[k]);
  const outside = (f: number): Outside[] => {
    // Profiles change as the square of frequency does.
    const along = places.map((g) =>
      places.reduce((w, h) => (g === h ? w : (w * (f * f - h * h)) / (g * g - h * h)), 1),
    );
    return spreads.map(({ port, profiles }) => {
      const { alpha, beta, own, turn } = lines[port](f);
      // Those across grow with the phase constant.
      const across = along.map((share, i) => (share * beta) / profiles[i].beta);
      return { alpha, beta, z: { re: own, im: own * turn }, along, across };
    });
  };
  /** In waves of the mesh's own lines, which stand for those of the strips themselves. */
  const wavesAt = (f: number) => {
    const known = lines.map((l) => l(f));
    return { known, s: embedded(system.solve(f, outside(f)), known, planes) };
  };
  return {
    unknowns: system.unknowns,
    hasTriangles: mesh.cells.some((c) => c.corners.length === 6),
    own(f) {
      const { re, im } = wavesAt(Math.max(f, least)).s;
      return { x: f, re, im };
    },
    lines: (f) => lines.map((line) => line(Math.max(f, least))),
    at(f) {
      const { known, s: own } = wavesAt(Math.max(f, least));
      const s = referred(
        ports.length,
        own,
        known.map((k) => ({ re: k.z0, im: k.z0 * k.turn })),
        ports.map((p) => p.z0),
      );
      // Where power can leave what ports radiate is taken off them only about; copper gives no power all the same.
      if (!walls || layers.above.height === Infinity) makePassive(ports.length, s);
      return { x: f, re: s.re, im: s.im };
    },
    flow: (f, drive) =>
      flowOf(
        mesh,
        (currents) => system.solve(Math.max(f, least), outside(Math.max(f, least)), currents),
        system.unknowns,
        ports.map((p) => p.z0),
        drive,
      ),
    ports: ports.map(({ number }, i) => {
      const { beta, z0 } = lines[i](middle);
      return { number, z0, eeff: (beta / ((2 * Math.PI * middle) / C0)) ** 2 };
    }),
    resonances: walls ? boxResonances(layers, walls, start, stop) : [],
    warnings: warningsOf(sorted),
  };
}

/** What two approximations of a sweep may differ by. */
export const toleranceOf = (accuracy: Accuracy): number => efforts[accuracy].sweep;

/** The mesh that an accuracy is compared with, and the one where that cannot be made. */
const others: Readonly<Record<Accuracy, readonly [Level, Level]>> = {
  draft: ['rough', 'normal'],
  normal: ['draft', 'fine'],
  fine: ['normal', 'draft'],
};
/** Frequencies at which meshes are compared. */
const COMPARED = 3;

/**
 * What the mesh makes of S, absolute: the difference from another one, a coarser where it can be made, where the curves are steepest, at the end of the band and
 * in its middle, extrapolated as errors of the first order in the cell (which these are at worst).
 */
export function* meshErrorSteps(
  copper: Copper,
  band: Band,
  accuracy: Accuracy,
  samples: readonly Sample[],
): Steps<number> {
  const sorted = [...samples].sort((a, b) => a.x - b.x);
  const apart = (a: Sample, b: Sample): number =>
    a.re.reduce((most, x, i) => Math.max(most, Math.hypot(x - b.re[i], a.im[i] - b.im[i])), 0);
  const steep = sorted.map((s, i) =>
    Math.max(...[sorted[i - 1], sorted[i + 1]].map((o) => (o ? apart(s, o) / Math.abs(o.x - s.x) : 0))),
  );
  const chosen = new Set([
    sorted[steep.indexOf(Math.max(...steep))],
    sorted[sorted.length - 1],
    sorted[sorted.length >> 1],
  ]);
  let [other] = others[accuracy];
  let prepared: Prepared;
  try {
    prepared = yield* share(prepareSteps(copper, band, other), 0, 0.6);
  } catch (error) {
    if (!(error instanceof CopperError)) throw error;
    other = others[accuracy][1];
    prepared = yield* share(prepareSteps(copper, band, other), 0, 0.6);
  }
  let most = 0;
  let done = 0;
  for (const sample of chosen) {
    most = Math.max(most, apart(sample, prepared.at(sample.x)));
    yield 0.6 + (0.4 * ++done) / COMPARED;
  }
  const kind = prepared.hasTriangles ? 'free' : 'edge';
  const ratio = efforts[other][kind] / efforts[accuracy][kind];
  // Where nothing can be seen something is left all the same.
  return Math.max(efforts[accuracy].sweep / 2, most / Math.abs(ratio - 1));
}

/**
 * The planar field solution of copper at frequencies (Hz, ascending). Yields the share done.
 * @throws CopperError in words
 */
export function* solveSteps(
  copper: Copper,
  frequencies: Float64Array,
  { accuracy = 'normal', watch, meshError = true }: SolveOptions = {},
): Steps<Solution> {
  const band = { start: frequencies[0], stop: frequencies[frequencies.length - 1] };
  const prepared = yield* share(prepareSteps(copper, band, accuracy), 0, 0.45);
  const { unknowns, resonances, warnings } = prepared;
  const references = [...copper.ports].sort((a, b) => a.number - b.number);
  const dataOf = ({ re, im }: Pick<Swept, 're' | 'im'>): SData => ({
    ports: references.length,
    freq: frequencies,
    re,
    im,
    z0: references.map((p) => ({ re: p.z0, im: 0 })),
  });
  const swept = yield* share(
    sweepSteps(
      frequencies,
      toleranceOf(accuracy),
      (f) => prepared.at(f),
      (soFar) => watch?.(dataOf(soFar), soFar),
    ),
    0.45,
    0.75,
  );
  const meshed = meshError ? yield* share(meshErrorSteps(copper, band, accuracy, swept.samples), 0.75, 1) : 0;
  return {
    unknowns,
    ports: prepared.ports,
    resonances,
    warnings,
    data: dataOf(swept),
    solvedAt: swept.samples.map((s) => s.x),
    error: Math.max(swept.error, meshed),
  };
}

/** Feeds of one key have the same line and end. */
const keyOf = ({ strip: { across, pitch, walls }, width, behind, room = 0 }: Feed): string => {
  // From the nearer wall on: a box is its own mirror image.
  const round = (x: number) => Number(x.toPrecision(9));
  const shape = (list: readonly number[]) => list.slice(1).map((y, i) => round(y - list[i]));
  const steps = shape(across);
  const offset = walls ? [across[0] - walls[0], walls[1] - across[across.length - 1]] : [];
  return JSON.stringify([steps, round(pitch), offset.map(round), round(width), behind, round(room)]);
};

function warningsOf({ metal, layers, ports, walls }: Copper): string[] {
  const out: string[] = [];
  if (metal.thickness > 0.1 * Math.min(layers.below.height, layers.above.height))
    out.push(
      'Thickness counts only by what lines know of it, their impedance and velocity; here it is more than a tenth of the height.',
    );
  for (const { number, edge, ends } of ports)
    if (walls && !ends && !liesOn(walls, edge, 1e-9))
      out.push(
        `Port ${number} ends inside of the walls and looks at none of them straight, or something is in the way: what its end excites in the box counts as well.`,
      );
  ports.forEach((p, i) =>
    ports.slice(i + 1).forEach((q) => {
      const [a, b] = [p, q].map(({ edge: [c, d] }) => [(c[0] + d[0]) / 2, (c[1] + d[1]) / 2]);
      if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 3 * layers.below.height)
        out.push(
          `Ports ${p.number} and ${q.number} are closer to one another than three heights: they couple before their planes.`,
        );
    }),
  );
  return out;
}
