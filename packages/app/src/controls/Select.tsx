import {
  Button as AriaButton,
  ListBox,
  ListBoxItem,
  Select as AriaSelect,
  SelectValue,
} from 'react-aria-components';
import styled from 'styled-components';
import { colour } from '../theme';
import { item, quietButton, type ChoiceProps } from './basics';
import { Float } from './Float';

const Option = styled(ListBoxItem)`
  ${item}
`;
const SelectButton = styled(AriaButton)`
  ${quietButton}
  width: 100%;
  justify-content: space-between;
  padding: 0 6px;
  border: 1px solid transparent;
  border-bottom-color: ${colour('rule')};
  border-radius: 3px 3px 0 0;
  font-weight: 500;
  overflow: hidden;
  > span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
  }
`;

/** One of a list. */
export function Select({ label, value, choices, onChange }: ChoiceProps) {
  return (
    <AriaSelect aria-label={label} value={value} onChange={(key) => key !== null && onChange(String(key))}>
      <SelectButton>
        <SelectValue>{() => choices.find((c) => c.id === value)?.label ?? value}</SelectValue>
        <span aria-hidden="true">▾</span>
      </SelectButton>
      <Float>
        <ListBox items={choices}>
          {(choice) => (
            <Option id={choice.id} textValue={choice.label}>
              {choice.label}
              {choice.note && <small>{choice.note}</small>}
            </Option>
          )}
        </ListBox>
      </Float>
    </AriaSelect>
  );
}
