import { useId, useRef, type KeyboardEvent, type PointerEvent as ReactPointerEvent } from 'react';
import styled from 'styled-components';
import { endMerge } from '../store/session';
import { colour } from '../theme';
import { helpHandlers } from './help';
import { stepText } from './step';

export const InputBox = styled.input<{ $quiet?: boolean }>`
  width: 100%;
  min-width: 0;
  height: 26px;
  padding: 0 6px;
  border: 1px solid transparent;
  border-bottom-color: ${colour('rule')};
  border-radius: 3px 3px 0 0;
  background: transparent;
  color: ${({ $quiet }) => ($quiet ? colour('quiet') : colour('ink'))};
  font-weight: ${({ $quiet }) => ($quiet ? 400 : 500)};
  &:hover {
    border-color: ${colour('rule')};
    background: ${colour('page')};
  }
  &:focus {
    background: ${colour('page')};
  }
  &[aria-invalid='true'] {
    border-bottom: 2px solid ${colour('error')};
  }
  &::placeholder {
    color: ${colour('quiet')};
  }
`;

export const ErrorText = styled.p`
  color: ${colour('error')};
  font-size: 11px;
  line-height: 1.35;
`;

export interface QuantityInputProps {
  /** Spoken name of the field. */
  readonly label: string;
  readonly help?: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
  readonly error?: string;
  readonly placeholder?: string;
  /** Drawn grey: the value follows from others. */
  readonly follows?: boolean;
  readonly className?: string;
  /** Hides the sentence under the field; its place shows it. */
  readonly errorElsewhere?: string;
}

/** Steps a quantity by the arrow keys; returns true when the key was used. */
export function stepByKey(
  event: KeyboardEvent<HTMLInputElement>,
  value: string,
  onChange: (text: string) => void,
): boolean {
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return false;
  const next = stepText(
    value,
    event.key === 'ArrowUp' ? 1 : -1,
    event.shiftKey ? 0.1 : event.altKey ? 10 : 1,
  );
  event.preventDefault();
  if (next !== undefined) onChange(next);
  return true;
}

/**
 * The one number field: takes any unit or expression, steps with the arrow keys (Shift finer, Alt coarser), returns to
 * where it was with Escape, and says what is wrong in words.
 */
export function QuantityInput(props: QuantityInputProps) {
  const { label, help, value, onChange, error, placeholder, follows, className, errorElsewhere } = props;
  const id = useId();
  const before = useRef(value);
  return (
    <div className={className} {...helpHandlers(label, help)}>
      <InputBox
        aria-label={label}
        aria-invalid={error !== undefined}
        aria-describedby={error ? (errorElsewhere ?? id) : undefined}
        $quiet={follows}
        value={value}
        placeholder={placeholder}
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => onChange(event.target.value)}
        onFocus={() => {
          before.current = value;
          endMerge();
        }}
        onBlur={endMerge}
        onKeyDown={(event) => {
          if (stepByKey(event, value, onChange)) return;
          if (event.key === 'Enter') {
            endMerge();
            event.currentTarget.select();
          } else if (event.key === 'Escape' && value !== before.current) {
            onChange(before.current);
            event.stopPropagation();
          }
        }}
      />
      {error && !errorElsewhere && <ErrorText id={id}>{error}</ErrorText>}
    </div>
  );
}

const ScrubHandle = styled.span`
  cursor: ew-resize;
  touch-action: none;
  user-select: none;
`;

/** A label that changes its quantity when dragged sideways: 6 px a step, Shift finer. */
export function ScrubLabel({
  value,
  onChange,
  children,
}: {
  value: string;
  onChange: (text: string) => void;
  children: React.ReactNode;
}) {
  const drag = useRef<{ x: number; value: string } | null>(null);
  return (
    <ScrubHandle
      onPointerDown={(event: ReactPointerEvent<HTMLSpanElement>) => {
        if (stepText(value, 1) === undefined) return;
        drag.current = { x: event.clientX, value };
        endMerge();
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (!drag.current) return;
        const steps = Math.trunc((event.clientX - drag.current.x) / 6);
        if (steps === 0) return;
        let text: string | undefined = drag.current.value;
        for (let i = 0; i < Math.abs(steps) && text !== undefined; i++)
          text = stepText(text, steps > 0 ? 1 : -1, event.shiftKey ? 0.1 : 1);
        if (text === undefined) return;
        drag.current = { x: drag.current.x + steps * 6, value: text };
        onChange(text);
      }}
      onPointerUp={() => {
        drag.current = null;
        endMerge();
      }}
    >
      {children}
    </ScrubHandle>
  );
}
