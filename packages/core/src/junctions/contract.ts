import { C0 } from '../numeric';
import { inRoom, type MediumId, type Substrate } from '../lines';
import type { Axis } from './grid';

/**
 * What stands at the end of two coupled strips: one open and the other going on, straight on or bending away by a mitred right angle, or
 * both bending away, told for the even and the odd mode.
 */
export const pairEnds = ['pair-end', 'pair-end-bent', 'pair-bends-even', 'pair-bends-odd'] as const;
export type PairEnd = (typeof pairEnds)[number];

/** Junctions whose tables are made by the field solution. */
export const junctionKinds = [
  'open-end',
  'gap',
  'step',
  'square-bend',
  'mitred-bend',
  'square-corner',
  'mitred-corner',
  'tee',
  'cross',
  ...pairEnds,
  'curve',
] as const;
export type JunctionKind = (typeof junctionKinds)[number];

/** A kind of junction and how its table is laid out. Lengths are in heights of the copper over its nearest ground. */
export interface JunctionForm {
  readonly pins: number;
  /** Which dimension is the width of the line at each pin. */
  readonly widths: readonly number[];
  /** Pins that are one node without what the junction stores; each other one is open for itself. */
  readonly joined: readonly number[];
  /** Where the table stands: its own variables, which a kink of the dimensions does not cross. */
  readonly axes: readonly Axis[];
  /** The variables of dimensions, and whether they are those of the mirrored junction. */
  readonly place: (dimensions: readonly number[]) => {
    readonly point: readonly number[];
    readonly mirrored: boolean;
  };
  /** Dimensions of a place in the table, not mirrored. */
  readonly dimensionsAt: (point: readonly number[]) => number[];
  /** Order of the pins in the mirrored junction. */
  readonly mirror: readonly number[];
  /** Whether a place is that of a junction which stores nothing. */
  readonly isPlain?: (point: readonly number[]) => boolean;
  /** Up to which share of the frequency its table holds that others reach, see `topOf`; absent: all of it. */
  readonly reach?: number;
  /** Total degree of its polynomials. */
  readonly degree: number;
  /** What one degree in the nearness of the lid costs of it; absent: 1. */
  readonly lidCost?: number;
  /** Which dimensions are slots between edges that face one another. */
  readonly slots?: readonly number[];
  /**
   * How far in front of the junction its planes lie, by pin, where edges of its copper act so far outside of themselves; absent: they are
   * where centre lines meet, which no thickness moves.
   */
  readonly recessed?: (dimensions: readonly number[], outward: number) => readonly number[];
  /** Which dimensions are no lengths: angles in right angles. */
  readonly plainNumbers?: readonly number[];
  /** Its table knows no lid: what one changes is that of another junction, less or more. */
  readonly lid?: {
    readonly of: JunctionKind;
    readonly at: (point: readonly number[]) => number[];
    readonly share: (point: readonly number[]) => number;
  };
}

/** Dimensions whose lengths are multiplied by a factor. */
export const scaledBy = (
  { plainNumbers }: JunctionForm,
  dimensions: readonly number[],
  factor: number,
): number[] => dimensions.map((x, i) => (plainNumbers?.includes(i) ? x : x * factor));

/** Dimensions of the sheet whose edges stand so far outside of those of the metal, m. */
export const actingOf = (
  { widths, slots }: JunctionForm,
  dimensions: readonly number[],
  outward: number,
): number[] =>
  dimensions.map((x, i) =>
    widths.includes(i) ? x + 2 * outward : slots?.includes(i) ? x - 2 * inRoom(outward, x) : x,
  );

const width: Axis = { least: 0.15, most: 7, ratio: true };
const straight = (dimensions: readonly number[]) => ({ point: dimensions, mirrored: false });

/** Two widths as the wider one and the ratio of the narrower to it: what a step stores has a kink where they are equal. */
const ordered = (a: number, b: number): { wide: number; ratio: number; mirrored: boolean } =>
  a >= b ? { wide: a, ratio: b / a, mirrored: false } : { wide: b, ratio: a / b, mirrored: true };

const bend: JunctionForm = {
  pins: 2,
  widths: [0, 0],
  joined: [0, 1],
  axes: [width],
  place: straight,
  dimensionsAt: (point) => [...point],
  mirror: [1, 0],
  degree: 8,
};

/** A bend by any angle, which is told by its square: it is the same to the left and to the right. */
const corner = (of: JunctionKind): JunctionForm => ({
  ...bend,
  axes: [width, { least: 0.02, most: (4 / 3) ** 2 }],
  place: ([w, angle]) => ({ point: [w, angle ** 2], mirrored: false }),
  dimensionsAt: ([w, square]) => [w, Math.sqrt(square)],
  degree: 7,
  plainNumbers: [1],
  lid: { of, at: ([w]) => [w], share: ([, square]) => square },
});

/** The end of one of two coupled strips beside the other, which goes on alone: the open end, then the other's coupled and lone side. */
const pairEnd: JunctionForm = {
  pins: 3,
  widths: [0, 0, 0],
  joined: [1, 2],
  axes: [
    { least: 0.2, most: 5, ratio: true },
    { least: 0.05, most: 2.5, ratio: true },
  ],
  place: straight,
  dimensionsAt: (point) => [...point],
  mirror: [0, 1, 2],
  slots: [1],
  // The end itself, and where the other strip begins to be alone.
  recessed: (_, d) => [d, d, -d],
  // Further up the ends of a pair radiate to one another, which no end by itself can tell.
  reach: 0.5,
  degree: 6,
  lidCost: 3,
};

/** The same beside one that bends away. */
const pairEndBent: JunctionForm = {
  ...pairEnd,
  recessed: (_, d) => [d, 0, 0],
  axes: [
    { least: 0.4, most: 3, ratio: true },
    { least: 0.1, most: 2.5, ratio: true },
  ],
};

/** Both strips bending away, in one mode: the coupled side, then the lone one. */
const pairBends: JunctionForm = {
  ...pairEndBent,
  recessed: undefined,
  // Where strips hardly couple their ends are as much of it as anywhere.
  axes: [pairEndBent.axes[0], { least: 0.1, most: 8, ratio: true }],
  pins: 2,
  widths: [0, 0],
  joined: [0, 1],
  mirror: [0, 1],
};

/** Least radius of a curve over hypot(width, height). */
const TIGHTEST = 0.8;

/** What is stored of a wider curve is as at the least, over how tight it is. */
const tight: Axis = { least: 0.06, most: 1 };

/** How tight a line curves, by the square: 0 of a straight one, 1 of the tightest that is told apart. Lengths in heights. */
export const tightness = (width: number, radius: number): number =>
  Math.min(tight.most, ((TIGHTEST * Math.hypot(width, 1)) / radius) ** 2);

export const forms: Readonly<Record<JunctionKind, JunctionForm>> = {
  'open-end': { ...bend, pins: 1, widths: [0], joined: [], mirror: [0], recessed: (_, d) => [d] },
  gap: {
    ...bend,
    widths: [0, 1],
    joined: [],
    slots: [2],
    recessed: ([, , slot], d) => [inRoom(d, slot), inRoom(d, slot)],
    axes: [width, { least: 0.05, most: 2, ratio: true }, { least: 0.15, most: 1, ratio: true }],
    place([first, second, gap]) {
      const { wide, ratio, mirrored } = ordered(first, second);
      return { point: [wide, gap, ratio], mirrored };
    },
    dimensionsAt: ([wide, gap, ratio]) => [wide, wide * ratio, gap],
    degree: 6,
    lidCost: 3,
  },
  step: {
    ...bend,
    widths: [0, 1],
    axes: [
      { least: 0.25, most: 9, ratio: true },
      { least: 0.03, most: 1, ratio: true },
    ],
    place([first, second]) {
      const { wide, ratio, mirrored } = ordered(first, second);
      return { point: [wide, ratio], mirrored };
    },
    dimensionsAt: ([wide, ratio]) => [wide, wide * ratio],
    isPlain: ([, ratio]) => ratio === 1,
    // The wider line's end stands out beside the narrower one.
    recessed: ([first, second], d) => [d * Math.sign(first - second), d * Math.sign(second - first)],
    degree: 7,
  },
  'square-bend': bend,
  'mitred-bend': bend,
  'square-corner': corner('square-bend'),
  'mitred-corner': corner('mitred-bend'),
  tee: {
    pins: 3,
    widths: [0, 1, 2],
    joined: [0, 1, 2],
    axes: [width, width, { least: 0.15, most: 1, ratio: true }],
    place([first, second, side]) {
      const { wide, ratio, mirrored } = ordered(first, second);
      return { point: [wide, side, ratio], mirrored };
    },
    dimensionsAt: ([wide, side, ratio]) => [wide, wide * ratio, side],
    mirror: [1, 0, 2],
    degree: 7,
    lidCost: 3,
  },
  cross: {
    pins: 4,
    widths: [0, 0, 1, 2],
    joined: [0, 1, 2, 3],
    axes: [width, width, { least: 0.15, most: 1, ratio: true }],
    place([through, left, right]) {
      const { wide, ratio, mirrored } = ordered(left, right);
      return { point: [through, wide, ratio], mirrored };
    },
    dimensionsAt: ([through, wide, ratio]) => [through, wide, wide * ratio],
    mirror: [0, 1, 3, 2],
    degree: 6,
    lidCost: 3,
  },
  'pair-end': pairEnd,
  'pair-end-bent': pairEndBent,
  'pair-bends-even': pairBends,
  'pair-bends-odd': pairBends,
  // A line from its beginning to its end: see `curvedLine` for what is stored of it.
  curve: {
    ...bend,
    axes: [width, tight],
    place: ([w, radius]) => ({
      point: [w, Math.max(tight.least, tightness(w, radius))],
      mirrored: false,
    }),
    dimensionsAt: ([w, square]) => [w, (TIGHTEST * Math.hypot(w, 1)) / Math.sqrt(square)],
    degree: 6,
    lidCost: 3,
  },
};

/**
 * What a board adds to a table's variables: permittivity, and the height over the lid's distance, 0 where there is none. In
 * stripline waves are TEM: permittivity only slows them, and what is said by the wavelength in the dielectric knows nothing of it.
 */
export const boardAxes = (medium: MediumId, lidCost = 1): readonly Axis[] =>
  medium === 'microstrip'
    ? [
        { least: 1.9, most: 13, ratio: true, cost: 2 },
        { least: 0, most: 1.25, cost: lidCost, fromLeast: true },
      ]
    : [];

/** All variables of a table: those of the junction, then the board's. */
export const axesOf = (kind: JunctionKind, medium: MediumId): readonly Axis[] => {
  const { axes, lid, lidCost } = forms[kind];
  const board = boardAxes(medium, lidCost);
  return [...axes, ...(lid ? board.slice(0, 1) : board)];
};

/** Height of the copper over its nearest ground, m. */
export const heightOf = (medium: MediumId, { height }: Pick<Substrate, 'height'>): number =>
  medium === 'stripline' ? height / 2 : height;

/** Frequencies of a table, in those up to which it holds. */
export const SHARES: readonly number[] = [0.3, 0.6, 0.85, 1];

const squares = SHARES.map((x) => x * x);
const over = squares.map((a, i) => squares.reduce((p, b, j) => (i === j ? p : p * (a - b)), 1));

/**
 * Writes what the numbers at each of them count at a share of the top: polynomials in the square of frequency between them. Beyond
 * its end a table says what it says there.
 */
export function weighShares(share: number, weights: Float64Array): void {
  const q = Math.min(1, share) ** 2;
  for (let i = 0; i < squares.length; i++) {
    weights[i] = 1 / over[i];
    for (let j = 0; j < squares.length; j++) if (j !== i) weights[i] *= q - squares[j];
  }
}

/**
 * Frequency (Hz) up to which a table holds: below the second mode of the widest line, and while the height is less than an
 * eighth of the wave in the dielectric. @param dimensions in heights @param height over the nearest ground, m
 */
export function topOf(
  kind: JunctionKind,
  medium: MediumId,
  dimensions: readonly number[],
  er: number,
  height: number,
): number {
  const { widths, reach = 1 } = forms[kind];
  const second = medium === 'microstrip' ? 0.8 : Math.PI;
  // Nearly the widest of them, without a kink where two are equal.
  const wide = widths.reduce((s, i) => s + dimensions[i] ** 4, 0) ** 0.25;
  return (reach * C0) / (height * Math.sqrt(er)) / Math.hypot((2 * wide + second) / 0.85, 8);
}
