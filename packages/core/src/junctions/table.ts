import { media, type MediumId, type Substrate } from '../lines';
import {
  actingOf,
  axesOf,
  boardAxes,
  forms,
  heightOf,
  scaledBy,
  SHARES,
  topOf,
  type JunctionKind,
} from './contract';
import { gridOf, type Axis, type Grid } from './grid';

/** A table as it is kept: per node of its grid the surplus of every number there over what the nodes before it say. */
export interface TableData {
  readonly kind: JunctionKind;
  readonly medium: MediumId;
  /** Unit of the numbers. */
  readonly unit: number;
  /** Degrees of nodes beyond those of the form's total degree, where the junction bends most. */
  readonly more?: readonly (readonly number[])[];
  readonly surplus: readonly (readonly number[])[];
}

/** What a junction stores over frequency, see `storedOf`. */
export interface Stored {
  /** Frequency up to which the table holds, Hz; beyond it grows in proportion. */
  readonly top: number;
  /** Share of what its table says leaves that does: from all of it on an open board to none under a low lid. */
  readonly leaving: number;
  /** By how much line lies between each pin's plane and what the table tells, m; absent: none. */
  readonly recessed?: readonly number[];
  /** Of each share of `top` the root of what leaves, see `responseOf`; worked out once. */
  roots?: readonly Float64Array[];
  /**
   * Of each share of `top`, and of each pair of pins i <= j, row by row: M over the share, and its imaginary part over the square of it.
   * Of a curve three and three numbers of what curving does, see `curvedLine`.
   */
  readonly re: readonly Float64Array[];
  readonly im: readonly Float64Array[];
}

export const tableGrid = (
  kind: JunctionKind,
  medium: MediumId,
  more?: readonly (readonly number[])[],
): Grid => gridOf(axesOf(kind, medium), forms[kind].degree, more);

/** A little beyond its ends a table is as good as at them. */
const BEYOND = 1e-6;

const isWithin = (axes: readonly Axis[], point: readonly number[]): boolean =>
  axes.every(({ least, most }, i) => point[i] >= least * (1 - BEYOND) && point[i] <= most * (1 + BEYOND));

/** Where a board stands in tables. */
const boardPoint = (medium: MediumId, { er, height, cover }: Substrate): number[] =>
  medium === 'microstrip' ? [er, height / cover] : [];

/** Whether tables know a board at all. */
export const knowsBoard = (medium: MediumId, substrate: Substrate): boolean =>
  !substrate.offCentre && isWithin(boardAxes(medium), boardPoint(medium, substrate));

/** Numbers of the surplus at a node, by pairs of pins i <= j. */
export const pairsOf = (pins: number): (readonly [number, number])[] =>
  Array.from({ length: pins }, (_, i) =>
    Array.from({ length: pins - i }, (_, k) => [i, i + k] as const),
  ).flat();

/**
 * Height over the lid's distance up to which as much leaves as without it, and from where on nothing does: a lid far up only turns what
 * leaves aside, under a near one it depends on the housing.
 */
const LEAVING = { all: 0.2, none: 0.5 } as const;

/** A table with its numbers in one row. */
interface Table {
  readonly unit: number;
  readonly surplus: Float64Array;
  readonly more: TableData['more'];
  /** Made when it is first read. */
  grid?: Grid;
}

const tables = new Map<string, Table>();
const keyOf = (kind: JunctionKind, medium: MediumId) => `${kind} ${medium}`;

/** Takes these tables up instead of others; junctions that have none keep their closed forms. */
export function provideTables(data: readonly TableData[]): void {
  tables.clear();
  lately.clear();
  for (const { kind, medium, unit, more, surplus } of data)
    tables.set(keyOf(kind, medium), { unit, more, surplus: Float64Array.from(surplus.flat()) });
}

/** Junctions asked for lately: while one value moves the others stay. */
const lately = new Map<string, Stored | undefined>();
const LATELY = 400;

/** What a junction of metal of these dimensions (m) stores, or undefined where no table holds it. */
export function storedIn(
  kind: JunctionKind,
  medium: MediumId,
  substrate: Substrate,
  dimensions: readonly number[],
): Stored | undefined {
  const { er, height, cover, offCentre = 0, thickness } = substrate;
  const key = [kind, medium, er, height, cover, offCentre, thickness, ...dimensions].join();
  if (lately.has(key)) return lately.get(key);
  if (lately.size >= LATELY) lately.clear();
  const found = interpolated(kind, medium, substrate, dimensions);
  lately.set(key, found);
  return found;
}

/** The numbers of a table at a place, undefined where there is none. */
function summed(kind: JunctionKind, medium: MediumId, place: readonly number[]): Float64Array | undefined {
  const table = tables.get(keyOf(kind, medium));
  if (!table) return undefined;
  table.grid ??= tableGrid(kind, medium, table.more);
  const weights = table.grid.weights(place);
  const sums = new Float64Array(2 * SHARES.length * pairsOf(forms[kind].pins).length);
  if (table.surplus.length !== weights.length * sums.length)
    throw new Error(`the table of ${kind} in ${medium} is not laid out as it is read: make it again`);
  for (let k = 0, at = 0; k < weights.length; k++) {
    const w = weights[k] * table.unit;
    for (let i = 0; i < sums.length; i++) sums[i] += w * table.surplus[at++];
  }
  return sums;
}

function interpolated(
  kind: JunctionKind,
  medium: MediumId,
  metal: Substrate,
  drawn: readonly number[],
): Stored | undefined {
  // Tables are of sheets.
  const substrate = media[medium].sheeted(metal);
  const outward = media[medium].outward(metal);
  const dimensions = actingOf(forms[kind], drawn, outward);
  if (!knowsBoard(medium, substrate)) return undefined;
  const form = forms[kind];
  const { axes, pins, place, mirror, lid } = form;
  const height = heightOf(medium, substrate);
  const own = place(scaledBy(form, dimensions, 1 / height));
  if (!isWithin(axes, own.point)) return undefined;
  const { mirrored } = own;
  const board = boardPoint(medium, substrate);
  const pairs = pairsOf(pins);
  // A lid changes what a junction does as it does far below the top: further up it depends on where the lid ends.
  const hasLid = medium === 'microstrip' && board[1] > 0;
  const sumsAt = (of: JunctionKind, point: readonly number[], nearness: number) =>
    summed(of, medium, [
      ...point,
      ...board.slice(0, 1),
      ...(forms[of].lid ? [] : board.slice(1).map(() => nearness)),
    ]);
  const sums = sumsAt(kind, own.point, 0);
  if (!sums) return undefined;
  if (hasLid) {
    const [of, at] = lid ? [lid.of, lid.at(own.point)] : [kind, own.point];
    const [open, under] = [lid ? sumsAt(of, at, 0) : sums, sumsAt(of, at, board[1])];
    if (!open || !under) return undefined;
    const share = lid?.share(own.point) ?? 1;
    const row = 2 * pairs.length;
    for (let i = 0; i < row; i++) {
      const change = share * (under[i] - open[i]);
      for (let k = 0; k < SHARES.length; k++) sums[k * row + i] += change;
    }
  }
  // Pins of the mirrored junction change places.
  const at = pairs.map(([i, j]) => {
    const [a, b] = mirrored ? [mirror[i], mirror[j]].sort((x, y) => x - y) : [i, j];
    return pairs.findIndex(([p, q]) => p === a && q === b);
  });
  const part = (share: number, which: 0 | 1) =>
    Float64Array.from(at, (pair) => sums[(2 * share + which) * pairs.length + pair]);
  return {
    ...(outward > 0 && { recessed: form.recessed?.(drawn, outward) }),
    leaving:
      medium === 'microstrip'
        ? Math.min(1, Math.max(0, (LEAVING.none - board[1]) / (LEAVING.none - LEAVING.all)))
        : 0,
    top: topOf(kind, medium, scaledBy(form, dimensions, 1 / height), substrate.er, height),
    re: SHARES.map((_, i) => part(i, 0)),
    im: SHARES.map((_, i) => part(i, 1)),
  };
}
