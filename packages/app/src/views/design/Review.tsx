import { memo } from 'react';
import styled from 'styled-components';
import type { Asked } from '../../bridge/examining';
import { Quiet, TextButton } from '../../controls/basics';
import { colour } from '../../theme';
import { settle } from '../edits';

const ReviewBox = styled.section`
  max-height: 170px;
  overflow: auto;
  padding: 10px 16px;
  border-top: 1px solid ${colour('rule')};
  background: ${colour('page')};
  h2 {
    font-size: 13px;
    margin-bottom: 4px;
  }
  li {
    display: grid;
    grid-template-columns: 8px 1fr;
    gap: 8px;
    padding: 2px 0;
    font-size: 12px;
  }
  li::before {
    content: '';
    width: 8px;
    height: 8px;
    margin-top: 5px;
    border-radius: 2px;
    background: ${colour('caution')};
  }
  li[data-severity='error']::before {
    background: ${colour('error')};
  }
`;

interface ReviewProps {
  readonly design: string;
  /** Undefined until the design has been looked at for the first time. */
  readonly remarks: readonly Asked[] | undefined;
  readonly onSelect: (id: string | undefined) => void;
}

export const Review = memo(function Review({ design, remarks, onSelect }: ReviewProps) {
  return (
    <ReviewBox aria-label="Review">
      <h2>Review{remarks && remarks.length > 0 ? ` \u00B7 ${remarks.length}` : ''}</h2>
      {!remarks ? (
        <Quiet>Looking…</Quiet>
      ) : remarks.length === 0 ? (
        <Quiet>
          Nothing to question: every pin is joined, every line can be etched and stands inside its models’
          ranges.
        </Quiet>
      ) : (
        <ul>
          {remarks.map((r) => {
            const { place } = r;
            return (
              <li key={r.id} data-severity={r.severity}>
                <span>
                  {r.message}{' '}
                  {r.remedies?.map((remedy) => (
                    <span key={remedy}>
                      <TextButton onPress={() => void settle(design, r.id, remedy)}>{remedy}</TextButton>{' '}
                    </span>
                  ))}
                  {place.kind === 'piece' && (
                    <TextButton onPress={() => onSelect(place.piece)}>Show</TextButton>
                  )}
                </span>
              </li>
            );
          })}
        </ul>
      )}
    </ReviewBox>
  );
});
