import type { Walls } from './contract';
import { halvesOn, type Half, type Mesh } from './mesh';

/** A way in which a mesh may lie on itself: the matrix that carries places about the centre, all of its entries 0, 1 or -1. */
type Turn = readonly [xx: number, xy: number, yx: number, yy: number];

/** Mirrored across both axes through the centre, or across both lines between them; the last is half a turn in either case. */
const HALF: Turn = [-1, 0, 0, -1];
const TURNS: readonly (readonly Turn[])[] = [
  [[-1, 0, 0, 1], [1, 0, 0, -1], HALF],
  [[0, 1, 1, 0], [0, -1, -1, 0], HALF],
];

/** Corners that lie this close to one another are one, m: outlines stand in whole nanometres. */
const ALIKE = 4e-9;
/** Cells that are alike to {@link ALIKE} carry densities that are so to this share; charges are the same but for rounding. */
const DENSITY = 1e-2;
const CHARGE = 1e-5;

/**
 * Currents of one class are carried over into themselves by each turn of the mesh, or into their opposite. The functions of
 * an orbit have one amplitude between them: the row of the class is that of the first of them.
 */
export interface Class {
  /** Row of each function; -1 where no current of this class goes through it. */
  readonly row: Int32Array;
  /** The function's share in the amplitude of its row: 1 or -1. */
  readonly sign: Int8Array;
  /** Rows of functions that are tested, which come first, and all rows. */
  readonly tested: number;
  readonly count: number;
  /** Of each row its orbit. */
  readonly orbit: Int32Array;
  /** What each turn, the one that leaves all in place first, makes of its currents: 1 or -1 times themselves. */
  readonly character: readonly number[];
  /** Whether waves sin(m pi x / a) sin(n pi y / b) of charge between walls belong to it. */
  readonly keeps: (m: number, n: number) => boolean;
}

/** How a mesh lies on itself, and what follows for the matrix: a block for each class, which know nothing of one another. */
export interface Symmetry {
  /** Turns, that which leaves all in place among them: 1, 2 or 4. */
  readonly order: number;
  readonly classes: readonly Class[];
  /** Orbits of functions, those that are tested first; of each function its orbit, which turn of the first one it is, and its sign. */
  readonly orbits: {
    readonly index: Int32Array;
    readonly turn: Uint8Array;
    readonly sign: Int8Array;
    readonly tested: number;
    readonly count: number;
  };
  /** Whether pairs are counted from this cell. */
  readonly isFirst: (cell: number) => boolean;
  /** How many pairs of cells stand for this one, its first cell being one that {@link isFirst}; 0 where another stands for it. */
  readonly weight: (first: number, second: number) => number;
  /** Whether a pair stands for the same the other way round as well. */
  readonly both: (first: number, second: number) => boolean;
  /** The first function of each one's orbit. */
  readonly first: Int32Array;
  /** How many functions an orbit has. */
  readonly size: Int32Array;
}

/** Finds things by their place. */
class Places {
  private readonly at = new Map<string, number[]>();
  constructor(private readonly size: number) {}
  add(x: number, y: number, index: number): void {
    const key = `${Math.round(x / this.size)} ${Math.round(y / this.size)}`;
    const known = this.at.get(key);
    if (known) known.push(index);
    else this.at.set(key, [index]);
  }
  near(x: number, y: number): number[] {
    const [i, j] = [Math.round(x / this.size), Math.round(y / this.size)];
    const out: number[] = [];
    for (let a = -1; a <= 1; a++)
      for (let b = -1; b <= 1; b++) out.push(...(this.at.get(`${i + a} ${j + b}`) ?? []));
    return out;
  }
}

/** Where a turn carries every cell and every function, with the sign of the latter; undefined where it does not. */
interface Carried {
  readonly turn: Turn;
  readonly cells: Int32Array;
  readonly bases: Int32Array;
  readonly signs: Int8Array;
}

function carried(
  { cells, bases }: Mesh,
  on: ReturnType<typeof halvesOn>,
  places: Places,
  [cx, cy]: readonly [number, number],
  turn: Turn,
  tested: number,
  kinds: Int32Array | undefined,
): Carried | undefined {
  const [xx, xy, yx, yy] = turn;
  const to = new Int32Array(cells.length);
  for (const [i, cell] of cells.entries()) {
    const x = cx + xx * (cell.x - cx) + xy * (cell.y - cy);
    const y = cy + yx * (cell.x - cx) + yy * (cell.y - cy);
    const found = places.near(x, y).find((k) => {
      const [c, d] = [cell.corners, cells[k].corners];
      if (c.length !== d.length) return false;
      for (let p = 0; p < c.length; p += 2) {
        const u = cx + xx * (c[p] - cx) + xy * (c[p + 1] - cy);
        const v = cy + yx * (c[p] - cx) + yy * (c[p + 1] - cy);
        let same = false;
        for (let q = 0; q < d.length && !same; q += 2)
          same = Math.abs(d[q] - u) < ALIKE && Math.abs(d[q + 1] - v) < ALIKE;
        if (!same) return false;
      }
      return true;
    });
    if (found === undefined) return undefined;
    to[i] = found;
  }
  /** Whether a half, turned, is another one times a sign. */
  const alike = (h: Half, k: Half, sign: number): boolean => {
    const { area } = cells[h.cell];
    const near = (a: number, b: number, scale: number) => Math.abs(a - sign * b) < DENSITY * scale;
    const flat = 1 / Math.sqrt(area);
    // A turned density is A b(A^-1 r), of which the transposed matrix is the inverse.
    const bxx = xx * (h.bxx * xx + h.bxy * xy) + xy * (h.byx * xx + h.byy * xy);
    const bxy = xx * (h.bxx * yx + h.bxy * yy) + xy * (h.byx * yx + h.byy * yy);
    const byx = yx * (h.bxx * xx + h.bxy * xy) + yy * (h.byx * xx + h.byy * xy);
    const byy = yx * (h.bxx * yx + h.bxy * yy) + yy * (h.byx * yx + h.byy * yy);
    return (
      to[h.cell] === k.cell &&
      Math.abs(h.charge - sign * k.charge) < CHARGE &&
      near(xx * h.ax + xy * h.ay, k.ax, flat) &&
      near(yx * h.ax + yy * h.ay, k.ay, flat) &&
      near(bxx, k.bxx, 1 / area) &&
      near(bxy, k.bxy, 1 / area) &&
      near(byx, k.byx, 1 / area) &&
      near(byy, k.byy, 1 / area)
    );
  };
  const of = new Int32Array(bases.length);
  const signs = new Int8Array(bases.length);
  for (const [i, halves] of bases.entries()) {
    for (const { basis } of on[to[halves[0].cell]]) {
      const other = bases[basis];
      if (other.length !== halves.length || basis < tested !== i < tested) continue;
      if (kinds && kinds[basis] !== kinds[i]) continue;
      for (const sign of [1, -1])
        if (signs[i] === 0 && halves.every((h) => other.some((k) => alike(h, k, sign)))) {
          of[i] = basis;
          signs[i] = sign;
        }
    }
    if (signs[i] === 0) return undefined;
  }
  return { turn, cells: to, bases: of, signs };
}

/**
 * Finds how a mesh lies on itself.
 * @param tested functions that are tested, the first ones
 * @param outward functions that no turn may carry into their opposite: of lines that go on, where a wave is one and the same
 * @param walls side walls, which must lie on themselves as well
 * @param kinds of functions, which no turn may carry into one of another kind, however much they are alike
 */
export function symmetryOf(
  mesh: Mesh,
  tested: number,
  outward: (basis: number) => boolean,
  walls?: Walls,
  kinds?: Int32Array,
): Symmetry {
  const { cells } = mesh;
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const { corners: c } of cells)
    for (let i = 0; i < c.length; i += 2) {
      [x0, x1] = [Math.min(x0, c[i]), Math.max(x1, c[i])];
      [y0, y1] = [Math.min(y0, c[i + 1]), Math.max(y1, c[i + 1])];
    }
  const centre = [(x0 + x1) / 2, (y0 + y1) / 2] as const;
  const places = new Places(4 * ALIKE);
  cells.forEach(({ x, y }, i) => places.add(x, y, i));
  const on = halvesOn(mesh);
  const isInPlace = ([xx, , , yy]: Turn): boolean =>
    walls === undefined ||
    (xx !== 0 &&
      (xx > 0 || Math.abs(walls.x0 + walls.x1 - 2 * centre[0]) < ALIKE) &&
      (yy > 0 || Math.abs(walls.y0 + walls.y1 - 2 * centre[1]) < ALIKE));
  let turns: Carried[] = [];
  for (const list of TURNS) {
    const found = list.flatMap((turn) => {
      const one = isInPlace(turn) ? carried(mesh, on, places, centre, turn, tested, kinds) : undefined;
      const turned = one && one.signs.some((sign, i) => sign < 0 && outward(i));
      return one && !turned ? [one] : [];
    });
    if (found.length > turns.length) turns = found;
  }
  // Two of a list make the third.
  return symmetryBy(mesh, tested, turns.length === 2 ? turns.slice(0, 1) : turns);
}

/** What follows from the turns that carry a mesh onto itself; without any there is one class, which all functions belong to. */
export function symmetryBy({ cells, bases }: Mesh, tested: number, turns: readonly Carried[] = []): Symmetry {
  const order = turns.length + 1;
  /** Of a cell or a function the first of its orbit. */
  const firsts = (count: number, to: (turn: Carried) => Int32Array) =>
    Int32Array.from({ length: count }, (_, i) => turns.reduce((least, t) => Math.min(least, to(t)[i]), i));
  const firstCell = firsts(cells.length, (t) => t.cells);
  const first = firsts(bases.length, (t) => t.bases);
  const size = new Int32Array(bases.length);
  for (const i of first) size[i]++;
  for (let i = bases.length - 1; i >= 0; i--) size[i] = size[first[i]];
  /** The turns that leave a cell where it is, as bits. */
  const fixed = Int32Array.from(cells, (_, i) =>
    turns.reduce((bits, t, k) => (t.cells[i] === i ? bits | (1 << k) : bits), 0),
  );
  const many = [1, 2, 2, 3, 2, 3, 3, 4];

  const index = new Int32Array(bases.length);
  const turn = new Uint8Array(bases.length);
  const sign = new Int8Array(bases.length);
  let [orbits, testedOrbits] = [0, 0];
  for (let i = 0; i < bases.length; i++) {
    if (first[i] !== i) continue;
    const own = orbits++;
    if (i < tested) testedOrbits = orbits;
    turns.forEach((t, k) => {
      index[t.bases[i]] = own;
      turn[t.bases[i]] = k + 1;
      sign[t.bases[i]] = t.signs[i];
    });
    [index[i], turn[i], sign[i]] = [own, 0, 1];
  }

  // What each turn makes of a class, that which leaves all in place first; two of them tell what the third one does, which is both.
  const characters =
    order === 4
      ? [
          [1, 1, 1, 1],
          [1, 1, -1, -1],
          [1, -1, 1, -1],
          [1, -1, -1, 1],
        ]
      : order === 2
        ? [
            [1, 1],
            [1, -1],
          ]
        : [[1]];
  return {
    order,
    orbits: { index, turn, sign, tested: testedOrbits, count: orbits },
    first,
    size,
    isFirst: (cell) => firstCell[cell] === cell,
    weight: (a, b) => {
      if (order === 1) return 1;
      if (firstCell[b] < a) return 0;
      // Of those that what leaves the first in place carries into one another one is enough.
      for (let k = 0; k < turns.length; k++) if (fixed[a] & (1 << k) && turns[k].cells[b] < b) return 0;
      return order / many[fixed[a] & fixed[b]];
    },
    both: (a, b) => firstCell[b] !== a,
    classes: characters.map((character): Class => {
      // Where a turn leaves a function in place, both must say the same of it.
      const has = (i: number) => turns.every((t, k) => t.bases[i] !== i || t.signs[i] === character[k + 1]);
      const orbit: number[] = [];
      const rows = new Int32Array(orbits).fill(-1);
      for (let i = 0; i < bases.length; i++)
        if (first[i] === i && has(i)) rows[index[i]] = orbit.push(index[i]) - 1;
      const keeps = (m: number, n: number): boolean =>
        turns.every(({ turn: [xx, , , yy] }, k) => {
          const odd = (xx < 0 ? m + 1 : 0) + (yy < 0 ? n + 1 : 0);
          return (odd % 2 === 0 ? 1 : -1) === character[k + 1];
        });
      return {
        row: index.map((o) => rows[o]),
        sign: sign.map((s, i) => (rows[index[i]] < 0 ? 0 : character[turn[i]] * s)),
        tested: orbit.filter((o) => o < testedOrbits).length,
        count: orbit.length,
        orbit: Int32Array.from(orbit),
        character,
        keeps,
      };
    }),
  };
}

/**
 * Two numbers for each pair of rows of a class: of what is tested the upper triangle, row by row, and beside it what the other
 * functions do to it.
 */
export interface Block {
  readonly n: number;
  readonly others: number;
  readonly one: Float64Array;
  readonly two: Float64Array;
  readonly outside: { readonly one: Float64Array; readonly two: Float64Array };
}

/** Room for a block of a class. */
export function blockOf(
  { tested: n, count }: Pick<Class, 'tested' | 'count'>,
  one?: Float64Array,
  two?: Float64Array,
): Block {
  const others = count - n;
  const outside = { one: new Float64Array(n * others), two: new Float64Array(n * others) };
  return { n, others, one: one ?? new Float64Array(n * n), two: two ?? new Float64Array(n * n), outside };
}

/** Adds numbers of two functions, `both` ways round or as they stand. */
export type Put = (i: number, j: number, one: number, two: number, both: boolean) => void;

/** What was put of pairs of functions, on its way to the blocks of the classes. */
export interface Gathering {
  readonly put: Put;
  /** Adds what was put since the last time to the blocks. */
  readonly gather: () => void;
}

/**
 * Sums by orbits and by the turn between two functions, of which the blocks of all classes are made at once: each number is put in one
 * place, however many classes there are.
 */
export function gathering(symmetry: Symmetry, blocks: readonly Block[]): Gathering {
  const { order, classes, orbits } = symmetry;
  const { index, turn, sign, tested: n, count } = orbits;
  const others = count - n;
  const at = ({ one, two, outside }: Block, r: number, c: number, x: number, y: number): void => {
    if (c < n) {
      if (r > c) return;
      one[r * n + c] += x;
      two[r * n + c] += y;
    } else {
      outside.one[r * others + c - n] += x;
      outside.two[r * others + c - n] += y;
    }
  };
  if (order === 1) {
    // Each function is an orbit of its own.
    const [block] = blocks;
    const put: Put = (i, j, x, y, both) => {
      if (i < n) at(block, i, j, x, y);
      if (both && j < n) at(block, j, i, x, y);
    };
    return { put, gather: () => undefined };
  }
  const sums = classes.map(() => blockOf(orbits));
  const put: Put = (i, j, x, y, both) => {
    const r = index[i];
    const c = index[j];
    const s = sign[i] * sign[j];
    const sum = sums[turn[i] ^ turn[j]];
    if (r < n) at(sum, r, c, s * x, s * y);
    if (both && c < n) at(sum, c, r, s * x, s * y);
  };
  const gather = (): void => {
    classes.forEach(({ orbit, character }, k) => {
      const block = blocks[k];
      for (let r = 0; r < block.n; r++) {
        const row = orbit[r];
        for (const [t, sum] of sums.entries()) {
          const by = character[t];
          for (let c = r; c < block.n; c++) {
            block.one[r * block.n + c] += by * sum.one[row * n + orbit[c]];
            block.two[r * block.n + c] += by * sum.two[row * n + orbit[c]];
          }
          for (let c = 0; c < block.others; c++) {
            const from = row * others + orbit[block.n + c] - n;
            block.outside.one[r * block.others + c] += by * sum.outside.one[from];
            block.outside.two[r * block.others + c] += by * sum.outside.two[from];
          }
        }
      }
    });
    for (const { one, two, outside } of sums)
      for (const part of [one, two, outside.one, outside.two]) part.fill(0);
  };
  return { put, gather };
}
