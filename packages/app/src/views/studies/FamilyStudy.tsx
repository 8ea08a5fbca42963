import { useMemo, useRef, useState, type RefObject } from 'react';
import styled from 'styled-components';
import { measureOf, curveReadings, rolesOf, type CurveReading } from '@ditch/core/plots';
import { liveLevels, type LiveId } from '@ditch/core/levels';
import { circuitOf, simulate, dataFinder, type FamilyAxis } from '@ditch/core/network';
import { familyKeys, tuned, usualValues, type FamilyValues } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { run } from '../../bridge/bridge';
import { ChartFrame } from '../../charts/ChartFrame';
import { FREQUENCY, PlainRectChart, type Axis } from '../../charts/RectChart';
import type { Trace } from '../../charts/types';
import { Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { download, fileName } from '../../controls/files';
import { HelpLine, helpHandlers } from '../../controls/help';
import { ErrorText, InputBox } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { edit, endMerge, say } from '../../store/session';
import { colour } from '../../theme';
import { axisRange, plotsOf } from '../design/plots';
import { setFamily } from '../edits';
import { Empty } from '../Empty';
import { useResolved } from '../hooks';
import { Side } from '../side';
import { FamilyMap } from './FamilyMap';
import { Fields, Note, Page, rectangular, Scroll, Work, type StudyProps } from './layout';
import { useFamily } from './useFamily';

const AxisRow = styled.div`
  display: grid;
  gap: 2px;
  padding: 4px 0 6px;
  border-top: 1px solid ${colour('rule')};
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    > :first-child {
      flex: 1;
      min-width: 0;
    }
  }
`;
const Members = styled.table`
  width: 100%;
  border-collapse: collapse;
  font-size: 12px;
  th {
    padding: 2px 4px;
    color: ${colour('quiet')};
    font-weight: 500;
    text-align: right;
  }
  td {
    padding: 2px 4px;
    border-top: 1px solid ${colour('rule')};
    text-align: right;
    white-space: nowrap;
  }
  th:first-child,
  td:first-child {
    text-align: left;
  }
  tr[data-pointed] td {
    background: ${colour('chosen')};
  }
`;

/** Members whose names have room at their curves. */
const NAMED = 9;
/** Members that are listed. */
const LISTED = 121;

/** Which of so many members are named at their curves. */
const isNamed = (i: number, count: number): boolean =>
  count <= NAMED || i === 0 || i === count - 1 || i % Math.ceil(count / (NAMED - 1)) === 0;

/** A value of an axis as it is read. */
const told = ({ kind }: Pick<FamilyValues, 'kind'>, value: number): string =>
  formatQuantity(value, kind, { digits: 5 });

/** What becomes of a design while one or two of its values change. */
export function FamilyStudy({ project, design, choice }: StudyProps) {
  const resolved = useResolved(project, design);
  const keys = useMemo(() => familyKeys(project, design, resolved), [project, design, resolved]);
  const axes = useMemo(() => design.family ?? [], [design.family]);
  const [level, setLevel] = useState<LiveId>('modelled');
  const roles = useMemo(() => {
    const ideal = circuitOf(resolved, 'ideal');
    if (!ideal || resolved.f0 === undefined) return undefined;
    return rolesOf(simulate(ideal, Float64Array.of(resolved.f0), dataFinder(project.data)), resolved.f0);
  }, [resolved, project.data]);
  const plots = useMemo(() => (roles ? rectangular(plotsOf(design, roles)) : []), [design, roles]);
  const [plotId, setPlotId] = useState<string>();
  const plot = plots.find((p) => p.id === plotId) ?? plots[0];
  const { family, problem, progress } = useFamily(project, design, axes, level, plot);
  const [curveId, setCurveId] = useState<string>();
  const [readingId, setReadingId] = useState(curveReadings[0].id);
  const [pointed, setPointed] = useState<number>();
  const reading = curveReadings.find((r) => r.id === readingId) ?? curveReadings[0];
  const curve = family?.curves.curves.find((c) => c.id === curveId) ?? family?.curves.curves[0];

  const set = (next: readonly FamilyAxis[]) => setFamily(design.id, next);
  const add = () => {
    const free = keys.find(
      (k) => axes.every((a) => a.key !== k.key) && k.key !== 'value:f0' && k.key.startsWith('value:'),
    );
    const key = (free ?? keys[0])?.key;
    if (key) set([...axes, { key, values: usualValues(project, design, resolved, key) }]);
  };
  const files = async () => {
    try {
      const names = axes.map((a) => a.key.replace(/^\w+:/, '').replaceAll(':', '.'));
      const zipped = await run('familyFiles', { project, design, axes, level, format: 'ri', names });
      if ('problem' in zipped) say(`The files were not made: ${zipped.problem}.`);
      else
        download(
          `${fileName(design.name)}-family.zip`,
          new Blob([Uint8Array.from(zipped.value)], { type: 'application/zip' }),
        );
    } catch (error) {
      say(`The files were not made: ${error instanceof Error ? error.message : String(error)}.`);
    }
  };
  return (
    <Page>
      <Side as="aside" aria-label="Family">
        <Scroll>
          {choice}
          <Note>
            One or two values in steps, everything else as it is. Of the board the copper stays what it is
            drawn for the present one.
          </Note>
          {axes.map((axis, i) => (
            <AxisEditor
              key={i}
              index={i}
              axis={axis}
              keys={keys}
              error={
                problem?.axis === i || (problem && problem.axis === undefined && i === 0)
                  ? problem.text
                  : undefined
              }
              usual={(key) => usualValues(project, design, resolved, key)}
              onChange={(next) => set(axes.map((a, k) => (k === i ? next : a)))}
              onRemove={() => set(axes.filter((_a, k) => k !== i))}
            />
          ))}
          {axes.length < 2 && (
            <TextButton isDisabled={keys.length === 0} onPress={add}>
              {axes.length === 0 ? 'take a family over a value' : 'over a second value'}
            </TextButton>
          )}
          {axes.length > 0 && (
            <>
              <Fields>
                <span>Level</span>
                <Select
                  label="level of the family"
                  value={level}
                  choices={liveLevels.map((l) => ({ id: l.id, label: l.name }))}
                  onChange={(id) => setLevel(id as LiveId)}
                />
                <span>Picture</span>
                <Select
                  label="picture of the family"
                  value={plot?.id ?? ''}
                  choices={plots.map((p) => ({ id: p.id, label: titleOf(p) }))}
                  onChange={setPlotId}
                />
                <span>Curve</span>
                <Select
                  label="curve of the family"
                  value={curve?.id ?? ''}
                  choices={(family?.curves.curves ?? []).map((c) => ({ id: c.id, label: c.label }))}
                  onChange={setCurveId}
                />
                <span>Read off</span>
                <Select
                  label="what is read off"
                  value={reading.id}
                  choices={curveReadings.map((r) => ({ id: r.id, label: r.label }))}
                  onChange={setReadingId}
                />
              </Fields>
              {family && curve && (
                <MemberList
                  family={family}
                  curve={curve.id}
                  reading={reading}
                  f0={resolved.f0 ?? 0}
                  pointed={pointed}
                  onPoint={setPointed}
                  onTake={(values) => takeMember(design.id, family.axes, values)}
                />
              )}
              <span>
                <TextButton isDisabled={!family} onPress={() => void files()}>
                  all members as Touchstone files
                </TextButton>
              </span>
            </>
          )}
        </Scroll>
        <HelpLine idle="Values are typed as 0.1 mm .. 0.3 mm : 5, both ends included, or as a list with commas." />
      </Side>
      {family && curve && plot ? (
        <Pictures
          title={titleOf(plot)}
          family={family}
          curve={curve}
          reading={reading}
          f0={resolved.f0 ?? 0}
          level={level}
          ceiling={measureOf(plot.show)?.ceiling}
          pointed={pointed}
          onPoint={setPointed}
          waiting={progress !== undefined}
          progress={progress}
        />
      ) : axes.length === 0 ? (
        <Empty title="No family yet">
          {keys.length === 0
            ? 'The design has an error; the review says which.'
            : 'Choose a value beside: a gap, an impedance, a length, the permittivity of the board. Its curves stand here one over the other, and what is read off them below.'}
        </Empty>
      ) : (
        <Empty title={problem ? 'This family cannot be taken' : 'Computing…'}>
          {problem?.text ?? (progress ? `${Math.round(100 * progress)} %` : '')}
        </Empty>
      )}
    </Page>
  );
}

const titleOf = (plot: { readonly show: string; readonly formulas?: readonly string[] }): string =>
  measureOf(plot.show)?.name ?? plot.formulas?.join(', ') ?? plot.show;

function AxisEditor({
  index,
  axis,
  keys,
  error,
  usual,
  onChange,
  onRemove,
}: {
  index: number;
  axis: FamilyAxis;
  keys: readonly { readonly key: string; readonly label: string }[];
  error: string | undefined;
  usual: (key: string) => string;
  onChange: (axis: FamilyAxis) => void;
  onRemove: () => void;
}) {
  const name = index === 0 ? 'first value' : 'second value';
  const id = `family-${index}-error`;
  return (
    <AxisRow>
      <header>
        <Select
          label={name}
          value={axis.key}
          choices={keys.map((k) => ({ id: k.key, label: k.label }))}
          onChange={(key) => onChange({ key, values: usual(key) })}
        />
        <TextButton aria-label={`leave out the ${name}`} onPress={onRemove}>
          leave out
        </TextButton>
      </header>
      <InputBox
        aria-label={`values of the ${name}`}
        aria-invalid={error !== undefined}
        aria-describedby={error === undefined ? undefined : id}
        value={axis.values}
        maxLength={400}
        spellCheck={false}
        onChange={(event) => onChange({ ...axis, values: event.target.value })}
        onBlur={endMerge}
        {...helpHandlers(
          'Values',
          'START .. STOP : COUNT, both ends included, such as 0.1 mm .. 0.3 mm : 5; or a list with commas, such as 2.8, 2.94, 3.1.',
        )}
      />
      {error !== undefined && <ErrorText id={id}>{error}</ErrorText>}
    </AxisRow>
  );
}

/** Makes a member the design. */
function takeMember(id: string, axes: readonly FamilyValues[], values: readonly number[]): void {
  edit('take a member of the family', (p) =>
    axes.reduce(
      (project, axis, i) =>
        axis.key.startsWith('board:') ? project : tuned(project, id, axis, values[i], 12),
      p,
    ),
  );
}

type Family = NonNullable<ReturnType<typeof useFamily>['family']>;

/** The samples of one curve of a member. */
function samples({ curves: { curves, y, freq } }: Family, member: number, curve: string): Float32Array {
  const c = curves.findIndex((own) => own.id === curve);
  const begin = (member * curves.length + c) * freq.length;
  return y.subarray(begin, begin + freq.length);
}

const readOff = (family: Family, member: number, curve: string, reading: CurveReading, f0: number): number =>
  reading.of(family.curves.freq, samples(family, member, curve), f0);

/** A reading as a person reads it. */
const toldReading = (value: number, { isFrequency }: CurveReading, unit: string): string =>
  !Number.isFinite(value)
    ? '\u2013'
    : isFrequency
      ? formatQuantity(value, 'frequency', { digits: 5 })
      : `${formatNumber(value, 4)}${unit === '1' ? '' : `\u2009${unit}`}`;

function MemberList({
  family,
  curve,
  reading,
  f0,
  pointed,
  onPoint,
  onTake,
}: {
  family: Family;
  curve: string;
  reading: CurveReading;
  f0: number;
  pointed: number | undefined;
  onPoint: (member: number | undefined) => void;
  onTake: (values: readonly number[]) => void;
}) {
  const { axes, members, curves } = family;
  const canTake = axes.some((a) => !a.key.startsWith('board:'));
  return (
    <>
      <SectionTitle>Members</SectionTitle>
      <Members aria-label="members">
        <thead>
          <tr>
            {axes.map((a) => (
              <th key={a.key} scope="col">
                {a.label}
              </th>
            ))}
            <th scope="col">{reading.label}</th>
            <th scope="col" aria-label="take it" />
          </tr>
        </thead>
        <tbody>
          {members.slice(0, LISTED).map((values, m) => (
            <tr
              key={values.join()}
              data-pointed={m === pointed || undefined}
              onPointerEnter={() => onPoint(m)}
              onPointerLeave={() => onPoint(undefined)}
            >
              {values.map((v, a) => (
                <td key={axes[a].key}>{told(axes[a], v)}</td>
              ))}
              <td title={curves.failed[m]}>
                {curves.failed[m] === undefined
                  ? toldReading(readOff(family, m, curve, reading, f0), reading, curves.unit)
                  : 'cannot be made'}
              </td>
              <td>
                <TextButton
                  isDisabled={!canTake || curves.failed[m] !== undefined}
                  aria-label={`make ${values.map((v, a) => told(axes[a], v)).join(', ')} the design`}
                  onFocus={() => onPoint(m)}
                  onPress={() => onTake(values)}
                >
                  take
                </TextButton>
              </td>
            </tr>
          ))}
        </tbody>
      </Members>
      {members.length > LISTED && <Quiet>and {members.length - LISTED} more</Quiet>}
    </>
  );
}

function Pictures({
  title,
  family,
  curve,
  reading,
  f0,
  level,
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
  level: LiveId;
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
  // What is pointed at lies above all others.
  const drawn = useMemo(
    () => [...traces].sort((a, b) => Number(a.id === String(pointed)) - Number(b.id === String(pointed))),
    [traces, pointed],
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
          ...traces.map((t) => ({ name: `${t.name}_${unit}`, values: Array.from(t.y) })),
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
  label,
  reading,
  unit,
  waiting,
}: {
  svg: RefObject<SVGSVGElement | null>;
  axis: FamilyValues;
  readings: readonly number[];
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
    const finite = readings.filter(Number.isFinite);
    const [low, high] = [Math.min(...finite), Math.max(...finite)];
    const pad = Math.max(0.08 * (high - low), 1e-6 * Math.abs(high), 1e-12);
    return {
      label: reading.isFrequency ? 'GHz' : unit === '1' ? '' : unit,
      scale: reading.isFrequency ? 1e-9 : 1,
      ...(finite.length > 0 && { range: [low - pad, high + pad] }),
      format: (v) => toldReading(v, reading, unit),
    };
  }, [readings, reading, unit]);
  const markers = useMemo(() => [{ id: 'now', label: 'now', x: axis.now, fixed: true }], [axis]);
  const traces = useMemo(() => [trace], [trace]);
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
