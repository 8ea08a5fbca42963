import { useRef, useState } from 'react';
import { Header, Menu as AriaMenu, MenuItem as AriaMenuItem, MenuSection } from 'react-aria-components';
import styled from 'styled-components';
import { colour } from '../theme';
import { item } from './basics';
import type { OpeningProps } from './command';
import { Float } from './Float';

const MenuRow = styled(AriaMenuItem)`
  ${item}
`;

const GroupTitle = styled(Header)`
  padding: 6px 10px 2px;
  color: ${colour('quiet')};
  font-size: 11px;
`;

/** Commands beyond which a menu is laid out in columns, its groups side by side. */
const TALL = 10;
const Rows = styled(AriaMenu)<{ $columns: number }>`
  outline: none;
  columns: ${({ $columns }) => $columns} 168px;
  column-gap: 8px;
  section {
    break-inside: avoid;
  }
`;

/** A list of commands that is open; it asks for them once. */
export default function OpenMenu({ from, label, focus, hang, commands: ask, onClose }: OpeningProps) {
  const trigger = useRef(from);
  const [commands] = useState(ask);
  const groups = [...new Set(commands.map((c) => c.group))];
  const rows = (group: string | undefined) =>
    commands
      .filter((c) => c.group === group)
      .map((command) => (
        <MenuRow key={command.id} id={command.id} textValue={command.label} isDisabled={command.disabled}>
          {command.label}
          {command.note && <small>{command.note}</small>}
        </MenuRow>
      ));
  return (
    <Float
      triggerRef={trigger}
      isOpen
      onOpenChange={(isOpen) => !isOpen && onClose()}
      placement={`bottom ${hang}`}
      aria-label={label}
    >
      <Rows
        $columns={Math.min(3, Math.ceil(commands.length / TALL))}
        aria-label={label}
        autoFocus={focus}
        onClose={onClose}
        onAction={(key) => commands.find((c) => c.id === key)?.run()}
      >
        {groups.map((group) =>
          group === undefined ? (
            rows(undefined)
          ) : (
            <MenuSection key={group}>
              <GroupTitle>{group}</GroupTitle>
              {rows(group)}
            </MenuSection>
          ),
        )}
      </Rows>
    </Float>
  );
}
