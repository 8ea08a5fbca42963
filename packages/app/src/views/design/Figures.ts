import styled from 'styled-components';
import { colour } from '../../theme';

/** A small table of what came out: words to the left, numbers to the right. */
export const Figures = styled.table`
  width: 100%;
  margin: 4px 0 12px;
  border-collapse: collapse;
  font-size: 12px;
  th {
    color: ${colour('quiet')};
    font-size: 11px;
    font-weight: 400;
    text-align: right;
    white-space: nowrap;
  }
  td {
    padding: 3px 0 3px 12px;
    border-top: 1px solid ${colour('rule')};
    text-align: right;
  }
  th:first-child,
  td:first-child {
    padding-left: 0;
    text-align: left;
  }
`;
