import { Fragment, memo, useRef, type PointerEvent as ReactPointerEvent, type RefObject } from 'react';
import { useDerived, useDrawn, useLive, type Live } from '../live';
import { colour } from '../theme';
import type { Axis, Scale } from './axis';
import { spread, valueAt, type Domain } from './domain';
import { linesOf, rowsOf } from './labels';
import { Marker } from './Marker';
import { curvePath, pixelsOf } from './path';
import {
  strokeOf,
  type Between,
  type ChartMarker,
  type Guide,
  type LimitBand,
  type MarkerActions,
  type RectPicture,
  type Tick,
} from './types';
import { usePaths, write } from './written';

const NO_AREAS: readonly Between[] = [];
const NO_LIMITS: readonly LimitBand[] = [];
const NO_MARKERS: readonly ChartMarker[] = [];
const NO_TICKS: readonly Tick[] = [];

/** Writes a place that has changed, px. */
const place = (element: Element | undefined, name: string, value: number): void =>
  write(element, name, String(Math.round(value * 100) / 100));

/** A part of the plane in pixels: what the layers of a chart are drawn in. */
export interface Plane {
  readonly x: Axis;
  readonly y: Axis;
  readonly view: { readonly x: Domain; readonly y: Domain };
  readonly width: number;
  readonly height: number;
  readonly sx: Scale;
  readonly sy: Scale;
}

interface LayerProps {
  readonly picture: Live<RectPicture>;
  readonly plane: Plane;
}

/** What does not change of a curve while its values do. */
const looksOf = ({ traces }: RectPicture) =>
  traces.map(({ id, label, name, unlabelled, colour, kind, shade }) => ({
    id,
    label,
    name,
    unlabelled,
    colour,
    kind,
    shade,
  }));

/** How strongly the faintest of a family is drawn. */
const FAINTEST = 0.22;

/** Areas between curves. */
export const Areas = memo(function Areas({ picture, plane }: LayerProps) {
  const between = useLive(useDerived(() => picture.value.between ?? NO_AREAS, [picture], Object.is));
  const { x, y, view, width, height } = plane;
  const toX = pixelsOf(x.log, view.x, 0, width);
  const toY = pixelsOf(y.log, view.y, height, 0);
  return between.map((area) => {
    const [upper, lower] = [area.high, area.low].map((edge) =>
      curvePath(area.x, edge, toX, toY, 5 * height, -4 * height),
    );
    // The lower edge is the way back.
    const back = lower.slice(1).split('L').reverse().join('L');
    return (
      <path
        key={area.id}
        className="between"
        d={upper && back ? `${upper}L${back}Z` : undefined}
        fill={colour(area.colour)}
        fillOpacity={area.strength}
      />
    );
  });
});

/** The curves; they are drawn anew without a rendering as long as they are the same ones. */
export const Curves = memo(function Curves({ picture, plane }: LayerProps) {
  const looks = useLive(useDerived(() => looksOf(picture.value), [picture]));
  // Markers and goals move without the curves.
  const traces = useDerived(() => picture.value.traces, [picture], Object.is);
  const waiting = useDerived(() => picture.value.waiting, [picture], Object.is);
  const layer = useRef<SVGGElement>(null);
  const { x, y, view, width, height } = plane;
  const toX = pixelsOf(x.log, view.x, 0, width);
  const toY = pixelsOf(y.log, view.y, height, 0);
  usePaths(
    layer,
    traces,
    (t) => ({ a: t.x, b: t.y }),
    // Far outside the view a curve ends in a straight line.
    ({ a, b }) => curvePath(a, b, toX, toY, 5 * height, -4 * height),
    [plane],
  );
  useDrawn(() => {
    layer.current!.style.opacity = waiting.value ? '0.35' : '';
  });
  return (
    <g ref={layer}>
      {looks.map((t) => (
        <path
          key={t.id}
          fill="none"
          stroke={colour(t.colour)}
          strokeLinejoin="round"
          {...strokeOf(t.kind)}
          {...(t.shade !== undefined && { strokeOpacity: FAINTEST + (1 - FAINTEST) * t.shade })}
        />
      ))}
    </g>
  );
});

/** The curves' names at their ends, and those of the guides; they keep apart. */
export const Names = memo(function Names({
  picture,
  plane,
  guides,
}: LayerProps & { readonly guides: readonly Guide[] }) {
  const looks = useLive(useDerived(() => looksOf(picture.value), [picture]));
  const labelled = looks.filter((t) => !t.unlabelled);
  const layer = useRef<SVGGElement>(null);
  const { width } = plane;
  useDrawn(() => {
    const { traces, waiting } = picture.value;
    const { view, height, sy } = plane;
    const named = traces.filter((t) => !t.unlabelled);
    const wanted = named.map((t) => {
      const x = Math.min(view.x[1], t.x[t.x.length - 1] ?? view.x[1]);
      const y = valueAt(t, x);
      return Number.isFinite(y) ? Math.min(height, Math.max(0, sy(y))) : y < 0 ? height : 0;
    });
    const atGuides = guides.map((g) => Math.min(height, Math.max(0, sy(g.y))));
    const heights = [...named.map((t) => 13 * linesOf(t.label).length), ...guides.map(() => 13)];
    const { children } = layer.current!;
    // A name moves by whole pixels, and is not laid out again for less.
    spread([...wanted, ...atGuides], heights, 4, height).forEach((y, i) =>
      place(children[i], 'y', Math.round(y)),
    );
    layer.current!.style.opacity = waiting ? '0.5' : '';
  });
  return (
    <g ref={layer}>
      {labelled.map((t) => (
        <text key={t.id} x={width + 8} fontSize={11} fontWeight={600} style={{ fill: colour(t.colour) }}>
          {linesOf(t.label).map((line, k, all) => (
            <tspan key={k} x={width + 8} dy={k === 0 ? `${0.32 - 0.6 * (all.length - 1)}em` : '1.2em'}>
              {line}
            </tspan>
          ))}
          <title>{t.name ?? t.label}</title>
        </text>
      ))}
      {guides.map((g) => (
        <text key={g.label} x={width + 8} dy="0.32em" fontSize={11} style={{ fill: colour('waterText') }}>
          {g.label}
        </text>
      ))}
    </g>
  );
});

/** The ground of a goal that is met, and its line; the ground lies below the ruling. */
export const Goal = memo(function Goal({
  picture,
  plane,
  ground,
}: LayerProps & { readonly ground: boolean }) {
  const kind = useLive(
    useDerived(() => {
      const { goal } = picture.value;
      return { given: goal !== undefined, met: goal?.from !== undefined && goal.to !== undefined };
    }, [picture]),
  );
  const mark = useRef<SVGElement>(null);
  useDrawn(() => {
    const { goal } = picture.value;
    if (!goal || !mark.current) return;
    const { width, height, sx, sy } = plane;
    const y = sy(goal.level);
    const x0 = goal.from === undefined ? 0 : sx(goal.from);
    const x1 = goal.to === undefined ? width : sx(goal.to);
    const places: Readonly<Record<string, number>> = ground
      ? {
          x: x0,
          width: Math.max(0, x1 - x0),
          y: Math.max(0, y),
          height: Math.max(0, height - Math.max(0, y)),
        }
      : { x1: x0, x2: x1, y1: y, y2: y };
    for (const [name, value] of Object.entries(places)) place(mark.current, name, value);
  });
  if (!kind.given || (ground && !kind.met)) return null;
  return ground ? (
    <rect ref={mark as RefObject<SVGRectElement>} fill={colour('waterSoft')} />
  ) : (
    <line
      ref={mark as RefObject<SVGLineElement>}
      stroke={colour('water')}
      strokeWidth={1.5}
      strokeDasharray={kind.met ? undefined : '2 4'}
    />
  );
});

/** What the curves must not enter, shaded. */
export const Limits = memo(function Limits({ picture, plane }: LayerProps) {
  const limits = useLive(useDerived(() => picture.value.limits ?? NO_LIMITS, [picture]));
  const { height, sx, sy } = plane;
  return limits.map((l) => {
    const off = l.side === 'at' ? (l.tolerance ?? 0) : 0;
    // Where the forbidden begins: above what is not to be exceeded, below what is not to be fallen short of.
    const edges = [
      ...(l.side === 'above' ? [] : [{ y: sy(l.level + off), up: true }]),
      ...(l.side === 'below' ? [] : [{ y: sy(l.level - off), up: false }]),
    ];
    const [x0, x1] = [sx(l.from), sx(l.to)];
    return (
      <g key={l.id}>
        {edges.map(({ y, up }) => {
          const top = up ? 0 : Math.max(0, y);
          const bottom = up ? Math.min(height, y) : height;
          return (
            <Fragment key={String(up)}>
              <rect
                x={x0}
                width={Math.max(0, x1 - x0)}
                y={top}
                height={Math.max(0, bottom - top)}
                fill={colour('caution')}
                fillOpacity={0.16}
              />
              <line x1={x0} x2={x1} y1={y} y2={y} stroke={colour('caution')} strokeWidth={2} />
            </Fragment>
          );
        })}
      </g>
    );
  });
});

interface MarkersProps extends LayerProps {
  readonly format: (x: number) => string;
  readonly actions: MarkerActions;
  readonly toX: (event: ReactPointerEvent) => number;
  /** Room above the plane, px. */
  readonly top: number;
}

/** The markers, their labels apart. */
export const Markers = memo(function Markers({ picture, plane, format, actions, toX, top }: MarkersProps) {
  const markers = useLive(useDerived(() => picture.value.markers ?? NO_MARKERS, [picture]));
  const { width, height, sx } = plane;
  const rows = rowsOf(markers.map((m) => ({ x: sx(m.x), text: m.label })));
  return markers.map((m, i) => (
    <Marker
      key={m.id}
      marker={m}
      row={rows[i]}
      sx={sx}
      width={width}
      height={height}
      samples={() => picture.peek().traces[0]?.x}
      format={format}
      actions={actions}
      top={top}
      toX={toX}
    />
  ));
});

/** Places on the axis that nobody asked for but everybody should know, each with its name. */
export const Ticks = memo(function Ticks({ picture, plane }: LayerProps) {
  const ticks = useLive(useDerived(() => picture.value.ticks ?? NO_TICKS, [picture]));
  const { sx, width, height } = plane;
  return ticks.map(({ x, name }, i) => {
    const at = sx(x);
    if (at < 0 || at > width) return null;
    return (
      <g key={i} className="tick" role="img" aria-label={name}>
        <title>{name}</title>
        <path
          d={`M${at} ${height}v-12m-4 3l4 -7l4 7z`}
          fill={colour('caution')}
          stroke={colour('caution')}
          strokeWidth={1.5}
        />
      </g>
    );
  });
});
