import styled from 'styled-components';
import { SectionTitle } from '../../controls/basics';
import { colour } from '../../theme';

/** One section of the ledger. */
export const Part = styled.section`
  padding: 10px 0 8px;
  border-bottom: 1px solid ${colour('rule')};
  > ${SectionTitle}, > div {
    padding-inline: 16px;
  }
`;
export const ValueRow = styled.div`
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) 92px;
  /* A formula takes the whole line, and its note the next. */
  &[data-long] {
    grid-template-columns: 62px minmax(0, 1fr);
  }
  &[data-long] > :last-child {
    grid-column: 2 / -1;
    padding: 0 6px 3px;
  }
  align-items: center;
  gap: 6px;
  min-height: 29px;
`;
export const Note = styled.span`
  display: flex;
  justify-content: space-between;
  gap: 4px;
  color: ${colour('quiet')};
  font-size: 11px;
  line-height: 1.25;
  overflow-wrap: anywhere;
`;
/** Whether two sets of props say the same, so that a row is drawn again only when something of its own changed. */
export function sameContent<P extends object>(a: P, b: P): boolean {
  return (Object.keys(b) as (keyof P)[]).every(
    (key) =>
      a[key] === b[key] || (typeof b[key] === 'object' && JSON.stringify(a[key]) === JSON.stringify(b[key])),
  );
}
