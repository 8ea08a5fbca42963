import { extent } from 'd3-array';
import {
  memo,
  useId,
  useMemo,
  useState,
  type CSSProperties,
  type KeyboardEvent,
  type PointerEvent as ReactPointerEvent,
  type RefObject,
} from 'react';
import styled from 'styled-components';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { derived, useConstant, useLive, type Live } from '../live';
import { useHandler } from '../controls/stable';
import { colour } from '../theme';
import { scaleOf, type Axis } from './axis';
import { Grid, RULED_LEFT } from './Grid';
import { nearest, shifted, valueAt, type Domain } from './domain';
import { linesOf } from './labels';
import { Areas, Curves, Goal, Limits, Markers, Names, Ticks, type Plane } from './layers';
import { useSize } from './size';
import type { Guide, MarkerActions, RectPicture } from './types';
import { usePanZoom } from './panzoom';

export type { Axis };

/** Frequency from Hz, in GHz. */
export const FREQUENCY: Axis = {
  label: 'GHz',
  scale: 1e-9,
  format: (f) => formatQuantity(f, 'frequency', { digits: 5 }),
};

export interface RectChartProps extends MarkerActions {
  readonly label: string;
  readonly svg: RefObject<SVGSVGElement | null>;
  readonly picture: Live<RectPicture>;
  readonly x: Axis;
  readonly y: Axis;
  readonly guides?: readonly Guide[];
  /** The x the pointer or the keyboard cursor reads at. */
  readonly onCursor?: (x: number | undefined) => void;
}

const Box = styled.div`
  position: absolute;
  inset: 0;
  contain: strict;
  svg {
    position: absolute;
    inset: 0;
    display: block;
    touch-action: none;
    outline-offset: -2px;
  }
  text {
    fill: ${colour('quiet')};
    font-size: 11px;
  }
`;
const ReadOut = styled.div`
  position: absolute;
  z-index: 2;
  padding: 5px 8px;
  border: 1px solid ${colour('rule')};
  border-radius: 4px;
  background: ${colour('raised')};
  font-size: 11px;
  pointer-events: none;
  white-space: nowrap;
  td {
    padding: 0 0 0 10px;
    text-align: right;
  }
  td:first-child {
    padding: 0;
    text-align: left;
  }
`;

const MARGIN = { left: RULED_LEFT, top: 18, bottom: 30 };

/** Room for the labels at the curves' ends, by their longest. */
const labelRoom = (labels: readonly string[]): number =>
  Math.min(160, Math.max(40, 14 + 6.6 * Math.max(0, ...labels.flatMap(linesOf).map((l) => l.length))));

const NO_GUIDES: readonly Guide[] = [];

interface ReadingProps {
  readonly picture: Live<RectPicture>;
  readonly at: number;
  readonly formatX: (x: number) => string;
  readonly formatY: (y: number) => string;
  readonly style: CSSProperties;
  /** Read aloud as it changes. */
  readonly polite: boolean;
}

/** The values of all curves at a place. */
function Reading({ picture, at, formatX, formatY, style, polite }: ReadingProps) {
  const { traces } = useLive(picture);
  if (traces.length === 0) return null;
  return (
    <ReadOut style={style} aria-live={polite ? 'polite' : 'off'}>
      <b>{formatX(at)}</b>
      <table>
        <tbody>
          {traces
            .filter((t) => t.kind.role !== 'influence')
            .map((t) => (
              <tr key={t.id}>
                <td style={{ color: colour(t.colour) }}>{t.label}</td>
                <td>{formatY(valueAt(t, at))}</td>
              </tr>
            ))}
        </tbody>
      </table>
    </ReadOut>
  );
}

/** The stretch of both axes that shows everything. */
function wholeOf({ traces }: RectPicture, x: Axis, y: Axis): { x: Domain; y: Domain } {
  const xs: number[] = traces.flatMap((t) => (t.x.length > 0 ? [t.x[0], t.x[t.x.length - 1]] : []));
  // A logarithmic axis has no zero, not even while nothing is drawn yet.
  const [x0 = 1, x1 = 10] = x.range ?? extent(xs);
  let [y0, y1]: Domain = y.range ?? [Infinity, -Infinity];
  if (!y.range)
    for (const t of traces)
      for (let k = 0; k < t.y.length; k++)
        if (Number.isFinite(t.y[k])) {
          y0 = Math.min(y0, t.y[k]);
          y1 = Math.max(y1, t.y[k]);
        }
  if (!(y1 > y0)) [y0, y1] = Number.isFinite(y0) ? [y0 - 1, y0 + 1] : [0, 1];
  return { x: [x0, x1 > x0 ? x1 : x0 + 1], y: [y0, y1] };
}

/**
 * The rectangular chart. Drag pans, the wheel zooms (Shift: only vertically), double click shows all. With the
 * keyboard: left and right move the cursor, up, down and the page keys pan, + and - zoom at the cursor, 0 shows all, M sets a marker, Tab reaches the markers.
 */
export const RectChart = memo(function RectChart(props: RectChartProps) {
  const { label, svg, picture, x: xAxis, y: yAxis, guides = NO_GUIDES } = props;
  const [box, size] = useSize<HTMLDivElement>();
  const clip = useId();
  const help = useId();
  const [zoom, setZoom] = useState<{ x: Domain; y: Domain } | null>(null);
  const [cursor, setCursor] = useState<number>();
  const [keyboard, setKeyboard] = useState(false);

  const { whole, room, bare, ruled } = useLive(
    useMemo(
      () =>
        derived(() => {
          const { traces } = picture.value;
          return {
            whole: wholeOf(picture.value, xAxis, yAxis),
            room: labelRoom([...traces.filter((t) => !t.unlabelled), ...guides].map((t) => t.label)),
            // Nothing is drawn yet that could be moved or looked at closer.
            bare: traces.every((t) => t.x.length === 0),
            ruled: traces.length > 0 || xAxis.range !== undefined,
          };
        }),
      [picture, xAxis, yAxis, guides],
    ),
  );
  const width = Math.max(10, size.width - MARGIN.left - room);
  const height = Math.max(10, size.height - MARGIN.top - MARGIN.bottom);
  const view = zoom ?? whole;
  const plane = useMemo(
    (): Plane => ({
      x: xAxis,
      y: yAxis,
      view,
      width,
      height,
      sx: scaleOf(xAxis.log, view.x, 0, width),
      sy: scaleOf(yAxis.log, view.y, height, 0),
    }),
    [xAxis, yAxis, view, width, height],
  );
  const { sx, sy } = plane;
  const xFactor = xAxis.scale ?? 1;
  const yFactor = yAxis.scale ?? 1;

  const zoomBy = (factor: number, cx: number, cy: number, onlyY: boolean, onlyX: boolean) => {
    const next = (domain: Domain, log: boolean | undefined, at: number): Domain => {
      const t = log ? Math.log : (v: number) => v;
      const back = log ? Math.exp : (v: number) => v;
      const [a, b] = domain.map(t);
      const c = a + (b - a) * at;
      return [back(c - (c - a) * factor), back(c + (b - c) * factor)];
    };
    if (bare) return;
    const x = onlyY ? view.x : next(view.x, xAxis.log, cx / width);
    const y = onlyX ? view.y : next(view.y, yAxis.log, 1 - cy / height);
    if (Math.abs(x[1] - x[0]) < 1e-9 * Math.abs(x[1]) || Math.abs(y[1] - y[0]) < 1e-9) return;
    setZoom({ x, y });
  };

  const read = (x: number | undefined) => {
    setCursor(x);
    props.onCursor?.(x);
  };
  /** Where the first curve has samples. */
  const samples = () => picture.peek().traces[0]?.x;
  const snap = (x: number): number => {
    const xs = samples();
    return xs && xs.length > 1 ? xs[nearest(xs, x)] : x;
  };
  const plotX = useHandler(
    (event: ReactPointerEvent): number =>
      event.clientX - svg.current!.getBoundingClientRect().left - MARGIN.left,
  );

  const look = usePanZoom({
    svg,
    drawn: size.width > 0,
    view: () => view,
    setView: setZoom,
    pan: (from, dx, dy) => ({
      x: shifted(from.x, xAxis.log, -dx / width),
      y: shifted(from.y, yAxis.log, dy / height),
    }),
    zoom: (factor, x, y, { shiftKey, ctrlKey }) =>
      zoomBy(factor, x - MARGIN.left, y - MARGIN.top, shiftKey, !shiftKey && !ctrlKey),
    holds: () => !bare,
    onPoint(event) {
      const at = plotX(event);
      setKeyboard(false);
      read(at >= 0 && at <= width ? sx.invert(at) : undefined);
    },
  });
  const onKeyDown = (event: KeyboardEvent<SVGSVGElement>) => {
    if (event.target !== event.currentTarget) return;
    const here = cursor ?? picture.peek().markers?.[0]?.x ?? (view.x[0] + view.x[1]) / 2;
    const step = (direction: number) => {
      const xs = samples();
      if (!xs || xs.length < 2) return;
      const k = nearest(xs, here) + direction * (event.shiftKey ? 10 : 1);
      setKeyboard(true);
      read(xs[Math.min(xs.length - 1, Math.max(0, k))]);
    };
    const pan = (dx: number, dy: number) =>
      !bare && setZoom({ x: shifted(view.x, xAxis.log, dx), y: shifted(view.y, yAxis.log, dy) });
    const actions: Record<string, () => unknown> = {
      ArrowRight: () => step(1),
      ArrowLeft: () => step(-1),
      ArrowUp: () => pan(0, 0.1),
      ArrowDown: () => pan(0, -0.1),
      PageUp: () => pan(-0.2, 0),
      PageDown: () => pan(0.2, 0),
      '+': () => zoomBy(0.8, sx(here), height / 2, false, true),
      '=': () => zoomBy(0.8, sx(here), height / 2, false, true),
      '-': () => zoomBy(1.25, sx(here), height / 2, false, true),
      '0': () => setZoom(null),
      m: () => props.onMarkerAdd?.(snap(here)),
      Escape: () => read(undefined),
    };
    const action = actions[event.key];
    if (!action || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    action();
  };

  const cursorX = cursor !== undefined && cursor >= view.x[0] && cursor <= view.x[1] ? cursor : undefined;
  const formatX = useMemo(
    () => xAxis.format ?? ((v: number) => formatNumber(v * xFactor, 6)),
    [xAxis.format, xFactor],
  );
  const formatY = yAxis.format ?? ((v: number) => formatNumber(v * yFactor, 4));
  const { onMarkerMove, onMarkerEnd, onMarkerAdd, onMarkerRemove } = props;
  const actions = useMemo(
    (): MarkerActions => ({ onMarkerMove, onMarkerEnd, onMarkerAdd, onMarkerRemove }),
    [onMarkerMove, onMarkerEnd, onMarkerAdd, onMarkerRemove],
  );

  return (
    <Box ref={box}>
      {size.width > 0 && (
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          role="application"
          aria-roledescription="chart"
          aria-label={label}
          aria-describedby={help}
          tabIndex={0}
          {...look.handlers}
          onPointerLeave={() => !look.isDragging() && !keyboard && read(undefined)}
          onDoubleClick={() => setZoom(null)}
          onKeyDown={onKeyDown}
        >
          <clipPath id={clip}>
            <rect width={width} height={height} />
          </clipPath>
          <g transform={`translate(${MARGIN.left} ${MARGIN.top})`}>
            <g clipPath={`url(#${clip})`}>
              <Goal picture={picture} plane={plane} ground />
            </g>
            <Grid x={xAxis} y={yAxis} view={view} width={width} height={height} bare={!ruled} />
            <g clipPath={`url(#${clip})`}>
              {guides.map((g) => (
                <line
                  key={g.label}
                  x2={width}
                  y1={sy(g.y)}
                  y2={sy(g.y)}
                  stroke={colour('water')}
                  strokeOpacity={0.35}
                />
              ))}
              <Goal picture={picture} plane={plane} ground={false} />
              <Areas picture={picture} plane={plane} />
              <Limits picture={picture} plane={plane} />
              <Curves picture={picture} plane={plane} />
            </g>
            <Ticks picture={picture} plane={plane} />
            <Names picture={picture} plane={plane} guides={guides} />
            <Markers
              picture={picture}
              plane={plane}
              format={formatX}
              actions={actions}
              toX={plotX}
              top={MARGIN.top}
            />
            {cursorX !== undefined && (
              <line
                data-screen-only
                x1={sx(cursorX)}
                x2={sx(cursorX)}
                y2={height}
                stroke={colour('quiet')}
                strokeDasharray="2 3"
                pointerEvents="none"
              />
            )}
          </g>
        </svg>
      )}
      {cursorX !== undefined && (
        <Reading
          picture={picture}
          at={cursorX}
          formatX={formatX}
          formatY={formatY}
          polite={keyboard}
          style={{
            top: MARGIN.top + 4,
            ...(sx(cursorX) > width * 0.55
              ? { right: size.width - MARGIN.left - sx(cursorX) + 8 }
              : { left: MARGIN.left + sx(cursorX) + 8 }),
          }}
        />
      )}
      <span id={help} hidden>
        Left and right move the cursor, up and down and the page keys pan, plus and minus zoom, 0 shows all, M
        sets a marker.
      </span>
    </Box>
  );
});

/** The chart of a view that is rendered with every value anyway. */
export function PlainRectChart({
  traces,
  markers,
  goal,
  limits,
  between,
  waiting,
  ...rest
}: RectPicture & Omit<RectChartProps, 'picture'>) {
  const picture = useConstant(
    useMemo(
      () => ({ traces, markers, goal, limits, between, waiting }),
      [traces, markers, goal, limits, between, waiting],
    ),
  );
  return <RectChart picture={picture} {...rest} />;
}
