import { truest, type LevelId } from '@ditch/core/levels';
import { colour, type ColourName } from '../theme';

/** What a curve is: the answer of a level, something laid over it, or the influence of what is pointed at. */
export type Kind =
  | {
      readonly role: 'level';
      readonly level: LevelId;
      /** Of an earlier state: seen, but not counted. */
      readonly past?: boolean;
    }
  | { readonly role: 'overlay' }
  | { readonly role: 'influence' };

interface Stroke {
  readonly strokeWidth: number;
  readonly strokeDasharray?: string;
  readonly strokeLinecap?: 'round';
  readonly strokeOpacity?: number;
}

/** A level never changes the colour of a curve, only its stroke. */
export const levelStrokes: Readonly<Record<LevelId, Stroke>> = {
  ideal: { strokeWidth: 1.6, strokeDasharray: '0.1 4', strokeLinecap: 'round' },
  modelled: { strokeWidth: 1.8 },
  solved: { strokeWidth: 3 },
};
const roleStrokes: Readonly<Record<Exclude<Kind['role'], 'level'>, Stroke>> = {
  overlay: { strokeWidth: 1.3, strokeDasharray: '6 3' },
  influence: { strokeWidth: 4, strokeOpacity: 0.28 },
};
export const strokeOf = (kind: Kind): Stroke =>
  kind.role !== 'level'
    ? roleStrokes[kind.role]
    : kind.past
      ? { ...levelStrokes[kind.level], strokeOpacity: 0.35 }
      : levelStrokes[kind.level];

/** The level that counts among some curves: the one truest to the copper. */
export const countedLevel = (kinds: readonly { readonly kind: Kind }[]): LevelId | undefined =>
  truest(kinds.flatMap(({ kind }) => (kind.role === 'level' && !kind.past ? [kind.level] : [])));

/** Whether a curve is that of a level. */
export const isOf = (kind: Kind, level: LevelId | undefined): boolean =>
  kind.role === 'level' && kind.level === level && !kind.past;

export interface Trace {
  readonly id: string;
  /** What it is a curve of, whatever it was computed from: `S11`. */
  readonly curve?: string;
  /** Written at the end of the curve. */
  readonly label: string;
  /** Its whole name, for tables and files. */
  readonly name?: string;
  /** Its label stands in the read-out only. */
  readonly unlabelled?: boolean;
  readonly colour: ColourName;
  readonly kind: Kind;
  /** One of a family in one hue: how strongly it is drawn, 0 to 1. */
  readonly shade?: number;
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
}

export interface ChartMarker {
  readonly id: string;
  readonly label: string;
  readonly x: number;
  /** Fixed markers follow a value of the design and cannot be dragged off it. */
  readonly fixed?: boolean;
}

/** A goal: a level, and the part of the axis over which it is met. */
export interface GoalBand {
  readonly level: number;
  readonly from?: number;
  readonly to?: number;
}

export interface MarkerActions {
  readonly onMarkerMove?: (id: string, x: number) => void;
  /** A drag has ended: what follows is a move of its own. */
  readonly onMarkerEnd?: () => void;
  readonly onMarkerAdd?: (x: number) => void;
  readonly onMarkerRemove?: (id: string) => void;
}

/** How a name is written onto a chart: with a rim in the ground's colour, so that it is read over curves. */
export const nameProps = {
  fontSize: 11,
  fontWeight: 600,
  fill: colour('ink'),
  stroke: colour('raised'),
  strokeWidth: 3,
  paintOrder: 'stroke',
} as const;

/** A place on the axis with what is there, in words. */
export interface Tick {
  readonly x: number;
  readonly name: string;
}

/** A line across the chart that names a value worth reading at. */
export interface Guide {
  readonly y: number;
  readonly label: string;
}

/** A level that the curves shall stay below, above or at over a part of the axis; where they shall not be is shaded. */
export interface LimitBand {
  readonly id: string;
  readonly side: 'below' | 'above' | 'at';
  readonly level: number;
  /** How far from the level it may be that they shall be at. */
  readonly tolerance?: number;
  readonly from: number;
  readonly to: number;
}

/** What lies between two curves over the same places, filled. */
export interface Between {
  readonly id: string;
  readonly colour: ColourName;
  /** 0 to 1. */
  readonly strength: number;
  readonly x: ArrayLike<number>;
  readonly low: ArrayLike<number>;
  readonly high: ArrayLike<number>;
}

/** What moves on a chart while a value is changed. */
export interface RectPicture {
  readonly traces: readonly Trace[];
  readonly markers?: readonly ChartMarker[];
  readonly goal?: GoalBand;
  readonly limits?: readonly LimitBand[];
  /** Drawn below the curves. */
  readonly between?: readonly Between[];
  /** Places marked on the axis. */
  readonly ticks?: readonly Tick[];
  /** The result belongs to values that have changed since. */
  readonly waiting?: boolean;
}
