import { axisOf, CopperError, isPad, type Copper, type CopperPort, type Point, type Walls } from './contract';
import { rectangle, rectangleHalf, type Cell, type Entry, type Half, type Mesh } from './mesh';
import { inRoom } from '../lines';
import { within } from '../polygons';

/** How a mesh is made. */
export interface Grading {
  /** The cell at an edge, of the width there. */
  readonly edge: number;
  /** Copper wider than this is at its edges like copper of this width, m: what matters there is the height of the board. */
  readonly widest: number;
  /** Cells across the narrowest gap between two edges. */
  readonly gap: number;
  /** The longest cell, m. */
  readonly longest: number;
  /** How far every edge stands further outside for the thickness of the metal, m. */
  readonly wider: number;
}

/**
 * A strip of pulses carries as if its edges were so much of their cell further inside: every edge of the metal moves
 * outwards by it. Of a strip alone 0.109 to 0.117, with cells halved towards the edges 0.115.
 */
export const OUTWARD = 0.115;

/** Width over height above which an edge does not know of the other one. */
export const WIDEST = 1.8;

/** Coordinates closer than this to one another are one, of the extent of the copper. */
const SAME = 1e-7;

/** Sets joined one by one. */
class Unions {
  private readonly up: number[] = [];
  add(): number {
    return this.up.push(this.up.length) - 1;
  }
  find(i: number): number {
    while (this.up[i] !== i) i = this.up[i] = this.up[this.up[i]];
    return i;
  }
  join(i: number, j: number): void {
    this.up[this.find(i)] = this.find(j);
  }
}

/** Sorted coordinates without those that are one. */
function distinct(all: readonly number[], same: number): number[] {
  const out: number[] = [];
  for (const x of [...all].sort((a, b) => a - b)) if (!(x - out[out.length - 1] < same)) out.push(x);
  return out;
}

/** Cuts an interval of 1 in shares: from `first` and `last` at its ends, doubled inwards up to `longest`. */
export function graded(first: number, last: number, longest: number): number[] {
  const left: number[] = [];
  const right: number[] = [];
  let [a, b] = [Math.min(first, longest), Math.min(last, longest)];
  let rest = 1;
  // The smaller of both ends goes on; what would overshoot by more than half of itself is left to the others.
  while (rest > 0.5 * Math.min(a, b) || left.length + right.length === 0) {
    if (a <= b) {
      left.push(a);
      rest -= a;
      a = Math.min(2 * a, longest);
    } else {
      right.push(b);
      rest -= b;
      b = Math.min(2 * b, longest);
    }
  }
  const all = [...left, ...right.reverse()];
  const sum = all.reduce((s, x) => s + x, 0);
  return all.map((x) => x / sum);
}

/** Whether every edge of the copper is parallel to an axis. */
export const isManhattan = ({ polygons, ports }: Copper): boolean => {
  const straight = ([ax, ay]: Point, [bx, by]: Point) =>
    Math.min(Math.abs(ax - bx), Math.abs(ay - by)) <= 1e-9 * Math.max(Math.abs(ax - bx), Math.abs(ay - by));
  return (
    polygons.every((p) => p.every((corner, i) => straight(corner, p[(i + 1) % p.length]))) &&
    ports.every(({ edge }) => straight(edge[0], edge[1]))
  );
};

/** One of the two directions of a grid: intervals along it and lines across it. */
interface Axis {
  /** Coordinates of the lines. */
  readonly at: readonly number[];
}

/**
 * Copper all of whose edges are parallel to the axes as rectangles that are halved towards every edge. Lines of the
 * mesh begin at the corners of the copper and end at its edges, so that what is far from one another does not cut
 * one another.
 * @throws CopperError in words
 */
export function gridMesh(copper: Copper, grading: Grading): Mesh {
  const { polygons, ports, walls } = copper;
  const corners = [...polygons.flat(), ...ports.flatMap((p) => p.edge)];
  if (polygons.length === 0) throw new CopperError('there is no copper');
  const extent = Math.max(
    ...[0, 1].map((k) => Math.max(...corners.map((c) => c[k])) - Math.min(...corners.map((c) => c[k]))),
  );
  const same = SAME * extent;
  const axes: readonly [Axis, Axis] = [
    {
      at: distinct(
        corners.map((c) => c[0]),
        same,
      ),
    },
    {
      at: distinct(
        corners.map((c) => c[1]),
        same,
      ),
    },
  ];
  const [xs, ys] = axes.map((a) => a.at);
  const [nx, ny] = [xs.length - 1, ys.length - 1];
  const indexIn = (all: readonly number[], x: number): number =>
    all.reduce((best, v, i) => (Math.abs(v - x) < Math.abs(all[best] - x) ? i : best), 0);
  const metal = new Uint8Array((nx + 2) * (ny + 2));
  const cellAt = (i: number, j: number) => (i + 1) * (ny + 2) + j + 1;
  for (let i = 0; i < nx; i++)
    for (let j = 0; j < ny; j++)
      metal[cellAt(i, j)] = Number(
        polygons.some((p) => within([p], (xs[i] + xs[i + 1]) / 2, (ys[j] + ys[j + 1]) / 2)),
      );
  const isMetal = (i: number, j: number) => metal[cellAt(i, j)] === 1;

  // Lines: of direction 0 those at xs, in rows of ys; of direction 1 the other way round.
  const count = [nx, ny];
  const inside = (d: number, line: number, row: number): [boolean, boolean] =>
    d === 0 ? [isMetal(line - 1, row), isMetal(line, row)] : [isMetal(row, line - 1), isMetal(row, line)];
  const lines = [0, 1].map((d) => {
    const needed = Array.from({ length: count[d] + 1 }, () => new Uint8Array(count[1 - d]));
    needed.forEach((rows, line) => {
      for (let row = 0; row < rows.length; row++) {
        const [a, b] = inside(d, line, row);
        if (a !== b) rows[row] = 1;
      }
    });
    return needed;
  });
  for (const port of ports) {
    const { edge, number } = port;
    const d = axisOf(port);
    const rows = [0, 1].map((k) => indexIn(axes[1 - d].at, edge[k][1 - d])).sort((a, b) => a - b);
    const line = indexIn(axes[d].at, edge[0][d]);
    for (let row = rows[0]; row < rows[1]; row++) {
      const [a, b] = inside(d, line, row);
      if (a === b) throw new CopperError('its edge does not lie on the outline of the copper', number);
    }
    // Its ends cut what is inside.
    for (const row of rows) {
      const inward = inside(d, line, rows[0])[1] ? line : line - 1;
      if (row > 0 && row < count[1 - d]) {
        const [a, b] =
          d === 0
            ? [isMetal(inward, row - 1), isMetal(inward, row)]
            : [isMetal(row - 1, inward), isMetal(row, inward)];
        if (a && b) lines[1 - d][row][inward] = 1;
      }
    }
  }
  // Each goes on through the metal until it meets an edge.
  lines.forEach((all, d) =>
    all.forEach((rows, line) => {
      const both = (row: number) => inside(d, line, row).every(Boolean);
      for (let row = 1; row < rows.length; row++) if (rows[row - 1] && both(row)) rows[row] = 1;
      for (let row = rows.length - 2; row >= 0; row--) if (rows[row + 1] && both(row)) rows[row] = 1;
    }),
  );

  /** Rectangles between the lines, as ranges of the coordinates. */
  const blocks: { readonly from: readonly [number, number]; readonly to: readonly [number, number] }[] = [];
  const blockAt = new Int32Array(nx * ny).fill(-1);
  for (let i = 0; i < nx; i++)
    for (let j = 0; j < ny; j++) {
      if (!isMetal(i, j) || blockAt[i * ny + j] >= 0) continue;
      let [ie, je] = [i + 1, j + 1];
      while (ie < nx && isMetal(ie, j) && !lines[0][ie][j]) ie++;
      while (je < ny && isMetal(i, je) && !lines[1][je][i]) je++;
      for (let a = i; a < ie; a++) for (let b = j; b < je; b++) blockAt[a * ny + b] = blocks.length;
      blocks.push({ from: [i, j], to: [ie, je] });
    }
  const blockOf = (i: number, j: number): number =>
    i < 0 || j < 0 || i >= nx || j >= ny ? -1 : blockAt[i * ny + j];

  // Blocks beside one another share their interval across, and the line between them; lines go on from block to block.
  const unions = new Unions();
  /** Of each block and direction: its interval, the line at its lower and at its higher end. */
  const spans = blocks.map(() => [0, 1].map(() => [unions.add(), unions.add(), unions.add()] as const));
  const neighbours = blocks.map(({ from, to }) => [blockOf(to[0], from[1]), blockOf(from[0], to[1])]);
  neighbours.forEach((next, k) =>
    next.forEach((n, d) => {
      if (n < 0) return;
      const across = 1 - d;
      unions.join(spans[k][d][2], spans[n][d][1]);
      for (let part = 0; part < 3; part++) unions.join(spans[k][across][part], spans[n][across][part]);
    }),
  );

  /** Of each line the width that its cells go by, and to which sides it is an edge of the metal. */
  const scale = new Map<number, number>();
  const edges = new Map<number, { lower: boolean; higher: boolean }>();
  /** The narrowest gap before it. */
  const room = new Map<number, number>();
  const onWall = (d: number, x: number): boolean =>
    walls !== undefined && [wallsOf(walls, d)].flat().some((w) => Math.abs(w - x) < 2 * same);
  const portOn = (d: number, line: number, row: number): CopperPort | undefined =>
    ports.find(({ edge }) => {
      const straight =
        Math.abs(edge[0][d] - edge[1][d]) < same && Math.abs(edge[0][d] - axes[d].at[line]) < same;
      const [lo, hi] = [edge[0][1 - d], edge[1][1 - d]].sort((a, b) => a - b);
      const middle = (axes[1 - d].at[row] + axes[1 - d].at[row + 1]) / 2;
      return straight && middle > lo && middle < hi;
    });
  const least = (line: number, value: number) =>
    scale.set(line, Math.min(scale.get(line) ?? Infinity, value));
  blocks.forEach(({ from, to }, k) => {
    for (const d of [0, 1]) {
      const width = axes[d].at[to[d]] - axes[d].at[from[d]];
      for (const end of [1, 2] as const) {
        const line = unions.find(spans[k][d][end]);
        const at = end === 1 ? from[d] : to[d];
        // At a wall and where current enters nothing ends, unless by a part: the strip goes on as its own image, or as a line.
        const row = from[1 - d];
        const [a, b] = inside(d, at, row);
        const outside = a !== b;
        const port = portOn(d, at, row);
        if (outside && (onWall(d, axes[d].at[at]) || (port && !isPad(port)))) continue;
        least(line, Math.min(width, grading.widest));
        if (!outside) continue;
        const known = edges.get(line) ?? { lower: false, higher: false };
        edges.set(line, { lower: known.lower || end === 1, higher: known.higher || end === 2 });
        // The length of the edge that it is part of, and the gap before it.
        let [lo, hi] = [row, row];
        const isEdge = (r: number) => {
          const [c, e] = r < 0 || r >= count[1 - d] ? [false, false] : inside(d, at, r);
          return c === a && e === b;
        };
        while (isEdge(lo - 1)) lo--;
        while (isEdge(hi + 1)) hi++;
        least(line, axes[1 - d].at[hi + 1] - axes[1 - d].at[lo]);
        const step = end === 1 ? -1 : 1;
        for (let r = row; r < to[1 - d]; r++)
          for (let c = end === 1 ? at - 1 : at; c >= 0 && c < count[d]; c += step) {
            if (!(d === 0 ? isMetal(c, r) : isMetal(r, c))) continue;
            const gap = Math.abs(axes[d].at[end === 1 ? c + 1 : c] - axes[d].at[at]);
            least(line, gap / (grading.gap * grading.edge));
            room.set(line, Math.min(room.get(line) ?? Infinity, gap));
            break;
          }
      }
    }
  });

  /** Of each interval its cuts as shares; of each line how far it moves outwards. */
  const cuts = new Map<number, readonly number[]>();
  const moved = new Map<number, number>();
  blocks.forEach(({ from, to }, k) => {
    for (const d of [0, 1]) {
      const [interval, low, high] = spans[k][d].map((s) => unions.find(s));
      if (cuts.has(interval)) continue;
      const width = axes[d].at[to[d]] - axes[d].at[from[d]];
      const size = (line: number) => (grading.edge * (scale.get(line) ?? Infinity)) / width;
      const shares = graded(size(low), size(high), Math.min(1, grading.longest / width));
      cuts.set(interval, shares);
      for (const [line, cell, way] of [
        [low, shares[0], -1],
        [high, shares[shares.length - 1], 1],
      ] as const) {
        const edge = edges.get(line);
        // A line that is an edge on both of its sides stays where it is.
        if (edge && edge.lower !== edge.higher && (way < 0 ? edge.lower : edge.higher))
          moved.set(line, way * (OUTWARD * cell * width + inRoom(grading.wider, room.get(line) ?? Infinity)));
      }
    }
  });

  const cells: Cell[] = [];
  /** Of each block the index of its first cell and its coordinates. */
  const laid = blocks.map(({ from, to }, k) => {
    const at = [0, 1].map((d) => {
      const [interval, low, high] = spans[k][d].map((s) => unions.find(s));
      const start = axes[d].at[from[d]] + (moved.get(low) ?? 0);
      const end = axes[d].at[to[d]] + (moved.get(high) ?? 0);
      const out = [start];
      for (const share of cuts.get(interval)!) out.push(out[out.length - 1] + share * (end - start));
      out[out.length - 1] = end;
      return out;
    });
    const first = cells.length;
    const [u, v] = at;
    for (let i = 0; i + 1 < u.length; i++)
      for (let j = 0; j + 1 < v.length; j++) cells.push(rectangle(u[i], v[j], u[i + 1], v[j + 1]));
    return { first, size: [u.length - 1, v.length - 1] as const };
  });
  const number = (k: number, i: number, j: number): number => laid[k].first + i * laid[k].size[1] + j;

  const bases: Half[][] = [];
  const entering: number[][] = ports.map(() => []);
  /** Of each port the longest cells behind it. */
  const pitches = ports.map(() => 0);
  const between = (a: number, b: number, d: number): void => {
    bases.push([
      rectangleHalf(a, cells[a], d === 0 ? 'right' : 'top', 1),
      rectangleHalf(b, cells[b], d === 0 ? 'left' : 'bottom', -1),
    ]);
  };
  laid.forEach(({ size: [m, n] }, k) => {
    const { from, to } = blocks[k];
    for (let i = 0; i < m; i++)
      for (let j = 0; j < n; j++) {
        if (i + 1 < m) between(number(k, i, j), number(k, i + 1, j), 0);
        if (j + 1 < n) between(number(k, i, j), number(k, i, j + 1), 1);
      }
    for (const d of [0, 1]) {
      const next = neighbours[k][d];
      const along = d === 0 ? n : m;
      if (next >= 0)
        for (let r = 0; r < along; r++)
          if (d === 0) between(number(k, m - 1, r), number(next, 0, r), 0);
          else between(number(k, r, n - 1), number(next, r, 0), 1);
      for (const end of ['lower', 'higher'] as const) {
        const at = end === 'lower' ? from[d] : to[d];
        const [a, b] = inside(d, at, from[1 - d]);
        if (a === b) continue;
        const port = portOn(d, at, from[1 - d]);
        if (!port && !onWall(d, axes[d].at[at])) continue;
        const entered = port ? ports.indexOf(port) : -1;
        if (port) {
          const length = axes[d].at[to[d]] - axes[d].at[from[d]];
          pitches[entered] = length * Math.max(...cuts.get(unions.find(spans[k][d][0]))!);
        }
        // Where the metal meets a wall current flows on into it.
        for (let r = 0; r < along; r++) {
          const cell =
            d === 0 ? number(k, end === 'lower' ? 0 : m - 1, r) : number(k, r, end === 'lower' ? 0 : n - 1);
          const side = d === 0 ? (end === 'lower' ? 'left' : 'right') : end === 'lower' ? 'bottom' : 'top';
          if (port) entering[entered].push(bases.length);
          bases.push([rectangleHalf(cell, cells[cell], side, -1)]);
        }
      }
    }
  });
  const missing = entering.findIndex((e) => e.length === 0);
  if (missing >= 0)
    throw new CopperError('its edge does not lie on the outline of the copper', ports[missing].number);
  return {
    cells,
    bases,
    ports: entering.map((functions, p): Entry => {
      const along = axisOf(ports[p]);
      const own = functions.map((f) => cells[bases[f][0].cell].corners);
      return {
        functions,
        across: [
          ...own.map((c) => c[1 - along]).sort((a, b) => a - b),
          Math.max(...own.map((c) => c[5 - along])),
        ],
        // Towards a pad they get shorter, as towards any edge.
        pitch: isPad(ports[p]) ? pitches[p] : own[0][4 + along] - own[0][along],
        before: 0,
      };
    }),
  };
}

const wallsOf = ({ x0, x1, y0, y1 }: Walls, d: number): readonly [number, number] =>
  d === 0 ? [x0, x1] : [y0, y1];
