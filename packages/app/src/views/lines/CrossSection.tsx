import styled from 'styled-components';
import { media, type MediumId, type Substrate } from '@ditch/core/lines';
import { formatQuantity } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { colour } from '../../theme';

const Box = styled.div`
  position: relative;
  height: 100%;
  svg {
    position: absolute;
    inset: 0;
  }
  text {
    font-size: 11px;
    fill: ${colour('quiet')};
  }
`;

/** The line's cross-section, true to scale: dielectric, metal, ground and lid with their dimensions. */
export function CrossSection({
  medium,
  substrate,
  width,
}: {
  medium: MediumId;
  substrate: Substrate;
  width: number | undefined;
}) {
  const [box, size] = useSize<HTMLDivElement>();
  const { height: h, thickness: t, cover } = substrate;
  const w = width ?? 2 * h;
  // A second ground stands where a lid would.
  const between = media[medium].grounds === 2;
  const hasLid = !between && cover !== Infinity;
  // A lid far away is drawn where it still fits, with a break in the air.
  const lidDrawn = Math.min(cover, 3 * h + t);
  const above = between ? 0 : hasLid ? lidDrawn : Math.max(0.7 * h, 3 * t);
  const wide = Math.max(2.2 * w, w + 3 * h);
  const pad = { x: 92, y: 30 };
  const scale = Math.min((size.width - 2 * pad.x) / wide, (size.height - 2 * pad.y) / (h + above));
  const cx = size.width / 2;
  const ground = size.height / 2 + ((h + above) * scale) / 2;
  const top = ground - h * scale;
  const left = cx - (wide * scale) / 2;
  const right = cx + (wide * scale) / 2;
  const stripBottom = between ? ground - ((h - t) / 2) * scale : top;
  const metal = Math.max(1.5, t * scale);
  const plane = 5;
  const lidY = ground - (h + lidDrawn) * scale;

  return (
    <Box ref={box}>
      {size.width > 0 && size.height > 60 && (
        <svg
          width={size.width}
          height={size.height}
          role="img"
          aria-label={`cross-section to scale: ${medium}, width ${formatQuantity(w, 'length')}, height ${formatQuantity(h, 'length')}`}
        >
          <rect
            x={left}
            y={top}
            width={right - left}
            height={h * scale}
            fill={colour('laminate')}
            stroke={colour('rule')}
          />
          <rect x={left} y={ground} width={right - left} height={plane} fill={colour('copper')} />
          {between && (
            <rect x={left} y={top - plane} width={right - left} height={plane} fill={colour('copper')} />
          )}
          {hasLid && (
            <rect x={left} y={lidY - plane} width={right - left} height={plane} fill={colour('ruleStrong')} />
          )}
          {width !== undefined && (
            <rect
              x={cx - (w * scale) / 2}
              y={stripBottom - metal}
              width={Math.max(1, w * scale)}
              height={metal}
              fill={colour('copperHand')}
            />
          )}
          <g stroke={colour('quiet')}>
            <line x1={left - 12} x2={left - 12} y1={top} y2={ground} />
            <line x1={left - 16} x2={left - 8} y1={top} y2={top} />
            <line x1={left - 16} x2={left - 8} y1={ground} y2={ground} />
          </g>
          <text x={left - 20} y={(top + ground) / 2} textAnchor="end" dy="0.32em">
            {formatQuantity(h, 'length', { digits: 3 })}
          </text>
          <text x={right - 8} y={ground - 8} textAnchor="end">
            εr {Number(substrate.er.toPrecision(4))}
          </text>
          {width !== undefined && (
            <>
              <g stroke={colour('ink')}>
                <line
                  x1={cx - (w * scale) / 2}
                  x2={cx + (w * scale) / 2}
                  y1={stripBottom - metal - 9}
                  y2={stripBottom - metal - 9}
                />
                <line
                  x1={cx - (w * scale) / 2}
                  x2={cx - (w * scale) / 2}
                  y1={stripBottom - metal - 13}
                  y2={stripBottom - metal - 5}
                />
                <line
                  x1={cx + (w * scale) / 2}
                  x2={cx + (w * scale) / 2}
                  y1={stripBottom - metal - 13}
                  y2={stripBottom - metal - 5}
                />
              </g>
              <text
                x={cx}
                y={stripBottom - metal - 16}
                textAnchor="middle"
                style={{ fill: colour('ink'), fontWeight: 600 }}
              >
                {formatQuantity(w, 'length')}
              </text>
              <text x={cx + (w * scale) / 2 + 8} y={stripBottom - metal / 2} dy="0.32em">
                {t > 0 ? formatQuantity(t, 'length', { digits: 3 }) : 'vanishing'}
              </text>
            </>
          )}
          {hasLid && (
            <text x={right + 8} y={(top + lidY) / 2} dy="0.32em">
              {formatQuantity(cover, 'length', { digits: 3 })}
              {cover > lidDrawn ? ' (cut)' : ''}
            </text>
          )}
        </svg>
      )}
    </Box>
  );
}
