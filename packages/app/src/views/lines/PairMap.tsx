import { useMemo, useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import { media, readPair, type SectionAnalysis } from '@ditch/core/lines';
import type { SheetBoard } from '@ditch/core/network';
import { formatNumber, formatQuantity, lengthUnit } from '@ditch/core/units';
import { scaleOf, type Axis } from '../../charts/axis';
import { ChartFrame } from '../../charts/ChartFrame';
import { Grid, RULED_LEFT } from '../../charts/Grid';
import { contourOf, gridPath, type GridPoint } from '../../charts/contour';
import { useSize } from '../../charts/size';
import { useJob } from '../../queries';
import { endMerge } from '../../store/session';
import { colour } from '../../theme';

const Box = styled.div`
  position: absolute;
  inset: 0;
  svg {
    position: absolute;
    inset: 0;
    touch-action: none;
  }
  text {
    font-size: 11px;
    fill: ${colour('quiet')};
  }
`;

const STEPS = 22;
const IMPEDANCES = [20, 25, 30, 35, 40, 50, 60, 70, 85, 100, 120];
const COUPLINGS = [3, 4, 6, 8, 10, 12, 15, 20, 25, 30, 40];
const MARGIN = { left: RULED_LEFT, right: 18, top: 20, bottom: 30 };
/** Share of a dimension that an arrow key moves it by. */
const STEP = 0.02;

const spread = (from: number, to: number): number[] =>
  Array.from({ length: STEPS }, (_, i) => from * Math.pow(to / from, i / (STEPS - 1)));
const typed = (x: number): string => formatQuantity(x, 'length', { digits: 4, typed: true });

/** Lines of equal impedance and of equal coupling over width and gap, on which a pair is chosen. */
export function PairMap({
  board,
  dimensions,
  analysis,
  choice,
  onPair,
}: {
  board: SheetBoard | undefined;
  dimensions: readonly [number, number] | undefined;
  analysis: SectionAnalysis | undefined;
  choice: ReactNode;
  onPair: (width: string, gap: string) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [box, size] = useSize<HTMLDivElement>();
  const h = (board?.substrate.height ?? 1e-3) / (board ? media[board.medium].grounds : 1);
  const widths = useMemo(() => spread(0.08 * h, 8 * h), [h]);
  const gaps = useMemo(() => spread(0.03 * h, 6 * h), [h]);
  const map = useJob('pairMap', board && { board, widths, gaps });
  const plot = {
    width: Math.max(10, size.width - MARGIN.left - MARGIN.right),
    height: Math.max(10, size.height - MARGIN.top - MARGIN.bottom),
  };
  const view = { x: [widths[0], widths[STEPS - 1]], y: [gaps[0], gaps[STEPS - 1]] } as const;
  const sx = scaleOf(true, view.x, 0, plot.width);
  const sy = scaleOf(true, view.y, plot.height, 0);
  const drawn = useMemo(() => {
    const { data } = map;
    if (!data) return [];
    const { ze, zo } = data;
    // The grid is even in the logarithms, as the axes are.
    const at = ([c, r]: GridPoint): [number, number] => [
      (c / (STEPS - 1)) * plot.width,
      plot.height - (r / (STEPS - 1)) * plot.height,
    ];
    const named: [number, number][] = [];
    const lines = (kind: 'impedance' | 'coupling', levels: readonly number[], values: number[]) =>
      levels.flatMap((level) => {
        const pieces = contourOf(values, STEPS, STEPS, level).lines;
        const longest = pieces.reduce<GridPoint[]>((a, b) => (b.length > a.length ? b : a), []);
        if (longest.length < 3) return [];
        // Impedances are named where they leave at the top, couplings where they stand furthest to the right.
        const end = longest
          .map(at)
          .reduce((a, b) => ((kind === 'impedance' ? b[1] < a[1] : b[0] > a[0]) ? b : a));
        const free = named.every(([x, y]) => Math.abs(x - end[0]) > 46 || Math.abs(y - end[1]) > 14);
        if (free) named.push(end);
        return [{ kind, level, d: gridPath(pieces, at), label: free ? end : undefined }];
      });
    return [
      ...lines(
        'impedance',
        IMPEDANCES,
        Array.from(ze, (e, i) => readPair(e, zo[i]).z0),
      ),
      ...lines(
        'coupling',
        COUPLINGS,
        Array.from(ze, (e, i) => readPair(e, zo[i]).couplingDb),
      ),
    ];
  }, [map, plot.width, plot.height]);

  const dragging = useRef(false);
  const toPair = (event: PointerEvent<SVGRectElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    const x = Math.min(plot.width, Math.max(0, event.clientX - rect.left));
    const y = Math.min(plot.height, Math.max(0, event.clientY - rect.top));
    onPair(typed(sx.invert(x)), typed(sy.invert(y)));
  };
  const reading = analysis && readPair(analysis.modes[0].z0, analysis.modes[1].z0);
  const said =
    reading && dimensions
      ? `${formatQuantity(reading.z0, 'impedance', { digits: 3 })}, ${formatNumber(reading.couplingDb, 3)} dB at width ${formatQuantity(dimensions[0], 'length', { digits: 3 })}, gap ${formatQuantity(dimensions[1], 'length', { digits: 3 })}`
      : '';
  const step = (event: KeyboardEvent) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!by || !dimensions) return;
    event.preventDefault();
    const size = event.shiftKey ? STEP / 10 : STEP;
    onPair(typed(dimensions[0] * Math.exp(by[0] * size)), typed(dimensions[1] * Math.exp(by[1] * size)));
  };
  const unit = lengthUnit();
  const ruled = (name: string): Axis => ({
    label: `${name} in ${unit.unit}`,
    scale: 1 / unit.size,
    log: true,
  });
  const [across, apart] = [ruled('width'), ruled('gap')];
  return (
    <ChartFrame
      title="Map of width and gap"
      note={map.isFetching ? 'solving the pairs \u2026' : 'point, drag, or step with the arrow keys'}
      extra={choice}
      svg={svg}
      columns={() =>
        map.data
          ? [
              { name: 'width_m', values: Float64Array.from(map.data.ze, (_, i) => widths[i % STEPS]) },
              {
                name: 'gap_m',
                values: Float64Array.from(map.data.ze, (_, i) => gaps[Math.floor(i / STEPS)]),
              },
              { name: 'even_impedance_ohm', values: map.data.ze },
              { name: 'odd_impedance_ohm', values: map.data.zo },
            ]
          : []
      }
    >
      <Box ref={box}>
        {size.width > 0 && (
          <svg
            ref={svg}
            width={size.width}
            height={size.height}
            role="group"
            aria-label="map of width and gap"
          >
            <g transform={`translate(${MARGIN.left} ${MARGIN.top})`}>
              <Grid x={across} y={apart} view={view} width={plot.width} height={plot.height} bare={false} />
              {drawn.map(({ kind, level, d, label }) => (
                <g key={`${kind}-${level}`} className={kind}>
                  <path
                    d={d}
                    fill="none"
                    stroke={colour(kind === 'impedance' ? 'trace2' : 'trace3')}
                    strokeWidth={level === 50 || level === 20 ? 1.8 : 1}
                    strokeDasharray={kind === 'impedance' ? undefined : '5 3'}
                  />
                  {label && (
                    <text
                      x={label[0]}
                      y={label[1]}
                      dx={kind === 'impedance' && label[0] < plot.width - 40 ? 3 : -3}
                      dy={kind === 'impedance' ? 10 : -4}
                      textAnchor={kind === 'impedance' && label[0] < plot.width - 40 ? 'start' : 'end'}
                      style={{ fill: colour(kind === 'impedance' ? 'trace2' : 'trace3') }}
                    >
                      {kind === 'impedance' ? `${level} \u03A9` : `\u2212${level} dB`}
                    </text>
                  )}
                </g>
              ))}
              <rect
                width={plot.width}
                height={plot.height}
                fill="transparent"
                style={{ cursor: 'crosshair' }}
                onPointerDown={(event) => {
                  if (event.button !== 0) return;
                  event.currentTarget.setPointerCapture(event.pointerId);
                  dragging.current = true;
                  toPair(event);
                }}
                onPointerMove={(event) => dragging.current && toPair(event)}
                onPointerUp={() => {
                  dragging.current = false;
                  endMerge();
                }}
              />
              {dimensions && reading && (
                <g
                  transform={`translate(${sx(dimensions[0])} ${sy(dimensions[1])})`}
                  role="application"
                  aria-roledescription="point on the map"
                  aria-label={`present pair: ${said}`}
                  tabIndex={0}
                  onKeyDown={step}
                  onKeyUp={endMerge}
                  style={{ pointerEvents: 'none' }}
                >
                  <circle r={6} fill={colour('raised')} stroke={colour('ink')} strokeWidth={2} />
                  <text
                    y={-12}
                    textAnchor={sx(dimensions[0]) > plot.width / 2 ? 'end' : 'start'}
                    style={{ fill: colour('ink'), fontWeight: 600 }}
                  >
                    {said}
                  </text>
                </g>
              )}
            </g>
          </svg>
        )}
      </Box>
    </ChartFrame>
  );
}
