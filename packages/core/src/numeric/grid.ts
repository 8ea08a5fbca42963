/** Nodes along a side of a cell: the extrema of Chebyshev's polynomial, shared with the neighbours at both ends. */
const NODES = 6;
const DEGREE = NODES - 1;
const cosines = Float64Array.from({ length: NODES }, (_, i) => -Math.cos((Math.PI * i) / DEGREE));
/** Barycentric weights of these nodes (Berrut & Trefethen 2004). */
const weights = Float64Array.from(cosines, (_, i) => (i % 2 ? -1 : 1) * (i === 0 || i === DEGREE ? 0.5 : 1));

/** Answers given by the function itself before a cell is worth its nodes, and nodes made at each answer from then on. */
const PATIENCE = 5;
const AT_ONCE = 3;

/** A square between nodes, and how far it has come. */
interface Cell {
  asked: number;
  /** Values at the nodes, row after row, once all are there. */
  ready?: Float64Array;
}

/**
 * A smooth function of two variables that is dear to compute, read from values at nodes: Chebyshev interpolation on
 * square cells, continuous across them. A cell that is asked for the first few times is answered by the function; if it
 * is asked again, its nodes are made a few at a time, so that no answer waits for all of them.
 */
export class Grid {
  private readonly cells = new Map<string, Cell>();
  private readonly nodes = new Map<string, readonly number[]>();
  private readonly across = new Float64Array(NODES);
  private readonly along = new Float64Array(NODES);

  /**
   * @param f the function, `size` values at once
   * @param side length of a cell's side
   */
  constructor(
    private readonly f: (x: number, y: number) => readonly number[],
    private readonly side: number,
    private readonly size: number,
  ) {}

  /** The function's values at (x, y), to about the cell's sixth difference. */
  at(x: number, y: number): readonly number[] {
    const i = Math.floor(x / this.side);
    const j = Math.floor(y / this.side);
    const key = `${i} ${j}`;
    let cell = this.cells.get(key);
    if (!cell) this.cells.set(key, (cell = { asked: 0 }));
    if (!cell.ready) {
      cell.asked++;
      if (cell.asked > PATIENCE) this.prepare(cell, i, j);
      if (!cell.ready) return this.f(x, y);
    }
    return this.read(cell.ready, 2 * (x / this.side - i) - 1, 2 * (y / this.side - j) - 1);
  }

  private read(values: Float64Array, s: number, t: number): number[] {
    share(s, this.across);
    share(t, this.along);
    const out = new Array<number>(this.size).fill(0);
    let at = 0;
    for (let a = 0; a < NODES; a++)
      for (let b = 0; b < NODES; b++) {
        const weight = this.across[a] * this.along[b];
        for (let v = 0; v < out.length; v++) out[v] += weight * values[at++];
      }
    return out;
  }

  /** Makes some of a cell's nodes that are missing, and the cell when none is. */
  private prepare(cell: Cell, i: number, j: number): void {
    const values = new Float64Array(NODES * NODES * this.size);
    let made = 0;
    for (let a = 0, at = 0; a < NODES; a++)
      for (let b = 0; b < NODES; b++, at += this.size) {
        const key = `${i * DEGREE + a} ${j * DEGREE + b}`;
        let known = this.nodes.get(key);
        if (!known) {
          if (made++ === AT_ONCE) return;
          known = this.f(this.place(i, a), this.place(j, b));
          this.nodes.set(key, known);
        }
        values.set(known, at);
      }
    cell.ready = values;
  }

  private place(cell: number, node: number): number {
    if (node === 0) return cell * this.side;
    return node === DEGREE ? (cell + 1) * this.side : (cell + 0.5 + cosines[node] / 2) * this.side;
  }
}

/** What each node has of the polynomial through all of them at t in -1..1. */
function share(t: number, out: Float64Array): void {
  let sum = 0;
  for (let n = 0; n < NODES; n++) {
    const away = t - cosines[n];
    if (away === 0) {
      out.fill(0);
      out[n] = 1;
      return;
    }
    sum += out[n] = weights[n] / away;
  }
  for (let n = 0; n < NODES; n++) out[n] /= sum;
}
