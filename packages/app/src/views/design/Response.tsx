import { lazy, memo, Suspense, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import type { Column } from '@ditch/core/formats';
import type { DataBlock, Design, Plot, ResolvedDesign } from '@ditch/core/network';
import type { Roles } from '@ditch/core/plots';
import { entryOf, interpolate, type MatchReading, type SData } from '@ditch/core/results';
import { formatComplex, formatNumber, formatQuantity } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { valueAt } from '../../charts/domain';
import { FREQUENCY, RectChart, type Axis } from '../../charts/RectChart';
import { SmithChart } from '../../charts/SmithChart';
import type { Walk } from '../../charts/SmithPath';
import type { SmithGridName } from '../../charts/SmithGrid';
import type { ChartMarker } from '../../charts/types';
import { TextButton, type Command } from '../../controls/basics';
import { behindHand, endMerge } from '../../store/session';
import { colour } from '../../theme';
import { useHandler, useStable } from '../../controls/stable';
import { addMarker, moveMarker, removeMarker, setPlots } from '../edits';
import { usePreferences } from '../hooks';
import { MarkerStrip } from './MarkerStrip';
import {
  drawPlot,
  missed,
  plotsOf,
  axisRange,
  rolesFrom,
  smithTraces,
  sourcesOf,
  type LevelData,
  type Source,
} from './plots';
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
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly data: readonly DataBlock[];
  /** What each level answers, the least true to the copper first. */
  readonly answers: readonly LevelData[];
  /** The match at the level that counts. */
  readonly match: MatchReading | undefined;
  /** The response with the piece that is pointed at a little longer. */
  readonly influence: SData | undefined;
  /** Attempts drawn beside it. */
  readonly beside: readonly { readonly id: string; readonly name: string; readonly data: SData }[];
  /** What the Smith charts see that look from elsewhere than port 1, by plot. */
  readonly seen: readonly (LevelData & { readonly plot: string })[];
  /** The way from the load to the plane of the first Smith chart, and what is done with it. */
  readonly walk: Walk;
  readonly hovered: string | undefined;
  readonly onHover: (piece: string | undefined) => void;
  /** The curves belong to values that have changed since, or the design has errors. */
  readonly waiting: boolean;
  readonly trouble: string | undefined;
  /** Takes a stopped computation up again. */
  readonly onResume: (() => void) | undefined;
}

export const Response = memo(function Response({
  design,
  resolved,
  data,
  answers,
  match,
  influence,
  beside,
  seen,
  walk,
  hovered,
  onHover,
  waiting,
  trouble,
  onResume,
}: ResponseProps) {
  const [cursor, setCursor] = useState<number>();
  const [editing, setEditing] = useState<string>();
  const grids = usePreferences((p) => p.grids);
  const overlays = useMemo(
    () => design.overlays.flatMap((id) => data.filter((d) => d.id === id)),
    [design.overlays, data],
  );
  const sources = useMemo(
    () => [
      ...sourcesOf(answers, influence, overlays),
      ...beside.map((b): Source => ({ ...b, kind: { role: 'overlay' } })),
    ],
    [answers, influence, overlays, beside],
  );
  const seenSources = useMemo(
    () =>
      new Map(
        [...new Set(seen.map((s) => s.plot))].map((plot) => [
          plot,
          sourcesOf(
            seen.filter((s) => s.plot === plot),
            undefined,
            [],
          ),
        ]),
      ),
    [seen],
  );
  const roles = useStable(rolesFrom(sources, resolved.f0));
  const plots = useStable(plotsOf(design, roles));
  const markers: ChartMarker[] = useStable(
    resolved.markers.map((m) => {
      const text = design.markers.find((d) => d.id === m.id)?.freq ?? '';
      return {
        id: m.id,
        label: formatQuantity(m.freq, 'frequency', { digits: 5 }),
        x: m.freq,
        fixed: !/^\s*[+\d.]/.test(text),
      };
    }),
  );
  const arrange = (label: string, next: readonly Plot[]) => setPlots(design.id, label, next);
  const commands = useHandler((plot: Plot): readonly Command[] =>
    plotCommands({ plot, plots, roles, design, resolved, data, answers, grids, waiting, edit: setEditing }),
  );

  const band = match?.band;
  const goal = useStable({ level: -resolved.goal, from: band?.low, to: band?.high });
  const limits = useStable(resolved.limits);
  const onMarkerMove = useHandler((id: string, f: number) =>
    behindHand(() => moveMarker(design.id, id, typedFrequency(f))),
  );
  const onMarkerAdd = useHandler((f: number) => addMarker(design.id, typedFrequency(f)));
  const onMarkerRemove = useHandler((id: string) => removeMarker(design.id, id));
  const edited = plots.find((p) => p.id === editing);
  const firstSmith = plots.find((p) => p.show === 'smith');
  return (
    <Panel>
      <Plots>
        {plots.map((plot) => (
          <OnePlot
            key={plot.id}
            plot={plot}
            sources={(plot.show === 'smith' ? seenSources.get(plot.id) : undefined) ?? sources}
            place={placeOf(design, resolved, plot)}
            roles={roles}
            markers={markers}
            limits={limits}
            values={plot.show === 'formula' ? resolved.values : undefined}
            goal={goal}
            goalText={`return loss goal ${formatNumber(resolved.goal)} dB`}
            waiting={waiting}
            cursor={cursor}
            walk={plot.show === 'smith' && isSamePlane(plot, firstSmith) ? walk : undefined}
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
          <PlotDialog
            plot={edited}
            design={design}
            values={resolved.values}
            drawn={drawPlot(edited, sources, roles, resolved.values)}
            f0={resolved.f0}
            goal={resolved.goal}
            ports={roles.ports}
            title={
              edited.show === 'formula'
                ? 'Formulas and limits'
                : edited.show === 'smith'
                  ? 'Plane and reference'
                  : 'Limits'
            }
            errors={resolved.problems.flatMap((p) =>
              p.place.kind === 'limit' || p.place.kind === 'plane'
                ? [{ id: p.place.id, message: p.message }]
                : [],
            )}
            onChange={(label, next) =>
              arrange(
                label,
                plots.map((p) => (p.id === next.id ? next : p)),
              )
            }
            onClose={() => setEditing(undefined)}
          />
        </Suspense>
      )}
      <MarkerStrip design={design} resolved={resolved} waiting={waiting} sources={sources} />
    </Panel>
  );
});

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
  /** Where a Smith chart looks from. */
  readonly place: string;
  readonly sources: readonly Source[];
  readonly roles: Roles;
  readonly markers: readonly ChartMarker[];
  readonly limits: ResolvedDesign['limits'];
  /** Named values that formulas know. */
  readonly values: ResolvedDesign['values'] | undefined;
  readonly goal: { readonly level: number; readonly from?: number; readonly to?: number };
  readonly goalText: string;
  readonly waiting: boolean;
  readonly cursor: number | undefined;
  readonly walk: Walk | undefined;
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

/** One picture of the response in its frame. */
const OnePlot = memo(function OnePlot(props: OnePlotProps) {
  const { plot, sources, roles, markers, limits, values, goal, goalText, waiting, cursor, walk, onCursor } =
    props;
  const svg = useRef<SVGSVGElement>(null);
  const smith = plot.show === 'smith';
  const drawn = useMemo(() => drawPlot(plot, sources, roles, values), [plot, sources, roles, values]);
  const smiths = useMemo(() => (smith ? smithTraces(sources) : []), [smith, sources]);
  const range = useStable(axisRange(drawn));
  const y = useMemo(
    (): Axis => ({
      label:
        roles.ports === 1 && plot.show === 'match' ? '|S11| in dB' : drawn.unit === '1' ? '' : drawn.unit,
      range: range ?? EMPTY_RANGE[drawn.unit],
      format: (v) =>
        drawn.unit === 'dB' && v <= -200 ? 'below \u2212200 dB' : `${formatNumber(v)}\u2009${drawn.unit}`,
    }),
    [drawn.unit, range, roles.ports, plot.show],
  );
  const own = useMemo(
    () => limits.filter((l) => plot.limits?.some((p) => p.id === l.id)),
    [limits, plot.limits],
  );
  const verdict = useMemo(() => {
    const worst = missed(drawn.traces, own);
    return worst === undefined
      ? undefined
      : worst <= 0
        ? `limits kept, ${formatNumber(-worst, 2)} ${drawn.unit} to spare`
        : `limits missed by ${formatNumber(worst, 2)} ${drawn.unit}`;
  }, [drawn, own]);
  const frame = useHandler(() => props.commands(plot));
  const columns = (): Column[] => {
    const all = smith ? sources.filter((s) => s.kind.role !== 'influence') : [];
    const first = all[0]?.data.freq ?? drawn.traces[0]?.x;
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
      ...drawn.traces
        .filter((t) => t.kind.role !== 'influence')
        .map((t) => ({
          name: `${t.name ?? t.label}_${drawn.unit}`.replace(/\s+/g, '_'),
          values: freq.map((f) => valueAt(t, f)),
        })),
    ];
  };
  const title =
    roles.ports === 1 && plot.show === 'match' ? 'Match at port 1' : smith ? 'Smith chart' : drawn.title;
  const z0 = sources[0]?.data.z0[0];
  return (
    <ChartFrame
      title={title}
      note={
        verdict ??
        (smith
          ? `${props.place}, z/${formatComplex(z0?.re ?? 50, z0?.im ?? 0)}`
          : plot.show === 'match' || plot.show === 'driven'
            ? goalText
            : plot.show === 'formula'
              ? plot.formulas?.join(', ')
              : undefined)
      }
      columns={columns}
      svg={svg}
      commands={frame}
    >
      {smith ? (
        <SmithChart
          label="reflection on the Smith chart"
          svg={svg}
          traces={smiths}
          markers={markers}
          waiting={waiting}
          cursor={cursor}
          walk={walk?.pointed}
          arcs={walk?.arcs}
          actions={walk?.actions}
          hovered={props.hovered}
          onHover={props.onHover}
          grids={props.grids}
        />
      ) : (
        <RectChart
          label={
            plot.show === 'match' && roles.ports === 1
              ? 'reflection in decibels over frequency'
              : `${drawn.title.toLowerCase()} over frequency`
          }
          svg={svg}
          traces={drawn.traces}
          x={FREQUENCY}
          y={y}
          markers={markers}
          goal={plot.show === 'match' || plot.show === 'driven' ? goal : undefined}
          limits={own}
          waiting={waiting}
          onCursor={onCursor}
          onMarkerMove={props.onMarkerMove}
          onMarkerEnd={endMerge}
          onMarkerAdd={props.onMarkerAdd}
          onMarkerRemove={props.onMarkerRemove}
        />
      )}
      {drawn.problem && <Waiting role="status">This cannot be drawn: {drawn.problem}.</Waiting>}
    </ChartFrame>
  );
});
