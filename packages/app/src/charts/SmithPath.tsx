import { memo, useRef } from 'react';
import { sameEntries, useDerived, useDrawn, useLive, type Live } from '../live';
import { colour } from '../theme';
import { circlePath, pointsOf, tenth } from './path';
import { nameProps } from './types';
import { write } from './written';

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

export const NO_ARCS: readonly SmithArc[] = [];

interface SmithPathProps {
  readonly ways: Live<readonly SmithArc[]>;
  /** As they stood when the hand last rested or came near: where they can be taken hold of. */
  readonly rested: Live<readonly SmithArc[]>;
  readonly cx: number;
  readonly cy: number;
  readonly radius: number;
  readonly hovered?: string;
  readonly actions: ArcActions;
  readonly onHover?: (piece: string | undefined) => void;
  /** The reflection at a place of the screen. */
  readonly toPoint: (clientX: number, clientY: number) => Point;
}

/** Radius of the end of an arc, px. */
const END = 5.5;

/** What of an arc is the same while its value moves. */
const lookOf = ({ piece, name, shown, follows }: SmithArc) => ({
  piece,
  name,
  follows,
  held: shown !== undefined,
});

/** Ends of one look are drawn as one: a circle for each is styled, laid out and painted anew at every step. */
const ENDS = (['water', 'copperHand'] as const).flatMap((tone) =>
  [false, true].map((follows) => ({ tone, follows })),
);

/** The way from load to source, piece by piece; the end of each arc is a handle on that piece's value. */
export const SmithPath = memo(function SmithPath(props: SmithPathProps) {
  const { ways, rested, cx, cy, radius, hovered, actions, onHover, toPoint } = props;
  const arcs = useLive(useDerived(() => ways.value.map(lookOf), [ways], sameEntries));
  const dragging = useRef<string | undefined>(undefined);
  const start = useRef<SVGCircleElement>(null);
  const lines = useRef<SVGGElement>(null);
  const ends = useRef<SVGGElement>(null);
  const handles = useRef(new Map<string, SVGGElement>());
  // Pieces one can take hold of take turns in colour; what lies between them is thin and quiet.
  const turn = new Map(arcs.filter((a) => a.held).map((a, i) => [a.piece, i]));
  const toneOf = (piece: string) => {
    const i = turn.get(piece);
    return i === undefined ? 'ruleStrong' : ENDS[(i % 2) * 2].tone;
  };
  // Written into the circles: a transform of its own for each has the whole page put together anew.
  const place = (circle: Element | null, { re, im }: Point) => {
    write(circle, 'cx', String(tenth(cx + re * radius)));
    write(circle, 'cy', String(tenth(cy - im * radius)));
  };
  const placeHandle = ({ piece, points, shown }: SmithArc) => {
    const handle = handles.current.get(piece);
    if (!handle || shown === undefined) return;
    place(handle.firstElementChild, points[points.length - 1]);
    write(handle, 'aria-valuetext', shown);
  };
  useDrawn(() => {
    const [first] = ways.value;
    if (first) place(start.current, first.points[0]);
    ways.value.forEach((arc, i) => {
      write(lines.current?.children[i], 'points', pointsOf(arc.points, cx, cy, radius));
      // The one in hand is held where it is drawn.
      if (handles.current.get(arc.piece) === document.activeElement) placeHandle(arc);
    });
    ENDS.forEach(({ tone, follows }, i) => {
      let d = '';
      for (const { piece, points, shown, ...arc } of ways.value) {
        if (shown === undefined || toneOf(piece) !== tone || (arc.follows ?? false) !== follows) continue;
        const { re, im } = points[points.length - 1];
        d += circlePath(cx + re * radius, cy - im * radius, END);
      }
      write(ends.current?.children[i], 'd', d);
    });
  });
  useDrawn(() => {
    for (const arc of new Map([...ways.peek(), ...rested.value].map((a) => [a.piece, a])).values())
      placeHandle(arc);
  });
  if (arcs.length === 0) return null;
  return (
    <g data-screen-only>
      <g ref={lines}>
        {arcs.map(({ piece, held }) => (
          // Its points are no property of a style, which a path's d is: it would be styled anew at each step.
          <polyline
            key={piece}
            fill="none"
            stroke={colour(toneOf(piece))}
            strokeWidth={piece === hovered ? 4.5 : held ? 2.6 : 1.6}
            strokeDasharray={held ? undefined : '2 3'}
            strokeLinejoin="round"
            pointerEvents="stroke"
            onPointerEnter={() => onHover?.(piece)}
            onPointerLeave={() => onHover?.(undefined)}
          />
        ))}
      </g>
      <circle ref={start} r={4} fill={colour('ink')} />
      <g ref={ends} pointerEvents="none">
        {ENDS.map(({ tone, follows }) => (
          <path
            key={`${tone} ${follows}`}
            fill={colour('raised')}
            stroke={colour(tone)}
            strokeWidth={2.4}
            strokeDasharray={follows ? '3 2' : undefined}
          />
        ))}
      </g>
      {arcs.map(({ piece, name, held }) => {
        if (!held) return null;
        return (
          <g
            key={piece}
            ref={(handle) => {
              if (handle) handles.current.set(piece, handle);
              else handles.current.delete(piece);
            }}
            role="slider"
            tabIndex={0}
            aria-label={`arc of ${name}`}
            aria-valuenow={0}
            style={{ cursor: 'grab' }}
            onPointerEnter={() => onHover?.(piece)}
            onPointerLeave={() => dragging.current === undefined && onHover?.(undefined)}
            onFocus={() => onHover?.(piece)}
            onBlur={() => {
              onHover?.(undefined);
              actions.onEnd();
            }}
            onPointerDown={(event) => {
              if (event.button !== 0) return;
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              dragging.current = piece;
            }}
            onPointerMove={(event) => {
              if (dragging.current !== piece) return;
              event.stopPropagation();
              actions.onTo(piece, toPoint(event.clientX, event.clientY));
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
              actions.onStep(piece, direction * (event.shiftKey ? 0.001 : event.altKey ? 0.1 : 0.01));
            }}
          >
            <circle r={11} fill="transparent" />
            {piece === hovered && <ArcName {...{ ways, cx, cy, radius, piece }} />}
          </g>
        );
      })}
    </g>
  );
});

/** What an arc is and what it grows with, as it is now. */
function ArcName(props: Pick<SmithPathProps, 'ways' | 'cx' | 'cy' | 'radius'> & { piece: string }) {
  const { ways, cx, cy, radius, piece } = props;
  const arc = useLive(ways).find((a) => a.piece === piece);
  if (!arc) return null;
  const end = arc.points[arc.points.length - 1];
  return (
    <text {...nameProps} x={cx + end.re * radius + 10} y={cy - end.im * radius + 16}>
      {arc.name} {arc.shown}
    </text>
  );
}
