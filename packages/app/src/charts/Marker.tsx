import { useRef, type PointerEvent as ReactPointerEvent } from 'react';
import { colour } from '../theme';
import { nearest } from './domain';
import type { ChartMarker, MarkerActions } from './types';

interface MarkerProps {
  readonly marker: ChartMarker;
  /** Row of its label: 0 above the plot, from 1 on inside it. */
  readonly row: number;
  readonly sx: { (x: number): number; invert(p: number): number };
  readonly width: number;
  readonly height: number;
  /** Where it may stand, by steps. */
  readonly samples: () => ArrayLike<number> | undefined;
  readonly format: (x: number) => string;
  readonly actions: MarkerActions;
  /** Height of the strip above the plot, which belongs to the mark's grip. */
  readonly top: number;
  readonly toX: (event: ReactPointerEvent) => number;
}

/** A vertical mark with its label; one at a plain value is dragged, stepped by the arrow keys and deleted. */
export function Marker({ marker, row, sx, width, height, samples, format, actions, top, toX }: MarkerProps) {
  const at = sx(marker.x);
  const dragging = useRef(false);
  if (!(at >= -1 && at <= width + 1)) return null;
  const canMove = !marker.fixed && actions.onMarkerMove !== undefined;
  const move = (x: number) => actions.onMarkerMove?.(marker.id, x);
  const stepTo = (steps: number) => {
    const xs = samples();
    if (!xs || xs.length < 2) return;
    move(xs[Math.min(xs.length - 1, Math.max(0, nearest(xs, marker.x) + steps))]);
  };
  return (
    <g
      role={canMove ? 'slider' : 'img'}
      aria-label={`marker ${marker.label}`}
      aria-valuetext={canMove ? format(marker.x) : undefined}
      aria-valuenow={canMove ? marker.x : undefined}
      tabIndex={canMove ? 0 : undefined}
      style={{ cursor: canMove ? 'ew-resize' : undefined }}
      onPointerDown={(event) => {
        if (!canMove || event.button !== 0) return;
        event.stopPropagation();
        dragging.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (!dragging.current) return;
        event.stopPropagation();
        move(sx.invert(Math.min(width, Math.max(0, toX(event)))));
      }}
      onPointerUp={() => {
        dragging.current = false;
        actions.onMarkerEnd?.();
      }}
      onKeyDown={(event) => {
        if (!canMove) return;
        const size = event.shiftKey ? 10 : 1;
        if (event.key === 'ArrowRight' || event.key === 'ArrowUp') stepTo(size);
        else if (event.key === 'ArrowLeft' || event.key === 'ArrowDown') stepTo(-size);
        else if (event.key === 'Delete' || event.key === 'Backspace') actions.onMarkerRemove?.(marker.id);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {canMove && <rect x={at - 6} y={-top} width={12} height={height + top} fill="transparent" />}
      <line x1={at} x2={at} y1={-4} y2={height} stroke={colour('ink')} strokeWidth={1.1} />
      <text
        x={row === 0 ? at : at + 4}
        y={row === 0 ? -7 : 12 + 13 * (row - 1)}
        textAnchor={at > width - 40 ? 'end' : at < 40 || row > 0 ? 'start' : 'middle'}
        fontSize={11}
        fontWeight={600}
        style={{ fill: colour('ink') }}
      >
        {marker.label}
      </text>
    </g>
  );
}
