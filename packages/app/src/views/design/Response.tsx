import { lazy, memo, Suspense, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import type { Column } from '@ditch/core/formats';
import type { Design, Plot, ResolvedDesign } from '@ditch/core/network';
import type { Roles } from '@ditch/core/plots';
import { entryOf, interpolate } from '@ditch/core/results';
import { formatComplex, formatNumber } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { valueAt } from '../../charts/domain';
import { FREQUENCY, RectChart, type Axis } from '../../charts/RectChart';
import type { RectPicture } from '../../charts/types';
import { SmithChart, type SmithPicture } from '../../charts/SmithChart';
import type { ArcActions, SmithArc } from '../../charts/SmithPath';
import type { SmithGridName } from '../../charts/SmithGrid';
import { TextButton } from '../../controls/basics';
import type { Command } from '../../controls/command';
import { behindHand, endMerge } from '../../store/session';
import { colour } from '../../theme';
import { useHandler } from '../../controls/stable';
import { useDerived, useLive } from '../../live';
import { addMarker, moveMarker, removeMarker, setPlots } from '../edits';
import { usePreferences } from '../hooks';
import { MarkerStrip } from './MarkerStrip';
import type { Pictures } from './pictures';
import { axisRange, drawPlot, missed, smithTraces, type Drawn, type Source } from './plots';
import { plotCommands, typedFrequency } from './plotting';
import { pinLabel } from './reading';

const PlotDialog = lazy(() => import('./PlotDialog'));

const Panel = styled.div`
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
  height: 100%;
  background: ${colour('raised')};
`;
const Plots = styled.div`
  position: relative;
  display: flex;
  min-height: 0;
  min-width: 0;
  > section {
    flex: 1 1 0;
  }
  > section + section {
    border-left: 1px solid ${colour('rule')};
  }
`;
const Waiting = styled.p`
  position: absolute;
  z-index: 3;
  top: 40%;
  left: 50%;
  max-width: 340px;
  padding: 8px 14px;
  transform: translateX(-50%);
  border: 1px solid ${colour('rule')};
  border-radius: 6px;
  background: ${colour('raised')};
  text-align: center;
`;

interface ResponseProps {
  readonly pictures: Pictures;
  /** What is done with the arcs of the way from load to source. */
  readonly actions: ArcActions;
  readonly hovered: string | undefined;
  readonly onHover: (piece: string | undefined) => void;
  readonly trouble: string | undefined;
  /** Takes a stopped computation up again. */
  readonly onResume: (() => void) | undefined;
}

export const Response = memo(function Response(props: ResponseProps) {
  const { pictures, actions, hovered, onHover, trouble, onResume } = props;
  const [cursor, setCursor] = useState<number>();
  const [editing, setEditing] = useState<string>();
  const grids = usePreferences((p) => p.grids);
  const plots = useLive(pictures.plots);
  const design = pictures.scene.peek().design.id;
  const commands = useHandler((plot: Plot): readonly Command[] => {
    const { design, resolved } = pictures.scene.peek();
    return plotCommands({
      plot,
      plots,
      roles: pictures.roles.peek(),
      design,
      resolved,
      data: pictures.data.peek(),
      answers: pictures.answers.peek(),
      grids,
      waiting: pictures.waiting.peek(),
      edit: setEditing,
    });
  });
  const onMarkerMove = useHandler((id: string, f: number) =>
    behindHand(() => moveMarker(design, id, typedFrequency(f))),
  );
  const onMarkerAdd = useHandler((f: number) => addMarker(design, typedFrequency(f)));
  const onMarkerRemove = useHandler((id: string) => removeMarker(design, id));
  const edited = plots.find((p) => p.id === editing);
  const firstSmith = plots.find((p) => p.show === 'smith');
  return (
    <Panel>
      <Plots>
        {plots.map((plot) => (
          <OnePlot
            key={plot.id}
            plot={plot}
            pictures={pictures}
            actions={plot.show === 'smith' && isSamePlane(plot, firstSmith) ? actions : undefined}
            cursor={cursor}
            hovered={plot.show === 'smith' ? hovered : undefined}
            onHover={onHover}
            grids={grids}
            commands={commands}
            onCursor={setCursor}
            onMarkerMove={onMarkerMove}
            onMarkerAdd={onMarkerAdd}
            onMarkerRemove={onMarkerRemove}
          />
        ))}
        {trouble && (
          <Waiting role="status">
            {trouble} {onResume && <TextButton onPress={onResume}>Compute it</TextButton>}
          </Waiting>
        )}
      </Plots>
      {edited && (
        <Suspense>
          <Dialog plot={edited} pictures={pictures} onClose={() => setEditing(undefined)} />
        </Suspense>
      )}
      <MarkerStrip pictures={pictures} />
    </Panel>
  );
});

const TITLES: Readonly<Record<string, string>> = {
  formula: 'Formulas and limits',
  smith: 'Plane and reference',
};

/** The dialog of a plot, following the design while it is open. */
function Dialog({ plot, pictures, onClose }: { plot: Plot; pictures: Pictures; onClose: () => void }) {
  const { design, resolved } = useLive(pictures.scene);
  const sources = useLive(pictures.sources);
  const roles = useLive(pictures.roles);
  const plots = useLive(pictures.plots);
  return (
    <PlotDialog
      plot={plot}
      design={design}
      values={resolved.values}
      drawn={drawPlot(plot, sources, roles, resolved.values)}
      f0={resolved.f0}
      goal={resolved.goal}
      ports={roles.ports}
      title={TITLES[plot.show] ?? 'Limits'}
      errors={resolved.problems.flatMap((p) =>
        p.place.kind === 'limit' || p.place.kind === 'plane' ? [{ id: p.place.id, message: p.message }] : [],
      )}
      onChange={(label, next) =>
        setPlots(
          design.id,
          label,
          plots.map((p) => (p.id === next.id ? next : p)),
        )
      }
      onClose={onClose}
    />
  );
}

/** Where a Smith chart looks from, in words. */
function placeOf(design: Design, resolved: ResolvedDesign, plot: Plot): string {
  const look = resolved.planes.find((p) => p.plot === plot.id)?.look;
  const piece = look && design.pieces.find((p) => p.id === look.piece);
  if (!piece) return 'port 1';
  return `into ${pinLabel(piece, look.pin)}`;
}

const isSamePlane = (a: Plot, b: Plot | undefined): boolean =>
  a === b ||
  (b !== undefined &&
    a.reference === b.reference &&
    a.look?.piece === b.look?.piece &&
    a.look?.pin === b.look?.pin);

interface OnePlotProps {
  readonly plot: Plot;
  readonly pictures: Pictures;
  /** What is done with the arcs of the way to the plane of this chart. */
  readonly actions: ArcActions | undefined;
  readonly cursor: number | undefined;
  readonly hovered: string | undefined;
  readonly onHover: (piece: string | undefined) => void;
  readonly grids: readonly SmithGridName[];
  readonly commands: (plot: Plot) => readonly Command[];
  readonly onCursor: (f: number | undefined) => void;
  readonly onMarkerMove: (id: string, f: number) => void;
  readonly onMarkerAdd: (f: number) => void;
  readonly onMarkerRemove: (id: string) => void;
}

/** Axes of plots that have no curve yet. */
const EMPTY_RANGE: Readonly<Record<string, readonly [number, number]>> = { dB: [-40, 0], deg: [-180, 180] };
const NO_ARCS: readonly SmithArc[] = [];

/** What is written over a plot: its name, and what is to be known of it. */
function headOf(
  plot: Plot,
  { scene, roles }: Pictures,
  sources: readonly Source[],
  { title, unit, problem, traces }: Drawn,
  limits: ResolvedDesign['limits'],
) {
  const { design, resolved } = scene.value;
  const alone = roles.value.ports === 1 && plot.show === 'match';
  const z0 = sources[0]?.data.z0[0];
  const worst = missed(traces, limits, unit);
  const verdict =
    worst === undefined
      ? undefined
      : worst <= 0
        ? `limits kept by ${formatNumber(-worst, 2)} ${unit}`
        : `limits missed by ${formatNumber(worst, 2)} ${unit}`;
  const about: Readonly<Record<string, () => string | undefined>> = {
    smith: () => `${placeOf(design, resolved, plot)}, z/${formatComplex(z0?.re ?? 50, z0?.im ?? 0)}`,
    match: () => `return loss goal ${formatNumber(resolved.goal)} dB`,
    driven: () => `return loss goal ${formatNumber(resolved.goal)} dB`,
    formula: () => plot.formulas?.join(', '),
  };
  return {
    title: alone ? 'Match at port 1' : plot.show === 'smith' ? 'Smith chart' : title,
    label: alone
      ? 'reflection in decibels over frequency'
      : plot.show === 'smith'
        ? 'reflection on the Smith chart'
        : `${title.toLowerCase()} over frequency`,
    note: verdict ?? about[plot.show]?.(),
    problem,
  };
}

/** The vertical axis of a plot. */
function axisOf(plot: Plot, roles: Roles, drawn: Drawn) {
  return {
    label: roles.ports === 1 && plot.show === 'match' ? '|S11| in dB' : drawn.unit === '1' ? '' : drawn.unit,
    unit: drawn.unit,
    range: axisRange(drawn) ?? EMPTY_RANGE[drawn.unit],
  };
}

/** One picture of the response in its frame. */
const OnePlot = memo(function OnePlot(props: OnePlotProps) {
  const { plot, pictures, actions, cursor, onCursor } = props;
  const svg = useRef<SVGSVGElement>(null);
  const smith = plot.show === 'smith';
  const sources = useMemo(
    () => (smith ? pictures.seen(plot.id) : pictures.sources),
    [smith, plot.id, pictures],
  );
  const drawn = useDerived(
    () =>
      drawPlot(
        plot,
        sources.value,
        pictures.roles.value,
        plot.show === 'formula' ? pictures.values.value : undefined,
      ),
    [plot, sources, pictures],
    Object.is,
  );
  const limits = useDerived(
    () => pictures.limits.value.filter((l) => plot.limits?.some((p) => p.id === l.id)),
    [plot, pictures],
  );
  const head = useLive(
    useDerived(
      () => headOf(plot, pictures, sources.value, drawn.value, limits.value),
      [plot, pictures, sources, drawn, limits],
    ),
  );
  const axis = useLive(
    useDerived(() => axisOf(plot, pictures.roles.value, drawn.value), [plot, pictures, drawn]),
  );
  const y = useMemo(
    (): Axis => ({
      label: axis.label,
      range: axis.range,
      format: (v) =>
        axis.unit === 'dB' && v <= -200 ? 'below \u2212200 dB' : `${formatNumber(v)}\u2009${axis.unit}`,
    }),
    [axis],
  );
  const own = actions !== undefined;
  const reflections = useDerived(
    () => (smith ? smithTraces(sources.value) : []),
    [smith, sources],
    Object.is,
  );
  const smithPicture = useDerived(
    (): SmithPicture => ({
      traces: reflections.value,
      markers: pictures.markers.value,
      waiting: pictures.waiting.value,
      arcs: own ? pictures.arcs.value : NO_ARCS,
      walk: own ? pictures.pointed.value : undefined,
    }),
    [reflections, pictures, own],
    Object.is,
  );
  const rectPicture = useDerived(
    (): RectPicture => ({
      traces: drawn.value.traces,
      markers: pictures.markers.value,
      goal: plot.show === 'match' || plot.show === 'driven' ? pictures.goal.value : undefined,
      limits: limits.value,
      ticks: pictures.resonances.value,
      waiting: pictures.waiting.value,
    }),
    [plot.show, drawn, limits, pictures],
    Object.is,
  );
  const frame = useHandler(() => props.commands(plot));
  const columns = useHandler((): Column[] => {
    const all = smith ? sources.value.filter((s) => s.kind.role !== 'influence') : [];
    const { traces, unit } = drawn.value;
    const first = all[0]?.data.freq ?? traces[0]?.x;
    if (!first) return [];
    const freq = Float64Array.from(first);
    if (smith)
      return [
        { name: 'frequency_Hz', values: freq },
        ...all.flatMap((source): Column[] => {
          const entry = entryOf(source.data, 0, 0);
          const at = (k: number) => interpolate(entry, freq[k]);
          return [
            { name: `S11_${source.name}_re`, values: freq.map((_f, k) => at(k).re) },
            { name: `S11_${source.name}_im`, values: freq.map((_f, k) => at(k).im) },
          ];
        }),
      ];
    return [
      { name: 'frequency_Hz', values: freq },
      ...traces
        .filter((t) => t.kind.role !== 'influence')
        .map((t) => ({
          name: `${t.name ?? t.label}_${unit}`.replace(/\s+/g, '_'),
          values: freq.map((f) => valueAt(t, f)),
        })),
    ];
  });
  return (
    <ChartFrame title={head.title} note={head.note} columns={columns} svg={svg} commands={frame}>
      {smith ? (
        <SmithChart
          label={head.label}
          svg={svg}
          picture={smithPicture}
          cursor={cursor}
          actions={actions}
          hovered={props.hovered}
          onHover={props.onHover}
          grids={props.grids}
        />
      ) : (
        <RectChart
          label={head.label}
          svg={svg}
          picture={rectPicture}
          x={FREQUENCY}
          y={y}
          onCursor={onCursor}
          onMarkerMove={props.onMarkerMove}
          onMarkerEnd={endMerge}
          onMarkerAdd={props.onMarkerAdd}
          onMarkerRemove={props.onMarkerRemove}
        />
      )}
      {head.problem && <Waiting role="status">This cannot be drawn: {head.problem}.</Waiting>}
    </ChartFrame>
  );
});
