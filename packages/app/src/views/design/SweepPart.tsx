import { Note, Part, sameContent, ValueRow } from './ledgerParts';
import { memo, useEffect, useState } from 'react';
import styled from 'styled-components';
import { type Design, type Problem } from '@ditch/core/network';
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
  const [pointsText, setPointsText] = useState('');
  const noNumber =
    pointsText !== '' && !Number.isFinite(Number(pointsText.trim() === '' ? NaN : pointsText))
      ? `"${pointsText}" is no number of points; the response is of ${sweep.points}`
      : undefined;
  const problem = message('start') ?? message('stop') ?? noNumber ?? message('points');
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
        <PointsBox
          points={sweep.points}
          error={message('points')}
          onText={setPointsText}
          onChange={(points) => set({ points })}
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

function PointsBox({
  points,
  error,
  onText,
  onChange,
}: {
  points: number;
  error?: string;
  /** What stands in the field. */
  onText: (text: string) => void;
  onChange: (points: number) => void;
}) {
  const [text, setText] = useState(String(points));
  // What is typed and is a number is the design's at once, so that what is wrong with it is said where all errors are.
  useEffect(() => setText((old) => (Number(old) === points ? old : String(points))), [points]);
  const number = /^\s*[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?\s*$/i.test(text) ? Number(text) : undefined;
  const wrong = number === undefined || error !== undefined;
  return (
    <InputBox
      aria-label="sweep points"
      aria-invalid={wrong}
      aria-describedby={wrong ? 'sweep-error' : undefined}
      value={text}
      inputMode="numeric"
      maxLength={12}
      onChange={(event) => {
        setText(event.target.value);
        const next = Number(event.target.value);
        onText(event.target.value);
        if (event.target.value.trim() !== '' && Number.isFinite(next)) onChange(next);
      }}
      onBlur={() => {
        if (number === undefined) {
          setText(String(points));
          onText(String(points));
        }
        endMerge();
      }}
      {...helpHandlers('Points', 'Number of frequencies computed, 2 to 20001.')}
    />
  );
}
