import { memo, useRef } from 'react';
import type { PlacedPiece } from '@ditch/core/artwork';
import { parts } from '@ditch/core/parts';
import { formatQuantity } from '@ditch/core/units';
import { write } from '../../charts/written';
import { useDerived, useDrawn, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import type { Artwork } from './pictures';
import { pathOf, pointsOf, type View } from './view';

/** What the layers of the picture are drawn from. */
export interface LayerProps {
  readonly artwork: Live<Artwork>;
  readonly view: Live<View | undefined>;
}

/** What a piece consists of on the picture, whatever its size. */
export interface PlacedShape {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly number: string | undefined;
  /** Whether it has copper, as one polygon or several; how many bodies, and a line through its middle. */
  readonly copper: 'none' | 'one' | 'several';
  readonly bodies: number;
  readonly line: boolean;
}

interface PlacedProps {
  readonly shape: PlacedShape;
  readonly places: Live<ReadonlyMap<string, PlacedPiece>>;
  readonly view: LayerProps['view'];
  readonly chosen: boolean;
  readonly pointed: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
  readonly onSplit: (id: string, clientX: number, clientY: number) => void;
}

type Draw = (element: Element, placed: PlacedPiece, view: View, index: number) => void;

/** How the elements of a piece are drawn, by what they are. */
const DRAW: Readonly<Record<string, Draw>> = {
  // The points of a polygon are no property of a style, which a path's d is: it would be styled anew at each step.
  copper: (element, { copper: [only] }, view) => only && write(element, 'points', pointsOf(view, only)),
  coppers: (element, { copper }, view) => write(element, 'd', pathOf(view, copper)),
  centre: (element, { centre }, view) => write(element, 'points', pointsOf(view, centre)),
  body: (element, { body }, view, index) =>
    body[index] && write(element, 'points', pointsOf(view, body[index])),
  /** One at each pin, where it is and across its direction. */
  plane: (element, { pins }, view, index) => {
    const { x, y, angle } = pins[index];
    write(element, 'transform', `translate(${view.sx(x)} ${view.sy(y)}) rotate(${(-angle * 180) / Math.PI})`);
  },
  pin: (element, { pins: [{ x, y }] }, view) =>
    write(element, 'transform', `translate(${view.sx(x)} ${view.sy(y)})`),
  // What nearly every design has is written without a transform, which would have the whole page put together anew.
  port: (element, { pins: [{ x, y }] }, view) => {
    write(element, 'cx', view.sx(x).toFixed(1));
    write(element, 'cy', view.sy(y).toFixed(1));
  },
  number: (element, { pins: [{ x, y, angle }] }, view) => {
    write(element, 'x', (view.sx(x) - 15 * Math.cos(angle)).toFixed(1));
    write(element, 'y', (view.sy(y) + 15 * Math.sin(angle)).toFixed(1));
  },
};

/** One piece: its copper, its body, its port. Its outlines are drawn without a rendering. */
export const Placed = memo(function Placed(props: PlacedProps) {
  const { shape, places, view, chosen, pointed, onSelect, onHover, onSplit } = props;
  const { id, kind, name, number } = shape;
  const group = useRef<SVGGElement>(null);
  // Looked for once after each rendering.
  const drawn = useRef<readonly { element: SVGElement; draw: Draw; index: number }[]>(undefined);
  drawn.current = undefined;
  useDrawn(() => {
    const placed = places.value.get(id);
    if (!placed || !view.value) return;
    drawn.current ??= Array.from(group.current!.querySelectorAll<SVGElement>('[data-draw]'), (element) => ({
      element,
      draw: DRAW[element.dataset.draw!],
      index: Number(element.dataset.index ?? 0),
    }));
    for (const { element, draw, index } of drawn.current) draw(element, placed, view.value, index);
  });
  const here = chosen || pointed;
  const copper = colour(here ? 'copperHand' : 'copper');
  return (
    <g
      ref={group}
      role="button"
      tabIndex={0}
      aria-label={name}
      aria-pressed={chosen}
      onClick={(event) => {
        event.stopPropagation();
        onSelect(id);
      }}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        onSelect(id);
      }}
      onDoubleClick={(event) => {
        event.stopPropagation();
        onSplit(id, event.clientX, event.clientY);
      }}
      onPointerEnter={() => onHover(id)}
      onPointerLeave={() => onHover(undefined)}
    >
      {shape.copper === 'one' && <polygon data-draw="copper" fill={copper} />}
      {shape.copper === 'several' && <path data-draw="coppers" fill={copper} />}
      {chosen && shape.line && <Ends pins={places.peek().get(id)?.pins.length ?? 0} />}
      {chosen && shape.line && (
        <polyline
          data-draw="centre"
          fill="none"
          stroke={colour('raised')}
          strokeWidth={1.2}
          strokeDasharray="5 3 1 3"
        />
      )}
      {Array.from({ length: shape.bodies }, (_, i) => (
        <polygon
          key={i}
          data-draw="body"
          data-index={i}
          fill={colour('raised')}
          stroke={colour(here ? 'water' : 'quiet')}
          strokeWidth={chosen ? 2 : 1.2}
          strokeDasharray={parts.get(kind)?.impedance ? '3 3' : undefined}
        />
      ))}
      {kind === 'port' && (
        <g>
          <circle
            data-draw="port"
            r={here ? 7 : 5.5}
            fill={colour('raised')}
            stroke={colour('water')}
            strokeWidth={2}
          />
          <text
            data-draw="number"
            dy="0.35em"
            textAnchor="middle"
            fontSize={12}
            fontWeight={700}
            fill={colour('ink')}
          >
            {number}
          </text>
        </g>
      )}
      {shape.copper === 'none' && shape.bodies === 0 && kind !== 'port' && (
        <g data-draw="pin">
          <rect
            x={-7}
            y={-7}
            width={14}
            height={14}
            fill="transparent"
            stroke={here ? colour('water') : 'none'}
            strokeWidth={1.5}
            transform="rotate(45)"
          />
        </g>
      )}
    </g>
  );
});

/** The reference planes between which a line's length is measured. */
function Ends({ pins }: { pins: number }) {
  return (
    <g stroke={colour('water')} strokeWidth={1.2} pointerEvents="none">
      {Array.from({ length: pins }, (_, i) => (
        <line key={i} data-draw="plane" data-index={i} y1={-11} y2={11} />
      ))}
    </g>
  );
}

/** Where rings stay open: the distance between pins that are joined. */
export const Openings = memo(function Openings({ artwork, view: live }: LayerProps) {
  const closures = useLive(
    useDerived(() => {
      const { layout } = artwork.value;
      return layout.closures.map((c) => ({ ...c, at: layout.nodes.get(c.node)! }));
    }, [artwork]),
  );
  const view = useLive(live);
  return (
    view &&
    closures.length > 0 && (
      <g pointerEvents="none">
        {closures.map(({ at, ...c }) => {
          const [x, y] = [view.sx(at.x), view.sy(at.y)];
          return (
            <g key={`${c.node}-${c.second}`} stroke={colour('error')} fill="none" strokeWidth={2}>
              <line
                x1={x}
                y1={y}
                x2={x + c.dx * view.scale}
                y2={y - c.dy * view.scale}
                strokeDasharray="4 3"
              />
              <circle cx={x + c.dx * view.scale} cy={y - c.dy * view.scale} r={4} />
              <text x={x + 8} y={y - 8} stroke="none" fill={colour('error')} fontSize={11} fontWeight={600}>
                {formatQuantity(c.span ?? Math.hypot(c.dx, c.dy), 'length', { digits: 3 })}
                {c.span === undefined ? ' open' : ' to bridge'}
              </text>
            </g>
          );
        })}
      </g>
    )
  );
});
