import { memo, useMemo } from 'react';
import styled from 'styled-components';
import { layOut } from '@ditch/core/artwork';
import type { ResolvedDesign } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { colour } from '../../theme';

const Box = styled.div`
  position: relative;
  height: 100%;
  min-height: 0;
  overflow: hidden;
  svg {
    position: absolute;
    inset: 0;
    display: block;
  }
  g[role='button'] {
    cursor: pointer;
    outline: none;
  }
  g[role='button']:focus-visible polygon {
    stroke: ${colour('water')};
    stroke-width: 2.5px;
  }
`;
const Empty = styled.p`
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  color: ${colour('quiet')};
`;

interface CopperProps {
  readonly resolved: ResolvedDesign;
  readonly selected?: string;
  readonly hovered?: string;
  readonly onSelect?: (id: string | undefined) => void;
  readonly onHover?: (id: string | undefined) => void;
  /** A small picture without labels and pointing. */
  readonly bare?: boolean;
  /** The picture belongs to earlier values. */
  readonly dim?: boolean;
}

/** A length with one leading digit of 1, 2 or 5 that is at most `most`. */
function roundLength(most: number): number {
  const decade = Math.pow(10, Math.floor(Math.log10(most)));
  return (most >= 5 * decade ? 5 : most >= 2 * decade ? 2 : 1) * decade;
}

/** The artwork of a design, true to scale on its board. */
export const Copper = memo(function Copper({
  resolved,
  selected,
  hovered,
  onSelect,
  onHover,
  bare,
  dim,
}: CopperProps) {
  const [box, size] = useSize<HTMLDivElement>();
  const layout = useMemo(() => layOut(resolved), [resolved]);
  const { box: extent } = layout;
  const empty = layout.pieces.length === 0 || !(extent.width > 0);

  const margin = bare ? 6 : 64;
  const scale = empty
    ? 1
    : Math.max(
        1e-9,
        Math.min(
          (size.width - 2 * margin - 20) / extent.width,
          (size.height - 2 * (bare ? 6 : 58)) / Math.max(extent.height, extent.width / 40),
        ),
      );
  const ox = size.width / 2 - (extent.x + extent.width / 2) * scale;
  const oy = size.height / 2 - (extent.y + extent.height / 2) * scale;
  const sx = (x: number) => ox + x * scale;
  const sy = (y: number) => oy + y * scale;
  const points = (polygon: readonly { x: number; y: number }[]) =>
    polygon.map((p) => `${sx(p.x).toFixed(2)},${sy(p.y).toFixed(2)}`).join(' ');
  const bar = roundLength(Math.max(1e-6, 90 / scale));
  const pieceOf = (id: string) => resolved.pieces.find((p) => p.id === id)!;

  return (
    <Box ref={box}>
      {size.width > 0 && !empty && (
        <svg
          width={size.width}
          height={size.height}
          role={bare ? 'img' : 'group'}
          aria-label="copper, to scale"
          opacity={dim ? 0.4 : 1}
        >
          <rect
            x={bare ? 0 : 16}
            y={bare ? 0 : 12}
            width={size.width - (bare ? 0 : 32)}
            height={size.height - (bare ? 0 : 24)}
            fill={colour('laminate')}
            stroke={colour('rule')}
            onClick={() => onSelect?.(undefined)}
          />
          {layout.pieces.map((placed) => {
            const piece = pieceOf(placed.id);
            const isHere = placed.id === selected || placed.id === hovered;
            if (placed.kind === 'port') return null;
            const shapes = (
              <>
                {placed.copper.map((polygon, i) => (
                  <polygon
                    key={i}
                    points={points(polygon)}
                    fill={colour(isHere ? 'copperHand' : 'copper')}
                    stroke={placed.id === selected ? colour('water') : 'none'}
                    strokeWidth={2}
                  />
                ))}
                {placed.body.map((polygon, i) => (
                  <polygon
                    key={`b${i}`}
                    points={points(polygon)}
                    fill={colour('raised')}
                    stroke={colour(isHere ? 'water' : 'quiet')}
                    strokeWidth={placed.id === selected ? 2 : 1.2}
                    strokeDasharray={placed.kind === 'load' ? '3 3' : undefined}
                  />
                ))}
              </>
            );
            if (bare) return <g key={placed.id}>{shapes}</g>;
            return (
              <g
                key={placed.id}
                role="button"
                tabIndex={0}
                aria-label={piece.name}
                aria-pressed={placed.id === selected}
                onClick={() => onSelect?.(placed.id)}
                onKeyDown={(event) => {
                  if (event.key !== 'Enter' && event.key !== ' ') return;
                  event.preventDefault();
                  onSelect?.(placed.id);
                }}
                onPointerEnter={() => onHover?.(placed.id)}
                onPointerLeave={() => onHover?.(undefined)}
              >
                {shapes}
              </g>
            );
          })}
          {!bare && <Labels layout={layout} resolved={resolved} sx={sx} sy={sy} scale={scale} />}
          {layout.pieces
            .filter((p) => p.kind === 'port')
            .map((p) => (
              <g key={p.id} transform={`translate(${sx(p.pins[0].x)} ${sy(p.pins[0].y)})`}>
                <circle
                  r={bare ? 2.5 : 5.5}
                  fill={colour('raised')}
                  stroke={colour('water')}
                  strokeWidth={bare ? 1.2 : 2}
                />
                {!bare && (
                  <text
                    x={-12}
                    dy="0.32em"
                    textAnchor="end"
                    fontSize={12}
                    fontWeight={700}
                    fill={colour('ink')}
                  >
                    {pieceOf(p.id).settings.number}
                  </text>
                )}
              </g>
            ))}
          {!bare && (
            <g transform={`translate(32 ${size.height - 26})`} fill={colour('quiet')} fontSize={11}>
              <line x2={bar * scale} stroke={colour('quiet')} />
              <line y1={-3} y2={3} stroke={colour('quiet')} />
              <line x1={bar * scale} x2={bar * scale} y1={-3} y2={3} stroke={colour('quiet')} />
              <text x={bar * scale + 8} dy="0.32em">
                {formatQuantity(bar, 'length')}
              </text>
            </g>
          )}
        </svg>
      )}
      {empty && !bare && <Empty>Nothing to draw yet: the ledger says what is missing.</Empty>}
    </Box>
  );
});

interface LabelProps {
  readonly layout: ReturnType<typeof layOut>;
  readonly resolved: ResolvedDesign;
  readonly sx: (x: number) => number;
  readonly sy: (y: number) => number;
  readonly scale: number;
}

/** Names above the lines and their dimensions below, where there is room. */
function Labels({ layout, resolved, sx, sy, scale }: LabelProps) {
  const tallest = Math.max(0, ...resolved.pieces.map((p) => p.values?.width?.re ?? 0)) * scale;
  return (
    <g pointerEvents="none" fontSize={11}>
      {layout.pieces.map((placed) => {
        const piece = resolved.pieces.find((p) => p.id === placed.id)!;
        const values = piece.values;
        if (!values) return null;
        if (piece.kind === 'load')
          return (
            <text
              key={placed.id}
              x={sx(placed.pins[0].x) + 6}
              y={sy(placed.pins[0].y) - tallest / 2 - 12}
              fill={colour('quiet')}
            >
              {piece.name}
            </text>
          );
        if (!values.width || !values.length || placed.pins.length < 2) return null;
        const [a, b] = placed.pins;
        const x0 = sx(a.x);
        const x1 = sx(b.x);
        const y = sy((a.y + b.y) / 2);
        if (Math.abs(x1 - x0) < 46) return null;
        const below = y + tallest / 2 + 16;
        const roomy = Math.abs(x1 - x0) > 100;
        return (
          <g key={placed.id} textAnchor="middle">
            <text x={(x0 + x1) / 2} y={y - tallest / 2 - 12} fill={colour('quiet')}>
              {roomy ? `${piece.name} \u00B7 ` : ''}
              {formatQuantity(values.z0.re, 'impedance')}
            </text>
            <g stroke={colour('quiet')} strokeWidth={1}>
              <line x1={x0 + 1} x2={x1 - 1} y1={below} y2={below} />
              <line x1={x0 + 1} x2={x0 + 1} y1={below - 4} y2={below + 4} />
              <line x1={x1 - 1} x2={x1 - 1} y1={below - 4} y2={below + 4} />
            </g>
            <text x={(x0 + x1) / 2} y={below + 15} fill={colour('ink')}>
              {formatQuantity(values.length.re, 'length')}
              {roomy && <tspan fill={colour('quiet')}> × {formatQuantity(values.width.re, 'length')}</tspan>}
            </text>
          </g>
        );
      })}
    </g>
  );
}
