import { useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import type { Column } from '@ditch/core/formats';
import { dataBlock, dataOf, type DataBlock, type Design, type ResolvedDesign } from '@ditch/core/network';
import {
  decibels,
  degrees,
  flooredDecibels,
  entryOf,
  impedanceOf,
  interpolate,
  renormalise,
  vswr,
  type SData,
} from '@ditch/core/results';
import { formatComplex, formatNumber, formatQuantity } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { RectChart, type Axis } from '../../charts/RectChart';
import { SmithChart, type SmithTrace } from '../../charts/SmithChart';
import type { ChartMarker, Stroke, Trace } from '../../charts/types';
import { Menu, TextButton, type Command } from '../../controls/basics';
import { QuantityInput } from '../../controls/QuantityInput';
import { chooseTouchstone } from '../../store/library';
import { endMerge } from '../../store/session';
import { colour, type ColourName } from '../../theme';
import { useHandler, useStable } from '../../controls/stable';
import { addMarker, addOverlay, moveMarker, removeMarker, toggleOverlay } from '../edits';
import { levelOf, type LevelResponse } from './reading';

const Panel = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(260px, 34%);
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
  height: 100%;
  background: ${colour('raised')};
`;
const Strip = styled.div`
  grid-column: 1 / -1;
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
    padding: 3px 10px 1px;
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

/** Colours of the quantities; a level never changes the colour, only the stroke. */
const entryColours: readonly ColourName[] = ['trace1', 'trace2', 'trace3', 'trace4', 'trace5', 'trace6'];
const overlayColours: readonly ColourName[] = ['trace2', 'trace4', 'trace5', 'trace6', 'trace3'];

const FREQUENCY: Axis = {
  label: 'GHz',
  scale: 1e-9,
  format: (f) => formatQuantity(f, 'frequency', { digits: 5 }),
};
const formatLevel = (v: number): string => (v <= -200 ? 'below \u2212200 dB' : `${formatNumber(v)}\u2009dB`);

interface ResponseProps {
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly data: readonly DataBlock[];
  readonly ideal: LevelResponse | undefined;
  readonly modelled: LevelResponse | undefined;
  /** The curves belong to values that have changed since, or the design has errors. */
  readonly waiting: boolean;
  readonly trouble: string | undefined;
  /** Takes a stopped computation up again. */
  readonly onResume: (() => void) | undefined;
}

interface Curve {
  readonly id: string;
  readonly label: string;
  readonly colour: ColourName;
  readonly stroke: Stroke;
  readonly data: SData;
  readonly i: number;
  readonly j: number;
}

export function Response({
  design,
  resolved,
  data,
  ideal,
  modelled,
  waiting,
  trouble,
  onResume,
}: ResponseProps) {
  const rectSvg = useRef<SVGSVGElement>(null);
  const smithSvg = useRef<SVGSVGElement>(null);
  const [cursor, setCursor] = useState<number>();

  const overlays = useMemo(
    () => design.overlays.flatMap((id) => data.filter((d) => d.id === id)),
    [design.overlays, data],
  );

  const curves = useMemo((): Curve[] => {
    const list: Curve[] = [];
    const add = (level: 'ideal' | 'modelled', response: LevelResponse | undefined) => {
      if (!response) return;
      const n = response.data.ports;
      for (let i = 0; i < Math.min(n, entryColours.length); i++) {
        const name = `S${i + 1}1`;
        list.push({
          id: `${level}-${name}`,
          label: n === 1 ? level : `${name} ${level}`,
          colour: entryColours[i],
          stroke: level,
          data: response.data,
          i,
          j: 0,
        });
      }
    };
    add('modelled', modelled);
    add('ideal', ideal);
    // Imported data is compared at the reference of the design's own first port.
    const z0 = (modelled ?? ideal)?.data.z0[0];
    overlays.forEach((block, k) => {
      const own = dataOf(block);
      const same = z0 && own.z0.every((z) => z.re === z0.re && z.im === z0.im);
      list.push({
        id: block.id,
        label: block.name,
        colour: overlayColours[k % overlayColours.length],
        stroke: 'data',
        data:
          z0 && !same
            ? renormalise(
                own,
                own.z0.map(() => z0),
              )
            : own,
        i: 0,
        j: 0,
      });
    });
    return list;
  }, [ideal, modelled, overlays]);

  const traces = useMemo(
    (): Trace[] =>
      curves.map((c) => {
        const entry = entryOf(c.data, c.i, c.j);
        const label = c.label.length > 16 ? `${c.label.slice(0, 15)}\u2026` : c.label;
        return { id: c.id, label, colour: c.colour, stroke: c.stroke, x: entry.freq, y: levelOf(entry) };
      }),
    [curves],
  );
  const smithTraces = useMemo(
    (): SmithTrace[] =>
      curves
        .filter((c) => c.i === c.j)
        .map((c) => {
          const entry = entryOf(c.data, c.i, c.j);
          return {
            id: c.id,
            label: c.label,
            colour: c.colour,
            stroke: c.stroke,
            freq: entry.freq,
            re: entry.re,
            im: entry.im,
            z0: c.data.z0[c.i],
          };
        }),
    [curves],
  );

  const range = useMemo((): [number, number] => {
    let low = -20;
    for (const t of traces) for (let k = 0; k < t.y.length; k++) if (t.y[k] < low) low = t.y[k];
    return [Math.max(-60, Math.floor(low / 10) * 10), 0];
  }, [traces]);

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

  const columns = (): Column[] => {
    const first = curves[0];
    if (!first) return [];
    const out: Column[] = [{ name: 'frequency_Hz', values: first.data.freq }];
    for (const c of curves) {
      const entry = entryOf(c.data, c.i, c.j);
      const at = (k: number) => interpolate(entry, first.data.freq[k]);
      const each = (f: (s: { re: number; im: number }) => number) =>
        Float64Array.from(first.data.freq, (_f, k) => f(at(k)));
      out.push(
        { name: `${c.label}_dB`, values: each((s) => flooredDecibels(s.re, s.im)) },
        { name: `${c.label}_deg`, values: each((s) => degrees(s.re, s.im)) },
        { name: `${c.label}_re`, values: each((s) => s.re) },
        { name: `${c.label}_im`, values: each((s) => s.im) },
      );
    }
    return out;
  };

  const keep = (level: 'ideal' | 'modelled', response: LevelResponse | undefined): Command => ({
    id: `keep-${level}`,
    label: `Keep the ${level} curve`,
    note: 'to compare',
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
  const commands = (): Command[] => [
    keep('modelled', modelled),
    keep('ideal', ideal),
    { id: 'import', label: 'Import Touchstone\u2026', note: 'to compare', run: () => void importData() },
    ...data
      .filter((d) => design.overlays.includes(d.id) || d.origin === 'imported' || d.origin === 'kept')
      .map((d): Command => ({
        id: `overlay-${d.id}`,
        label: `${design.overlays.includes(d.id) ? 'Hide' : 'Show'} ${d.name}`,
        run: () => toggleOverlay(design.id, d),
      })),
    {
      id: 'marker',
      label: 'Add a marker',
      note: 'M',
      disabled: !resolved.sweep,
      run: () =>
        resolved.sweep && addMarker(design.id, typed((resolved.sweep.start + resolved.sweep.stop) / 2)),
    },
  ];

  const band = modelled?.match?.band;
  const ports = (modelled ?? ideal)?.data.ports ?? 1;
  const goal = useStable({ level: -resolved.goal, from: band?.low, to: band?.high });
  const yAxis = useMemo(
    (): Axis => ({ label: ports === 1 ? '|S11| in dB' : 'dB', range, format: formatLevel }),
    [ports, range],
  );
  const onMarkerMove = useHandler((id: string, f: number) => moveMarker(design.id, id, typed(f)));
  const onMarkerAdd = useHandler((f: number) => addMarker(design.id, typed(f)));
  const onMarkerRemove = useHandler((id: string) => removeMarker(design.id, id));
  return (
    <Panel>
      <ChartFrame
        title={ports === 1 ? 'Match at port 1' : 'Response'}
        note={`return loss goal ${formatNumber(resolved.goal)} dB`}
        columns={columns}
        svg={rectSvg}
        commands={commands}
      >
        <RectChart
          label="reflection in decibels over frequency"
          svg={rectSvg}
          traces={traces}
          x={FREQUENCY}
          y={yAxis}
          markers={markers}
          goal={goal}
          waiting={waiting}
          onCursor={setCursor}
          onMarkerMove={onMarkerMove}
          onMarkerEnd={endMerge}
          onMarkerAdd={onMarkerAdd}
          onMarkerRemove={onMarkerRemove}
        />
        {trouble && (
          <Waiting role="status">
            {trouble} {onResume && <TextButton onPress={onResume}>Compute it</TextButton>}
          </Waiting>
        )}
      </ChartFrame>
      <ChartFrame
        title="Smith chart"
        note={`z/${formatComplex(modelled?.data.z0[0].re ?? 50, modelled?.data.z0[0].im ?? 0)}`}
        columns={columns}
        svg={smithSvg}
      >
        <SmithChart
          label="reflection on the Smith chart"
          svg={smithSvg}
          traces={smithTraces}
          markers={markers}
          waiting={waiting}
          cursor={cursor}
        />
      </ChartFrame>
      <MarkerStrip
        design={design}
        resolved={resolved}
        waiting={waiting}
        curves={curves.filter((c) => c.stroke !== 'data')}
      />
    </Panel>
  );
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
              return dB < -200 ? 'below \u2212200' : formatNumber(dB);
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
