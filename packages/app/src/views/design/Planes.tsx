import type { Layout } from '@ditch/core/artwork';
import type { PlotPlane } from '@ditch/core/network';
import { colour } from '../../theme';
import type { View } from './view';

/** Where the Smith charts look into the copper: a bar across the pin, and the way one looks. */
export function Planes({
  planes,
  layout,
  view,
}: {
  planes: readonly PlotPlane[];
  layout: Layout;
  view: View;
}) {
  return (
    <g pointerEvents="none" stroke={colour('water')} fill="none" strokeWidth={2.2}>
      {planes.map(({ plot, look }) => {
        const pin = look && layout.pieces.find((p) => p.id === look.piece)?.pins[look.pin];
        if (!pin) return null;
        // A pin's angle looks out of its piece; the chart looks in.
        const turn = 180 - (pin.angle * 180) / Math.PI;
        return (
          <g
            key={plot}
            transform={`translate(${view.sx(pin.x)} ${view.sy(pin.y)}) rotate(${turn})`}
            role="img"
            aria-label="plane of the Smith chart"
          >
            <path d="M0 -26V26" strokeDasharray="4 3" />
            <path d="M0 -26H13m-5 -4l5 4l-5 4" strokeLinejoin="round" />
          </g>
        );
      })}
    </g>
  );
}
