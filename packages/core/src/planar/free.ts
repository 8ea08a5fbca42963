import Constrainautor from '@kninnug/constrainautor';
import Delaunator from 'delaunator';
import { CopperError, isOnAxis, isPad, type Copper, type Point } from './contract';
import { inRoom } from '../lines';
import { graded, type Grading } from './grid';
import { cellOf, edgeHalf, rectangle, type Cell, type Entry, type Half, type Mesh } from './mesh';
import { folded, foldsOf, mirrored, type Fold } from './fold';
import { within } from '../polygons';
import {
  across,
  CORNER,
  distance,
  facing,
  isEntered,
  movedRing,
  runsOf,
  sidesOf,
  sizeSides,
  turnBetween,
  withoutSlivers,
  type Side,
} from './sides';

/** As for rectangles, but what crosses triangles crosses their diagonals: a strip of them is wider by less. */
const OUTWARD = 0.097;

/** Cells behind a port that are rectangles, so that its line can be told by itself. */
const BLOCK = 2;

/** How much longer along the outline than across it a cell may be. */
const LONG = 10;

/** Two sides are square to one another to this, rad: the cells beside a corner may move its sides by different widths. */
const SQUARE = 5e-3;

/** Share of the way to other copper that a piece of line in front of a port may take. */
const CLEAR = 0.25;

/** By how much of the cell a bend of the outline may stand out between two points on it. */
const BULGE = 0.4;

/** Points inside are not put nearer to others than this, of what their layer is thick. */
const SPARSE = 0.55;

/** How far a point moves along the outline to stand straight across from another one, of the way to the next. */
const ASIDE = 0.55;

/** Share of the way to other copper that a side may move. */
const NEARER = 0.4;

/** Share of its length that a side keeps at least when outlines move outwards. */
const SHRUNK = 0.3;

/** How often missing parts of the outline are cut in two. */
const ROUNDS = 12;

/**
 * Copper of any outline: points along it and in layers behind it, each twice as far as the one before, joined to triangles
 * (Delaunay); two of them that are a rectangle become one. Behind each port, or in front of
 * it, stand rectangles.
 * @throws CopperError in words
 */
export function freeMesh(copper: Copper, grading: Grading): Mesh {
  const { ports, walls } = copper;
  const sized = sidesOf(copper);
  sizeSides(sized, grading);
  const drawn = withoutSlivers(sized);
  const wide = widened(drawn, (s) =>
    isEntered(s)
      ? 0
      : Math.min(
          OUTWARD * Math.min(s.cell, grading.longest) + inRoom(grading.wider, s.room),
          NEARER * s.room,
        ),
  );

  // Blocks of rectangles behind the ports; the outline of what is left goes along their inner ends.
  const blocks = ports.map(({ number }, p) => {
    const ring = wide.find((r) => r.some((s) => s.port === p))!;
    const i = ring.findIndex((s) => s.port === p);
    const [before, side, after] = [-1, 0, 1].map((k) => ring[(i + k + ring.length) % ring.length]);
    // In front of the edge there may be other copper soon.
    const clear = across(
      wide.flat(),
      side,
      (side.a[0] + side.b[0]) / 2,
      (side.a[1] + side.b[1]) / 2,
      side.nx,
      side.ny,
    );
    const inside = Math.min(grading.longest, side.length / 2);
    const straight = [before, after].every(
      (s) => Math.abs(s.nx * side.nx + s.ny * side.ny) < SQUARE && s.length >= 1.05 * BLOCK * inside,
    );
    const pitch = straight ? inside : Math.min(inside, (CLEAR * clear) / BLOCK);
    const depth = BLOCK * pitch;
    if (!straight && side.wall)
      throw new CopperError(
        `the strip behind its edge must go straight in for ${Number((1.05 * depth * 1e3).toPrecision(3))} mm`,
        number,
      );
    // At a pad the copper ends, and is cut as at other edges.
    const ends = straight && isPad(ports[p]);
    const cell = ends
      ? Math.min(pitch, grading.edge * Math.min(side.length, grading.widest), clear / grading.gap)
      : pitch;
    const steps: number[] = [];
    for (const share of graded(1, cell / depth, pitch / depth))
      steps.push((steps.at(-1) ?? 0) + share * depth);
    steps[steps.length - 1] =
      depth + (ends ? Math.min(OUTWARD * cell + inRoom(grading.wider, clear), NEARER * clear) : 0);
    // Where the strip does not go straight in, a piece of line is set in front of it.
    return { side, depth, steps, pitch, before: straight ? 0 : depth };
  });
  let rings = wide.map((ring) =>
    movedRing(
      ring,
      () => 0,
      (s) => (s.port === undefined || blocks[s.port].before > 0 ? 0 : blocks[s.port].depth),
    ),
  );
  // Copper that is its own mirror image is meshed on one side, so that the mesh is its own mirror image too.
  const folds: Fold[] = [];
  for (const fold of foldsOf(drawn, copper)) {
    const half = folded(rings, fold);
    if (!half) continue;
    rings = half;
    folds.push(fold);
  }
  const sides = rings.flat();

  const points: Point[] = [];
  const buckets = new Map<string, number[]>();
  const extent = Math.max(...sides.map((s) => Math.max(Math.abs(s.a[0]), Math.abs(s.a[1]))), 1e-9);
  const same = 1e-9 * Math.max(extent, grading.longest);
  const bucket = grading.longest;
  const near = (x: number, y: number, r: number): number => {
    const reach = Math.ceil(r / bucket);
    const [bx, by] = [Math.floor(x / bucket), Math.floor(y / bucket)];
    for (let i = -reach; i <= reach; i++)
      for (let j = -reach; j <= reach; j++)
        for (const k of buckets.get(`${bx + i},${by + j}`) ?? [])
          if (Math.hypot(points[k][0] - x, points[k][1] - y) <= r) return k;
    return -1;
  };
  const put = (x: number, y: number): number => {
    const known = near(x, y, same);
    if (known >= 0) return known;
    const key = `${Math.floor(x / bucket)},${Math.floor(y / bucket)}`;
    const list = buckets.get(key);
    if (list) list.push(points.length);
    else buckets.set(key, [points.length]);
    return points.push([x, y]) - 1;
  };

  // Points along the outline, and of each the side that it belongs to.
  const border: { a: number; b: number; readonly side: Side }[] = [];
  const seeds: Seed[] = [];
  /** Of straight sides how far along them points stand. */
  const standing = new Map<Side, number[]>();
  /** The outline as it is cut: whatever lies between two points on it is straight. */
  const cut: Point[][] = [];
  for (const ring of rings) {
    cut.push([]);
    for (const run of runsOf(ring)) {
      const whole = run.reduce((sum, s) => sum + s.length, 0);
      const [first, last] = [run[0], run[run.length - 1]];
      if (first.fold) {
        cut[cut.length - 1].push(last.b);
        continue;
      }
      const closed = first.a === last.b || run.length === ring.length;
      const port = first.port === undefined ? undefined : blocks[first.port];
      const limit = (s: Side, i: number) => {
        const turns = [run[i - 1], run[i + 1]].map((o) => (o ? Math.abs(turnBetween(s, o)) : 0));
        const radius = s.length / Math.max(...turns, 1e-9);
        return Math.min(grading.longest, LONG * s.cell, Math.sqrt(8 * radius * BULGE * s.cell));
      };
      const least = Math.min(...run.map(limit));
      const shares = port
        ? sharesAcross(first, ring, grading)
        : graded(
            Math.min(1, (closed ? least : atCorner(ring, run, 'first')) / whole),
            Math.min(1, (closed ? least : atCorner(ring, run, 'last')) / whole),
            Math.min(1, least / whole),
          );
      let [done, index] = [0, 0];
      let before = put(first.a[0], first.a[1]);
      let along = 0;
      let places = shares.map((share) => (along += share * whole));
      // Points straight across from one another make rectangles.
      if (run.length === 1 && !port && !first.wall) places = opposite(places, first, sides, standing);
      places.forEach((at, k) => {
        while (index < run.length - 1 && at > done + run[index].length * (1 + 1e-12)) {
          done += run[index].length;
          index++;
        }
        const side = run[index];
        const t = k === shares.length - 1 ? 1 : Math.min(1, (at - done) / side.length);
        const end = k === shares.length - 1 ? last.b : undefined;
        if (!end && run.length === 1) standing.set(side, [...(standing.get(side) ?? []), at]);
        const x = end ? end[0] : side.a[0] + t * (side.b[0] - side.a[0]);
        const y = end ? end[1] : side.a[1] + t * (side.b[1] - side.a[1]);
        const here = put(x, y);
        if (here !== before) border.push({ a: before, b: here, side });
        before = here;
        cut[cut.length - 1].push(points[here]);
        if (k < shares.length - 1 || closed) seeds.push({ x, y, side });
        else {
          // Around a corner that turns into the copper, in the directions of both of its sides.
          const after = ring[(ring.indexOf(last) + 1) % ring.length];
          const cell = Math.min(side.cell, after.cell);
          if (turnBetween(side, after) < -CORNER)
            for (const s of [side, after]) seeds.push({ x, y, side: { ...s, cell } });
        }
      });
    }
  }

  // Where copper faces its mirror image points stand on the fold, straight across from those on the outline.
  const { fold: onFold, layers } = layersBehind(seeds, sides, grading);
  for (const { x, y, thick, side } of onFold)
    if ([side.a, side.b].every((end) => Math.hypot(end[0] - x, end[1] - y) > SPARSE * thick))
      if (near(x, y, SPARSE * thick) < 0) put(x, y);
  const later: Seed[] = [];
  for (const ring of rings)
    for (const side of ring) {
      if (!side.fold) continue;
      const { a, b, length } = side;
      let at = 0;
      const ends = [atCorner(ring, [side], 'first'), atCorner(ring, [side], 'last')];
      const shares = graded(
        ...(ends.map((c) => Math.min(1, c / length)) as [number, number]),
        grading.longest / length,
      );
      shares.forEach((share, k) => {
        at += share;
        const [x, y] = [a[0] + at * (b[0] - a[0]), a[1] + at * (b[1] - a[1])];
        const room = SPARSE * length * Math.min(share, shares[k + 1] ?? share);
        if (k + 1 < shares.length && near(x, y, room) < 0) put(x, y);
      });
      const along = ([x, y]: Point) => (x - a[0]) * -side.ny + (y - a[1]) * side.nx;
      const on = points.flatMap((p, k) => {
        const t = along(p);
        return distance(side, p[0], p[1]) < same && t > -same && t < length + same ? [{ k, t }] : [];
      });
      on.sort((p, q) => p.t - q.t);
      for (let i = 0; i + 1 < on.length; i++) {
        border.push({ a: on[i].k, b: on[i + 1].k, side });
        const [x, y] = points[on[i].k];
        if (i > 0) later.push({ x, y, side });
      }
    }
  layers.push(...layersBehind(later, sides, grading).layers);
  layers.sort((p, q) => p.depth - q.depth);
  for (const { depth, thick, x, y } of layers) {
    if (!within(cut, x, y)) continue;
    const room = (s: Side): number => {
      if (s.fold) return 0.5 * thick;
      return 0.75 * Math.min(depth, isEntered(s) ? 0.6 * grading.longest : s.cell);
    };
    if (sides.some((s) => distance(s, x, y) < room(s))) continue;
    if (near(x, y, SPARSE * thick) < 0) put(x, y);
  }

  // Triangles of which every part of the outline is a side; a part that cannot be made one is cut in two.
  let triangles: Uint32Array;
  for (let round = 0; ; round++) {
    const made = Delaunator.from(points as [number, number][]);
    triangles = made.triangles;
    if (lacking(border, triangles).length === 0) break;
    const kept = new Constrainautor(made);
    for (const { a, b } of border)
      try {
        kept.constrainOne(a, b);
      } catch {
        // Points on one line but for rounding: what is a side all the same is found below.
      }
    const missing = lacking(border, triangles);
    if (missing.length === 0) break;
    if (round >= ROUNDS)
      throw new CopperError(
        'its outline cannot be cut into triangles; look for parts that touch in one point',
      );
    for (const part of missing) {
      const middle = put(
        (points[part.a][0] + points[part.b][0]) / 2,
        (points[part.a][1] + points[part.b][1]) / 2,
      );
      border.push({ a: middle, b: part.b, side: part.side });
      part.b = middle;
    }
  }

  const shapes: number[][] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t], triangles[t + 1], triangles[t + 2]];
    const [p, q, r] = [points[a], points[b], points[c]];
    const twice = (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    if (Math.abs(twice) < 1e-10 * grading.longest ** 2) continue;
    if (within(cut, (p[0] + q[0] + r[0]) / 3, (p[1] + q[1] + r[1]) / 3))
      shapes.push(twice > 0 ? [a, b, c] : [a, c, b]);
  }
  const list = rectanglesOf(shapes, points);

  /** Sides of cells through which current comes in: at ports, and where the metal meets a wall. */
  const open: { readonly a: number; readonly b: number; readonly port?: number }[] = [];
  for (const { a, b, side } of border)
    if (side.wall && !side.fold && side.port === undefined) open.push({ a, b });
  // Blocks behind the ports: from the inner end, whose points are there, to the edge.
  const away = (p: number) => (k: number) => {
    const { side } = blocks[p];
    return (points[k][0] - side.a[0]) * -side.ny + (points[k][1] - side.a[1]) * side.nx;
  };
  /** Of each port the one whose block became its own. */
  const like = new Map<number, number>();
  blocks.forEach(({ side, steps }, p) => {
    const row = border.filter((b) => b.side.port === p);
    if (row.length > 0) like.set(p, p);
    const t = away(p);
    const inner = [...new Set(row.flatMap(({ a, b }) => [a, b]))].sort((a, b) => t(a) - t(b));
    let low = inner;
    for (const step of steps) {
      const high = inner.map((k) => put(points[k][0] + step * side.nx, points[k][1] + step * side.ny));
      for (let k = 0; k + 1 < low.length; k++) {
        // Along the side the copper lies to the left, outward to the right.
        list.push([low[k], high[k], high[k + 1], low[k + 1]]);
        if (step === steps.at(-1)) open.push({ a: high[k], b: high[k + 1], port: p });
      }
      low = high;
    }
  });
  for (const fold of folds.reverse()) {
    const image = [...points].map((p) => put(...mirrored(fold, p)));
    list.push(...list.map((corners) => corners.map((k) => image[k]).reverse()));
    open.push(
      ...open.map(({ a, b, port }) => ({
        a: image[a],
        b: image[b],
        ...(port !== undefined && { port: fold.ports[port] }),
      })),
    );
    for (const [p, own] of [...like]) if (!like.has(fold.ports[p])) like.set(fold.ports[p], own);
  }
  const edges = new Map(open.map((o) => [keyOf(o.a, o.b), o]));
  const entries = blocks.map(({ side }, p) => {
    const own = [...new Set(open.flatMap(({ a, b, port }) => (port === p ? [a, b] : [])))];
    const upright = Math.abs(side.nx) > Math.abs(side.ny);
    const axis = walls && isOnAxis(side.nx, side.ny) ? (k: number) => points[k][upright ? 1 : 0] : away(p);
    const { pitch, before } = blocks[like.get(p)!];
    return { across: own.map(axis).sort((a, b) => a - b), pitch, before };
  });

  const meshed: Cell[] = list.map((corners) => {
    const c = corners.map((k) => points[k]);
    const upright =
      c.length === 4 &&
      c.every((p, i) => {
        const q = c[(i + 1) % 4];
        return Math.min(Math.abs(p[0] - q[0]), Math.abs(p[1] - q[1])) < 1e-7 * grading.longest;
      });
    if (!upright) return cellOf(Float64Array.from(c.flat()));
    const [x, y] = [0, 1].map((d) => c.map((p) => p[d]));
    return rectangle(Math.min(...x), Math.min(...y), Math.max(...x), Math.max(...y));
  });
  const bases: Half[][] = [];
  const entering: number[][] = ports.map(() => []);
  const single = new Map<string, { readonly cell: number; readonly edge: number }>();
  list.forEach((corners, cell) =>
    corners.forEach((a, i) => {
      const key = keyOf(a, corners[(i + 1) % corners.length]);
      // Corners of an upright rectangle were put in order of their own.
      const edge = edgeOf(meshed[cell], points[a], points[corners[(i + 1) % corners.length]]);
      const other = single.get(key);
      if (other) {
        bases.push([
          edgeHalf(other.cell, meshed[other.cell], other.edge, 1),
          edgeHalf(cell, meshed[cell], edge, -1),
        ]);
        single.delete(key);
      } else single.set(key, { cell, edge });
    }),
  );
  for (const [key, { cell, edge }] of single) {
    const known = edges.get(key);
    if (!known) continue;
    if (known.port !== undefined) entering[known.port].push(bases.length);
    bases.push([edgeHalf(cell, meshed[cell], edge, -1)]);
  }
  return {
    cells: meshed,
    bases,
    ports: entries.map((e, p): Entry => ({ ...e, functions: entering[p] })),
  };
}

const keyOf = (a: number, b: number): string => (a < b ? `${a} ${b}` : `${b} ${a}`);

/** Outlines with every side moved outwards; where a short one would be turned over, those beside it move as far as it does. */
function widened(rings: readonly (readonly Side[])[], out: (s: Side) => number): Side[][] {
  const all = rings.flat();
  const outs = new Map(all.map((s) => [s, out(s)]));
  for (let round = 0; ; round++) {
    const moved = rings.map((ring) =>
      movedRing(
        ring,
        (s) => outs.get(s)!,
        () => 0,
        all,
      ),
    );
    let turned = false;
    moved.forEach((ring, r) =>
      ring.forEach((s, i) => {
        const own = rings[r];
        const along = (s.b[0] - s.a[0]) * -own[i].ny + (s.b[1] - s.a[1]) * own[i].nx;
        if (along > SHRUNK * own[i].length) return;
        turned = true;
        const three = [-1, 0, 1].map((k) => own[(i + k + own.length) % own.length]);
        const free = three.filter((o) => !isEntered(o));
        const least = Math.min(...free.map((o) => outs.get(o)!)) * (round > 1 ? 0.5 : 1);
        for (const o of free) outs.set(o, least);
      }),
    );
    if (!turned || round >= ROUNDS) return moved;
  }
}

/** Parts of an outline that are no sides of triangles. */
function lacking<Part extends { readonly a: number; readonly b: number }>(
  border: readonly Part[],
  triangles: Uint32Array,
): Part[] {
  const have = new Set<string>();
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) have.add(keyOf(triangles[t + k], triangles[t + ((k + 1) % 3)]));
  return border.filter(({ a, b }) => !have.has(keyOf(a, b)));
}

/** The edge of a cell between two points. */
function edgeOf({ corners: c }: Cell, p: Point, q: Point): number {
  const n = c.length / 2;
  let best = 0;
  let least = Infinity;
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    const [mx, my] = [(c[2 * i] + c[2 * j]) / 2, (c[2 * i + 1] + c[2 * j + 1]) / 2];
    const d = Math.hypot(mx - (p[0] + q[0]) / 2, my - (p[1] + q[1]) / 2);
    if (d < least) {
      least = d;
      best = i;
    }
  }
  return best;
}

/** Cuts of a port's edge: the smaller of the cells beside it at either end; towards a fold they may grow. */
function sharesAcross(side: Side, ring: readonly Side[], { longest }: Grading): number[] {
  const { length } = side;
  const i = ring.indexOf(side);
  const n = ring.length;
  const beside = [ring[(i + n - 1) % n], ring[(i + 1) % n]];
  const cell = Math.min(...beside.map((s) => s.cell));
  const [first, last] = beside.map((s) => Math.min(1, (s.fold ? longest : cell) / length));
  return graded(first, last, Math.min(1, longest / length));
}

/**
 * Moves places along a side straight across from those that stand on the other side of the strip, where these are near enough.
 * @param standing how far along other sides their points stand
 */
function opposite(
  places: readonly number[],
  side: Side,
  sides: readonly Side[],
  standing: ReadonlyMap<Side, readonly number[]>,
): number[] {
  const out = [...places];
  const at = (s: Side, t: number): Point => [s.a[0] - s.ny * t, s.a[1] + s.nx * t];
  for (let k = 0; k + 1 < out.length; k++) {
    const [x, y] = at(side, places[k]);
    const { side: other } = facing(sides, side, x, y, -side.nx, -side.ny);
    if (!other || other.nx * side.nx + other.ny * side.ny > -1 + 1e-6) continue;
    const before = k === 0 ? 0 : out[k - 1];
    const room = ASIDE * Math.min(places[k] - before, places[k + 1] - places[k]);
    for (const t of standing.get(other) ?? []) {
      const [u, v] = at(other, t);
      const moved = (u - side.a[0]) * -side.ny + (v - side.a[1]) * side.nx;
      if (Math.abs(moved - places[k]) < room) out[k] = moved;
    }
  }
  return out;
}

/** A point of the outline from which layers of points go inwards. */
interface Seed {
  readonly x: number;
  readonly y: number;
  readonly side: Side;
}

/** A point inside: how far behind its seed, and how thick the layer is there. */
interface Layer extends Seed {
  readonly depth: number;
  readonly thick: number;
}

/** Points behind the outline, each layer twice as thick as the one before, and those on a fold that they end at. */
function layersBehind(
  seeds: readonly Seed[],
  sides: readonly Side[],
  { longest }: Grading,
): { readonly layers: Layer[]; readonly fold: Layer[] } {
  const layers: Layer[] = [];
  const fold: Layer[] = [];
  for (const { x, y, side } of seeds) {
    const { far, side: other } = facing(sides, side, x, y, -side.nx, -side.ny);
    let thick = isEntered(side) ? longest : Math.min(side.cell, longest);
    // A part of the outline that is turned over looks at nothing.
    const end = other === undefined ? 0 : other.fold ? far - 0.5 * thick : far / 2 + 1e-9;
    for (let depth = thick; depth <= end;) {
      layers.push({ depth, thick, x: x - depth * side.nx, y: y - depth * side.ny, side });
      thick = Math.min(2 * thick, longest);
      depth += thick;
    }
    if (other?.fold)
      fold.push({ depth: far, thick, x: x - far * side.nx, y: y - far * side.ny, side: other });
  }
  fold.sort((p, q) => p.depth - q.depth);
  return { layers, fold };
}

/** The cell along a run at one of its ends: small at a corner, as long as may be at a port or a wall. */
function atCorner(ring: readonly Side[], run: readonly Side[], end: 'first' | 'last'): number {
  const side = end === 'first' ? run[0] : run[run.length - 1];
  const i = ring.indexOf(side);
  const n = ring.length;
  const next = ring[end === 'first' ? (i + n - 1) % n : (i + 1) % n];
  if (isEntered(next)) return Infinity;
  return Math.min(side.cell, next.cell);
}

/** Pairs of triangles that are a rectangle, as one shape each; the others as they are. */
function rectanglesOf(triangles: readonly (readonly number[])[], points: readonly Point[]): number[][] {
  const list: number[][] = [];
  const waiting = new Map<string, number>();
  const taken = new Set<number>();
  const square = (a: number, b: number, c: number): boolean => {
    const [p, q, r] = [points[a], points[b], points[c]];
    const [ux, uy, vx, vy] = [p[0] - q[0], p[1] - q[1], r[0] - q[0], r[1] - q[1]];
    return Math.abs(ux * vx + uy * vy) < 1e-6 * Math.hypot(ux, uy) * Math.hypot(vx, vy);
  };
  triangles.forEach((t, index) => {
    // The side that faces a right angle.
    const right = [0, 1, 2].find((k) => square(t[(k + 2) % 3], t[k], t[(k + 1) % 3]));
    if (right === undefined) return;
    const key = keyOf(t[(right + 1) % 3], t[(right + 2) % 3]);
    const other = waiting.get(key);
    if (other === undefined) {
      waiting.set(key, index);
      return;
    }
    const o = triangles[other];
    const far = o.find((k) => !t.includes(k))!;
    const [a, b, c] = [t[right], t[(right + 1) % 3], t[(right + 2) % 3]];
    if (!square(a, b, far) || !square(b, far, c)) return;
    taken.add(index).add(other);
    list.push([a, b, far, c]);
  });
  triangles.forEach((t, index) => {
    if (!taken.has(index)) list.push([...t]);
  });
  return list;
}
