import styled from 'styled-components';
import type { SolvedStep } from '@ditch/core/studies/solved';
import { formatNumber } from '@ditch/core/units';
import { Figures } from './Figures';
import type { Towards } from './retuning';

const Table = styled(Figures)`
  td {
    white-space: nowrap;
  }
`;

/** What is missed, in the terms of what it is brought to. */
const missedWords = (x: number, towards: Towards): string =>
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
