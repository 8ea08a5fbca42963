import { memo } from 'react';
import { useDerived, useLive } from '../../live';
import { colour } from '../../theme';
import type { LayerProps } from './Placed';

/** Where the Smith charts look into the copper: a bar across the pin, and the way one looks. */
export const Planes = memo(function Planes({ artwork, view: live }: LayerProps) {
  const planes = useLive(
    useDerived(() => {
      const { resolved, layout } = artwork.value;
      return resolved.planes.flatMap(({ plot, look }) => {
        const pin = look && layout.pieces.find((p) => p.id === look.piece)?.pins[look.pin];
        return pin ? [{ plot, pin }] : [];
      });
    }, [artwork]),
  );
  const view = useLive(live);
  if (!view || planes.length === 0) return null;
  return (
    <g pointerEvents="none" stroke={colour('water')} fill="none" strokeWidth={2.2}>
      {planes.map(({ plot, pin }) => {
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
});
