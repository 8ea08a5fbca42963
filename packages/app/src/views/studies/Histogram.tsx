import { bin, ticks } from 'd3-array';
import type { RefObject } from 'react';
import { formatNumber } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { colour } from '../../theme';
import { Canvas } from './layout';

const MARGIN = { left: 48, right: 20, top: 10, bottom: 30 };
const BINS = 36;

/** How often values occur, with the limit that they are judged by and the value that was meant. */
export function Histogram({
  svg,
  label,
  values,
  unit,
  limit,
  meant,
}: {
  svg: RefObject<SVGSVGElement | null>;
  label: string;
  values: readonly number[];
  unit: string;
  /** Values above are failures. */
  limit?: number;
  meant?: number;
}) {
  const [box, size] = useSize<HTMLDivElement>();
  const width = Math.max(10, size.width - MARGIN.left - MARGIN.right);
  const height = Math.max(10, size.height - MARGIN.top - MARGIN.bottom);
  const all = values.filter(Number.isFinite);
  const ends = [...all, ...(meant !== undefined && Number.isFinite(meant) ? [meant] : [])];
  const [least, most] = [Math.min(...ends), Math.max(...ends)];
  const pad = most > least ? 0.02 * (most - least) : Math.max(0.5, Math.abs(most) * 0.1);
  const [low, high] = [least - pad, most + pad];
  const edges = Array.from({ length: BINS - 1 }, (_, i) => low + ((high - low) * (i + 1)) / BINS);
  const bins = bin().domain([low, high]).thresholds(edges)(all);
  // With room for the names of the lines.
  const top = 1.15 * Math.max(1, ...bins.map((b) => b.length));
  const x = (v: number) => ((v - low) / (high - low)) * width;
  const y = (n: number) => height - (n / top) * height;
  /** @param row of its name: both lines may stand close to one another */
  const line = (v: number, name: string, tone: 'error' | 'ink', row: number) => (
    <g>
      <line x1={x(v)} x2={x(v)} y1={0} y2={height} stroke={colour(tone)} strokeWidth={1.5} />
      <text
        x={x(v) + (x(v) > 0.8 * width ? -5 : 5)}
        y={10 + 14 * row}
        textAnchor={x(v) > 0.8 * width ? 'end' : 'start'}
        style={{ fill: colour(tone), fontWeight: 600 }}
      >
        {name}
      </text>
    </g>
  );
  return (
    <Canvas ref={box}>
      {size.width > 0 && all.length > 0 && (
        <svg ref={svg} width={size.width} height={size.height} role="img" aria-label={label}>
          <g transform={`translate(${MARGIN.left} ${MARGIN.top})`}>
            {ticks(0, top, 4).map((n) => (
              <g key={n}>
                <line x2={width} y1={y(n)} y2={y(n)} stroke={colour('rule')} />
                <text x={-6} y={y(n) + 4} textAnchor="end">
                  {n}
                </text>
              </g>
            ))}
            {bins.map((b) => (
              <rect
                key={b.x0}
                className="bin"
                x={x(b.x0!) + 0.5}
                width={Math.max(0.5, x(b.x1!) - x(b.x0!) - 1)}
                y={y(b.length)}
                height={height - y(b.length)}
                fill={limit !== undefined && b.x0! >= limit ? colour('trace2') : colour('water')}
                fillOpacity={0.75}
              >
                <title>{`${formatNumber(b.x0!, 3)} to ${formatNumber(b.x1!, 3)} ${unit}: ${b.length}`}</title>
              </rect>
            ))}
            {limit !== undefined && limit > low && limit < high && line(limit, 'limits', 'error', 0)}
            {meant !== undefined && Number.isFinite(meant) && line(meant, 'as meant', 'ink', 1)}
            {ticks(low, high, 8).map((v) => (
              <text key={v} x={x(v)} y={height + 15} textAnchor="middle">
                {formatNumber(v, 4)}
              </text>
            ))}
            <text x={width} y={height + 28} textAnchor="end">
              {unit}
            </text>
          </g>
        </svg>
      )}
    </Canvas>
  );
}
