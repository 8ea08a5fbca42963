import { memo, useRef } from 'react';
import { useDerived, useLive, type Live } from '../live';
import { colour } from '../theme';
import { nameProps } from './types';

export interface Point {
  readonly re: number;
  readonly im: number;
}

/** The stretch of a way that one piece makes. */
export interface SmithArc {
  readonly piece: string;
  readonly name: string;
  /** Reflections from the side of the load to the side of port 1. */
  readonly points: readonly Point[];
  /** The value that the arc grows with, as it is read; without one the arc cannot be taken hold of. */
  readonly shown?: string;
  /** An expression holds the value. */
  readonly follows?: boolean;
}

export interface ArcActions {
  /** The end of an arc is wanted at a reflection. */
  readonly onTo: (piece: string, point: Point) => void;
  /** The value shall grow by a share of itself. */
  readonly onStep: (piece: string, share: number) => void;
  readonly onEnd: () => void;
}

const NO_ARCS: readonly SmithArc[] = [];

interface SmithPathProps {
  readonly picture: Live<{ readonly arcs?: readonly SmithArc[] }>;
  readonly cx: number;
  readonly cy: number;
  readonly radius: number;
  readonly hovered?: string;
  readonly actions: ArcActions;
  readonly onHover?: (piece: string | undefined) => void;
  /** The reflection at a place of the screen. */
  readonly toPoint: (clientX: number, clientY: number) => Point;
}

/** The way from load to source, piece by piece; the end of each arc is a handle on that piece's value. */
export const SmithPath = memo(function SmithPath(props: SmithPathProps) {
  const { picture, cx, cy, radius, hovered, actions, onHover, toPoint } = props;
  const arcs = useLive(useDerived(() => picture.value.arcs ?? NO_ARCS, [picture], Object.is));
  const dragging = useRef<string | undefined>(undefined);
  const at = (p: Point): [number, number] => [cx + p.re * radius, cy - p.im * radius];
  if (arcs.length === 0) return null;
  const [sx, sy] = at(arcs[0].points[0]);
  // Pieces one can take hold of take turns in colour; what lies between them is thin and quiet.
  const turn = new Map(arcs.filter((a) => a.shown !== undefined).map((a, i) => [a.piece, i]));
  const tone = (piece: string) => {
    const i = turn.get(piece);
    return colour(i === undefined ? 'ruleStrong' : i % 2 === 0 ? 'water' : 'copperHand');
  };
  return (
    <g data-screen-only>
      {arcs.map((arc) => {
        const d = arc.points
          .map((p) =>
            at(p)
              .map((v) => v.toFixed(1))
              .join(' '),
          )
          .join('L');
        return (
          <path
            key={`${arc.piece}-line`}
            d={`M${d}`}
            fill="none"
            stroke={tone(arc.piece)}
            strokeWidth={arc.piece === hovered ? 4.5 : arc.shown === undefined ? 1.6 : 2.6}
            strokeDasharray={arc.shown === undefined ? '2 3' : undefined}
            strokeLinejoin="round"
            pointerEvents="stroke"
            onPointerEnter={() => onHover?.(arc.piece)}
            onPointerLeave={() => onHover?.(undefined)}
          />
        );
      })}
      <circle cx={sx} cy={sy} r={4} fill={colour('ink')} />
      {arcs.map((arc) => {
        if (arc.shown === undefined) return null;
        const [x, y] = at(arc.points[arc.points.length - 1]);
        return (
          <g
            key={arc.piece}
            role="slider"
            tabIndex={0}
            aria-label={`arc of ${arc.name}`}
            aria-valuetext={arc.shown}
            aria-valuenow={0}
            style={{ cursor: 'grab' }}
            onPointerEnter={() => onHover?.(arc.piece)}
            onPointerLeave={() => dragging.current === undefined && onHover?.(undefined)}
            onFocus={() => onHover?.(arc.piece)}
            onBlur={() => {
              onHover?.(undefined);
              actions.onEnd();
            }}
            onPointerDown={(event) => {
              if (event.button !== 0) return;
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              dragging.current = arc.piece;
            }}
            onPointerMove={(event) => {
              if (dragging.current !== arc.piece) return;
              event.stopPropagation();
              actions.onTo(arc.piece, toPoint(event.clientX, event.clientY));
            }}
            onPointerUp={() => {
              dragging.current = undefined;
              actions.onEnd();
            }}
            onKeyDown={(event) => {
              if (event.ctrlKey || event.metaKey) return;
              const direction = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
              if (!direction) return;
              event.preventDefault();
              event.stopPropagation();
              actions.onStep(arc.piece, direction * (event.shiftKey ? 0.001 : event.altKey ? 0.1 : 0.01));
            }}
          >
            <circle cx={x} cy={y} r={11} fill="transparent" />
            <circle
              cx={x}
              cy={y}
              r={5.5}
              fill={colour('raised')}
              stroke={tone(arc.piece)}
              strokeWidth={2.4}
              strokeDasharray={arc.follows ? '3 2' : undefined}
            />
            {arc.piece === hovered && (
              <text {...nameProps} x={x + 10} y={y + 16}>
                {arc.name} {arc.shown}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
});
