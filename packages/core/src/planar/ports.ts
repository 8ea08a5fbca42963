import { C0, cx, share, type Complex, type Steps } from '../numeric';
import {
  axisOf,
  CopperError,
  isOnAxis,
  liesOn,
  middleOf,
  toWall,
  widthOf,
  type Copper,
  type CopperPort,
  type Layers,
  type Point,
  type Sheet,
  type Walls,
} from './contract';
import { graded, OUTWARD, WIDEST } from './grid';
import { guidedBy, type Guided, type Strip } from './guided';
import { rectangle, rectangleHalf, type Cell, type Half, type Mesh } from './mesh';
import { boxResonances } from './resonance';
import { systemSteps, type System } from './system';

/** What is known of a port's line and of its end at some frequency. */
export interface Known {
  /** Of the mesh itself: rad/m, Np/m, ohm. */
  readonly beta: number;
  readonly alpha: number;
  readonly own: number;
  /** Of the strip that the mesh stands for, ohm. */
  readonly z0: number;
  /** How far losses turn both impedances, rad. */
  readonly turn: number;
  /** What stands across the end of the line, S, and in series after it, ohm. */
  readonly shunt: Complex;
  readonly series: Complex;
}

/** The same with how the current of the line's wave is spread across it. */
export type Spread = Known & Pick<Guided, 'along' | 'across'>;

/** A strip that ends in a port. */
export interface Feed {
  readonly strip: Strip;
  /** The width as it is drawn, with what thickness adds, m. */
  readonly width: number;
  /** What is behind it: a wall, whose image carries it on; the line itself, that goes on; nothing. */
  readonly behind: 'wall' | 'line' | 'nothing';
  /** Out of the copper. */
  readonly outward: Point;
  /** In a box: how far the next wall is behind it, as far as that counts, m. */
  readonly room?: number;
}

/** Room behind the end of a line in a box beyond which more of it changes nothing, in heights. */
const FAR = 6;

/** Lines across which a finer copy of the strip is taken for the strip itself, and its cells along in those of the mesh. */
const FINER = { edge: 1 / 14, pitch: 1 / 8 } as const;

/**
 * Lengths of the line that tells what stands at its ends: in ways between the walls, or in heights where there are none. Near
 * odd quarter waves an end in the open does not tell what is across it from what is in series, so there is another.
 */
const STANDARD = { walls: [1.7], heights: [10, 16] } as const;

/** Angle of a line below which it tells nothing of what is in series with it, rad. */
const SHORT = 0.35;

/** Share of its lowest resonance up to which the box around that line leaves it alone. */
const SOUND = 0.75;

/**
 * Frequency up to which a line in a box tells what stands at its ends, Hz: near a resonance of the box it tells of that, and
 * what was read there would spoil what is read below it, which one polynomial joins.
 * @param highest what is asked for, Hz
 */
function soundBelow(layers: Layers, box: Walls, highest: number): number {
  const [first = Infinity] = boxResonances(layers, box, 0, highest / SOUND, 1);
  return SOUND * first;
}

/** The strip behind a port, read off the mesh. @param wider by how much each edge stands outside for the metal's thickness */
export function feedOf(
  { cells, bases, ports }: Mesh,
  index: number,
  { ports: all, walls, layers }: Copper,
  wider: number,
  goesOn: boolean,
): Feed {
  const port = all[index];
  const { across, pitch, functions } = ports[index];
  const width = widthOf(port) + 2 * wider;
  const behind = goesOn ? 'line' : liesOn(walls, port.edge, 1e-9) ? 'wall' : 'nothing';
  const [[ax, ay], [bx, by]] = port.edge;
  const middle = middleOf(port);
  // Out is away from the cell at the port.
  const { x, y } = cells[bases[functions[0]][0].cell];
  const [ux, uy] = [(by - ay) / widthOf(port), (ax - bx) / widthOf(port)];
  const out = (middle[0] - x) * ux + (middle[1] - y) * uy > 0 ? 1 : -1;
  const n: Point = [out * ux, out * uy];
  if (!walls) return { strip: { across, pitch }, width, behind, outward: n };
  const far = FAR * Math.min(layers.below.height, layers.above.height);
  const room = Math.min(far, toWall(walls, middle, n));
  if (isOnAxis(ux, uy)) {
    const beside = axisOf(port) === 0 ? ([walls.y0, walls.y1] as const) : ([walls.x0, walls.x1] as const);
    return { strip: { across, pitch, walls: beside }, width, behind, outward: n, room };
  }
  // A line that comes from a wall at an angle has more room behind its end than beside it.
  const half = (across[0] + across[across.length - 1]) / 2;
  const beside = [1, -1].map((side) =>
    Math.max(width / 2 + far / 2, Math.min(2 * far, toWall(walls, middle, [-side * n[1], side * n[0]]))),
  );
  return {
    strip: { across, pitch, walls: [half - beside[0], half + beside[1]] },
    width,
    behind,
    outward: n,
    room,
  };
}

/** A strip of `count` cells along x with a port at either end. */
function lineMesh({ across, pitch }: Strip, count: number): Mesh {
  const m = across.length - 1;
  const cells: Cell[] = [];
  const bases: Half[][] = [];
  const ports: [number[], number[]] = [[], []];
  for (let i = 0; i < count; i++)
    for (let j = 0; j < m; j++) cells.push(rectangle(i * pitch, across[j], (i + 1) * pitch, across[j + 1]));
  cells.forEach((cell, at) => {
    const [i, j] = [Math.floor(at / m), at % m];
    if (i + 1 < count)
      bases.push([rectangleHalf(at, cell, 'right', 1), rectangleHalf(at + m, cells[at + m], 'left', -1)]);
    if (j + 1 < m)
      bases.push([rectangleHalf(at, cell, 'top', 1), rectangleHalf(at + 1, cells[at + 1], 'bottom', -1)]);
  });
  for (let j = 0; j < m; j++) {
    ports[0].push(bases.length);
    bases.push([rectangleHalf(j, cells[j], 'left', -1)]);
    const last = (count - 1) * m + j;
    ports[1].push(bases.length);
    bases.push([rectangleHalf(last, cells[last], 'right', -1)]);
  }
  return { cells, bases, ports: ports.map((functions) => ({ functions, across, pitch, before: 0 })) };
}

const one: Complex = { re: 1, im: 0 };

/**
 * What a line and its end are at some frequencies (Hz): the wave is that of the endless strip of the same mesh; a line with
 * two such ends, driven alike and against one another, tells what stands there. At a wall that is an admittance across; at an
 * end in the open there is something in series as well; where the line goes on there is nothing.
 */
export function* knownSteps(
  { strip, width, behind, room = 0 }: Omit<Feed, 'outward'>,
  layers: Layers,
  frequencies: readonly number[],
  sheet: Sheet | undefined,
): Steps<readonly Spread[]> {
  const { pitch, walls, across } = strip;
  const widest = WIDEST * Math.min(layers.below.height, layers.above.height);
  const edge = FINER.edge * Math.min(1, widest / width);
  const shares = graded(edge, edge, 1);
  const outward = OUTWARD * shares[0] * width;
  const middle = (across[0] + across[across.length - 1]) / 2;
  const fine = [middle - width / 2 - outward];
  for (const share of shares) fine.push(fine[fine.length - 1] + share * (width + 2 * outward));
  const wave = guidedBy(strip, layers, sheet);
  const itself = guidedBy({ ...strip, across: fine, pitch: pitch * FINER.pitch }, layers);
  const atWall = behind === 'wall';
  const unit = walls && atWall ? walls[1] - walls[0] : Math.min(layers.below.height, layers.above.height);
  const lengths = (atWall ? STANDARD.walls : STANDARD.heights).map(
    (ways) => pitch * Math.max(4, Math.round((ways * unit) / pitch)),
  );
  const free = atWall ? 0 : room;
  const boxes = lengths.map(
    (length) => walls && { x0: -free, x1: length + free, y0: walls[0], y1: walls[1] },
  );
  const sounds = boxes.map((box) =>
    box ? soundBelow(layers, box, frequencies[frequencies.length - 1]) : Infinity,
  );
  const lines: System[] = [];
  for (const [i, length] of behind === 'line' ? [] : lengths.entries())
    lines.push(
      yield* share(
        systemSteps(lineMesh(strip, Math.round(length / pitch)), layers, boxes[i], sheet),
        (0.3 * i) / lengths.length,
        (0.3 * (i + 1)) / lengths.length,
      ),
    );
  // The strip's own impedance over that of its mesh hardly changes: three places of the band tell it.
  const last = frequencies.length - 1;
  const places = [...new Set([0, Math.round(last / 2), last])].map((i) => frequencies[i]);
  const ratios: number[] = [];
  const waves: Guided[] = [];
  let guess = (layers.below.er + layers.above.er) / 2;
  for (const f of frequencies) {
    const here = wave(f, guess);
    waves.push(here);
    guess = (here.beta / ((2 * Math.PI * f) / C0)) ** 2;
    if (!places.includes(f)) continue;
    ratios.push(itself(f, guess).z0 / here.z0);
    yield 0.3 + 0.4 * (ratios.length / places.length);
  }
  const ratioAt = (f: number): number =>
    ratios.reduce(
      (sum, ratio, i) =>
        sum + ratio * places.reduce((w, g, j) => (i === j ? w : (w * (f - g)) / (places[i] - g)), 1),
      0,
    );
  const known: Spread[] = [];
  const seen: Seen[] = [];
  for (const [k, f] of frequencies.entries()) {
    const { beta, alpha, z0: own, turn, along, across: beside } = waves[k];
    const z0 = own * ratioAt(f);
    let at = { shunt: { re: 0, im: 0 }, series: { re: 0, im: 0 } };
    for (const [i, length] of behind === 'line' ? [] : lengths.entries()) {
      // What is in series does not show while the line is short against the wave; it is the same a little higher.
      const g = Math.min(sounds[i], atWall ? f : f * Math.max(1, SHORT / (beta * length)));
      const here = g === f ? waves[k] : wave(g, (beta / ((2 * Math.PI * f) / C0)) ** 2);
      const y = lines[i].solve(g);
      const even = { re: y.re[0] + y.re[1], im: y.im[0] + y.im[1] };
      const odd = { re: y.re[0] - y.re[1], im: y.im[0] - y.im[1] };
      // Half of the line is open in the middle when both ends are driven alike, and short when against one another.
      const t = tanh({ re: (here.alpha * length) / 2, im: (here.beta * length) / 2 });
      const z = { re: here.z0, im: here.z0 * here.turn };
      const open = cx.div(t, z);
      const short = cx.div(one, cx.mul(t, z));
      if (atWall) {
        const { re, im } = cx.abs(open) < cx.abs(short) ? cx.sub(even, open) : cx.sub(odd, short);
        // It is a capacitance, and stays one.
        at = { ...at, shunt: { re, im: (im * f) / g } };
      } else
        seen.push({
          f: g,
          ...ending(even, odd, cx.div(one, open), cx.div(one, short)),
          weight: Math.cos(here.beta * length) ** 4,
        });
    }
    known.push({ beta, alpha, own, z0, turn, along, across: beside, ...at });
    yield 0.7 + (0.3 * known.length) / frequencies.length;
  }
  if (behind !== 'nothing') return known;
  // What lines of different lengths say is taken together: elements that grow evenly, losses that go as the square.
  const capacitance = evenly(seen, ({ f, shunt }) => shunt.im / f);
  const inductance = evenly(seen, ({ f, series }) => series.im / f);
  const conductance = evenly(seen, ({ f, shunt }) => shunt.re / (f * f));
  const resistance = evenly(seen, ({ f, series }) => series.re / (f * f));
  return known.map((k, i) => {
    const f = frequencies[i];
    return {
      ...k,
      shunt: { re: f * f * conductance(f), im: f * capacitance(f) },
      series: { re: f * f * resistance(f), im: f * inductance(f) },
    };
  });
}

/** What one line tells of its ends at one frequency, and how much that is worth. */
interface Seen {
  readonly f: number;
  readonly shunt: Complex;
  readonly series: Complex;
  readonly weight: number;
}

/** a + b f^2 through what was seen, by least squares. */
function evenly(seen: readonly Seen[], read: (s: Seen) => number): (f: number) => number {
  const top = Math.max(...seen.map((s) => s.f));
  let [s0, s1, s2, y0, y1] = [0, 0, 0, 0, 0];
  for (const one of seen) {
    const q = (one.f / top) ** 2;
    const y = read(one);
    s0 += one.weight;
    s1 += one.weight * q;
    s2 += one.weight * q * q;
    y0 += one.weight * y;
    y1 += one.weight * y * q;
  }
  const d = s0 * s2 - s1 * s1;
  if (!(Math.abs(d) > 1e-9 * s0 * s2)) return () => y0 / s0;
  const b = (s0 * y1 - s1 * y0) / d;
  const a = (y0 - b * s1) / s0;
  return (f) => a + b * (f / top) ** 2;
}

function tanh(x: Complex): Complex {
  const e = cx.exp({ re: -2 * x.re, im: -2 * x.im });
  return cx.div(cx.sub(one, e), cx.add(one, e));
}

/**
 * An admittance across the end and an impedance in series behind it, from what is seen when the line behind them is `open`
 * and when it is `short` in its middle (ohm): (even - y)(z + open) = 1 = (odd - y)(z + short).
 */
function ending(
  even: Complex,
  odd: Complex,
  open: Complex,
  short: Complex,
): { shunt: Complex; series: Complex } {
  const rise = cx.sub(odd, even);
  const c = cx.div(rise, cx.sub(open, short));
  // a (a + rise) = c with a = even - y
  const root = cx.sqrt(cx.add(cx.mul(rise, rise), { re: 4 * c.re, im: 4 * c.im }));
  const candidates = [1, -1].map((sign) => {
    const a = {
      re: (-rise.re + sign * root.re) / 2,
      im: (-rise.im + sign * root.im) / 2,
    };
    return { shunt: cx.sub(even, a), series: cx.sub(cx.div(one, a), open) };
  });
  const size = ({ shunt, series }: { shunt: Complex; series: Complex }) =>
    cx.abs(shunt) * 50 + cx.abs(series) / 50;
  return size(candidates[0]) < size(candidates[1]) ? candidates[0] : candidates[1];
}

/** Ports that cannot be told apart from what is around them. @throws CopperError */
export function checkPorts(ports: readonly CopperPort[]): void {
  if (ports.length === 0) throw new CopperError('there is no port');
  const numbers = [...ports].map((p) => p.number).sort((a, b) => a - b);
  numbers.forEach((number, i) => {
    if (number !== i + 1)
      throw new CopperError(
        numbers.indexOf(number) !== i
          ? 'its number is taken by another port'
          : `ports must be numbered from 1 on, and ${i + 1} is missing`,
        number,
      );
  });
  ports.forEach((p, i) => {
    const other = ports.slice(0, i).find((q) => overlaps(p.edge, q.edge));
    if (other) throw new CopperError(`its edge overlaps that of port ${other.number}`, p.number);
  });
  for (const port of ports) {
    const { number, plane, z0 } = port;
    if (widthOf(port) === 0) throw new CopperError('its edge has no length', number);
    if (!(plane >= 0)) throw new CopperError('its reference plane must lie inside', number);
    if (!(z0 > 0)) throw new CopperError('its reference impedance must be greater than zero', number);
  }
}

/** Whether two straight edges share more than a point. */
function overlaps([a, b]: CopperPort['edge'], [c, d]: CopperPort['edge']): boolean {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const [ux, uy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const along = ([x, y]: Point) => (x - a[0]) * ux + (y - a[1]) * uy;
  const beside = ([x, y]: Point) => Math.abs((y - a[1]) * ux - (x - a[0]) * uy);
  if (Math.max(beside(c), beside(d)) > 1e-9) return false;
  const [low, high] = [along(c), along(d)].sort((p, q) => p - q);
  return Math.min(high, length) - Math.max(low, 0) > 1e-9;
}
