import { lazy, Suspense, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { Link } from 'react-router';
import { layOut } from '@ditch/core/artwork';
import { circuitOf, resolveDesign, seenFrom, type Design } from '@ditch/core/network';
import type { review as Reviewer } from '@ditch/core/review';
import type { Walk } from '../../charts/SmithPath';
import { HelpLine } from '../../controls/help';
import { useHandler, useStable, useStableList } from '../../controls/stable';
import { useResponses } from '../../responses';
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
import { influenceOf, useLevelResponse } from './reading';
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
  const idealCircuit = useMemo(() => circuitOf(resolved, 'ideal'), [resolved]);
  const modelledCircuit = useMemo(() => circuitOf(resolved, 'modelled'), [resolved]);
  const influenceCircuit = useMemo(
    () =>
      // A long sweep is not computed again for a glance.
      hovered && (resolved.sweep?.points ?? 0) <= 2001
        ? influenceOf(modelledCircuit, resolved, hovered)
        : undefined,
    [modelledCircuit, resolved, hovered],
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
          circuit: circuitOf(
            resolveDesign(project, { ...design, values: a.values, pieces: a.pieces }),
            'modelled',
          ),
        })),
    [project, design, beside],
  );
  const planes = useStable(resolved.planes);
  const circuits = useMemo(
    () => [
      idealCircuit,
      modelledCircuit,
      influenceCircuit,
      ...others.map((o) => o.circuit),
      ...planes.flatMap((plane) =>
        [idealCircuit, modelledCircuit].map((c) => c && seenFrom(c, resolved, plane)),
      ),
    ],
    [idealCircuit, modelledCircuit, influenceCircuit, others, planes, resolved],
  );
  const { goal, f0 } = resolved;
  const responses = useResponses(
    circuits,
    resolved.sweep,
    project.data,
    f0 === undefined
      ? undefined
      : {
          of: 2,
          match: { near: f0, target: -goal },
          at: [f0, ...resolved.markers.map((m) => m.freq), ...resolved.limits.flatMap((l) => [l.from, l.to])],
        },
  );
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
  const ideal = useLevelResponse(responses.data[0], responses.matches[0]);
  const modelled = useLevelResponse(responses.data[1], responses.matches[1]);

  const besides = useStableList(
    others.flatMap((o, i) => {
      const data = responses.data[3 + i];
      return data ? [{ id: o.id, name: o.name, data }] : [];
    }),
  );
  const seen = useStableList(
    planes.map(({ plot }, i) => {
      const at = 3 + others.length + 2 * i;
      return { id: plot, ideal: responses.data[at], modelled: responses.data[at + 1] };
    }),
  );
  const firstSmith = design.plots?.find((p) => p.show === 'smith')?.id;
  const retuning = useRetuning(project, design);
  const retuneOnly = useMemo(
    () => ({ ...retuning, progress: retuning.aim === 'ideal' ? retuning.progress : undefined }),
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
  const blocked = !idealCircuit || !resolved.sweep;
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
          : responses.waiting && responses.data[1]
            ? 'These curves are of earlier values; the new ones are being computed.'
            : undefined;
  const waiting = blocked || responses.waiting;

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
          ideal={waiting ? undefined : ideal?.match}
          modelled={waiting ? undefined : modelled?.match}
          retuning={modelledCircuit ? retuneOnly : undefined}
          busy={responses.progress}
          onStop={responses.stop}
          onDrag={onDrag}
        />
        <Response
          design={design}
          resolved={resolved}
          data={project.data}
          ideal={ideal}
          modelled={modelled}
          influence={hovered && influenceCircuit ? responses.data[2] : undefined}
          beside={besides}
          seen={seen}
          walk={walk}
          hovered={hovered}
          onHover={setHovered}
          waiting={waiting}
          trouble={trouble}
          onResume={responses.stopped && !blocked ? responses.resume : undefined}
        />
        <Suspense>
          <Walker
            project={project}
            design={design}
            resolved={resolved}
            circuit={modelledCircuit}
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
            onMeet={modelledCircuit && retuning.progress === undefined ? meetLimits : undefined}
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
