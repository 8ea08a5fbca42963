import { Button as AriaButton, type ButtonProps } from 'react-aria-components/Button';
import styled, { css } from 'styled-components';
import { colour } from '../theme';

/**
 * Fills its place, and is laid out by itself when something in it changes. Its place is positioned and no grid or flex
 * container: an item of those is laid out with all of them, and all of the page around them.
 */
export const byItself = css`
  position: absolute;
  inset: 0;
  contain: strict;
`;
/** Room for two lines of words that change: they stand in the middle of it and are laid out by themselves. */
export const TwoLines = styled.span`
  position: relative;
  flex: 1;
  min-width: 0;
  height: 28px;
  > span {
    ${byItself}
    display: flex;
    align-items: center;
  }
`;
export const quietButton = css`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  height: 28px;
  padding: 0 10px;
  border: 1px solid transparent;
  border-radius: 5px;
  background: transparent;
  color: ${colour('ink')};
  cursor: pointer;
  white-space: nowrap;
  text-decoration: none;
  &[data-hovered],
  &[data-pressed] {
    background: ${colour('chosen')};
  }
  &[data-focus-visible] {
    outline: 2px solid ${colour('water')};
    outline-offset: 1px;
  }
  &[data-disabled] {
    color: ${colour('quiet')};
    opacity: 0.55;
    cursor: default;
  }
`;

/** A button of words without a border. */
export const QuietButton = styled(AriaButton)<ButtonProps>`
  ${quietButton}
`;

/** A button with an outline. */
export const Button = styled(AriaButton)<ButtonProps>`
  ${quietButton}
  border-color: ${colour('rule')};
  background: ${colour('raised')};
`;

/** The one action a view is for. */
export const PrimaryButton = styled(AriaButton)<ButtonProps>`
  ${quietButton}
  height: 32px;
  padding: 0 14px;
  background: ${colour('water')};
  color: ${colour('onWater')};
  font-weight: 600;
  &[data-hovered],
  &[data-pressed] {
    background: ${colour('water')};
    filter: brightness(1.08);
  }
  &[data-disabled] {
    background: ${colour('chosen')};
    color: ${colour('quiet')};
    opacity: 1;
  }
`;

/** A text that acts: remedies, small commands in sentences. */
export const TextButton = styled(AriaButton)<ButtonProps>`
  padding: 0;
  border: 0;
  background: none;
  color: ${colour('waterText')};
  cursor: pointer;
  text-decoration: underline;
  text-underline-offset: 2px;
  text-decoration-thickness: 1px;
  &[data-focus-visible] {
    outline: 2px solid ${colour('water')};
  }
  &[data-disabled] {
    color: ${colour('quiet')};
    cursor: default;
    text-decoration: none;
  }
`;

export const item = css`
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 16px;
  padding: 5px 10px;
  border-radius: 4px;
  cursor: pointer;
  outline: none;
  small {
    color: ${colour('quiet')};
    font-size: 11px;
  }
  &[data-focused] {
    background: ${colour('waterSoft')};
  }
  &[data-selected] {
    font-weight: 600;
  }
  &[data-disabled] {
    color: ${colour('quiet')};
    cursor: default;
  }
`;
export interface Choice {
  readonly id: string;
  readonly label: string;
  readonly note?: string;
}

/** What a control needs to let one of several be chosen. */
export interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly choices: readonly Choice[];
  readonly onChange: (id: string) => void;
}

export const SectionTitle = styled.h2`
  display: flex;
  align-items: center;
  justify-content: space-between;
  color: ${colour('quiet')};
  font-size: 11px;
  font-weight: 600;
  letter-spacing: 0.06em;
  text-transform: uppercase;
  a {
    font-weight: 500;
    letter-spacing: 0;
    text-transform: none;
  }
`;

export const Quiet = styled.span`
  color: ${colour('quiet')};
`;

const SegmentRow = styled.div`
  display: inline-flex;
  flex: none;
  max-width: 100%;
  flex-wrap: wrap;
  align-self: flex-start;
  justify-self: start;
  border: 1px solid ${colour('rule')};
  border-radius: 5px;
  overflow: hidden;
  button {
    height: 26px;
    padding: 0 10px;
    border: 0;
    background: transparent;
    cursor: pointer;
    color: ${colour('quiet')};
  }
  button[aria-checked='true'] {
    background: ${colour('chosen')};
    color: ${colour('ink')};
    font-weight: 600;
  }
  button:focus-visible {
    outline-offset: -2px;
  }
`;

/** A few exclusive choices side by side; arrow keys move between them. */
export function Segments({ label, value, choices, onChange }: ChoiceProps) {
  const move = (step: number) => {
    const at = choices.findIndex((c) => c.id === value);
    onChange(choices[(at + step + choices.length) % choices.length].id);
  };
  return (
    <SegmentRow
      role="radiogroup"
      aria-label={label}
      onKeyDown={(event) => {
        const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
        if (!step) return;
        event.preventDefault();
        move(step);
        const buttons = [...event.currentTarget.querySelectorAll('button')];
        const at = buttons.findIndex((b) => b === document.activeElement);
        buttons[(at + step + buttons.length) % buttons.length]?.focus();
      }}
    >
      {choices.map((choice) => (
        <button
          key={choice.id}
          type="button"
          role="radio"
          aria-checked={choice.id === value}
          tabIndex={choice.id === value ? 0 : -1}
          onClick={() => onChange(choice.id)}
        >
          {choice.label}
        </button>
      ))}
    </SegmentRow>
  );
}
