import { colour, type ColourName } from '../theme';

/** How a trace is drawn: the stroke says at which level it was computed, or that it is data. */
export type Stroke = 'ideal' | 'modelled' | 'data' | 'influence';

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
  readonly stroke: Stroke;
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

export interface MarkerActions {
  readonly onMarkerMove?: (id: string, x: number) => void;
  /** A drag has ended: what follows is a move of its own. */
  readonly onMarkerEnd?: () => void;
  readonly onMarkerAdd?: (x: number) => void;
  readonly onMarkerRemove?: (id: string) => void;
}

export const strokeProps: Readonly<
  Record<
    Stroke,
    { strokeWidth: number; strokeDasharray?: string; strokeLinecap?: 'round'; strokeOpacity?: number }
  >
> = {
  ideal: { strokeWidth: 1.6, strokeDasharray: '0.1 4', strokeLinecap: 'round' },
  modelled: { strokeWidth: 1.8 },
  data: { strokeWidth: 1.3, strokeDasharray: '6 3' },
  influence: { strokeWidth: 4, strokeOpacity: 0.28 },
};

/** How a name is written onto a chart: with a rim in the ground's colour, so that it is read over curves. */
export const nameProps = {
  fontSize: 11,
  fontWeight: 600,
  fill: colour('ink'),
  stroke: colour('raised'),
  strokeWidth: 3,
  paintOrder: 'stroke',
} as const;
