import { Note, Part, sameContent, ValueRow } from './ledgerParts';
import { memo, useState } from 'react';
import styled from 'styled-components';
import type { Design, Problem } from '@ditch/core/network';
import { DECIMAL } from '@ditch/core/units';
import { SectionTitle } from '../../controls/basics';
import { helpHandlers } from '../../controls/help';
import { ErrorText, InputBox, QuantityInput } from '../../controls/QuantityInput';
import { endMerge } from '../../store/session';
import { changeDesign } from '../edits';

const SweepGrid = styled.div`
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) minmax(0, 1fr) 64px;
  align-items: center;
  gap: 6px;
  min-height: 29px;
`;

const NUMBER = new RegExp(`^\\s*[+-]?${DECIMAL}\\s*$`);
/** A text as a number, or undefined where it is none. */
const numberOf = (text: string): number | undefined =>
  NUMBER.test(text) && Number.isFinite(Number(text)) ? Number(text) : undefined;

/** Where the response is computed and what counts as matched. */
interface SweepProps {
  readonly design: string;
  readonly sweep: Design['sweep'];
  readonly goal: string;
  /** Problems of the sweep and the goal only. */
  readonly problems: readonly Problem[];
}

export const SweepPart = memo(function SweepPart({ design, sweep, goal, problems }: SweepProps) {
  const message = (field: string) =>
    problems.find((p) => p.place.kind === 'sweep' && p.place.field === field)?.message;
  const goalProblem = problems.find((p) => p.place.kind === 'goal')?.message;
  const set = (change: Partial<Design['sweep']>) =>
    changeDesign(design, 'change the sweep', { sweep: { ...sweep, ...change } }, 'sweep');
  // What is typed and is a number is the design's at once, so that what is wrong with it is said where all errors are.
  const [draft, setDraft] = useState<{ readonly text: string; readonly meant: number }>();
  const points = draft?.meant === sweep.points ? draft.text : String(sweep.points);
  const noNumber =
    numberOf(points) === undefined
      ? `"${points}" is no number of points; the response is of ${sweep.points}`
      : undefined;
  const writePoints = (text: string) => {
    const meant = numberOf(text);
    setDraft({ text, meant: meant ?? sweep.points });
    if (meant !== undefined) set({ points: meant });
  };
  const pointsProblem = noNumber ?? message('points');
  const problem = message('start') ?? message('stop') ?? pointsProblem;
  return (
    <Part aria-label="Sweep and goal">
      <SectionTitle>Sweep</SectionTitle>
      <SweepGrid>
        <b>from, to</b>
        <QuantityInput
          label="sweep start"
          kind="frequency"
          help="First frequency of the response; an expression such as f0/2 follows the design frequency."
          value={sweep.start}
          error={message('start')}
          errorElsewhere="sweep-error"
          onChange={(start) => set({ start })}
        />
        <QuantityInput
          label="sweep stop"
          kind="frequency"
          help="Last frequency of the response."
          value={sweep.stop}
          error={message('stop')}
          errorElsewhere="sweep-error"
          onChange={(stop) => set({ stop })}
        />
        <InputBox
          aria-label="sweep points"
          aria-invalid={pointsProblem !== undefined}
          aria-describedby={pointsProblem === undefined ? undefined : 'sweep-error'}
          value={points}
          inputMode="numeric"
          maxLength={12}
          onChange={(event) => writePoints(event.target.value)}
          onBlur={() => {
            setDraft(undefined);
            endMerge();
          }}
          {...helpHandlers('Points', 'Number of frequencies computed, 2 to 20001.')}
        />
      </SweepGrid>
      {problem && (
        <div>
          <ErrorText id="sweep-error">{problem}</ErrorText>
        </div>
      )}
      <ValueRow>
        <b>match</b>
        <QuantityInput
          label="return loss goal"
          kind="level"
          help="Return loss that counts as matched; the waterline reads the bandwidth at this level."
          value={goal}
          error={goalProblem}
          onChange={(text) => changeDesign(design, 'change the goal', { goal: text }, 'goal')}
        />
        <Note>return loss</Note>
      </ValueRow>
    </Part>
  );
}, sameContent);
