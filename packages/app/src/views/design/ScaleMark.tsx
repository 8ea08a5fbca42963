import { formatQuantity } from '@ditch/core/units';
import { colour } from '../../theme';
import { roundLength } from './view';

/** A bar of a round length at the foot of a drawing to scale. @param scale pixels per metre */
export function ScaleMark({ scale, height }: { scale: number; height: number }) {
  const bar = roundLength(Math.max(1e-6, 90 / scale));
  return (
    <g
      transform={`translate(16 ${height - 14})`}
      fill={colour('quiet')}
      stroke={colour('quiet')}
      fontSize={11}
      pointerEvents="none"
    >
      <line x2={bar * scale} />
      <line y1={-3} y2={3} />
      <line x1={bar * scale} x2={bar * scale} y1={-3} y2={3} />
      <text x={bar * scale + 8} dy="0.32em" stroke="none">
        {formatQuantity(bar, 'length')}
      </text>
    </g>
  );
}
