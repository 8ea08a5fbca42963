import styled from 'styled-components';
import type { SolvedStep } from '@ditch/core/studies/solved';
import { formatNumber } from '@ditch/core/units';
import { colour } from '../../theme';
import type { Towards } from './retuning';

const Table = styled.table`
  width: 100%;
  margin: 2px 0 10px;
  border-collapse: collapse;
  font-size: 12px;
  th {
    color: ${colour('quiet')};
    font-size: 11px;
    font-weight: 400;
    text-align: right;
  }
  th,
  td {
    white-space: nowrap;
  }
  td {
    padding: 2px 0 2px 10px;
    border-top: 1px solid ${colour('rule')};
    text-align: right;
  }
  th:first-child,
  td:first-child {
    padding-left: 0;
    text-align: left;
  }
`;

/** What is missed, in the terms of what it is brought to. */
export const missedWords = (x: number, towards: Towards): string =>
  towards === 'limits'
    ? x <= 0
      ? 'all kept'
      : `${formatNumber(x, 3)}\u2009dB`
    : `${formatNumber(20 * Math.log10(Math.max(x, 1e-9)), 3)}\u2009dB`;

/** Solution by solution: what was foretold, what came out, and what the shifted models leave unexplained. */
export function SolvedSteps({ steps, towards }: { steps: readonly SolvedStep[]; towards: Towards }) {
  const what = towards === 'limits' ? 'worst miss' : 'rms off the ideal';
  return (
    <Table aria-label="solutions">
      <thead>
        <tr>
          <th scope="col">{what}</th>
          <th scope="col">foretold</th>
          <th scope="col">solved</th>
          <th scope="col">unexplained</th>
        </tr>
      </thead>
      <tbody>
        {steps.map(({ predicted, missed, left }, i) => (
          <tr key={i}>
            <td>solution {i + 1}</td>
            <td>{predicted === undefined ? '\u2013' : missedWords(predicted, towards)}</td>
            <td>{missedWords(missed, towards)}</td>
            <td>{missedWords(left, 'ideal')}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
