import {
  acrossAt,
  distanceOf,
  shapeAt,
  spotAt,
  type Across,
  type BoardPlan,
  type Spot,
} from '@ditch/core/making';
import type { Point } from '@ditch/core/polygons';
import { formatNumber } from '@ditch/core/units';
import { colour } from '../../theme';
import { lengthShown } from './panelEdits';

/** What is taken hold of so far: nothing, a first spot, two of them, or a place to measure across at. */
export interface Measuring {
  readonly first?: Spot;
  readonly second?: Spot;
  readonly across?: { readonly at: Point; readonly way: Across };
}

/** What a press at a place makes of it: a spot is taken, or else the width there. */
export function measured(plan: BoardPlan, now: Measuring, at: Point, reach: number): Measuring {
  const spot = spotAt(plan, at, reach);
  if (spot) return now.first && !now.second ? { first: now.first, second: spot } : { first: spot };
  const way = acrossAt(plan, at);
  return way ? { across: { at, way } } : {};
}

/** Whether a spot is not the one that was taken hold of already. */
const isOther = (spot: Spot, first: Spot): boolean =>
  spot.kind !== first.kind || spot.a[0] !== first.a[0] || spot.a[1] !== first.a[1];

const SPOTS = { side: 'a side', corner: 'a corner', hole: 'the middle of a hole' } as const;

/** What is measured, in words and numbers. */
export function readingOf(
  plan: BoardPlan,
  { first, second, across }: Measuring,
  pointed: Point | undefined,
  reach: number,
): string {
  const near = pointed && spotAt(plan, pointed, reach);
  const other = second ?? (near && first && isOther(near, first) ? near : undefined);
  if (first && other) {
    const { distance, dx, dy, angle } = distanceOf(first, other);
    return `${lengthShown(distance)} apart, \u0394x ${lengthShown(dx)}, \u0394y ${lengthShown(dy)}${
      angle === undefined ? '' : `, at ${formatNumber((angle * 180) / Math.PI, 4)}\u00B0 to each other`
    }`;
  }
  if (first) {
    const long = Math.hypot(first.b[0] - first.a[0], first.b[1] - first.a[1]);
    return first.kind === 'side'
      ? `from a side ${lengthShown(long)} long; take hold of another side, corner or hole`
      : `from ${SPOTS[first.kind]} at ${lengthShown(first.at[0])}, ${lengthShown(first.at[1])}; take hold of another`;
  }
  if (across) {
    const shape = shapeAt(plan, across.at);
    return `${across.way.copper ? 'copper' : 'gap'} ${lengthShown(across.way.distance)} wide${
      shape ? `; all of it ${formatNumber(shape.area * 1e6, 5)} mm\u00B2, rim ${lengthShown(shape.rim)}` : ''
    }`;
  }
  return 'press a side, a corner or a hole and then another; on copper or between copper for its width';
}

/** What is measured, drawn over the board. */
export function MeasureLayer({
  plan,
  measuring: { first, second, across },
  pointed,
  reach,
  sx,
  sy,
}: {
  plan: BoardPlan;
  measuring: Measuring;
  pointed: Point | undefined;
  reach: number;
  sx: (x: number) => number;
  sy: (y: number) => number;
}) {
  const near = pointed && spotAt(plan, pointed, reach);
  const other = second ?? (first && near);
  const way = first && other ? distanceOf(first, other) : across?.way;
  const ink = colour('waterText');
  const spots = [first, second, near].flatMap((s) => (s ? [s] : []));
  return (
    <g pointerEvents="none" className="measure" stroke={ink} fill="none">
      {pointed && (
        <path
          d={`M${sx(pointed[0]) - 8} ${sy(pointed[1])}h16M${sx(pointed[0])} ${sy(pointed[1]) - 8}v16`}
          opacity={0.6}
        />
      )}
      {spots.map((s, i) =>
        s.kind === 'side' ? (
          <line key={i} x1={sx(s.a[0])} y1={sy(s.a[1])} x2={sx(s.b[0])} y2={sy(s.b[1])} strokeWidth={3} />
        ) : (
          <circle key={i} cx={sx(s.at[0])} cy={sy(s.at[1])} r={5} strokeWidth={2} />
        ),
      )}
      {way && (
        <line
          className="way"
          x1={sx(way.from[0])}
          y1={sy(way.from[1])}
          x2={sx(way.to[0])}
          y2={sy(way.to[1])}
          strokeWidth={1.5}
          strokeDasharray="5 3"
        />
      )}
    </g>
  );
}
