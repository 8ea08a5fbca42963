import { lazy, Suspense, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { flushSync } from 'react-dom';
import styled from 'styled-components';
import { Link, useParams } from 'react-router';
import { levels, type LevelId } from '@ditch/core/levels';
import type { Remark } from '@ditch/core/review';
import { HelpLine } from '../../controls/help';
import { useHandler, useStable, useStableList } from '../../controls/stable';
import { useSession } from '../../store/session';
import { colour } from '../../theme';
import { Empty } from '../Empty';
import { usersOf } from '../edits';
import { Side, SideScroll } from '../side';
import { setPreferences, usePreferences } from '../hooks';
import { Copper } from './Copper';
import { Board } from './Board';
import { Pieces } from './Pieces';
import { Review } from './Review';
import { SweepPart } from './SweepPart';
import { useRetuning } from './retuning';
import { Values } from './Values';
import { Response } from './Response';
import { Stage, type Scene } from './stage';
import { useWalk } from './walking';
import { Waterline } from './Waterline';

const RetuneDialog = lazy(() => import('./RetuneDialog'));
const TuningStrip = lazy(() => import('./TuningStrip'));

/** No attempt is drawn beside a design at first. */
const NONE: readonly string[] = [];

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
  const { designId = '' } = useParams();
  const found = useSession((s) => s.project?.designs.some((d) => d.id === designId) ?? false);
  const { id } = useSession.getState().project!;
  if (!found)
    return (
      <Empty title="This design is not in the project">
        It was removed, or the address is of another project.{' '}
        <Link to={`/p/${id}`}>See the project’s designs</Link>.
      </Empty>
    );
  // A design is a page of its own: its selection does not carry over to the next.
  return <Loaded key={`${id} ${designId}`} id={designId} />;
}

/** Events after which the page is as the hand left it. */
const HAND = ['keydown', 'pointerdown', 'pointermove', 'pointerup', 'click', 'wheel'] as const;

/** What the page shows of a design, followed. */
function useStage(id: string): readonly [Stage, Scene] {
  const [stage] = useState(() => new Stage(id));
  const scene = useSyncExternalStore(stage.subscribe, stage.get);
  useEffect(() => {
    const close = stage.open();
    // Whatever the hand does next finds the page drawn: a step is never made from a value that is gone.
    const draw = () => {
      if (stage.waits) flushSync(stage.publish);
    };
    for (const event of HAND) window.addEventListener(event, draw, { capture: true, passive: true });
    return () => {
      for (const event of HAND) window.removeEventListener(event, draw, { capture: true });
      close();
    };
  }, [stage]);
  return [stage, scene];
}

/** Milliseconds of rest after which the review looks again: it looks at everything at once. */
const REST = 220;

/** The review comes after copper and curves: it knows every part's questions, and the first view does not need it. */
function useReview({ project, design, resolved, layout }: Scene): readonly Remark[] | undefined {
  const [remarks, setRemarks] = useState<readonly Remark[]>();
  const looked = useRef(false);
  useEffect(() => {
    let gone = false;
    const timer = setTimeout(
      () =>
        void import('@ditch/core/review').then(({ review }) => {
          if (gone) return;
          looked.current = true;
          setRemarks(review(project, design, resolved, layout));
        }),
      looked.current ? REST : 0,
    );
    return () => {
      gone = true;
      clearTimeout(timer);
    };
    // Of the project the review looks at nothing that is not in these.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [design, resolved, layout]);
  return remarks;
}

function Loaded({ id }: { id: string }) {
  const [stage, scene] = useStage(id);
  const { project, design, resolved, layout, counted, responses } = scene;
  const { sweep } = resolved;
  const waterline = usePreferences((p) => p.waterline);
  const [selected, setSelected] = useState<string>();
  const [hovered, setHovered] = useState<string>();
  const ledger = usePreferences((p) => p.ledger);
  // A narrow window belongs to copper and curves.
  const [folded, setFolded] = useState(() => window.innerWidth <= 1100);
  const main = useRef<HTMLDivElement>(null);
  // The state to come back to: as the page was opened, or where the engineer says so.
  const [start, setStart] = useState(design);
  // Attempts drawn beside the present state.
  const [beside, setBeside] = useState<readonly string[]>(NONE);
  useEffect(() => stage.look({ hovered, beside }), [stage, hovered, beside]);
  const remarks = useReview(scene);
  const planes = useStable(resolved.planes);
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
    (design.attempts ?? []).flatMap(({ id, name }) => {
      const data = beside.includes(id) ? results.get(`attempt:${id}`)?.data : undefined;
      return data ? [{ id, name, data }] : [];
    }),
  );
  const seen = useStableList(
    planes.flatMap(({ plot }) =>
      levels.map((l) => ({ plot, level: l.id, data: results.get(`plane:${plot}:${l.id}`)?.data })),
    ),
  );
  const walk = useWalk(scene, stage.get);
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
          onStop={stage.responses.stop}
          onDrag={onDrag}
        />
        <Response
          design={design}
          resolved={resolved}
          data={project.data}
          answers={answers}
          match={counted && matchOf(counted)}
          influence={hovered ? results.get('influence')?.data : undefined}
          beside={besides}
          seen={seen}
          walk={walk}
          hovered={hovered}
          onHover={setHovered}
          waiting={waiting}
          trouble={trouble}
          onResume={responses.stopped && !blocked ? stage.responses.resume : undefined}
        />
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
