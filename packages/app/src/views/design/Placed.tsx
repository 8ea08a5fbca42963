import { memo } from 'react';
import type { Layout, PlacedPiece } from '@ditch/core/artwork';
import { parts } from '@ditch/core/parts';
import { formatQuantity } from '@ditch/core/units';
import { colour } from '../../theme';
import { pathOf, pointsOf, type View } from './view';

interface PlacedProps {
  readonly placed: PlacedPiece;
  readonly name: string;
  readonly number: string | undefined;
  readonly view: View;
  readonly chosen: boolean;
  readonly pointed: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
  readonly onSplit: (placed: PlacedPiece, clientX: number, clientY: number) => void;
}

/** One piece: its copper, its body, its port. */
export const Placed = memo(function Placed({
  placed,
  name,
  number,
  view,
  chosen,
  pointed,
  onSelect,
  onHover,
  onSplit,
}: PlacedProps) {
  const here = chosen || pointed;
  const pin = placed.pins[0];
  const copper = colour(here ? 'copperHand' : 'copper');
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={name}
      aria-pressed={chosen}
      onClick={(event) => {
        event.stopPropagation();
        onSelect(placed.id);
      }}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        onSelect(placed.id);
      }}
      onDoubleClick={(event) => {
        event.stopPropagation();
        onSplit(placed, event.clientX, event.clientY);
      }}
      onPointerEnter={() => onHover(placed.id)}
      onPointerLeave={() => onHover(undefined)}
    >
      <path d={pathOf(view, placed.copper)} fill={copper} />
      {chosen && placed.centre.length > 1 && <Planes placed={placed} view={view} />}
      {chosen && placed.centre.length > 1 && (
        <polyline
          points={pointsOf(view, placed.centre)}
          fill="none"
          stroke={colour('raised')}
          strokeWidth={1.2}
          strokeDasharray="5 3 1 3"
        />
      )}
      {placed.body.map((polygon, i) => (
        <polygon
          key={`b${i}`}
          points={pointsOf(view, polygon)}
          fill={colour('raised')}
          stroke={colour(here ? 'water' : 'quiet')}
          strokeWidth={chosen ? 2 : 1.2}
          strokeDasharray={parts.get(placed.kind)?.impedance ? '3 3' : undefined}
        />
      ))}
      {placed.kind === 'port' && (
        <g transform={`translate(${view.sx(pin.x)} ${view.sy(pin.y)})`}>
          <circle r={here ? 7 : 5.5} fill={colour('raised')} stroke={colour('water')} strokeWidth={2} />
          <text
            x={-15 * Math.cos(pin.angle)}
            y={15 * Math.sin(pin.angle)}
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
      {placed.copper.length === 0 && placed.body.length === 0 && placed.kind !== 'port' && (
        <rect
          x={view.sx(pin.x) - 7}
          y={view.sy(pin.y) - 7}
          width={14}
          height={14}
          fill="transparent"
          stroke={here ? colour('water') : 'none'}
          strokeWidth={1.5}
          transform={`rotate(45 ${view.sx(pin.x)} ${view.sy(pin.y)})`}
        />
      )}
    </g>
  );
});

/** The reference planes between which a line's length is measured. */
function Planes({ placed, view }: { placed: PlacedPiece; view: View }) {
  return (
    <g stroke={colour('water')} strokeWidth={1.2} pointerEvents="none">
      {placed.pins.map((pin, i) => {
        const [x, y] = [view.sx(pin.x), view.sy(pin.y)];
        const [nx, ny] = [Math.sin(pin.angle) * 11, Math.cos(pin.angle) * 11];
        return <line key={i} x1={x - nx} y1={y - ny} x2={x + nx} y2={y + ny} />;
      })}
    </g>
  );
}

/** Where rings stay open: the distance between pins that are joined. */
export function Openings({ layout, view }: { layout: Layout; view: View }) {
  return (
    <g pointerEvents="none">
      {layout.closures.map((c) => {
        const at = layout.nodes.get(c.node)!;
        const [x, y] = [view.sx(at.x), view.sy(at.y)];
        return (
          <g key={`${c.node}-${c.second}`} stroke={colour('error')} fill="none" strokeWidth={2}>
            <line x1={x} y1={y} x2={x + c.dx * view.scale} y2={y - c.dy * view.scale} strokeDasharray="4 3" />
            <circle cx={x + c.dx * view.scale} cy={y - c.dy * view.scale} r={4} />
            <text x={x + 8} y={y - 8} stroke="none" fill={colour('error')} fontSize={11} fontWeight={600}>
              {formatQuantity(c.span ?? Math.hypot(c.dx, c.dy), 'length', { digits: 3 })}
              {c.span === undefined ? ' open' : ' to bridge'}
            </text>
          </g>
        );
      })}
    </g>
  );
}
