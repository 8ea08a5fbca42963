import { lazy, memo, Suspense, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import type { Column } from '@ditch/core/formats';
import { dataBlock, type DataBlock, type Design, type Plot, type ResolvedDesign } from '@ditch/core/network';
import { measures, type Roles } from '@ditch/core/plots';
import { decibels, degrees, entryOf, impedanceOf, interpolate, vswr, type SData } from '@ditch/core/results';
import { formatComplex, formatNumber, formatQuantity } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { valueAt } from '../../charts/domain';
import { FREQUENCY, RectChart, type Axis } from '../../charts/RectChart';
import { SmithChart } from '../../charts/SmithChart';
import type { ChartMarker } from '../../charts/types';
import { Menu, TextButton, type Command } from '../../controls/basics';
import { QuantityInput } from '../../controls/QuantityInput';
import { chooseTouchstone } from '../../store/library';
import { endMerge } from '../../store/session';
import { colour } from '../../theme';
import { useHandler, useStable } from '../../controls/stable';
import { addMarker, addOverlay, moveMarker, removeMarker, setPlots, toggleOverlay } from '../edits';
import { drawPlot, plotsOf, rangeOf, rolesFrom, smithTraces, sourcesOf, type Source } from './plots';
import type { LevelResponse } from './reading';

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
const Strip = styled.div`
  max-height: 122px;
  padding-bottom: 6px;
  overflow: auto;
  border-top: 1px solid ${colour('rule')};
  contain: layout paint;
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12px;
  }
  th {
    color: ${colour('quiet')};
    font-size: 11px;
    font-weight: 400;
    text-align: right;
    height: 31px;
    padding: 1px 10px;
    white-space: nowrap;
  }
  td {
    padding: 0 10px;
    height: 27px;
    text-align: right;
    white-space: nowrap;
  }
  th:first-child,
  td:first-child {
    width: 150px;
    padding-left: 12px;
    text-align: left;
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

type SmithWalk = readonly { readonly re: number; readonly im: number }[] | undefined;

interface ResponseProps {
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly data: readonly DataBlock[];
  readonly ideal: LevelResponse | undefined;
  readonly modelled: LevelResponse | undefined;
  /** The response with the piece that is pointed at a little longer. */
  readonly influence: SData | undefined;
  /** The arc that it draws on the Smith chart at the design frequency. */
  readonly walk: SmithWalk;
  /** The curves belong to values that have changed since, or the design has errors. */
  readonly waiting: boolean;
  readonly trouble: string | undefined;
  /** Takes a stopped computation up again. */
  readonly onResume: (() => void) | undefined;
}

export function Response({
  design,
  resolved,
  data,
  ideal,
  modelled,
  influence,
  walk,
  waiting,
  trouble,
  onResume,
}: ResponseProps) {
  const [cursor, setCursor] = useState<number>();
  const [editing, setEditing] = useState<string>();
  const overlays = useMemo(
    () => design.overlays.flatMap((id) => data.filter((d) => d.id === id)),
    [design.overlays, data],
  );
  const sources = useMemo(
    () => sourcesOf({ ideal: ideal?.data, modelled: modelled?.data, influence }, overlays),
    [ideal, modelled, influence, overlays],
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
  const typed = (f: number) => formatQuantity(f, 'frequency', { digits: 6, typed: true });

  const keep = (level: 'ideal' | 'modelled', response: LevelResponse | undefined): Command => ({
    id: `keep-${level}`,
    group: 'Compare',
    label: `Keep the ${level} curve`,
    disabled: !response || waiting,
    run: () => {
      const zl = resolved.values.get('zl');
      const stack = resolved.stack;
      const name = `${level}${zl ? `, ${formatComplex(zl.re, zl.im, 'impedance', { digits: 3 })}` : ''}${stack ? `, \u03B5r ${formatNumber(stack.substrate.er, 3)}` : ''}`;
      addOverlay(design.id, dataBlock(name, 'kept', response!.data));
    },
  });
  const importData = async () => {
    const block = await chooseTouchstone();
    if (block) addOverlay(design.id, block);
  };
  const arrange = (label: string, next: readonly Plot[]) => setPlots(design.id, label, next);
  const commands = useHandler((plot: Plot): readonly Command[] => {
    const at = plots.findIndex((p) => p.id === plot.id);
    const show = (id: string, name: string): Command => ({
      id: `show-${id}`,
      group: 'Show',
      label: name,
      note: plot.show === id ? 'shown' : undefined,
      run: () => {
        arrange(
          `show ${name.toLowerCase()}`,
          plots.map((p) => (p.id === plot.id ? { id: p.id, show: id, formulas: p.formulas } : p)),
        );
        if (id === 'formula' && !plot.formulas?.length) setEditing(plot.id);
      },
    });
    const swap = (other: number): readonly Plot[] => {
      const next = [...plots];
      [next[at], next[other]] = [next[other], next[at]];
      return next;
    };
    return [
      ...measures.filter((m) => m.available(roles)).map((m) => show(m.id, m.name)),
      show('smith', 'Smith chart'),
      show('formula', 'Formulas on results'),
      {
        id: 'edit',
        group: 'Arrange',
        label: plot.show === 'formula' ? 'Formulas and limits\u2026' : 'Limits\u2026',
        disabled: plot.show === 'smith',
        run: () => setEditing(plot.id),
      },
      {
        id: 'add',
        group: 'Arrange',
        label: 'Add a plot beside it',
        disabled: plots.length >= 6,
        run: () => {
          const free = measures.find((m) => m.available(roles) && !plots.some((p) => p.show === m.id));
          const next = [...plots];
          next.splice(at + 1, 0, { id: `p${Date.now().toString(36)}`, show: free?.id ?? 'match' });
          arrange('add a plot', next);
        },
      },
      {
        id: 'left',
        group: 'Arrange',
        label: 'Move left',
        disabled: at === 0,
        run: () => arrange('move a plot', swap(at - 1)),
      },
      {
        id: 'right',
        group: 'Arrange',
        label: 'Move right',
        disabled: at === plots.length - 1,
        run: () => arrange('move a plot', swap(at + 1)),
      },
      {
        id: 'remove',
        group: 'Arrange',
        label: 'Remove this plot',
        disabled: plots.length === 1,
        run: () =>
          arrange(
            'remove a plot',
            plots.filter((p) => p.id !== plot.id),
          ),
      },
      keep('modelled', modelled),
      keep('ideal', ideal),
      { id: 'import', group: 'Compare', label: 'Import Touchstone\u2026', run: () => void importData() },
      ...data.map((d): Command => ({
        id: `overlay-${d.id}`,
        group: 'Compare',
        label: `${design.overlays.includes(d.id) ? 'Hide' : 'Show'} ${d.name}`,
        run: () => toggleOverlay(design.id, d),
      })),
      {
        id: 'marker',
        group: 'Compare',
        label: 'Add a marker',
        note: 'M',
        disabled: !resolved.sweep,
        run: () =>
          resolved.sweep && addMarker(design.id, typed((resolved.sweep.start + resolved.sweep.stop) / 2)),
      },
    ];
  });

  const band = modelled?.match?.band;
  const goal = useStable({ level: -resolved.goal, from: band?.low, to: band?.high });
  const limits = useStable(resolved.limits);
  const onMarkerMove = useHandler((id: string, f: number) => moveMarker(design.id, id, typed(f)));
  const onMarkerAdd = useHandler((f: number) => addMarker(design.id, typed(f)));
  const onMarkerRemove = useHandler((id: string) => removeMarker(design.id, id));
  const edited = plots.find((p) => p.id === editing);
  return (
    <Panel>
      <Plots>
        {plots.map((plot) => (
          <OnePlot
            key={plot.id}
            plot={plot}
            sources={sources}
            roles={roles}
            markers={markers}
            limits={limits}
            goal={goal}
            goalText={`return loss goal ${formatNumber(resolved.goal)} dB`}
            waiting={waiting}
            cursor={cursor}
            walk={walk}
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
            title={edited.show === 'formula' ? 'Formulas and limits' : 'Limits'}
            errors={resolved.problems.flatMap((p) =>
              p.place.kind === 'limit' ? [{ id: p.place.id, message: p.message }] : [],
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
      <MarkerStrip design={design} resolved={resolved} waiting={waiting} curves={entriesOf(sources)} />
    </Panel>
  );
}

interface OnePlotProps {
  readonly plot: Plot;
  readonly sources: readonly Source[];
  readonly roles: Roles;
  readonly markers: readonly ChartMarker[];
  readonly limits: ResolvedDesign['limits'];
  readonly goal: { readonly level: number; readonly from?: number; readonly to?: number };
  readonly goalText: string;
  readonly waiting: boolean;
  readonly cursor: number | undefined;
  readonly walk: SmithWalk;
  readonly commands: (plot: Plot) => readonly Command[];
  readonly onCursor: (f: number | undefined) => void;
  readonly onMarkerMove: (id: string, f: number) => void;
  readonly onMarkerAdd: (f: number) => void;
  readonly onMarkerRemove: (id: string) => void;
}

/** One picture of the response in its frame. */
const OnePlot = memo(function OnePlot(props: OnePlotProps) {
  const { plot, sources, roles, markers, limits, goal, goalText, waiting, cursor, walk, onCursor } = props;
  const svg = useRef<SVGSVGElement>(null);
  const smith = plot.show === 'smith';
  const drawn = useMemo(() => drawPlot(plot, sources, roles), [plot, sources, roles]);
  const smiths = useMemo(() => (smith ? smithTraces(sources) : []), [smith, sources]);
  const range = useStable(rangeOf(drawn));
  const y = useMemo(
    (): Axis => ({
      label: roles.ports === 1 && plot.show === 'match' ? '|S11| in dB' : drawn.unit,
      range,
      format: (v) =>
        drawn.unit === 'dB' && v <= -200 ? 'below \u2212200 dB' : `${formatNumber(v)}\u2009${drawn.unit}`,
    }),
    [drawn.unit, range, roles.ports, plot.show],
  );
  const own = useMemo(
    () => limits.filter((l) => plot.limits?.some((p) => p.id === l.id)),
    [limits, plot.limits],
  );
  const frame = useHandler(() => props.commands(plot));
  const columns = (): Column[] => {
    const all = smith ? sources.filter((s) => s.stroke !== 'influence') : [];
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
        .filter((t) => t.stroke !== 'influence')
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
        smith
          ? `port 1, z/${formatComplex(z0?.re ?? 50, z0?.im ?? 0)}`
          : plot.show === 'match' || plot.show === 'driven'
            ? goalText
            : plot.show === 'formula'
              ? plot.formulas?.join(', ')
              : undefined
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
          walk={walk}
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

/** An entry of S that the markers can read. */
interface Curve {
  readonly id: string;
  readonly label: string;
  readonly stroke: 'ideal' | 'modelled';
  readonly data: SData;
  readonly i: number;
  readonly j: number;
}

/** What a wave into port 1 becomes, and the other ports' matches, of both levels. */
function entriesOf(sources: readonly Source[]): Curve[] {
  return sources.flatMap((source) => {
    const { stroke, data } = source;
    if (stroke !== 'ideal' && stroke !== 'modelled') return [];
    const n = data.ports;
    const pairs = [
      ...Array.from({ length: n }, (_, i) => [i, 0]),
      ...Array.from({ length: n - 1 }, (_, i) => [i + 1, i + 1]),
      ...(n === 3 ? [[2, 1]] : []),
    ];
    return pairs.map(([i, j]) => {
      const name = `S${i + 1}${j + 1}`;
      return { id: `${stroke}-${name}`, label: n === 1 ? stroke : `${name} ${stroke}`, stroke, data, i, j };
    });
  });
}

/** The markers in numbers, a row each; the rows read the curve at the modelled level and the level below it. */
function MarkerStrip({
  design,
  resolved,
  waiting,
  curves,
}: {
  design: Design;
  resolved: ResolvedDesign;
  waiting: boolean;
  curves: readonly Curve[];
}) {
  const [chosen, setChosen] = useState<string>();
  const curve = curves.find((c) => c.id === chosen) ?? curves[0];
  const ideal = curves.find((c) => c.stroke === 'ideal' && c.i === curve?.i && c.j === curve?.j);
  return (
    <Strip role="region" aria-label="Markers" tabIndex={0}>
      <table>
        <thead>
          <tr>
            <th scope="col">
              Markers{' '}
              {curves.length > 1 && (
                <Menu
                  label={<span style={{ fontSize: 11 }}>read {curve?.label} ▾</span>}
                  ariaLabel="curve that the markers read"
                  commands={() =>
                    curves.map((c) => ({ id: c.id, label: c.label, run: () => setChosen(c.id) }))
                  }
                />
              )}
            </th>
            <th scope="col">dB</th>
            <th scope="col">dB, ideal</th>
            <th scope="col">magnitude ∠ angle</th>
            <th scope="col">VSWR</th>
            <th scope="col">impedance</th>
            <th scope="col" aria-label="remove" />
          </tr>
        </thead>
        <tbody>
          {design.markers.map((marker) => {
            const at = resolved.markers.find((m) => m.id === marker.id)?.freq;
            const problem = resolved.problems.find(
              (p) => p.place.kind === 'marker' && p.place.id === marker.id,
            );
            const inside =
              !waiting &&
              curve &&
              at !== undefined &&
              at >= curve.data.freq[0] &&
              at <= curve.data.freq[curve.data.freq.length - 1];
            const s = inside ? interpolate(entryOf(curve.data, curve.i, curve.j), at) : undefined;
            const si = inside && ideal ? interpolate(entryOf(ideal.data, ideal.i, ideal.j), at) : undefined;
            const z = s && curve.i === curve.j ? impedanceOf(s.re, s.im, curve.data.z0[curve.i]) : undefined;
            const level = (x: { re: number; im: number } | undefined) => {
              if (!x) return '\u2013';
              const dB = decibels(x.re, x.im);
              return dB < -200 ? 'below \u2212200' : formatNumber(Math.round(dB * 1e6) / 1e6);
            };
            return (
              <tr key={marker.id}>
                <td>
                  <QuantityInput
                    label="marker frequency"
                    help="Where the marker stands: a frequency or an expression such as f0 or 2*f0. A marker at a plain frequency can also be dragged in the chart."
                    value={marker.freq}
                    error={problem?.message}
                    onChange={(text) => moveMarker(design.id, marker.id, text)}
                  />
                </td>
                {at !== undefined && !inside && !waiting ? (
                  <td colSpan={5} style={{ color: colour('quiet') }}>
                    {formatQuantity(at, 'frequency', { digits: 5 })} lies outside the sweep
                  </td>
                ) : (
                  <>
                    <td>{level(s)}</td>
                    <td>{level(si)}</td>
                    <td>
                      {s
                        ? `${formatNumber(Math.hypot(s.re, s.im))} ∠ ${formatNumber(Math.round(degrees(s.re, s.im) * 1e3) / 1e3)}°`
                        : '\u2013'}
                    </td>
                    <td>{s && z ? formatNumber(vswr(s.re, s.im)) : '\u2013'}</td>
                    <td>{z ? formatComplex(z.re, z.im) : '\u2013'}</td>
                  </>
                )}
                <td>
                  <TextButton
                    aria-label={`Remove marker ${marker.freq}`}
                    onPress={() => removeMarker(design.id, marker.id)}
                  >
                    remove
                  </TextButton>
                </td>
              </tr>
            );
          })}
          {design.markers.length === 0 && (
            <tr>
              <td colSpan={7} style={{ color: colour('quiet') }}>
                No markers. Press M in the chart to set one at the cursor.
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </Strip>
  );
}
