import type { Layout } from '@ditch/core/artwork';
import { formatQuantity } from '@ditch/core/units';
import { colour } from '../../theme';
import { fitView, pathOf, pointsOf } from '../design/view';

/** Of the whole drawing, px. */
const WIDE = 650;
const TALL = 330;
const MARGIN = 44;

/** The middle of a piece: of its centre line, or of its copper. */
function middleOf({ centre, copper, pins }: Layout['pieces'][number]): { x: number; y: number } {
  const points =
    centre.length > 1
      ? [centre[Math.floor((centre.length - 1) / 2)], centre[Math.ceil((centre.length - 1) / 2)]]
      : copper.length > 0
        ? copper.flat()
        : pins;
  const n = points.length || 1;
  return { x: points.reduce((s, p) => s + p.x, 0) / n, y: points.reduce((s, p) => s + p.y, 0) / n };
}

/** Copper to scale with its size, each piece by its number in the ledger. */
export function Drawing({ layout, order }: { layout: Layout; order: readonly string[] }) {
  const { box, pieces } = layout;
  const tall = Math.min(TALL, Math.max(130, (WIDE * box.height) / Math.max(box.width, 1e-9)) + 2 * MARGIN);
  const size = { width: WIDE, height: tall };
  const view = fitView(layout, size, MARGIN);
  if (!view) return <p>There is no copper.</p>;
  const [left, right] = [view.sx(box.x), view.sx(box.x + box.width)];
  const [top, low] = [view.sy(box.y + box.height), view.sy(box.y)];
  const length = (v: number) => formatQuantity(v, 'length', { digits: 4 });
  const bar = { stroke: colour('quiet'), strokeWidth: 1 };
  return (
    <svg
      width={size.width}
      height={size.height}
      role="img"
      aria-label="copper to scale, with its size"
      style={{ maxWidth: '100%', height: 'auto' }}
      viewBox={`0 0 ${size.width} ${size.height}`}
    >
      <rect width={size.width} height={size.height} fill={colour('laminate')} />
      <path
        className="copper"
        d={pathOf(
          view,
          pieces.flatMap((p) => p.copper),
        )}
        fill={colour('copper')}
      />
      {pieces.flatMap((p) =>
        p.body.map((polygon, i) => (
          <polygon
            key={`${p.id} ${i}`}
            points={pointsOf(view, polygon)}
            fill={colour('raised')}
            stroke={colour('quiet')}
          />
        )),
      )}
      <g fontSize={11} fill={colour('quiet')} textAnchor="middle">
        <path d={`M${left} ${low + 16}H${right}M${left} ${low + 12}v8M${right} ${low + 12}v8`} {...bar} />
        <text x={(left + right) / 2} y={low + 30}>
          {length(box.width)}
        </text>
        <path d={`M${left - 16} ${top}V${low}M${left - 20} ${top}h8M${left - 20} ${low}h8`} {...bar} />
        <text transform={`translate(${left - 22} ${(top + low) / 2}) rotate(-90)`}>{length(box.height)}</text>
      </g>
      <g
        fontSize={9}
        fontWeight={600}
        textAnchor="middle"
        fill={colour('ink')}
        stroke={colour('raised')}
        strokeWidth={2.5}
        paintOrder="stroke"
      >
        {pieces.map((p) => {
          const at = middleOf(p);
          return (
            <text key={p.id} x={view.sx(at.x)} y={view.sy(at.y) + 3}>
              {order.indexOf(p.id) + 1}
            </text>
          );
        })}
      </g>
    </svg>
  );
}
