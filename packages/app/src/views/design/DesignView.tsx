import { lazy, Suspense, useDeferredValue, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { Link } from 'react-router';
import { layOut } from '@ditch/core/artwork';
import { circuitOf, dataOf, type Design } from '@ditch/core/network';
import { review } from '@ditch/core/review';
import { pathArc } from '@ditch/core/studies';
import { HelpLine } from '../../controls/help';
import { useResponses } from '../../queries';
import { colour } from '../../theme';
import { Empty } from '../Empty';
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

const Page = styled.div<{ $folded: boolean }>`
  display: grid;
  grid-template-columns: ${({ $folded }) => ($folded ? '30px' : '318px')} minmax(0, 1fr);
  height: 100%;
  min-height: 0;
`;
const Side = styled.aside`
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-right: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  contain: layout paint;
`;
const Scroll = styled.div`
  flex: 1;
  min-height: 0;
  overflow: auto;
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
const Main = styled.div`
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

function Loaded({ design }: { design: Design }) {
  const project = useProject();
  const resolved = useResolved(project, design);
  const waterline = usePreferences((p) => p.waterline);
  const [selected, setSelected] = useState<string>();
  const [hovered, setHovered] = useState<string>();
  const [folded, setFolded] = useState(() => window.innerWidth < 1024);
  const main = useRef<HTMLDivElement>(null);

  const layout = useMemo(() => layOut(resolved), [resolved]);
  // The review looks at everything at once; copper and curves do not wait for it.
  const state = useMemo(() => ({ project, design, resolved, layout }), [project, design, resolved, layout]);
  const settled = useDeferredValue(state);
  const remarks = useMemo(
    () => review(settled.project, settled.design, settled.resolved, settled.layout),
    [settled],
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
  const walk = useMemo(
    () =>
      hovered && modelledCircuit
        ? pathArc(
            design,
            resolved,
            modelledCircuit,
            (id) => project.data.filter((d) => d.id === id).map(dataOf)[0],
            hovered,
          )?.points
        : undefined,
    [design, resolved, modelledCircuit, project.data, hovered],
  );
  const responses = useResponses(
    [idealCircuit, modelledCircuit, influenceCircuit],
    resolved.sweep,
    project.data,
  );
  // While an entry is wrong the copper of the last right one stays, dimmed, instead of vanishing under the hand.
  const wrong = resolved.problems.some((p) => ['stack', 'value', 'piece'].includes(p.place.kind));
  const [sound, setSound] = useState({ resolved, layout });
  if (!wrong && sound.resolved !== resolved) setSound({ resolved, layout });
  const drawn = wrong ? sound : { resolved, layout };
  const { goal } = resolved;
  const ideal = useLevelResponse(responses.data[0], resolved.f0, goal);
  const modelled = useLevelResponse(responses.data[1], resolved.f0, goal);

  const retuning = useRetuning(project, design);
  const stack = project.stacks.find((s) => s.id === design.stack);
  const blocked = !idealCircuit || !resolved.sweep;
  const first = resolved.problems[0];
  const failure = responses.error?.message;
  const trouble = blocked
    ? `The response waits: ${remarks.find((r) => r.severity === 'error')?.message ?? first?.message ?? 'the design has an error.'}`
    : failure
      ? `The response could not be computed: ${failure}.`
      : responses.stopped
        ? 'The computation was stopped; the curves belong to earlier values.'
        : undefined;
  const waiting = blocked || responses.waiting;

  return (
    <Page $folded={folded}>
      <Side aria-label="Ledger">
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
            <Scroll>
              <Values design={design} resolved={resolved} />
              {stack && (
                <Board
                  design={design.id}
                  medium={design.medium}
                  stack={stack}
                  stacks={project.stacks}
                  problems={resolved.problems.flatMap((p) =>
                    p.place.kind === 'stack' ? [{ field: p.place.field, message: p.message }] : [],
                  )}
                />
              )}
              <SweepPart
                design={design.id}
                sweep={design.sweep}
                goal={design.goal}
                problems={resolved.problems.filter(
                  (p) => p.place.kind === 'sweep' || p.place.kind === 'goal',
                )}
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
            </Scroll>
            <Review remarks={remarks} onSelect={setSelected} />
            <HelpLine idle="Fields take any unit and expressions: 36mil, 2*z0, lambda/4 - 0.1mm. Arrow keys step a value, Shift finer." />
          </>
        )}
      </Side>
      <Main
        ref={main}
        style={{ gridTemplateRows: `minmax(0, ${waterline}fr) 44px minmax(0, ${1 - waterline}fr)` }}
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
          readings={[
            { level: 'ideal', match: blocked || responses.stopped ? undefined : ideal?.match },
            { level: 'modelled', match: blocked || responses.stopped ? undefined : modelled?.match },
          ]}
          retuning={modelledCircuit ? retuning : undefined}
          busy={responses.progress}
          onStop={responses.stop}
          onDrag={(y) => {
            const rect = main.current!.getBoundingClientRect();
            setPreferences({
              waterline: Math.min(0.75, Math.max(0.15, (y - rect.top - 22) / (rect.height - 44))),
            });
          }}
        />
        <Response
          design={design}
          resolved={resolved}
          data={project.data}
          ideal={ideal}
          modelled={modelled}
          influence={hovered && influenceCircuit ? responses.data[2] : undefined}
          walk={walk}
          waiting={waiting}
          trouble={trouble}
          onResume={responses.stopped && !blocked ? responses.resume : undefined}
        />
      </Main>
      {retuning.result && (
        <Suspense>
          <RetuneDialog retuning={retuning} />
        </Suspense>
      )}
    </Page>
  );
}
