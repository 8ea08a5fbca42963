import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { alone, type Design, type Project } from '@ditch/core/network';
import type { Accuracy } from '@ditch/core/planar';
import type { PieceDifference } from '@ditch/core/studies/solved';
import { formatNumber } from '@ditch/core/units';
import { runApart } from '../../bridge/bridge';
import { Quiet, TextButton } from '../../controls/basics';
import { Figures } from './Figures';
import { Card } from './SearchPanel';

const List = styled(Figures)`
  td:not(:first-child) {
    white-space: nowrap;
  }
`;
const Scroll = styled.div`
  max-height: 300px;
  overflow: auto;
`;

/** A change of S as its size in dB. */
const size = (change: number): string =>
  `${formatNumber(20 * Math.log10(Math.max(change, 1e-6)), 3)}\u2009dB`;
const moves = (shift: number): string =>
  Math.abs(shift) < 5e-5
    ? 'stays'
    : `${shift > 0 ? '+' : '\u2212'}${formatNumber(Math.abs(100 * shift), 2)}\u2009%`;

/** Which piece makes the difference between modelled and solved: each solved by itself, put in its place, and ranked. */
export default function PiecesPanel({
  now,
  accuracy,
  onHover,
  onSelect,
  onBack,
  onClose,
}: {
  now: () => { readonly project: Project; readonly design: Design };
  accuracy: Accuracy;
  onHover: (piece: string | undefined) => void;
  onSelect: (piece: string) => void;
  /** Pieces that shall be solved over their sizes. */
  onBack: (pieces: readonly string[]) => void;
  onClose: () => void;
}) {
  const [found, setFound] = useState<readonly PieceDifference[]>([]);
  const [progress, setProgress] = useState<number | undefined>(0);
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    const abort = new AbortController();
    const { project, design } = now();
    runApart(
      'pieces',
      { project: alone(project, design), design, accuracy },
      {
        signal: abort.signal,
        onProgress(done, told) {
          setProgress(done);
          if (told) setFound(told as readonly PieceDifference[]);
        },
      },
    )
      .then((result) => {
        if ('problem' in result) setProblem(result.problem);
        else setFound(result.value?.pieces ?? []);
      })
      .catch((error: unknown) => {
        if (!abort.signal.aborted) setProblem(error instanceof Error ? error.message : String(error));
      })
      .finally(() => !abort.signal.aborted && setProgress(undefined));
    return () => {
      abort.abort();
      onHover(undefined);
    };
  }, [now, accuracy, onHover]);
  const [first] = found;
  return (
    <Card aria-label="Which piece makes the difference">
      <h2>
        <span>Which piece makes the difference</span>
        <Quiet>{progress === undefined ? '' : `${Math.round(100 * progress)} %`}</Quiet>
      </h2>
      <p role="status" style={{ minHeight: 0 }}>
        {problem ? (
          `It cannot be told: ${problem}.`
        ) : progress !== undefined && found.length === 0 ? (
          <Quiet>Each piece is solved by itself and put in its place.</Quiet>
        ) : first?.change === undefined ? (
          'No piece can be solved by itself.'
        ) : (
          `The most is changed by ${first.name}; what they do not explain together is how pieces couple, and what radiates.`
        )}
      </p>
      {found.length > 0 && (
        <Scroll>
          <List aria-label="pieces by the difference they make">
            <thead>
              <tr>
                <th scope="col">solved instead</th>
                <th scope="col">changes S by</th>
                <th scope="col">match</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {found.map(({ ids, name, change, shift, refused }) => (
                <tr
                  key={ids.join()}
                  onPointerEnter={() => onHover(ids[0])}
                  onPointerLeave={() => onHover(undefined)}
                >
                  <td>
                    <TextButton onPress={() => onSelect(ids[0])} onFocus={() => onHover(ids[0])}>
                      {name}
                    </TextButton>
                  </td>
                  <td title={refused}>{change === undefined ? 'not solvable' : size(change)}</td>
                  <td>{shift === undefined ? '\u2013' : moves(shift)}</td>
                  <td>
                    {change !== undefined && (
                      <TextButton aria-label={`solve ${name} over its sizes`} onPress={() => onBack(ids)}>
                        over sizes
                      </TextButton>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </List>
        </Scroll>
      )}
      <TextButton autoFocus onPress={onClose}>
        {progress === undefined ? 'close' : 'give up'}
      </TextButton>
    </Card>
  );
}
