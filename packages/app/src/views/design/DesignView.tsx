import { lazy, Suspense, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { Link } from 'react-router';
import { layOut } from '@ditch/core/artwork';
import { intended, levels, truest, type LevelId, type Subject } from '@ditch/core/levels';
import { seenFrom, type Design } from '@ditch/core/network';
import type { review as Reviewer } from '@ditch/core/review';
import type { Walk } from '../../charts/SmithPath';
import { HelpLine } from '../../controls/help';
import { useHandler, useStable, useStableList } from '../../controls/stable';
import { useResponseStore, useSnapshot, type Task, type Wanted } from '../../responses';
import { colour } from '../../theme';
import { Empty } from '../Empty';
import { usersOf } from '../edits';
import { Side, SideScroll } from '../side';
import { setPreferences, useDesign, usePreferences, useProject, useResolved } from '../hooks';
import { Copper } from './Copper';
import { Board } from './Board';
import { Pieces } from './Pieces';
import { Review } from './Review';
import { SweepPart } from './SweepPart';
import { useRetuning } from './retuning';
import { Values } from './Values';
import { influenceOf, subjectOf } from './reading';
import { Response } from './Response';
import { Waterline } from './Waterline';

const RetuneDialog = lazy(() => import('./RetuneDialog'));
const Walker = lazy(() => import('./walking'));
const TuningStrip = lazy(() => import('./TuningStrip'));

const NO_WALK: Walk = { arcs: [], actions: undefined, pointed: undefined };

const Page = styled.div`
  position: relative;
  display: grid;
  height: 100%;
  min-height: 0;
`;
const Ledger = styled(Side)`
  contain: layout paint;
`;
const Fold = styled.button`
  align-self: flex-end;
  height: 18px;
  margin: 2px 10px -8px;
  border: 0;
  background: none;
  color: ${colour('quiet')};
  font-size: 11px;
  cursor: pointer;
`;
const Grip = styled.div`
  position: absolute;
  z-index: 4;
  top: 0;
  bottom: 0;
  width: 8px;
  cursor: col-resize;
  touch-action: none;
  &:hover,
  &:focus-visible {
    background: ${colour('waterSoft')};
  }
`;
/** Widths between which the ledger's edge can be dragged, px. */
const LEDGER = [280, 620] as const;
const setLedger = (width: number): void =>
  setPreferences({ ledger: Math.round(Math.min(LEDGER[1], Math.max(LEDGER[0], width))) });

/** The edge of the ledger, to be dragged or moved by the arrow keys. */
function Edge({ width }: { width: number }) {
  const dragging = useRef(false);
  return (
    <Grip
      role="separator"
      aria-label="edge of the ledger"
      aria-orientation="vertical"
      aria-valuenow={width}
      aria-valuemin={LEDGER[0]}
      aria-valuemax={LEDGER[1]}
      tabIndex={0}
      style={{ left: width - 5 }}
      onPointerDown={(event) => {
        dragging.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => dragging.current && setLedger(event.clientX)}
      onPointerUp={() => (dragging.current = false)}
      onDoubleClick={() => setLedger(340)}
      onKeyDown={(event) => {
        const step = { ArrowLeft: -20, ArrowRight: 20 }[event.key];
        if (!step) return;
        event.preventDefault();
        setLedger(width + step);
      }}
    />
  );
}
const Main = styled.div`
  container: work / inline-size;
  position: relative;
  display: grid;
  min-width: 0;
  min-height: 0;
`;

export default function DesignView() {
  const design = useDesign();
  const project = useProject();
  if (!design)
    return (
      <Empty title="This design is not in the project">
        It was removed, or the address is of another project.{' '}
        <Link to={`/p/${project.id}`}>See the project’s designs</Link>.
      </Empty>
    );
  // A design is a page of its own: its selection does not carry over to the next.
  return <Loaded key={design.id} design={design} />;
}

/** The review comes after copper and curves: it knows every part's questions, and the first view does not need it. */
function useReviewer(): typeof Reviewer | undefined {
  const [reviewer, setReviewer] = useState<typeof Reviewer>();
  useEffect(() => {
    let gone = false;
    void import('@ditch/core/review').then((m) => !gone && setReviewer(() => m.review));
    return () => {
      gone = true;
    };
  }, []);
  return reviewer;
}

function Loaded({ design }: { design: Design }) {
  const project = useProject();
  const resolved = useResolved(project, design);
  const waterline = usePreferences((p) => p.waterline);
  const [selected, setSelected] = useState<string>();
  const [hovered, setHovered] = useState<string>();
  const ledger = usePreferences((p) => p.ledger);
  // A narrow window belongs to copper and curves.
  const [folded, setFolded] = useState(() => window.innerWidth <= 1100);
  const main = useRef<HTMLDivElement>(null);

  const layout = useMemo(() => layOut(resolved), [resolved]);
  // The review looks at everything at once; copper and curves do not wait for it.
  const state = useMemo(() => ({ project, design, resolved, layout }), [project, design, resolved, layout]);
  const settled = useDeferredValue(state);
  const review = useReviewer();
  const remarks = useMemo(
    () => review?.(settled.project, settled.design, settled.resolved, settled.layout),
    [review, settled],
  );
  const subjects = useMemo(
    () => new Map(levels.map((l) => [l.id, l.subject(resolved, () => layout)])),
    [resolved, layout],
  );
  const counted = useMemo(() => truest([...subjects].flatMap(([id, s]) => (s ? [id] : []))), [subjects]);
  const shownSubject = counted && subjects.get(counted);
  const influence = useMemo(
    () =>
      // A long sweep is not computed again for a glance.
      hovered && (resolved.sweep?.points ?? 0) <= 2001
        ? influenceOf(shownSubject, resolved, hovered)
        : undefined,
    [shownSubject, resolved, hovered],
  );
  const smith = design.plots?.some((p) => p.show === 'smith') ?? true;
  const [walk, setWalk] = useState<Walk>(NO_WALK);
  // The state to come back to: as the page was opened, or where the engineer says so.
  const [start, setStart] = useState(design);
  // Attempts drawn beside the present state.
  const [beside, setBeside] = useState<readonly string[]>([]);
  const others = useMemo(
    () =>
      (design.attempts ?? [])
        .filter((a) => beside.includes(a.id))
        .map((a) => ({
          id: a.id,
          name: a.name,
          level: counted ?? intended.id,
          subject: subjectOf(project, { ...design, values: a.values, pieces: a.pieces }, counted),
        })),
    [project, design, beside, counted],
  );
  const planes = useStable(resolved.planes);
  const { goal, f0, sweep } = resolved;
  const wanted = useMemo((): Wanted | undefined => {
    if (!sweep || !counted) return undefined;
    const task = (id: string, level: LevelId, subject: Subject | undefined, more?: Partial<Task>): Task[] =>
      subject ? [{ id, level, subject, ...more }] : [];
    return {
      sweep,
      data: project.data,
      match: f0 === undefined ? undefined : { near: f0, target: -goal },
      at: [
        ...(f0 === undefined ? [] : [f0]),
        ...resolved.markers.map((m) => m.freq),
        ...resolved.limits.flatMap((l) => [l.from, l.to]),
      ],
      tasks: [
        ...levels.flatMap((l) => task(l.id, l.id, subjects.get(l.id), { first: true, read: true })),
        ...task('influence', counted, influence),
        ...others.flatMap((o) => task(`attempt:${o.id}`, o.level, o.subject)),
        ...planes.flatMap((plane) =>
          levels.flatMap((l) => {
            const whole = subjects.get(l.id);
            return task(`plane:${plane.plot}:${l.id}`, l.id, whole && seenFrom(whole, resolved, plane));
          }),
        ),
      ],
    };
  }, [project.data, resolved, sweep, f0, goal, subjects, counted, influence, others, planes]);
  const store = useResponseStore(wanted);
  const responses = useSnapshot(store);
  const sweepProblems = useStable(
    resolved.problems.filter((p) => p.place.kind === 'sweep' || p.place.kind === 'goal'),
  );
  const stackProblems = useStable(
    resolved.problems.flatMap((p) =>
      p.place.kind === 'stack' ? [{ field: p.place.field, message: p.message }] : [],
    ),
  );
  // While an entry is wrong the copper of the last right one stays, dimmed, instead of vanishing under the hand.
  const wrong = resolved.problems.some((p) => ['stack', 'value', 'piece'].includes(p.place.kind));
  const sound = useRef({ resolved, layout });
  useEffect(() => {
    if (!wrong) sound.current = { resolved, layout };
  });
  const drawn = wrong ? sound.current : { resolved, layout };
  const { results } = responses;
  const answers = useStableList(levels.map((l) => ({ level: l.id, data: results.get(l.id)?.data })));
  const matchOf = (level: LevelId) => results.get(level)?.match;
  const besides = useStableList(
    others.flatMap((o) => {
      const data = results.get(`attempt:${o.id}`)?.data;
      return data ? [{ id: o.id, name: o.name, data }] : [];
    }),
  );
  const seen = useStableList(
    planes.flatMap(({ plot }) =>
      levels.map((l) => ({ plot, level: l.id, data: results.get(`plane:${plot}:${l.id}`)?.data })),
    ),
  );
  const firstSmith = design.plots?.find((p) => p.show === 'smith')?.id;
  const retuning = useRetuning(project, design);
  const retuneOnly = useMemo(
    () => ({ ...retuning, progress: retuning.aim === 'retune' ? retuning.progress : undefined }),
    [retuning],
  );
  const meetLimits = useHandler(() => retuning.start('limits'));
  const onDrag = useHandler((y: number) => {
    const rect = main.current!.getBoundingClientRect();
    const strip = main.current!.lastElementChild!.getBoundingClientRect().height;
    setPreferences({
      waterline: Math.min(0.75, Math.max(0.15, (y - rect.top - 22) / (rect.height - 44 - strip))),
    });
  });
  const stack = project.stacks.find((s) => s.id === design.stack);
  const shared = usersOf(project, design.stack, design.id);
  const blocked = !counted || !sweep;
  const first = resolved.problems[0];
  const failure = responses.error?.message;
  const empty = design.pieces.length === 0;
  const trouble = empty
    ? 'There is nothing to respond yet. Set a first port above and grow from it, or make a design by a recipe.'
    : blocked
      ? `The response waits: ${remarks?.find((r) => r.severity === 'error')?.message ?? first?.message ?? 'the design has an error.'}`
      : failure
        ? `The response could not be computed: ${failure}.`
        : responses.stopped
          ? 'The computation was stopped; the curves belong to earlier values.'
          : responses.waiting && results.size > 0
            ? 'These curves are of earlier values; the new ones are being computed.'
            : undefined;
  const waiting = blocked || responses.waiting;
  const readings = useStableList(
    levels.map((level) => ({ level, match: waiting ? undefined : matchOf(level.id) })),
  );

  return (
    <Page style={{ gridTemplateColumns: `${folded ? 30 : ledger}px minmax(0, 1fr)` }}>
      {!folded && <Edge width={ledger} />}
      <Ledger as="aside" aria-label="Ledger">
        <Fold
          type="button"
          aria-label={folded ? 'unfold the ledger' : 'fold the ledger'}
          aria-expanded={!folded}
          onClick={() => setFolded(!folded)}
        >
          {folded ? '»' : '« fold'}
        </Fold>
        {!folded && (
          <>
            <SideScroll>
              <Values design={design} resolved={resolved} />
              {stack && (
                <Board
                  design={design.id}
                  shared={shared}
                  medium={design.medium}
                  stack={stack}
                  stacks={project.stacks}
                  problems={stackProblems}
                />
              )}
              <SweepPart
                design={design.id}
                sweep={design.sweep}
                goal={design.goal}
                problems={sweepProblems}
              />
              <Pieces
                project={project}
                design={design}
                resolved={resolved}
                selected={selected}
                hovered={hovered}
                onSelect={setSelected}
                onHover={setHovered}
              />
            </SideScroll>
            <Review remarks={remarks} onSelect={setSelected} />
            <HelpLine idle="Fields take any unit and expressions: 36mil, 2*z0, lambda/4 - 0.1mm. Arrow keys step a value, Shift finer." />
          </>
        )}
      </Ledger>
      <Main
        ref={main}
        style={{ gridTemplateRows: `minmax(0, ${waterline}fr) 44px minmax(0, ${1 - waterline}fr) auto` }}
      >
        <Copper
          project={project}
          design={design}
          resolved={drawn.resolved}
          layout={drawn.layout}
          dim={drawn.resolved !== resolved}
          selected={selected}
          hovered={hovered}
          onSelect={setSelected}
          onHover={setHovered}
        />
        <Waterline
          readings={readings}
          retuning={counted ? retuneOnly : undefined}
          busy={responses.progress}
          onStop={store.stop}
          onDrag={onDrag}
        />
        <Response
          design={design}
          resolved={resolved}
          data={project.data}
          answers={answers}
          match={counted && matchOf(counted)}
          influence={hovered && influence ? results.get('influence')?.data : undefined}
          beside={besides}
          seen={seen}
          walk={walk}
          hovered={hovered}
          onHover={setHovered}
          waiting={waiting}
          trouble={trouble}
          onResume={responses.stopped && !blocked ? store.resume : undefined}
        />
        <Suspense>
          <Walker
            project={project}
            design={design}
            resolved={resolved}
            circuit={shownSubject}
            wanted={smith}
            plane={planes.find((p) => p.plot === firstSmith)}
            hovered={hovered}
            onWalk={setWalk}
          />
        </Suspense>
        <Suspense fallback={<div style={{ height: design.strip?.length ? 74 : 60 }} />}>
          <TuningStrip
            project={project}
            design={design}
            resolved={resolved}
            start={start}
            onStart={setStart}
            beside={beside}
            onBeside={setBeside}
            onMeet={counted && retuning.progress === undefined ? meetLimits : undefined}
            meeting={retuning.aim === 'limits' ? retuning.progress : undefined}
            onStop={retuning.stop}
            shared={shared}
          />
        </Suspense>
      </Main>
      {retuning.result && (
        <Suspense>
          <RetuneDialog retuning={retuning} />
        </Suspense>
      )}
    </Page>
  );
}
