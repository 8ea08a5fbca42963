/** Entries of a sparse complex matrix: row and column of each, no place twice. */
export interface SparsePattern {
  readonly size: number;
  readonly rows: Int32Array;
  readonly columns: Int32Array;
}

/**
 * An elimination whose pivots were chosen once for a pattern and typical values, to be repeated for many values. It
 * takes all rows and columns but the last `keep` out of the system and leaves the Schur complement of those.
 */
export interface Elimination {
  /** Length of the value arrays: the entries of the pattern, then what fills in. */
  readonly slots: number;
  /** Rows and columns of the Schur complement: the `keep` that were asked for, then what found no pivot. */
  readonly order: number;
  /** Where entry (r, c) of the `order x order` Schur complement stands, row by row; -1 for an entry that stays zero. */
  readonly schur: Int32Array;
  /**
   * Eliminates in place. Entries stand in the pattern's order, the slots after them must be zero. Returns false when
   * the chosen pivots do not suit these values; the arrays then hold nothing of use. Where the plan was made for values
   * that leave some unknowns open, it suits others that leave the same open.
   */
  reduce(re: Float64Array, im: Float64Array): boolean;
}

/** A pivot is at least this share of the largest entry of its column when it is chosen. */
const THRESHOLD = 0.1;
/** Multipliers beyond this cost too many digits: other pivots are needed. */
const GROWTH = 300;
const SEARCHED = 4;
/** Rows and columns without a pivot beyond which a plan is none. */
const MOST_LEFT = 8;
/** Entries around one that are smaller than this are nothing. */
const NOTHING = 1e-12;

/**
 * Chooses pivots by Markowitz count among the entries that are large enough (threshold pivoting: Duff, Erisman and
 * Reid, Direct Methods for Sparse Matrices) and records every step of the elimination. Rows and columns in which no
 * acceptable pivot is left, as at resonances and shorts, join what stays; those of them that hold nothing at all are
 * left out. Returns undefined where too many are left.
 *
 * @param re values of the entries, in the order of the pattern
 * @param keep rows and columns at the end that stay
 */
export function planElimination(
  pattern: SparsePattern,
  re: ArrayLike<number>,
  im: ArrayLike<number>,
  keep: number,
): Elimination | undefined {
  const { size, rows, columns } = pattern;
  const inner = size - keep;
  const vr = Array.from({ length: rows.length }, (_, k) => re[k]);
  const vi = Array.from({ length: rows.length }, (_, k) => im[k]);
  /** Slot of each column in every row that is left, and the rows of every column. */
  const inRow = Array.from({ length: size }, () => new Map<number, number>());
  const inColumn = Array.from({ length: size }, () => new Set<number>());
  for (let k = 0; k < rows.length; k++) {
    inRow[rows[k]].set(columns[k], k);
    inColumn[columns[k]].add(rows[k]);
  }
  const left = new Set(Array.from({ length: inner }, (_, k) => k));
  const magnitude = (slot: number) => Math.abs(vr[slot]) + Math.abs(vi[slot]);
  const program: number[] = [];

  while (left.size > 0) {
    // Rows with the fewest entries first; the best of the first few that offer anything is near enough to the best.
    const candidates = [...left].sort((a, b) => inRow[a].size - inRow[b].size);
    let best: { row: number; column: number; slot: number; cost: number; value: number } | undefined;
    let searched = 0;
    for (const row of candidates) {
      if (best && (searched >= SEARCHED || (inRow[row].size - 1) ** 2 >= best.cost)) break;
      let found = false;
      for (const [column, slot] of inRow[row]) {
        if (column >= inner) continue;
        const value = magnitude(slot);
        if (!(value > NOTHING)) continue;
        let largest = 0;
        for (const other of inColumn[column])
          largest = Math.max(largest, magnitude(inRow[other].get(column)!));
        if (value < THRESHOLD * largest) continue;
        found = true;
        const cost = (inRow[row].size - 1) * (inColumn[column].size - 1);
        if (!best || cost < best.cost || (cost === best.cost && value > best.value))
          best = { row, column, slot, cost, value };
      }
      if (found) searched++;
    }
    if (!best) break;
    const { row, column, slot } = best;
    const pivotRow = [...inRow[row]].filter(([c]) => c !== column);
    const others = [...inColumn[column]].filter((r) => r !== row);
    program.push(slot, others.length, pivotRow.length, ...pivotRow.map(([, s]) => s));
    const scale = 1 / (vr[slot] * vr[slot] + vi[slot] * vi[slot]);
    for (const other of others) {
      const from = inRow[other].get(column)!;
      program.push(from);
      const lr = (vr[from] * vr[slot] + vi[from] * vi[slot]) * scale;
      const li = (vi[from] * vr[slot] - vr[from] * vi[slot]) * scale;
      for (const [c, s] of pivotRow) {
        let target = inRow[other].get(c);
        if (target === undefined) {
          target = vr.length;
          vr.push(0);
          vi.push(0);
          inRow[other].set(c, target);
          inColumn[c].add(other);
        }
        program.push(target);
        vr[target] -= lr * vr[s] - li * vi[s];
        vi[target] -= lr * vi[s] + li * vr[s];
      }
      inRow[other].delete(column);
    }
    for (const [c] of pivotRow) inColumn[c].delete(row);
    inColumn[column].clear();
    left.delete(row);
  }

  // What is left over: rows and columns that hold something join what stays, the others must go on holding nothing.
  const something = (slot: number) => !(magnitude(slot) <= NOTHING);
  const held = (slots: Iterable<number>) => [...slots].some(something);
  const rest = [...left].filter((row) => held(inRow[row].values()));
  const open: number[] = [];
  if (left.size > 0)
    for (let column = 0; column < inner; column++)
      if (held([...inColumn[column]].map((row) => inRow[row].get(column)!))) open.push(column);
  const order = keep + Math.max(rest.length, open.length);
  if (order > keep + MOST_LEFT) return undefined;
  const places = Array.from({ length: keep }, (_, k) => inner + k);
  const placeOfRow = new Map([...places, ...rest].map((row, k) => [row, k]));
  const placeOfColumn = new Map([...places, ...open].map((column, k) => [column, k]));
  const schur = new Int32Array(order * order).fill(-1);
  const idle: number[] = [];
  for (const row of [...places, ...left])
    for (const [column, slot] of inRow[row]) {
      const [r, c] = [placeOfRow.get(row), placeOfColumn.get(column)];
      if (r !== undefined && c !== undefined) schur[r * order + c] = slot;
      else idle.push(slot);
    }
  return {
    slots: vr.length,
    order,
    schur,
    reduce: reducer(Int32Array.from(program), Int32Array.from(idle)),
  };
}

/** Repeats recorded steps: pivot, how many rows, how many columns, slots of the pivot row; each row's slots. */
function reducer(program: Int32Array, idle: Int32Array): Elimination['reduce'] {
  const limit = GROWTH * GROWTH;
  return (re, im) => {
    let at = 0;
    while (at < program.length) {
      const pr = re[program[at]];
      const pi = im[program[at]];
      const rows = program[at + 1];
      const columns = program[at + 2];
      const first = at + 3;
      at = first + columns;
      const size = pr * pr + pi * pi;
      const scale = 1 / size;
      for (let r = 0; r < rows; r++) {
        const from = program[at++];
        const ar = re[from];
        const ai = im[from];
        const lr = (ar * pr + ai * pi) * scale;
        const li = (ai * pr - ar * pi) * scale;
        // Written so that what is no number is refused as well.
        if (!(lr * lr + li * li < limit)) return false;
        for (let c = 0; c < columns; c++) {
          const target = program[at++];
          const source = program[first + c];
          re[target] -= lr * re[source] - li * im[source];
          im[target] -= lr * im[source] + li * re[source];
        }
      }
    }
    for (let k = 0; k < idle.length; k++)
      if (!(Math.abs(re[idle[k]]) + Math.abs(im[idle[k]]) <= NOTHING)) return false;
    return true;
  };
}
