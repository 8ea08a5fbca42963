import {
  memo,
  useId,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent as ReactPointerEvent,
  type RefObject,
} from 'react';
import styled from 'styled-components';
import { decibels, degrees, impedanceOf, interpolate, vswr } from '@ditch/core/results';
import { formatComplex, formatImpedance, formatNumber, formatQuantity, formatVswr } from '@ditch/core/units';
import { useHandler } from '../controls/stable';
import { useDerived, useDrawn, useLive, useRested, type Live } from '../live';
import { colour, type ColourName } from '../theme';
import { boxOf, placeAround, type Box as LabelBox } from './labels';
import { SmithGrid, smithNumbers, type SmithGridName } from './SmithGrid';
import { NO_ARCS, SmithPath, type ArcActions, type Point, type SmithArc } from './SmithPath';
import { usePanZoom } from './panzoom';
import { planePath, tenth } from './path';
import { useSize } from './size';
import { nameProps, countedLevel, isOf, strokeOf, type ChartMarker, type Kind } from './types';
import { usePaths } from './written';

export interface SmithTrace {
  readonly id: string;
  readonly label: string;
  readonly colour: ColourName;
  readonly kind: Kind;
  readonly freq: Float64Array;
  readonly re: Float64Array;
  readonly im: Float64Array;
  /** Reference impedance of the reflection. */
  readonly z0: { readonly re: number; readonly im: number };
}

/** What moves on a Smith chart while a value is changed. */
export interface SmithPicture {
  readonly traces: readonly SmithTrace[];
  readonly markers: readonly ChartMarker[];
  readonly waiting?: boolean;
  /** The way from load to source. */
  readonly arcs?: readonly SmithArc[];
  /** A path walked at one frequency, drawn over the curves: from its first point to its last. */
  readonly walk?: readonly Point[];
}

interface SmithChartProps {
  readonly label: string;
  readonly svg: RefObject<SVGSVGElement | null>;
  readonly picture: Live<SmithPicture>;
  /** Frequency read at in the other chart, shown here too. */
  readonly cursor?: number;
  /** What is done with the arcs of the way from load to source. */
  readonly actions?: ArcActions;
  readonly hovered?: string;
  readonly onHover?: (piece: string | undefined) => void;
  readonly grids?: readonly SmithGridName[];
  /** A disc in the plane of reflections that cannot be reached. */
  readonly forbidden?: {
    readonly re: number;
    readonly im: number;
    readonly radius: number;
    /** Where the load lies. */
    readonly at: { readonly re: number; readonly im: number };
  };
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
  /* The ring stands around the handle, and not around what is written beside it. */
  g[role='slider']:focus-visible {
    outline: none;
    circle:first-child {
      stroke: ${colour('water')};
      stroke-width: 2px;
    }
  }
`;
const ReadOut = styled.div`
  position: absolute;
  left: 8px;
  bottom: 6px;
  padding: 4px 8px;
  border: 1px solid ${colour('rule')};
  border-radius: 4px;
  background: ${colour('raised')};
  font-size: 11px;
  pointer-events: none;
`;

const PAD = 16;

/** Milliseconds of rest after which the ends of the arcs can be taken hold of where they are, if the pointer does not come before. */
const REST = 250;
const IMPEDANCE: readonly SmithGridName[] = ['impedance'];

interface View {
  readonly k: number;
  readonly x: number;
  readonly y: number;
}
const HOME: View = { k: 1, x: 0, y: 0 };

interface LayerProps {
  readonly picture: Live<SmithPicture>;
  /** The chart's middle and radius, px. */
  readonly cx: number;
  readonly cy: number;
  readonly radius: number;
}

/** The curves; they are drawn anew without a rendering as long as they are the same ones. */
const Curves = memo(function Curves({ picture, cx, cy, radius, clip }: LayerProps & { clip: string }) {
  const looks = useLive(
    useDerived(() => picture.value.traces.map(({ id, colour, kind }) => ({ id, colour, kind })), [picture]),
  );
  const traces = useDerived(() => picture.value.traces, [picture], Object.is);
  const waiting = useDerived(() => picture.value.waiting, [picture], Object.is);
  const layer = useRef<SVGGElement>(null);
  usePaths(
    layer,
    traces,
    (t) => ({ a: t.re, b: t.im }),
    ({ a, b }) => planePath(a, b, cx, cy, radius),
    [cx, cy, radius],
  );
  useDrawn(() => {
    layer.current!.style.opacity = waiting.value ? '0.35' : '';
  });
  return (
    <g ref={layer} clipPath={`url(#${clip})`}>
      {looks.map((t) => (
        <path key={t.id} fill="none" stroke={colour(t.colour)} strokeLinejoin="round" {...strokeOf(t.kind)} />
      ))}
    </g>
  );
});

/** The point of a curve at a frequency, px. */
function pointAt(trace: SmithTrace, f: number, { cx, cy, radius }: Omit<LayerProps, 'picture'>) {
  if (f < trace.freq[0] || f > trace.freq[trace.freq.length - 1]) return undefined;
  const s = interpolate(trace, f);
  return { x: cx + s.re * radius, y: cy - s.im * radius };
}

interface Place extends Omit<LayerProps, 'picture'> {
  readonly width: number;
  readonly height: number;
  /** Where the numbers of the ruling stand. */
  readonly ruling: readonly LabelBox[];
}

/** The markers on the curves of the levels, and their names where there is room. */
function spotsOf(place: Place, { traces, markers, arcs = NO_ARCS }: SmithPicture) {
  const { cx, cy, radius, width, height, ruling } = place;
  const counted = countedLevel(traces);
  const spots = traces.flatMap((trace) =>
    trace.kind.role !== 'level'
      ? []
      : markers.flatMap((m) => {
          const p = pointAt(trace, m.x, place);
          const shown = isOf(trace.kind, counted);
          return p
            ? [{ key: `${trace.id}:${m.id}`, x: tenth(p.x), y: tenth(p.y), shown, text: m.label }]
            : [];
        }),
  );
  // Names give way to the numbers of the ruling, to the handles of arcs and to one another.
  const around = (p: { x: number; y: number }, r: number): LabelBox => ({
    x: p.x - r,
    y: p.y - r,
    width: 2 * r,
    height: 2 * r,
  });
  const ends = arcs.flatMap((arc) => {
    if (arc.shown === undefined) return [];
    const { re, im } = arc.points[arc.points.length - 1];
    return [around({ x: cx + re * radius, y: cy - im * radius }, 8)];
  });
  const names = placeAround(
    spots.filter((s) => s.shown),
    [...ruling, ...spots.map((s) => around(s, 5)), ...ends],
    { x: 0, y: 0, width, height },
  );
  return { spots, names };
}

interface SpotsProps {
  readonly placed: Live<ReturnType<typeof spotsOf>>;
}

/** The markers' points. */
const Spots = memo(function Spots({ placed }: SpotsProps) {
  const spots = useLive(useDerived(() => placed.value.spots, [placed]));
  return (
    <g pointerEvents="none">
      {spots.map(({ key, x, y, shown }) => (
        <circle
          key={key}
          cx={x}
          cy={y}
          r={shown ? 4.5 : 3}
          fill={colour('raised')}
          stroke={shown ? colour('water') : colour('ruleStrong')}
          strokeWidth={2}
        />
      ))}
    </g>
  );
});

/** Their names, which lie over the arcs. */
const SpotNames = memo(function SpotNames({ placed }: SpotsProps) {
  const names = useLive(useDerived(() => placed.value.names, [placed]));
  return (
    <g pointerEvents="none">
      {names.map(
        (name) =>
          name && (
            <text {...nameProps} key={name.text} x={name.x} y={name.y} textAnchor={name.anchor}>
              {name.text}
            </text>
          ),
      )}
    </g>
  );
});

/** The way walked by what is pointed at. */
const Walked = memo(function Walked({ picture, cx, cy, radius, clip }: LayerProps & { clip: string }) {
  const walk = useLive(useDerived(() => picture.value.walk, [picture], Object.is));
  if (!walk || walk.length < 2) return null;
  return (
    <g data-screen-only pointerEvents="none" clipPath={`url(#${clip})`}>
      <polyline
        points={walk
          .map((p) => `${(cx + p.re * radius).toFixed(2)},${(cy - p.im * radius).toFixed(2)}`)
          .join(' ')}
        fill="none"
        stroke={colour('water')}
        strokeWidth={3.5}
        strokeLinecap="round"
        strokeLinejoin="round"
      />
      {[walk[0], walk[walk.length - 1]].map((p, i) => (
        <circle
          key={i}
          cx={cx + p.re * radius}
          cy={cy - p.im * radius}
          r={4}
          fill={colour(i === 0 ? 'raised' : 'water')}
          stroke={colour('water')}
          strokeWidth={2}
        />
      ))}
    </g>
  );
});

/** Where the curves are at the frequency that is read in another chart. */
function Cursor(props: LayerProps & { readonly at: number }) {
  const { traces } = useLive(props.picture);
  return traces.map((trace) => {
    const p = pointAt(trace, props.at, props);
    return (
      p && (
        <circle
          key={trace.id}
          data-screen-only
          pointerEvents="none"
          cx={p.x}
          cy={p.y}
          r={3}
          fill={colour(trace.colour)}
        />
      )
    );
  });
}

/**
 * The Smith chart: reflections over frequency on the grid of normalised impedance. Drag pans, the wheel zooms, double
 * click shows all; with the keyboard arrows pan, + and - zoom, 0 shows all.
 */
export const SmithChart = memo(function SmithChart({
  label,
  svg,
  picture,
  cursor,
  actions,
  hovered,
  onHover,
  grids = IMPEDANCE,
  forbidden,
}: SmithChartProps) {
  const [box, size] = useSize<HTMLDivElement>();
  const clip = useId();
  const help = useId();
  const [view, setView] = useState<View>(HOME);
  const [hover, setHover] = useState<Hover | null>(null);

  const radius = Math.max(10, Math.min(size.width, size.height) / 2 - PAD) * view.k;
  const cx = size.width / 2 + view.x;
  const cy = size.height / 2 + view.y;

  const ways = useDerived(() => picture.value.arcs ?? NO_ARCS, [picture], Object.is);
  const [rested, settle] = useRested(ways, REST);

  const zoomBy = (factor: number, px: number, py: number) =>
    setView((v) => {
      const k = Math.min(200, Math.max(0.8, v.k * factor));
      const f = k / v.k;
      // The point under the pointer stays where it is.
      const ox = px - size.width / 2;
      const oy = py - size.height / 2;
      return { k, x: ox - (ox - v.x) * f, y: oy - (oy - v.y) * f };
    });
  const point = (event: ReactPointerEvent<SVGSVGElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    const u = (event.clientX - rect.left - cx) / radius;
    const v = -(event.clientY - rect.top - cy) / radius;
    settle();
    let best: Hover | null = null;
    let least = (14 / radius) ** 2;
    for (const trace of picture.peek().traces)
      for (let k = 0; k < trace.re.length; k++) {
        const d2 = (trace.re[k] - u) ** 2 + (trace.im[k] - v) ** 2;
        if (d2 < least) {
          least = d2;
          best = { trace: trace.id, k };
        }
      }
    setHover((old) => (old?.trace === best?.trace && old?.k === best?.k ? old : best));
  };
  const look = usePanZoom<View>({
    svg,
    drawn: size.width > 0,
    view: () => view,
    setView,
    pan: (from, dx, dy) => ({ ...from, x: from.x + dx, y: from.y + dy }),
    zoom: (factor, x, y) => zoomBy(1 / factor, x, y),
    onPoint: point,
  });
  const onKeyDown = (event: KeyboardEvent<SVGSVGElement>) => {
    const pan = (dx: number, dy: number) => setView((v) => ({ ...v, x: v.x + dx, y: v.y + dy }));
    const actions: Record<string, () => void> = {
      ArrowRight: () => pan(-20, 0),
      ArrowLeft: () => pan(20, 0),
      ArrowUp: () => pan(0, 20),
      ArrowDown: () => pan(0, -20),
      '+': () => zoomBy(1.25, size.width / 2, size.height / 2),
      '=': () => zoomBy(1.25, size.width / 2, size.height / 2),
      '-': () => zoomBy(0.8, size.width / 2, size.height / 2),
      '0': () => setView(HOME),
    };
    const action = actions[event.key];
    if (!action || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    action();
  };

  const toPoint = useHandler((clientX: number, clientY: number) => {
    const rect = svg.current!.getBoundingClientRect();
    return { re: (clientX - rect.left - cx) / radius, im: -(clientY - rect.top - cy) / radius };
  });
  const layer = { picture, cx, cy, radius };
  const ruling = useMemo(() => smithNumbers(cx, cy, radius, grids).map(boxOf), [cx, cy, radius, grids]);
  const spots = useDerived(
    () => spotsOf({ cx, cy, radius, ...size, ruling }, picture.value),
    [picture, cx, cy, radius, size, ruling],
    Object.is,
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
          onPointerLeave={() => setHover(null)}
          onDoubleClick={() => setView(HOME)}
          onKeyDown={onKeyDown}
        >
          <clipPath id={clip}>
            <circle cx={cx} cy={cy} r={radius} />
          </clipPath>
          <circle
            cx={cx}
            cy={cy}
            r={radius}
            fill={colour('raised')}
            stroke={colour('ruleStrong')}
            strokeWidth={1.2}
          />
          <SmithGrid clip={clip} cx={cx} cy={cy} radius={radius} grids={grids} />
          <Curves {...layer} clip={clip} />
          <Spots placed={spots} />
          {forbidden && (
            <>
              <circle
                clipPath={`url(#${clip})`}
                cx={cx + forbidden.re * radius}
                cy={cy - forbidden.im * radius}
                r={forbidden.radius * radius}
                fill={colour('caution')}
                fillOpacity={0.22}
                stroke={colour('caution')}
              />
              <circle
                cx={cx + forbidden.at.re * radius}
                cy={cy - forbidden.at.im * radius}
                r={5}
                fill={colour('ink')}
              />
            </>
          )}
          {actions && <SmithPath {...{ ways, rested, cx, cy, radius, hovered, actions, onHover, toPoint }} />}
          <SpotNames placed={spots} />
          <Walked {...layer} clip={clip} />
          {cursor !== undefined && <Cursor {...layer} at={cursor} />}
          {hover && <HoverDot {...layer} hover={hover} />}
        </svg>
      )}
      {hover && <HoverReading picture={picture} hover={hover} />}
      <span id={help} hidden>
        Arrow keys pan, plus and minus zoom, 0 shows all.
      </span>
    </Box>
  );
});

/** A sample that is pointed at. */
interface Hover {
  /** Id of its curve. */
  readonly trace: string;
  readonly k: number;
}

/** What is pointed at, as it is now. */
function useHovered(picture: Live<SmithPicture>, { trace, k }: Hover): SmithTrace | undefined {
  const found = useLive(picture).traces.find((t) => t.id === trace);
  return found && k < found.re.length ? found : undefined;
}

function HoverDot({ picture, cx, cy, radius, hover }: LayerProps & { readonly hover: Hover }) {
  const trace = useHovered(picture, hover);
  return (
    trace && (
      <circle
        data-screen-only
        pointerEvents="none"
        cx={cx + trace.re[hover.k] * radius}
        cy={cy - trace.im[hover.k] * radius}
        r={4}
        fill={colour(trace.colour)}
      />
    )
  );
}

/** An impedance as admittance in millisiemens. */
function milli(z: { re: number; im: number }): string {
  const d = (z.re * z.re + z.im * z.im) / 1e3;
  return d < 1e-12
    ? 'short'
    : d > 1e12
      ? 'open'
      : `${formatComplex(z.re / d, -z.im / d, 'number', { digits: 3 })} mS`;
}

function HoverReading({ picture, hover }: { picture: Live<SmithPicture>; hover: Hover }) {
  const trace = useHovered(picture, hover);
  if (!trace) return null;
  const { k } = hover;
  const re = trace.re[k];
  const im = trace.im[k];
  const z = impedanceOf(re, im, trace.z0);
  const size = Math.hypot(re, im);
  return (
    <ReadOut>
      <b style={{ color: colour(trace.colour) }}>{trace.label}</b>{' '}
      {formatQuantity(trace.freq[k], 'frequency', { digits: 5 })}
      <br />z {formatImpedance(z)} · y {milli(z)}
      <br />Γ {formatNumber(size, 3)} ∠ {formatNumber(degrees(re, im), 4)}° · VSWR{' '}
      {formatVswr(vswr(re, im), 3)}
      <br />
      return loss {formatNumber(-decibels(re, im), 3)} dB · mismatch loss{' '}
      {formatNumber(-10 * Math.log10(Math.max(1e-12, 1 - size * size)), 3)} dB
    </ReadOut>
  );
}
