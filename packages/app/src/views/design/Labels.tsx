import type { Layout } from '@ditch/core/artwork';
import type { ResolvedDesign } from '@ditch/core/network';
import { colour } from '../../theme';
import { labelsOf, LINE_HEIGHT } from './labelling';
import type { View } from './view';

interface LabelProps {
  readonly layout: Layout;
  readonly resolved: ResolvedDesign;
  readonly view: View;
  /** Piece whose label is written in full. */
  readonly chosen: string | undefined;
}

/** What stands beside the copper. */
export function Labels({ layout, resolved, view, chosen }: LabelProps) {
  return (
    <g pointerEvents="none" fontSize={11}>
      {labelsOf(layout, resolved, view, chosen).map(({ id, lines, full, anchor, x, top }) => (
        <text
          key={id}
          textAnchor={anchor}
          fill={colour(full ? 'ink' : 'quiet')}
          stroke={colour('laminate')}
          strokeWidth={3}
          paintOrder="stroke"
          fontWeight={full ? 600 : 400}
        >
          {lines.map((line, i) => (
            <tspan key={line} x={x} y={top + LINE_HEIGHT * i}>
              {line}
            </tspan>
          ))}
        </text>
      ))}
    </g>
  );
}
