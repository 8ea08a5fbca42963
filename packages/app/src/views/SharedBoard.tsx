import styled from 'styled-components';
import { TextButton } from '../controls/basics';
import { colour } from '../theme';

const Shared = styled.p`
  margin: 6px 0;
  padding: 6px 10px;
  border-left: 3px solid ${colour('caution')};
  background: ${colour('page')};
  font-size: 12px;
`;

/** Who else follows a change of this board, and the way to change it alone. */
export function SharedBoard({
  shared,
  what,
  onOwn,
}: {
  /** Names of whatever else stands on it. */
  shared: readonly string[];
  /** What would get a board of its own. */
  what: string;
  onOwn: () => void;
}) {
  if (shared.length === 0) return null;
  const last = shared[shared.length - 1];
  return (
    <Shared>
      {shared.length === 1 ? `${last} stands` : `${shared.slice(0, -1).join(', ')} and ${last} stand`} on this
      board too and will follow. <TextButton onPress={onOwn}>Give {what} a board of its own</TextButton>
    </Shared>
  );
}
