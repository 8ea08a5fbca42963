import type { RefObject } from 'react';
import type { FamilyValues } from '@ditch/core/studies';
import { formatQuantity } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { colour } from '../../theme';
import { Canvas } from './layout';

const MARGIN = { left: 84, right: 16, top: 8, bottom: 34 };
/** Least width of a cell in which its value has room, px. */
const ROOM = { width: 54, height: 16 };

/** One number over two values: a cell each, the stronger the higher. The first value runs to the right. */
export function FamilyMap({
  svg,
  axes: [first, second],
  values,
  format,
  pointed,
  onPoint,
}: {
  svg: RefObject<SVGSVGElement | null>;
  axes: readonly [FamilyValues, FamilyValues];
  /** In the order of the members: the second value fastest. */
  values: readonly number[];
  format: (value: number) => string;
  pointed: number | undefined;
  onPoint: (member: number | undefined) => void;
}) {
  const [box, size] = useSize<HTMLDivElement>();
  const [columns, rows] = [first.values.length, second.values.length];
  const width = Math.max(10, size.width - MARGIN.left - MARGIN.right);
  const height = Math.max(10, size.height - MARGIN.top - MARGIN.bottom);
  const [w, h] = [width / columns, height / rows];
  const finite = values.filter(Number.isFinite);
  const [low, high] = [Math.min(...finite), Math.max(...finite)];
  const strength = (v: number) => (high > low ? 0.05 + 0.55 * ((v - low) / (high - low)) : 0.3);
  const told = (axis: FamilyValues, v: number) => formatQuantity(v, axis.kind, { digits: 4 });
  const [everyX, everyY] = [
    Math.ceil(columns / Math.max(1, width / 70)),
    Math.ceil(rows / Math.max(1, height / 18)),
  ];
  const hasRoom = w >= ROOM.width && h >= ROOM.height;
  return (
    <Canvas ref={box}>
      {size.width > 0 && (
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          role="img"
          aria-label={`map over ${first.label} and ${second.label}: from ${format(low)} to ${format(high)}`}
          onPointerLeave={() => onPoint(undefined)}
        >
          <g transform={`translate(${MARGIN.left} ${MARGIN.top})`}>
            {values.map((v, m) => {
              const [i, j] = [Math.floor(m / rows), m % rows];
              const [x, y] = [i * w, height - (j + 1) * h];
              return (
                <g key={m} className="cell" onPointerEnter={() => onPoint(m)}>
                  <title>{`${told(first, first.values[i])}, ${told(second, second.values[j])}: ${format(v)}`}</title>
                  <rect
                    x={x}
                    y={y}
                    width={w}
                    height={h}
                    fill={Number.isFinite(v) ? colour('water') : colour('page')}
                    fillOpacity={Number.isFinite(v) ? strength(v) : 1}
                    stroke={m === pointed ? colour('ink') : colour('raised')}
                    strokeWidth={m === pointed ? 2 : 1}
                  />
                  {hasRoom && (
                    <text x={x + w / 2} y={y + h / 2 + 4} textAnchor="middle" style={{ fill: colour('ink') }}>
                      {format(v)}
                    </text>
                  )}
                </g>
              );
            })}
            {first.values.map((v, i) =>
              i % everyX === 0 ? (
                <text key={v} x={(i + 0.5) * w} y={height + 14} textAnchor="middle">
                  {told(first, v)}
                </text>
              ) : null,
            )}
            {second.values.map((v, j) =>
              j % everyY === 0 ? (
                <text key={v} x={-6} y={height - (j + 0.5) * h + 4} textAnchor="end">
                  {told(second, v)}
                </text>
              ) : null,
            )}
            <text x={width / 2} y={height + 29} textAnchor="middle">
              {first.label} to the right, {second.label} upwards
            </text>
          </g>
        </svg>
      )}
    </Canvas>
  );
}
