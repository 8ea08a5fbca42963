import { memo } from 'react';
import { formatNumber } from '@ditch/core/units';
import { colour } from '../theme';
import { ticksOf, type Axis } from './axis';
import type { Domain } from './domain';
import { pixelsOf } from './path';

/** Room to the left of a plot for the numbers of its ruling, pixels. */
export const RULED_LEFT = 46;

/** Values at which an axis is ruled, in SI. */
function rulingOf({ scale = 1, log }: Axis, domain: Domain, count: number): number[] {
  return ticksOf(log, [domain[0] * scale, domain[1] * scale], count).map((t) => t / scale);
}

interface GridProps {
  readonly x: Axis;
  readonly y: Axis;
  readonly view: { readonly x: Domain; readonly y: Domain };
  readonly width: number;
  readonly height: number;
  /** Nothing says yet what lies along the horizontal axis. */
  readonly bare: boolean;
}

/** The ruling with its numbers; it stands still while the curves move. */
export const Grid = memo(function Grid({ x: xAxis, y: yAxis, view, width, height, bare }: GridProps) {
  const xFactor = xAxis.scale ?? 1;
  const yFactor = yAxis.scale ?? 1;
  const sx = pixelsOf(xAxis.log, view.x, 0, width);
  const sy = pixelsOf(yAxis.log, view.y, height, 0);
  const xTicks = bare ? [] : rulingOf(xAxis, view.x, Math.max(2, Math.round(width / 80)));
  const yTicks = rulingOf(yAxis, view.y, Math.max(2, Math.round(height / 44)));
  return (
    <>
      {xTicks.map((t) => (
        <g key={t}>
          <line x1={sx(t)} x2={sx(t)} y2={height} stroke={colour('rule')} strokeWidth={1} />
          <text x={sx(t)} y={height + 14} textAnchor="middle" fontSize={11} fill={colour('quiet')}>
            {formatNumber(t * xFactor, 6)}
          </text>
        </g>
      ))}
      {yTicks.map((t) => (
        <g key={t}>
          <line x2={width} y1={sy(t)} y2={sy(t)} stroke={colour('rule')} strokeWidth={1} />
          <text x={-7} y={sy(t)} dy="0.32em" textAnchor="end" fontSize={11} fill={colour('quiet')}>
            {formatNumber(t * yFactor, 6)}
          </text>
        </g>
      ))}
      <text x={width} y={height + 27} textAnchor="end" fontSize={11} fill={colour('quiet')}>
        {xAxis.label}
      </text>
      <text x={-RULED_LEFT + 8} y={-7} fontSize={11} fill={colour('quiet')}>
        {yAxis.label}
      </text>
    </>
  );
});
