import styled from 'styled-components';
import { formatNumber } from '@ditch/core/units';
import { Button, Quiet, TextButton } from '../../controls/basics';
import { colour } from '../../theme';
import type { Retuning } from './retuning';
import { SearchTrail } from './SearchTrail';
import { SolvedSteps } from './SolvedSteps';

/** What stands over the copper while something is under way. */
export const Card = styled.section`
  position: absolute;
  z-index: 5;
  top: 12px;
  right: 12px;
  width: 300px;
  padding: 10px 16px 12px;
  border: 1px solid ${colour('rule')};
  border-radius: 6px;
  background: ${colour('raised')};
  box-shadow: 0 6px 24px rgb(0 0 0 / 14%);
  font-size: 12px;
  h2 {
    display: flex;
    justify-content: space-between;
    margin-bottom: 2px;
    font-size: 13px;
  }
  p {
    min-height: 34px;
    margin: 2px 0 8px;
    line-height: 1.35;
  }
`;
const Row = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
`;

/** Copper that is solved, corrected and solved again. */
function SolvedPanel({ search }: { search: Retuning }) {
  const { steps, progress, towards } = search;
  return (
    <Card aria-label="Retuning to the solved response">
      <h2>
        <span>{towards === 'limits' ? 'Into the limits, solved' : 'Back to the ideal, solved'}</span>
        <Quiet>{Math.round((progress ?? 0) * 100)} %</Quiet>
      </h2>
      {steps.length > 0 ? (
        <SolvedSteps steps={steps} towards={towards} />
      ) : (
        <p>
          <Quiet>The modelled copper is solved first; at most four solutions follow.</Quiet>
        </p>
      )}
      <Row>
        <Button isDisabled={steps.length === 0} onPress={search.finish}>
          Enough
        </Button>
        <TextButton autoFocus onPress={search.stop}>
          give up
        </TextButton>
      </Row>
    </Card>
  );
}

/** A search under way: how far it is from the limits, and what can be done with it. */
export default function SearchPanel({ search }: { search: Retuning }) {
  const { seen, progress, held, width } = search;
  if (search.aim === 'solved') return <SolvedPanel search={search} />;
  return (
    <Card aria-label="Search for the limits">
      <h2>
        <span>{width === 'wide' ? 'Searching the whole ranges' : 'Searching'}</span>
        <Quiet>{held ? 'paused' : `${Math.round((progress ?? 0) * 100)} %`}</Quiet>
      </h2>
      <SearchTrail trail={seen?.trail ?? []} evaluations={seen?.evaluations ?? 0} />
      <p>
        {seen === undefined ? (
          <Quiet>Looking at the first state …</Quiet>
        ) : (
          <>
            {seen.evaluations} states tried.{' '}
            {seen.over > 0
              ? `Best so far misses ${seen.limit} by ${formatNumber(seen.over, 3)} ${seen.unit}.`
              : 'Every limit is kept.'}
          </>
        )}
      </p>
      <Row>
        <Button onPress={() => search.hold(!held)} autoFocus>
          {held ? 'Go on' : 'Pause'}
        </Button>
        <Button isDisabled={seen === undefined} onPress={search.finish}>
          Enough
        </Button>
        <TextButton onPress={search.stop}>give up</TextButton>
      </Row>
    </Card>
  );
}
