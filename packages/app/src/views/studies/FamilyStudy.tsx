import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { measureOf, curveReadings, outgoing, rolesOf, type CurveReading } from '@ditch/core/plots';
import { levels, type LevelId } from '@ditch/core/levels';
import {
  circuitOf,
  simulate,
  dataFinder,
  type Design,
  type FamilyAxis,
  type Plot,
} from '@ditch/core/network';
import type { Accuracy } from '@ditch/core/planar';
import { drivingOf, familyKeys, inAttempt, tuned, usualValues, type FamilyValues } from '@ditch/core/studies';
import { run } from '../../bridge/bridge';
import type { Family } from '../../bridge/studying';
import { PrimaryButton, Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { download, fileName } from '../../controls/files';
import { HelpLine, helpHandlers } from '../../controls/help';
import { ErrorText, InputBox } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { edit, endMerge, say } from '../../store/session';
import { colour } from '../../theme';
import { duration } from '../design/duration';
import { plotsOf } from '../design/plots';
import { forgetFamily, keepFamily, setFamily } from '../edits';
import { Empty } from '../Empty';
import { usePreferences, useResolved } from '../hooks';
import { Side } from '../side';
import { FamilyPictures, readOff, told, toldReading } from './FamilyPictures';
import { Fields, Note, Page, rectangular, Scroll, type StudyProps } from './layout';
import { useFamily } from './useFamily';
import { NOT_YET, useSolvedFamily, type SolvedFamily } from './useSolvedFamily';

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

const KeptList = styled.ul`
  display: grid;
  gap: 3px;
  margin-top: 4px;
  font-size: 12px;
  li {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr) auto;
    align-items: center;
    gap: 8px;
  }
`;
const NO_AXES: readonly FamilyAxis[] = [];
/** Drawn where ports are driven together: nothing else changes with that. */
const OUTGOING: Plot = { id: outgoing.id, show: outgoing.id };
/** What is known of a picture by its name; undefined of one by formulas. */
const aboutPicture = (show: string) => (show === outgoing.id ? outgoing : measureOf(show));

/** Members that are listed. */
const LISTED = 121;

/** What becomes of a design while one or two of its values change. */
export function FamilyStudy({ project, design, choice }: StudyProps) {
  const resolved = useResolved(project, design);
  const keys = useMemo(() => familyKeys(project, design, resolved), [project, design, resolved]);
  const axes = useMemo(() => design.family ?? [], [design.family]);
  const [level, setLevel] = useState<LevelId>('modelled');
  const roles = useMemo(() => {
    const ideal = circuitOf(resolved, 'ideal');
    if (!ideal || resolved.f0 === undefined) return undefined;
    return rolesOf(simulate(ideal, Float64Array.of(resolved.f0), dataFinder(project.data)), resolved.f0);
  }, [resolved, project.data]);
  const isDriven = axes.some((a) => drivingOf(a.key));
  const plots = useMemo(
    () => (roles ? [...(isDriven ? [OUTGOING] : []), ...rectangular(plotsOf(design, roles))] : []),
    [design, roles, isDriven],
  );
  const [plotId, setPlotId] = useState<string>();
  const plot = plots.find((p) => p.id === plotId) ?? plots[0];
  const accuracy = usePreferences((p) => p.accuracy);
  const solved = useSolvedFamily(project, design, axes, resolved.sweep, accuracy, level === 'solved');
  const from = level === 'solved' ? solved.subjects : level;
  const { family, problem, progress } = useFamily(project, design, axes, from, plot);
  const [besideId, setBesideId] = useState<string>();
  const kept = design.keptFamilies?.find((k) => k.id === besideId);
  const before = useMemo(() => (kept ? inAttempt(design, kept) : design), [design, kept]);
  const keptSolved = useSolvedFamily(
    project,
    before,
    kept?.axes ?? NO_AXES,
    resolved.sweep,
    accuracy,
    kept?.level === 'solved',
  );
  const keptFrom = kept?.level === 'solved' ? keptSolved.subjects : kept?.level;
  const { family: laid } = useFamily(project, before, kept?.axes ?? NO_AXES, keptFrom, plot);
  const beside = useMemo(() => (kept && laid ? { name: kept.name, family: laid } : undefined), [kept, laid]);
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
      const zipped = await run('familyFiles', {
        project,
        design,
        axes,
        from: from!,
        wish: { format: 'ri' },
        names,
      });
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
            drawn for the present one; two ports can be driven at once, as into a combiner.
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
                  choices={levels.map((l) => ({ id: l.id, label: l.name }))}
                  onChange={(id) => setLevel(id as LevelId)}
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
              {level === 'solved' && <Queue solved={solved} accuracy={accuracy} />}
              {family && (
                <MemberList
                  family={family}
                  curve={curve?.id}
                  reading={reading}
                  f0={resolved.f0 ?? 0}
                  pointed={pointed}
                  onPoint={setPointed}
                  onTake={(values) => takeMember(design.id, family.axes, values)}
                />
              )}
              <span>
                <TextButton
                  isDisabled={!family || isDriven || (level === 'solved' && solved.left > 0)}
                  onPress={() => void files()}
                >
                  all members as Touchstone files
                </TextButton>
              </span>
              <Kept
                design={design}
                canKeep={family !== undefined}
                level={level}
                beside={besideId}
                onBeside={setBesideId}
              />
            </>
          )}
        </Scroll>
        <HelpLine idle="Values are typed as 0.1 mm .. 0.3 mm : 5, both ends included, or as a list with commas." />
      </Side>
      {family && curve && plot ? (
        <FamilyPictures
          title={titleOf(plot)}
          family={family}
          curve={curve}
          reading={reading}
          f0={resolved.f0 ?? 0}
          level={level}
          beside={beside}
          ceiling={aboutPicture(plot.show)?.ceiling}
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
        <Empty
          title={
            problem
              ? 'This family cannot be taken'
              : family && level === 'solved' && progress === undefined
                ? 'No member is solved yet'
                : 'Computing…'
          }
        >
          {problem?.text ?? solved.failure ?? (progress ? `${Math.round(100 * progress)} %` : '')}
        </Empty>
      )}
    </Page>
  );
}

/** Members to be solved: what that takes, how far it is. What was solved is kept as it comes. */
function Queue({ solved, accuracy }: { solved: SolvedFamily; accuracy: Accuracy }) {
  const { subjects, left, seconds, under, failure } = solved;
  return (
    <section aria-label="Members to be solved">
      <p role="status" style={{ fontSize: 12, margin: '0 0 6px' }}>
        {under
          ? `Solving ${under.which} of ${under.of}, ${Math.round(100 * under.share)} %. What is done is kept.`
          : !subjects
            ? failure === undefined
              ? 'Looking at the copper of the members\u2026'
              : ''
            : left === 0
              ? 'Every member that can be is solved.'
              : `${left} of ${subjects.length} members are to be solved at ${accuracy} accuracy${seconds === undefined ? '' : `, about ${duration(seconds)}`}.`}
      </p>
      {failure !== undefined && <ErrorText role="alert">{failure}</ErrorText>}
      {left > 0 &&
        (under ? (
          <PrimaryButton onPress={solved.stop}>Stop</PrimaryButton>
        ) : (
          <PrimaryButton onPress={solved.start}>Solve {left === 1 ? 'it' : `${left} members`}</PrimaryButton>
        ))}
    </section>
  );
}

/** Families that were kept, each to be drawn beside the present one. */
function Kept({
  design,
  canKeep,
  level,
  beside,
  onBeside,
}: {
  design: Design;
  canKeep: boolean;
  level: LevelId;
  beside: string | undefined;
  onBeside: (id: string | undefined) => void;
}) {
  const kept = design.keptFamilies ?? [];
  const keep = () => {
    const names = new Set(kept.map((k) => k.name));
    let n = 1;
    while (names.has(`family ${n}`)) n++;
    keepFamily(design, `family ${n}`, level);
  };
  return (
    <section aria-label="Kept families">
      <TextButton isDisabled={!canKeep} onPress={keep}>
        keep this family
      </TextButton>
      {kept.length > 0 && (
        <KeptList>
          {kept.map((k) => (
            <li key={k.id}>
              <label>
                <input
                  type="checkbox"
                  aria-label={`draw ${k.name} beside`}
                  checked={k.id === beside}
                  onChange={(event) => onBeside(event.target.checked ? k.id : undefined)}
                />{' '}
                {k.name}
              </label>
              <Quiet>
                {k.axes.map((a) => a.values).join(', ')}, {k.level}
              </Quiet>
              <TextButton aria-label={`forget ${k.name}`} onPress={() => forgetFamily(design.id, k)}>
                forget
              </TextButton>
            </li>
          ))}
        </KeptList>
      )}
    </section>
  );
}

const titleOf = (plot: { readonly show: string; readonly formulas?: readonly string[] }): string =>
  aboutPicture(plot.show)?.name ?? plot.formulas?.join(', ') ?? plot.show;

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

/** Whether a value is one of the design itself: a board comes out so, and ports are driven so. */
const isOfDesign = ({ key }: Pick<FamilyValues, 'key'>): boolean =>
  !key.startsWith('board:') && drivingOf(key) === undefined;

/** Makes a member the design. */
function takeMember(id: string, axes: readonly FamilyValues[], values: readonly number[]): void {
  edit('take a member of the family', (p) =>
    axes.reduce(
      (project, axis, i) => (!isOfDesign(axis) ? project : tuned(project, id, axis, values[i], 12)),
      p,
    ),
  );
}

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
  /** Absent where no member has one. */
  curve: string | undefined;
  reading: CurveReading;
  f0: number;
  pointed: number | undefined;
  onPoint: (member: number | undefined) => void;
  onTake: (values: readonly number[]) => void;
}) {
  const { axes, members, curves } = family;
  const canTake = axes.some(isOfDesign);
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
                {curves.failed[m] === undefined && curve !== undefined
                  ? toldReading(readOff(family, m, curve, reading, f0), reading, curves.unit)
                  : curves.failed[m] === NOT_YET
                    ? NOT_YET
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
