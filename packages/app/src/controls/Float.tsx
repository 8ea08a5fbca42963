import { Popover } from 'react-aria-components';
import styled from 'styled-components';
import { colour } from '../theme';

/** A sheet that hangs from a control. */
export const Float = styled(Popover)`
  min-width: 180px;
  padding: 4px;
  border: 1px solid ${colour('rule')};
  border-radius: 6px;
  background: ${colour('raised')};
  box-shadow: 0 6px 24px rgb(0 0 0 / 14%);
  outline: none;
  overflow: auto;
`;
