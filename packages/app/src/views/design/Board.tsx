import { Part, sameContent } from './ledgerParts';
import { lazy, memo, Suspense, useState } from 'react';
import type { Design } from '@ditch/core/network';
import type { Stack, StackProblem } from '@ditch/core/stack';
import { Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { changeDesign, chooseStack, ownBoard } from '../edits';
import { SharedBoard } from '../SharedBoard';
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
}

export const Board = memo(function Board({ design, shared, medium, stack, stacks, problems }: BoardProps) {
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
        </div>
      )}
    </Part>
  );
}, sameContent);
