import styled from 'styled-components';
import { colour } from '../theme';

/** What stands beside a view's main part, from top to bottom. */
export const Side = styled.div`
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  border-right: 1px solid ${colour('rule')};
  background: ${colour('raised')};
`;
/** The part of it that scrolls, above what always stays in sight. */
export const SideScroll = styled.div`
  flex: 1;
  min-height: 0;
  overflow: auto;
`;
