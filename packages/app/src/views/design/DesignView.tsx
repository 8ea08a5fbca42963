import { lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import styled from 'styled-components';
import { Link, useParams } from 'react-router';
import { alone } from '@ditch/core/network';
import type { Asked } from '../../bridge/examining';
import { useLatest } from '../../bridge/latest';
import { HelpLine } from '../../controls/help';
import { useHandler } from '../../controls/stable';
import { useDerived, useLive, type Live } from '../../live';
import { useSession } from '../../store/session';
import { colour } from '../../theme';
import { Empty } from '../Empty';
import { usersOf } from '../edits';
import { Side, SideScroll } from '../side';
import { setPreferences, usePreferences } from '../hooks';
import { Copper } from './Copper';
import { Board } from './Board';
import { artworkOf, picturesOf } from './pictures';
import { Pieces } from './Pieces';
import { Review } from './Review';
import { SweepPart } from './SweepPart';
import { useRetuning } from './retuning';
import { Values } from './Values';
import { Response } from './Response';
import { Stage, type Scene } from './stage';
import { arcActions } from './walking';
import { Waterline } from './Waterline';

const RetuneDialog = lazy(() => import('./RetuneDialog'));
const BackPanel = lazy(() => import('./BackPanel'));
const PiecesPanel = lazy(() => import('./PiecesPanel'));
const SearchPanel = lazy(() => import('./SearchPanel'));
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

/** What stands between the session and the page, followed as long as that is open. */
function useStage(id: string): Stage {
  const [stage] = useState(() => new Stage(id));
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
  return stage;
}

/** Milliseconds of rest after which the review looks again: it looks at everything at once. */
const REST = 220;

/** The review comes after copper and curves, and beside the page: it asks every part's questions of everything. */
function useReview(scene: Live<Scene>): readonly Asked[] | undefined {
  const [remarks, setRemarks] = useState<readonly Asked[]>();
  const before = useRef(false);
  const ask = useLatest('reviewed', (found) => {
    // Where nothing came what was remarked stays; the next change asks again.
    if (!found) return;
    before.current = true;
    setRemarks((old) => (JSON.stringify(old) === JSON.stringify(found) ? old : found));
  });
  const looked = useDerived(
    () => {
      const { project, design, resolved, layout } = scene.value;
      return { project, design, resolved, layout };
    },
    [scene],
    // Of the project the review looks at nothing that is not in these.
    (a, b) => a.design === b.design && a.resolved === b.resolved && a.layout === b.layout,
  );
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const look = () => {
      const { project, design } = looked.peek();
      ask({ project: alone(project, design), design });
    };
    const unfollow = looked.subscribe(() => {
      clearTimeout(timer);
      timer = setTimeout(look, before.current ? REST : 0);
    });
    return () => {
      clearTimeout(timer);
      unfollow();
    };
  }, [looked, ask]);
  return remarks;
}

/** What the page as a whole says of a scene, whatever the numbers are. */
function frameOf({ project, design, resolved, counted, responses }: Scene) {
  const blocked = !counted || !resolved.sweep;
  return {
    blocked,
    counted: counted !== undefined,
    empty: design.pieces.length === 0,
    first: resolved.problems[0]?.message,
    failure: responses.error?.message,
    stopped: responses.stopped,
    busy: responses.progress,
    // Curves of earlier values are said to be so.
    late: responses.waiting && responses.results.size > 0,
    shared: usersOf(project, design.stack, design.id),
    stack: project.stacks.find((s) => s.id === design.stack),
    medium: design.medium,
    sweep: design.sweep,
    goal: design.goal,
    knobs: design.strip?.length ?? 0,
    sweepProblems: resolved.problems.filter((p) => p.place.kind === 'sweep' || p.place.kind === 'goal'),
    stackProblems: resolved.problems.flatMap((p) =>
      p.place.kind === 'stack' ? [{ field: p.place.field, message: p.message }] : [],
    ),
  };
}

/** Why there are no curves, or not those of the present values. */
function troubleOf(
  { empty, blocked, first, failure, stopped, late }: ReturnType<typeof frameOf>,
  remarks: readonly Asked[] | undefined,
): string | undefined {
  if (empty)
    return 'There is nothing to respond yet. Set a first port above and grow from it, or make a design by a recipe.';
  if (blocked)
    return `The response waits: ${remarks?.find((r) => r.severity === 'error')?.message ?? first ?? 'the design has an error.'}`;
  if (failure) return `The response could not be computed: ${failure}.`;
  if (stopped) return 'The computation was stopped; the curves belong to earlier values.';
  return late ? 'These curves are of earlier values; the new ones are being computed.' : undefined;
}

function Loaded({ id }: { id: string }) {
  const stage = useStage(id);
  const { scene } = stage;
  const pictures = useMemo(() => picturesOf(scene, stage.aside), [scene, stage]);
  const artwork = useMemo(() => artworkOf(scene), [scene]);
  const frame = useLive(useDerived(() => frameOf(scene.value), [scene]));
  const stacks = useLive(useDerived(() => scene.value.project.stacks, [scene], Object.is));
  const waterline = usePreferences((p) => p.waterline);
  const [selected, setSelected] = useState<string>();
  const [hovered, setHovered] = useState<string>();
  const ledger = usePreferences((p) => p.ledger);
  // A narrow window belongs to copper and curves.
  const [folded, setFolded] = useState(() => window.innerWidth <= 1100);
  const main = useRef<HTMLDivElement>(null);
  // The state to come back to: as the page was opened, or where the engineer says so.
  const [start, setStart] = useState(() => scene.peek().design);
  // Attempts drawn beside the present state.
  const [beside, setBeside] = useState<readonly string[]>(NONE);
  const remarks = useReview(scene);
  const actions = useMemo(() => arcActions(stage.get), [stage]);
  const retuning = useRetuning(stage.get);
  const trial = retuning.seen?.best ?? (retuning.aim === 'limits' ? retuning.result?.design : undefined);
  useEffect(() => stage.look({ hovered, beside, trial }), [stage, hovered, beside, trial]);
  const retuneOnly = useMemo(
    () => ({
      progress: retuning.aim === 'retune' ? retuning.progress : undefined,
      start: retuning.start,
      stop: retuning.stop,
      startSolved: retuning.startSolved,
    }),
    [retuning],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey) || event.altKey) return;
      // The control in focus is not pressed by it.
      event.preventDefault();
      event.stopPropagation();
      if (!stage.solving.get().refusal) stage.solving.start();
    };
    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, [stage]);
  const [asking, setAsking] = useState(false);
  const askPieces = useHandler(() => setAsking(true));
  // Pieces that are to be solved over their sizes; absent: nobody asks.
  const [backing, setBacking] = useState<readonly string[]>();
  const back = useHandler((ids: readonly string[]) => {
    setAsking(false);
    setBacking(ids);
  });
  const accuracy = usePreferences((p) => p.accuracy);
  const meetLimits = useHandler(() => retuning.start('limits'));
  const onDrag = useHandler((y: number) => {
    const rect = main.current!.getBoundingClientRect();
    const strip = main.current!.lastElementChild!.getBoundingClientRect().height;
    setPreferences({
      waterline: Math.min(0.75, Math.max(0.15, (y - rect.top - 22) / (rect.height - 44 - strip))),
    });
  });
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
              <Values scene={scene} />
              {frame.stack && (
                <Board
                  design={id}
                  shared={frame.shared}
                  medium={frame.medium}
                  stack={frame.stack}
                  stacks={stacks}
                  problems={frame.stackProblems}
                  scene={scene}
                />
              )}
              <SweepPart design={id} sweep={frame.sweep} goal={frame.goal} problems={frame.sweepProblems} />
              <Pieces
                scene={scene}
                selected={selected}
                hovered={hovered}
                onSelect={setSelected}
                onHover={setHovered}
                onBack={back}
              />
            </SideScroll>
            <Review design={id} remarks={remarks} onSelect={setSelected} />
            <HelpLine idle="Fields take any unit and expressions: 36mil, 2*z0, lambda/4 - 0.1mm. Arrow keys step a value, Shift finer." />
          </>
        )}
      </Ledger>
      <Main
        ref={main}
        style={{ gridTemplateRows: `minmax(0, ${waterline}fr) 44px minmax(0, ${1 - waterline}fr) auto` }}
      >
        <Copper
          artwork={artwork}
          solved={pictures.solved}
          selected={selected}
          hovered={hovered}
          onSelect={setSelected}
          onHover={setHovered}
        />
        <Waterline
          readings={pictures.readings}
          solved={pictures.solved}
          solving={stage.solving}
          retuning={frame.counted ? retuneOnly : undefined}
          busy={frame.busy}
          onStop={stage.responses.stop}
          onDrag={onDrag}
          onPieces={askPieces}
          onBack={back}
        />
        <Response
          pictures={pictures}
          actions={actions}
          hovered={hovered}
          onHover={setHovered}
          trouble={troubleOf(frame, remarks)}
          onResume={frame.stopped && !frame.blocked ? stage.responses.resume : undefined}
        />
        <Suspense fallback={<div style={{ height: frame.knobs > 0 ? 74 : 60 }} />}>
          <TuningStrip
            scene={scene}
            start={start}
            onStart={setStart}
            beside={beside}
            onBeside={setBeside}
            onMeet={frame.counted && retuning.progress === undefined ? meetLimits : undefined}
            meeting={retuning.aim === 'limits' && retuning.progress !== undefined}
            shared={frame.shared}
          />
        </Suspense>
        {asking && (
          <Suspense>
            <PiecesPanel
              now={stage.get}
              accuracy={accuracy}
              onHover={setHovered}
              onSelect={setSelected}
              onBack={back}
              onClose={() => setAsking(false)}
            />
          </Suspense>
        )}
        {backing && (
          <Suspense>
            <BackPanel
              scene={scene}
              first={backing}
              onHover={setHovered}
              onClose={() => setBacking(undefined)}
            />
          </Suspense>
        )}
        {retuning.aim !== 'retune' && retuning.progress !== undefined && (
          <Suspense>
            <SearchPanel search={retuning} />
          </Suspense>
        )}
      </Main>
      {retuning.result && (
        <Suspense>
          <RetuneDialog retuning={retuning} />
        </Suspense>
      )}
    </Page>
  );
}
