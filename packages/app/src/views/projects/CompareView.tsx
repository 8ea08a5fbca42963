import { useMemo, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import styled from 'styled-components';
import { boardDifferences, designDifferences, makingDifferences } from '@ditch/core/compare';
import {
  closest,
  intended,
  levelById,
  levels,
  liveById,
  type LevelId,
  type LiveLevel,
} from '@ditch/core/levels';
import { resolveDesign, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import { rolesOf } from '@ditch/core/plots';
import { formatNumber } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { FREQUENCY, PlainRectChart } from '../../charts/RectChart';
import type { Trace } from '../../charts/types';
import { Quiet, SectionTitle } from '../../controls/basics';
import { Select } from '../../controls/Select';
import { useResponses, type Task, type Wanted } from '../../responses';
import { useSolvedStates } from '../../responses/solvedStates';
import { useCheckpoints } from '../../store/library';
import { colour } from '../../theme';
import { drawPlot, plotsOf, axisRange, type Source } from '../design/plots';
import { Empty } from '../Empty';
import { useProject } from '../hooks';

const Page = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  grid-template-rows: minmax(0, 1fr);
  gap: 0 24px;
  height: 100%;
  min-height: 0;
  padding: 18px 24px;
`;
const Left = styled.div`
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
`;
const Head = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 10px;
  h1 {
    font-size: 16px;
  }
`;
const Stacked = styled.div`
  display: flex;
  flex-direction: column;
  min-height: 0;
  > section {
    flex: 1;
    height: auto;
  }
`;
const Choices = styled.div`
  display: grid;
  grid-template-columns: 160px 220px;
  gap: 12px;
`;
const Side = styled.div`
  min-height: 0;
  overflow: auto;
  ul {
    margin: 6px 0 18px;
  }
  li {
    padding: 4px 0;
    border-top: 1px solid ${colour('rule')};
    font-size: 12px;
    overflow-wrap: anywhere;
  }
`;

/** Two states of the project side by side: one design's responses in one chart, and what differs in words. */
export default function CompareView() {
  const { checkpointId = '' } = useParams();
  const project = useProject();
  const checkpoints = useCheckpoints(project.id);
  const checkpoint = checkpoints?.find((c) => String(c.id) === checkpointId);
  if (!checkpoints) return <Empty title="Loading…" />;
  if (!checkpoint)
    return (
      <Empty title="This checkpoint is not there">
        It was deleted, or the address is of another project.{' '}
        <Link to={`/p/${project.id}`}>See the project’s checkpoints</Link>.
      </Empty>
    );
  return <Loaded now={project} then={checkpoint.project} name={checkpoint.name} />;
}

function Loaded({ now, then, name }: { now: Project; then: Project; name: string }) {
  const shared = now.designs.filter((d) => then.designs.some((t) => t.id === d.id));
  const changed = shared.find(
    (d) => JSON.stringify(d) !== JSON.stringify(then.designs.find((t) => t.id === d.id)),
  );
  const [chosen, setChosen] = useState((changed ?? shared[0])?.id);
  const design = shared.find((d) => d.id === chosen);
  const fresh = now.designs.filter((d) => !then.designs.some((t) => t.id === d.id));
  const gone = then.designs.filter((d) => !now.designs.some((t) => t.id === d.id));
  const others = useMemo(() => makingDifferences(then, now), [then, now]);
  return (
    <Page>
      <Left>
        <Head>
          <h1>Now against “{name}”</h1>
          {shared.length > 0 && (
            <Select
              label="design to compare"
              value={chosen ?? ''}
              choices={shared.map((d) => ({ id: d.id, label: d.name }))}
              onChange={setChosen}
            />
          )}
        </Head>
        {design ? (
          <Curves key={design.id} now={now} then={then} design={design} />
        ) : (
          <Empty title="No design in common">The two states share no design to compare.</Empty>
        )}
      </Left>
      <Side role="region" aria-label="What differs" tabIndex={0}>
        {design && (
          <Differences
            now={now}
            then={then}
            design={design}
            was={then.designs.find((t) => t.id === design.id)!}
          />
        )}
        {others.length > 0 && (
          <>
            <SectionTitle>Making</SectionTitle>
            <ul>
              {others.map((text) => (
                <li key={text}>{text}</li>
              ))}
            </ul>
          </>
        )}
        {fresh.length + gone.length > 0 && (
          <>
            <SectionTitle>Designs</SectionTitle>
            <ul>
              {fresh.map((d) => (
                <li key={d.id}>{d.name} is new</li>
              ))}
              {gone.map((d) => (
                <li key={d.id}>{d.name} is gone</li>
              ))}
            </ul>
          </>
        )}
      </Side>
    </Page>
  );
}

function Differences({
  now,
  then,
  design,
  was,
}: {
  now: Project;
  then: Project;
  design: Design;
  was: Design;
}) {
  const list = useMemo(
    () => [...designDifferences(was, design), ...boardDifferences(then, now, design, was)],
    [was, design, then, now],
  );
  return (
    <>
      <SectionTitle>What differs, then → now</SectionTitle>
      {list.length === 0 ? (
        <Quiet>Nothing: this design is as it was.</Quiet>
      ) : (
        <ul>
          {list.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
      )}
    </>
  );
}

function Curves({ now, then, design }: { now: Project; then: Project; design: Design }) {
  const svg = useRef<SVGSVGElement>(null);
  const was = then.designs.find((t) => t.id === design.id)!;
  const resolvedNow = useMemo(() => resolveDesign(now, design), [now, design]);
  const resolvedThen = useMemo(() => resolveDesign(then, was), [then, was]);
  const states = useMemo(
    () => [
      { project: then, design: was },
      { project: now, design },
    ],
    [then, was, now, design],
  );
  const solved = useSolvedStates(states, resolvedNow.sweep ?? resolvedThen.sweep);
  // The highest level that both states have is the one to compare, unless another is chosen.
  const [asked, setAsked] = useState<LevelId>();
  const best: LevelId = solved ? 'solved' : closest.id;
  const level = asked === undefined || (asked === 'solved' && !solved) ? best : asked;
  const wanted = useMemo((): Wanted | undefined => {
    const sweep = resolvedNow.sweep ?? resolvedThen.sweep;
    const task = (id: string, level: LiveLevel, ...of: readonly ResolvedDesign[]): Task[] => {
      const subject = of.map((r) => level.subject(r)).find((s) => s !== undefined);
      return subject ? [{ id, level: level.id, subject, first: true }] : [];
    };
    const tasks =
      level === 'solved'
        ? (solved ?? []).map((subject, i): Task => ({ id: ['then', 'now'][i], level, subject, first: true }))
        : [...task('then', liveById[level], resolvedThen), ...task('now', liveById[level], resolvedNow)];
    if (!sweep || tasks.length === 0) return undefined;
    return {
      sweep,
      data: [...now.data, ...then.data],
      tasks: [...tasks, ...task('meant', intended, resolvedNow, resolvedThen)],
    };
  }, [resolvedThen, resolvedNow, now.data, then.data, level, solved]);
  const responses = useResponses(wanted);
  const [before, after, ideal] = ['then', 'now', 'meant'].map((id) => responses.results.get(id)?.data);
  const f0 = resolvedNow.f0 ?? resolvedThen.f0;
  const roles = useMemo(() => (ideal && f0 !== undefined ? rolesOf(ideal, f0) : undefined), [ideal, f0]);
  const shows = (roles ? plotsOf(design, roles) : []).filter((p) => p.show !== 'smith');
  const [plotId, setPlotId] = useState<string>();
  const plot = shows.find((p) => p.id === plotId) ?? shows[0];
  const drawn = useMemo(() => {
    if (!roles || !plot) return undefined;
    const sources: Source[] = [];
    if (after)
      sources.push({
        id: 'now',
        name: 'now',
        kind: { role: 'level', level },
        data: after,
      });
    if (before) sources.push({ id: 'then', name: 'then', kind: { role: 'overlay' }, data: before });
    const picture = drawPlot(plot, sources, roles, resolvedNow.values);
    // The same quantity keeps its colour in both states; the stroke says which state it is.
    const colours = new Map(picture.traces.map((t) => [t.id.replace(/^now-/, ''), t.colour]));
    const traces = picture.traces.map((t): Trace => ({
      ...t,
      colour: colours.get(t.id.replace(/^(then|now)-/, '')) ?? t.colour,
      label: t.kind.role === 'overlay' ? `${t.id.replace(/^then-/, '')} then` : t.label,
    }));
    return { ...picture, traces };
  }, [roles, plot, after, before, resolvedNow, level]);
  if (!wanted)
    return (
      <Empty title="Neither state has a response">
        Both have errors; the review of the design says which.
      </Empty>
    );
  return (
    <Stacked>
      <Choices>
        <Select
          label="level that is compared"
          value={level}
          choices={levels
            .filter((l) => l.id !== 'solved' || solved)
            .map((l) => ({ id: l.id, label: l.name }))}
          onChange={(id) => setAsked(id as LevelId)}
        />
        {shows.length > 1 && (
          <Select
            label="what is compared"
            value={plot?.id ?? ''}
            choices={shows.map((p) => ({ id: p.id, label: roles ? drawPlot(p, [], roles).title : p.show }))}
            onChange={setPlotId}
          />
        )}
      </Choices>
      {drawn && (
        <ChartFrame
          title={drawn.title}
          note={`${levelById[level].name}; drawn: now, dashed: then`}
          svg={svg}
          columns={() =>
            drawn.traces.map((t) => ({ name: `${t.label}_${drawn.unit}`, values: Float64Array.from(t.y) }))
          }
        >
          <PlainRectChart
            label={`${drawn.title.toLowerCase()} of both states over frequency`}
            svg={svg}
            traces={drawn.traces}
            x={FREQUENCY}
            y={{
              label: drawn.unit,
              range: axisRange(drawn),
              format: (v) => `${formatNumber(v)}\u2009${drawn.unit}`,
            }}
            waiting={responses.waiting}
          />
        </ChartFrame>
      )}
      {!drawn && (
        <Empty title={responses.error ? 'The curves could not be computed' : 'Computing…'}>
          {responses.error?.message}
        </Empty>
      )}
    </Stacked>
  );
}
