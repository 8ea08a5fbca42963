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
  grid-template-columns: 62px minmax(0, 1fr) 88px;
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
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
`;
/** Whether two sets of props say the same, so that a row is drawn again only when something of its own changed. */
export function sameContent<P extends object>(a: P, b: P): boolean {
  return (Object.keys(b) as (keyof P)[]).every(
    (key) =>
      a[key] === b[key] || (typeof b[key] === 'object' && JSON.stringify(a[key]) === JSON.stringify(b[key])),
  );
}
