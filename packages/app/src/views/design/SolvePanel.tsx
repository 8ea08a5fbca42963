import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { Dialog } from 'react-aria-components/Dialog';
import { Radio, RadioGroup } from 'react-aria-components/RadioGroup';
import { Switch } from 'react-aria-components/Switch';
import { accuracies, type Accuracy, type Estimate } from '@ditch/core/planar';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { askFarm, type Farm } from '../../bridge/farm';
import { setWhere, useWhere } from '../../bridge/where';
import { PrimaryButton, Quiet, Segments, TextButton } from '../../controls/basics';
import { Float } from '../../controls/Float';
import { InputBox } from '../../controls/QuantityInput';
import { useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { setPreferences, usePreferences } from '../hooks';
import type { Towards } from './retuning';
import { duration } from './duration';
import { FOLLOWED, type Solved, type Solving } from './solving';

const Sheet = styled(Dialog)`
  width: 372px;
  padding: 12px 14px;
  outline: none;
  h2 {
    margin: 0 0 6px;
    font-size: 13px;
    font-weight: 600;
  }
  p {
    margin: 6px 0;
  }
  dl {
    display: grid;
    grid-template-columns: max-content 1fr;
    gap: 3px 12px;
    margin: 10px 0 0;
    padding-top: 8px;
    border-top: 1px solid ${colour('rule')};
    font-size: 12px;
  }
  dt {
    color: ${colour('quiet')};
  }
  dd {
    margin: 0;
    font-variant-numeric: tabular-nums;
  }
`;
const Choice = styled(Radio)`
  display: grid;
  grid-template-columns: 18px 64px 1fr 70px 76px;
  align-items: center;
  height: 28px;
  padding: 0 6px;
  border-radius: 4px;
  font-variant-numeric: tabular-nums;
  cursor: pointer;
  &::before {
    content: '';
    width: 10px;
    height: 10px;
    border: 1.5px solid ${colour('quiet')};
    border-radius: 50%;
  }
  &[data-selected]::before {
    border: 4px solid ${colour('water')};
    width: 6px;
    height: 6px;
  }
  &[data-hovered] {
    background: ${colour('page')};
  }
  &[data-focus-visible] {
    outline: 2px solid ${colour('water')};
  }
  span {
    text-align: right;
  }
  span.why {
    grid-column: 3 / -1;
    color: ${colour('quiet')};
    font-size: 11px;
  }
`;
const Follow = styled(Switch)`
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 8px 0 10px;
  cursor: pointer;
  &::before {
    content: '';
    flex: none;
    width: 12px;
    height: 12px;
    border: 1.5px solid ${colour('quiet')};
    border-radius: 3px;
  }
  &[data-selected]::before {
    border-color: ${colour('water')};
    background: ${colour('water')};
    box-shadow: inset 0 0 0 2px ${colour('raised')};
  }
  &[data-focus-visible] {
    outline: 2px solid ${colour('water')};
    outline-offset: 2px;
  }
`;

const Where = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  margin-top: 8px;
  font-size: 12px;
  > ${Quiet} {
    flex-basis: 100%;
  }
  label {
    display: flex;
    flex-basis: 100%;
    align-items: center;
    gap: 10px;
  }
`;
const Again = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-top: 10px;
`;
/** No piece is chosen yet. */
const NONE: readonly string[] = [];
const AGAIN: readonly { readonly towards: Towards; readonly words: string }[] = [
  { towards: 'ideal', words: 'back to the ideal' },
  { towards: 'limits', words: 'into the limits' },
];

/** Two workers share the frequencies of a sweep. */
const weighed = ({ unknowns, bytes, seconds }: Estimate) => ({
  unknowns: `${unknowns} unknowns`,
  memory: `${Math.max(1, Math.round(bytes / 1e6))}\u2009MB`,
  time: `about ${duration(seconds)}`,
});

/** Where solving happens, where the server offers to do it, and what is sent then. */
function WhereSolved() {
  const { where, token } = useWhere();
  const [farm, setFarm] = useState<Farm>();
  useEffect(() => {
    const abort = new AbortController();
    void askFarm(abort.signal).then((found) => !abort.signal.aborted && setFarm(found));
    return () => abort.abort();
  }, [token]);
  // Set to the server it is shown also while that does not answer.
  if (!farm?.offered && where === 'here') return null;
  return (
    <Where>
      <span>Solved</span>
      <Segments
        label="where copper is solved"
        value={where}
        choices={[
          { id: 'here', label: 'in this browser' },
          { id: 'farm', label: 'on the server' },
        ]}
        onChange={(id) => setWhere({ where: id as typeof where })}
      />
      {where === 'farm' && (
        <Quiet>
          {!farm
            ? 'It is being asked\u2026'
            : !farm.offered
              ? 'The server does not answer, or offers it no more.'
              : (farm.refused ??
                `${farm.workers ?? 0} ${farm.workers === 1 ? 'worker' : 'workers'}, ${farm.waiting ?? 0} waiting. `)}
          {!farm?.refused && 'Sent are the copper, the board and the ports; no names.'}
        </Quiet>
      )}
      {where === 'farm' && farm?.token && (
        <label>
          Token
          <InputBox
            type="password"
            aria-label="token of the server"
            value={token}
            autoComplete="off"
            onChange={(event) => setWhere({ token: event.target.value.trim() })}
          />
        </label>
      )}
    </Where>
  );
}

/** What solving takes, how closely it is done, and what came of it. */
export default function SolvePanel({
  from,
  solved: live,
  solving,
  onRetune,
  onPieces,
  onBack,
  onClose,
}: {
  from: HTMLElement;
  solved: Live<Solved>;
  solving: Solving;
  onRetune: ((towards: Towards, accuracy: Accuracy) => void) | undefined;
  onPieces: () => void;
  onBack: (pieces: readonly string[]) => void;
  onClose: () => void;
}) {
  const { refusal, estimates, under, failure, shown, known } = useLive(live);
  const accuracy = usePreferences((p) => p.accuracy);
  const follow = usePreferences((p) => p.follow);
  useEffect(() => solving.weigh(), [solving, known]);
  const solution = shown?.solution;
  const done = shown?.fresh && solution?.complete && solution.accuracy === accuracy;
  const partial = shown?.fresh && solution && !solution.complete && solution.accuracy === accuracy;
  return (
    <Float
      triggerRef={{ current: from }}
      isOpen
      onOpenChange={(isOpen) => !isOpen && onClose()}
      placement="bottom start"
    >
      <Sheet aria-label="the solved level">
        <h2>Solve the copper as one piece of metal</h2>
        {refusal ? (
          <p>This copper cannot be solved: {refusal}.</p>
        ) : (
          <>
            <RadioGroup
              aria-label="accuracy"
              value={accuracy}
              onChange={(value) => setPreferences({ accuracy: value as typeof accuracy })}
            >
              {accuracies.map((a) => {
                const estimate = estimates?.[a];
                const words = typeof estimate === 'object' ? weighed(estimate) : undefined;
                return (
                  <Choice key={a} value={a}>
                    {a}
                    {words ? (
                      <>
                        <span>{words.unknowns}</span>
                        <span>{words.memory}</span>
                        <span>{words.time}</span>
                      </>
                    ) : (
                      <span className="why">
                        {typeof estimate === 'string' ? estimate : 'being weighed\u2026'}
                      </span>
                    )}
                  </Choice>
                );
              })}
            </RadioGroup>
            <WhereSolved />
            <Follow
              isSelected={follow}
              onChange={(on) => {
                setPreferences({ follow: on });
                if (on) solving.followNow();
              }}
            >
              follows every edit by itself where it takes less than{' '}
              {FOLLOWED === 1 ? 'a second' : `${FOLLOWED} s`}
            </Follow>
            {under ? (
              <PrimaryButton onPress={solving.stop}>Stop at {under.samples} frequencies</PrimaryButton>
            ) : (
              <PrimaryButton
                isDisabled={done}
                onPress={() => {
                  solving.start(accuracy);
                  onClose();
                }}
              >
                {done ? 'Solved' : partial ? 'Go on' : shown && !shown.fresh ? 'Solve again' : 'Solve'}
              </PrimaryButton>
            )}
            {onRetune && (
              <Again>
                Retune by solving, at most four times:
                {AGAIN.map(({ towards, words }) => (
                  <TextButton
                    key={towards}
                    onPress={() => {
                      onRetune(towards, accuracy);
                      onClose();
                    }}
                  >
                    {words}
                  </TextButton>
                ))}
              </Again>
            )}
            <Again>
              <TextButton
                onPress={() => {
                  onPieces();
                  onClose();
                }}
              >
                which piece makes the difference?
              </TextButton>
              <TextButton
                onPress={() => {
                  onBack(NONE);
                  onClose();
                }}
              >
                solve pieces over their sizes
              </TextButton>
            </Again>
            {failure && <p role="alert">It could not be solved: {failure}.</p>}
          </>
        )}
        {shown && solution && (
          <dl>
            <dt>{shown.fresh ? 'what is drawn' : 'what is drawn, as it was'}</dt>
            <dd>
              {solution.accuracy}, {solution.unknowns} unknowns, {duration(solution.seconds)}
              {!solution.complete && ', not all of it yet'}
            </dd>
            <dt>solved at</dt>
            <dd>
              {solution.samples.length} frequencies, {formatQuantity(solution.start, 'frequency')} to{' '}
              {formatQuantity(solution.stop, 'frequency')}
            </dd>
            <dt>mesh and sweep</dt>
            <dd>
              {Number.isFinite(solution.error)
                ? `S within ${formatNumber(solution.error, 2)}, estimated`
                : 'nothing tells yet'}
            </dd>
            <dt>ports of the copper</dt>
            <dd>
              {solution.ports
                .slice(0, 4)
                .map((p) => `${formatNumber(p.z0, 4)}\u2009\u03A9`)
                .join(', ')}
              {solution.ports.length > 4 && ', \u2026'}
            </dd>
            {solution.resonances.length > 0 && (
              <>
                <dt>the box resonates at</dt>
                <dd>
                  {solution.resonances.map((f) => formatQuantity(f, 'frequency', { digits: 4 })).join(', ')}
                </dd>
              </>
            )}
            {!shown.fresh && shown.changes.length > 0 && (
              <>
                <dt>changed since</dt>
                <dd>{shown.changes.slice(0, 5).join('; ')}</dd>
              </>
            )}
          </dl>
        )}
        {solution?.warnings.map((w) => (
          <p key={w}>
            <Quiet>{w}</Quiet>
          </p>
        ))}
      </Sheet>
    </Float>
  );
}
