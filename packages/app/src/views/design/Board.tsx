import { Part, sameContent } from './ledgerParts';
import { lazy, memo, Suspense, useEffect, useState } from 'react';
import type { Design } from '@ditch/core/network';
import type { Stack, StackProblem } from '@ditch/core/stack';
import type { Bending } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { run } from '../../bridge/bridge';
import { useLive, type Live } from '../../live';
import type { Scene } from './stage';
import { Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { changeDesign, chooseStack, ownBoard } from '../edits';
import { SharedBoard } from '../SharedBoard';
import { Surroundings } from './Surroundings';
import { MediumChoice } from '../MediumChoice';

const StackForm = lazy(() => import('../StackForm').then((m) => ({ default: m.StackForm })));

interface BoardProps {
  readonly design: string;
  /** Names of whatever else stands on this board. */
  readonly shared: readonly string[];
  readonly medium: Design['medium'];
  readonly stack: Stack;
  readonly stacks: readonly Stack[];
  readonly problems: readonly StackProblem[];
  readonly scene: Live<Scene>;
}

/** The same copper on the flat and on the bent board, in words; worked out behind the hand. */
function Bent({ scene }: { scene: Live<Scene> }) {
  const { project, design } = useLive(scene);
  const [bending, setBending] = useState<Bending>();
  useEffect(() => {
    const abort = new AbortController();
    run('bending', { project, design }, { signal: abort.signal }).then(setBending, () => undefined);
    return () => abort.abort();
  }, [project, design]);
  if (!bending) return null;
  const { flat, bent } = bending;
  const shift = (bent.best / flat.best - 1) * 100;
  const level = (x: number) => `${formatNumber(x, 3)} dB`;
  return (
    <p style={{ paddingTop: 4 }}>
      Bent: its centre is {formatQuantity(bent.best, 'frequency', { digits: 5 })},{' '}
      {Math.abs(shift) < 0.005
        ? 'where it is flat'
        : `${formatNumber(Math.abs(shift), 2)} % ${shift < 0 ? 'below' : 'above'} the same copper flat`}
      ; at f0 its match is {level(bent.level)}, flat {level(flat.level)}.
    </p>
  );
}

export const Board = memo(function Board({
  design,
  shared,
  medium,
  stack,
  stacks,
  problems,
  scene,
}: BoardProps) {
  const [open, setOpen] = useState(false);
  return (
    <Part aria-label="Board">
      <SectionTitle>
        Board
        <TextButton aria-expanded={open || problems.length > 0} onPress={() => setOpen(!open)}>
          {open ? 'close' : 'change'}
        </TextButton>
      </SectionTitle>
      {open || problems.length > 0 ? (
        <div>
          <MediumChoice
            medium={medium}
            onChoose={(m) => changeDesign(design, `make it ${m}`, { medium: m })}
          />
          <SharedBoard shared={shared} what="this design" onOwn={() => ownBoard(design)} />
          <Suspense>
            <StackForm
              medium={medium}
              stack={stack}
              stacks={stacks}
              problems={problems}
              onChoose={(s) => chooseStack(design, s)}
            />
          </Suspense>
        </div>
      ) : (
        <div style={{ paddingTop: 4 }}>
          {stack.name}{' '}
          <Quiet>
            · {stack.height} · {stack.thickness} · {medium}
          </Quiet>
          {(stack.bentAcross?.trim() || stack.bentAlong?.trim()) && <Bent scene={scene} />}
        </div>
      )}
      <Surroundings scene={scene} />
    </Part>
  );
}, sameContent);
