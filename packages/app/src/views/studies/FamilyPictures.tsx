import { useMemo, useRef, type RefObject } from 'react';
import type { LevelId } from '@ditch/core/levels';
import type { CurveReading } from '@ditch/core/plots';
import { drivingOf, type FamilyValues } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import type { Family } from '../../bridge/studying';
import { ChartFrame } from '../../charts/ChartFrame';
import { FREQUENCY, PlainRectChart, type Axis } from '../../charts/RectChart';
import type { Trace } from '../../charts/types';
import { axisRange } from '../design/plots';
import { FamilyMap } from './FamilyMap';
import { Work } from './layout';

/** Members whose names have room at their curves. */
const NAMED = 9;

/** Which of so many members are named at their curves. */
const isNamed = (i: number, count: number): boolean =>
  count <= NAMED || i === 0 || i === count - 1 || i % Math.ceil(count / (NAMED - 1)) === 0;

/** A value of an axis as it is read. */
export const told = ({ kind }: Pick<FamilyValues, 'kind'>, value: number): string =>
  formatQuantity(value, kind, { digits: 5 });

/** The samples of one curve of a member. */
function samples({ curves: { curves, y, freq } }: Family, member: number, curve: string): Float32Array {
  const c = curves.findIndex((own) => own.id === curve);
  const begin = (member * curves.length + c) * freq.length;
  return y.subarray(begin, begin + freq.length);
}

export const readOff = (
  family: Family,
  member: number,
  curve: string,
  reading: CurveReading,
  f0: number,
): number => reading.of(family.curves.freq, samples(family, member, curve), f0);

/** A reading as a person reads it. */
export const toldReading = (value: number, { isFrequency }: CurveReading, unit: string): string =>
  !Number.isFinite(value)
    ? '\u2013'
    : isFrequency
      ? formatQuantity(value, 'frequency', { digits: 5 })
      : `${formatNumber(value, 4)}${unit === '1' ? '' : `\u2009${unit}`}`;

/** A family that was kept, to be drawn beside the present one. */
export interface Beside {
  readonly name: string;
  readonly family: Family;
}

/** The curves of a family over frequency, and what is read off them over its values. */
export function FamilyPictures({
  title,
  family,
  curve,
  reading,
  f0,
  level,
  beside,
  ceiling,
  pointed,
  onPoint,
  waiting,
  progress,
}: {
  title: string;
  family: Family;
  curve: { readonly id: string; readonly label: string };
  reading: CurveReading;
  f0: number;
  level: LevelId;
  beside: Beside | undefined;
  ceiling: number | undefined;
  pointed: number | undefined;
  onPoint: (member: number | undefined) => void;
  waiting: boolean;
  progress: number | undefined;
}) {
  const upper = useRef<SVGSVGElement>(null);
  const lower = useRef<SVGSVGElement>(null);
  const { axes, members, curves } = family;
  const { freq, unit } = curves;
  const [first, second] = axes;
  const traces = useMemo(
    () =>
      members.flatMap((values, m): Trace[] => {
        if (curves.failed[m] !== undefined) return [];
        const place = first.values.indexOf(values[0]);
        const name = values.map((v, a) => told(axes[a], v)).join(', ');
        return [
          {
            id: String(m),
            label: name,
            name: `${curve.label} ${name}`,
            unlabelled: !isNamed(m, members.length),
            colour: m === pointed ? 'trace2' : 'trace3',
            kind: { role: 'level', level },
            shade: m === pointed ? 1 : first.values.length < 2 ? 1 : place / (first.values.length - 1),
            x: freq,
            y: samples(family, m, curve.id),
          },
        ];
      }),
    [family, members, curves, axes, first, freq, curve, level, pointed],
  );
  // What was kept lies below, what is pointed at above all others.
  const laid = useMemo(
    () =>
      beside?.family.curves.curves.some((c) => c.id === curve.id)
        ? beside.family.members.flatMap((values, m): Trace[] =>
            beside.family.curves.failed[m] !== undefined
              ? []
              : [
                  {
                    id: `beside ${m}`,
                    label: beside.name,
                    name: `${beside.name}: ${curve.label} ${values.map((v, a) => told(beside.family.axes[a], v)).join(', ')}`,
                    unlabelled: true,
                    colour: 'quiet',
                    kind: { role: 'overlay' },
                    x: beside.family.curves.freq,
                    y: samples(beside.family, m, curve.id),
                  },
                ],
          )
        : [],
    [beside, curve],
  );
  const drawn = useMemo(
    () => [
      ...laid,
      ...[...traces].sort((a, b) => Number(a.id === String(pointed)) - Number(b.id === String(pointed))),
    ],
    [laid, traces, pointed],
  );
  const y = useMemo(
    (): Axis => ({
      label: unit === '1' ? '' : unit,
      range: axisRange({ title, unit, ceiling, traces }),
      format: (v) => `${formatNumber(v, 4)}${unit === '1' ? '' : `\u2009${unit}`}`,
    }),
    [unit, title, ceiling, traces],
  );
  const markers = useMemo(() => [{ id: 'f0', label: 'f0', x: f0, fixed: true }], [f0]);
  const readings = useMemo(
    () => members.map((_v, m) => readOff(family, m, curve.id, reading, f0)),
    [members, family, curve, reading, f0],
  );
  // Over the same value what was kept is read off beside it.
  const besideReadings = useMemo(() => {
    const own = beside?.family;
    if (!own || own.axes.length !== 1 || own.axes[0].key !== first.key) return undefined;
    return own.members.map(([x], m) => ({ x, y: readOff(own, m, curve.id, reading, f0) }));
  }, [beside, first, curve, reading, f0]);
  const readUnit = reading.isFrequency ? 'Hz' : unit;
  const by = `${curve.label} ${reading.label}`;
  const columns = () => [
    ...axes.map((a, i) => ({ name: a.label, values: members.map((v) => v[i]) })),
    { name: `${by}_${readUnit}`, values: readings },
  ];
  return (
    <Work>
      <ChartFrame
        title={`${curve.label}, ${title.toLowerCase()}`}
        note={
          progress !== undefined && progress < 1
            ? `computing, ${Math.round(100 * progress)} %`
            : `${members.length} members over ${axes.map((a) => a.label).join(' and ')}; light to dark as ${first.label} grows`
        }
        svg={upper}
        columns={() => [
          { name: 'frequency_Hz', values: freq },
          ...[...traces, ...laid].map((t) => ({ name: `${t.name}_${unit}`, values: Array.from(t.y) })),
        ]}
      >
        <PlainRectChart
          label={`${curve.label} of every member over frequency`}
          svg={upper}
          traces={drawn}
          markers={markers}
          x={FREQUENCY}
          y={y}
          waiting={waiting}
        />
      </ChartFrame>
      <ChartFrame
        title={by}
        note={second ? `over ${first.label} and ${second.label}` : `over ${first.label}`}
        svg={lower}
        columns={columns}
      >
        {second ? (
          <FamilyMap
            svg={lower}
            axes={[first, second]}
            values={readings}
            format={(v) => toldReading(v, reading, unit)}
            pointed={pointed}
            onPoint={onPoint}
          />
        ) : (
          <OverValue
            svg={lower}
            axis={first}
            readings={readings}
            beside={besideReadings}
            label={by}
            reading={reading}
            unit={unit}
            waiting={waiting}
          />
        )}
      </ChartFrame>
    </Work>
  );
}

/** What axes are drawn in, by kind of quantity. */
const SCALES: Readonly<Record<string, { readonly label: string; readonly scale: number }>> = {
  length: { label: 'mm', scale: 1e3 },
  frequency: { label: 'GHz', scale: 1e-9 },
  impedance: { label: '\u03A9', scale: 1 },
  angle: { label: 'deg', scale: 180 / Math.PI },
  capacitance: { label: 'pF', scale: 1e12 },
  inductance: { label: 'nH', scale: 1e9 },
  level: { label: 'dB', scale: 1 },
};

/** One reading over one value. */
function OverValue({
  svg,
  axis,
  readings,
  beside,
  label,
  reading,
  unit,
  waiting,
}: {
  svg: RefObject<SVGSVGElement | null>;
  axis: FamilyValues;
  readings: readonly number[];
  /** The same of a family that was kept. */
  beside: readonly { readonly x: number; readonly y: number }[] | undefined;
  label: string;
  reading: CurveReading;
  unit: string;
  waiting: boolean;
}) {
  const trace = useMemo((): Trace => {
    const order = axis.values.map((x, i) => ({ x, y: readings[i] })).sort((a, b) => a.x - b.x);
    return {
      id: 'reading',
      label: reading.label,
      unlabelled: true,
      colour: 'trace3',
      kind: { role: 'level', level: 'modelled' },
      x: order.map((p) => p.x),
      y: order.map((p) => p.y),
    };
  }, [axis, readings, reading]);
  const { label: xUnit, scale } = SCALES[axis.kind] ?? { label: '', scale: 1 };
  const x = useMemo(
    (): Axis => ({ label: xUnit, scale, format: (v) => told(axis, v) }),
    [xUnit, scale, axis],
  );
  const y = useMemo((): Axis => {
    const finite = [...readings, ...(beside ?? []).map((p) => p.y)].filter(Number.isFinite);
    const [low, high] = [Math.min(...finite), Math.max(...finite)];
    const pad = Math.max(0.08 * (high - low), 1e-6 * Math.abs(high), 1e-12);
    return {
      label: reading.isFrequency ? 'GHz' : unit === '1' ? '' : unit,
      scale: reading.isFrequency ? 1e-9 : 1,
      ...(finite.length > 0 && { range: [low - pad, high + pad] }),
      format: (v) => toldReading(v, reading, unit),
    };
  }, [readings, beside, reading, unit]);
  // How ports are driven is nothing that the design has.
  const markers = useMemo(
    () => (drivingOf(axis.key) ? [] : [{ id: 'now', label: 'now', x: axis.now, fixed: true }]),
    [axis],
  );
  const traces = useMemo((): Trace[] => {
    if (!beside) return [trace];
    const order = [...beside].sort((a, b) => a.x - b.x);
    return [
      {
        ...trace,
        id: 'beside',
        colour: 'quiet',
        kind: { role: 'overlay' },
        x: order.map((p) => p.x),
        y: order.map((p) => p.y),
      },
      trace,
    ];
  }, [trace, beside]);
  return (
    <PlainRectChart
      label={`${label} over ${axis.label}`}
      svg={svg}
      traces={traces}
      markers={markers}
      x={x}
      y={y}
      waiting={waiting}
    />
  );
}
