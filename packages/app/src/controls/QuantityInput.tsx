import {
  useEffect,
  useId,
  useLayoutEffect,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent as ReactPointerEvent,
} from 'react';
import styled from 'styled-components';
import { meantEntry, type QuantityKind } from '@ditch/core/units';
import { behindHand, endMerge } from '../store/session';
import { colour } from '../theme';
import { helpHandlers } from './help';
import { stepAt, stepText, type Stepped } from './step';

export const InputBox = styled.input<{ $quiet?: boolean }>`
  display: block;
  width: 100%;
  min-width: 0;
  height: 26px;
  /* What is typed changes nothing around it; where nothing else says how wide it is, it is as wide as fields are. */
  contain: strict;
  contain-intrinsic-width: 150px;
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
  /** What is asked for: a bare number is then taken in its own unit where only one is sensible. */
  readonly kind?: QuantityKind;
  /** Names that mean a value here, asked for when something is typed. */
  readonly known?: () => readonly string[];
  readonly value: string;
  readonly onChange: (text: string) => void;
  /** Brings back what was before the field was entered, where that is more than its text. */
  readonly onRestore?: () => void;
  readonly error?: string;
  readonly placeholder?: string;
  /** Drawn grey: the value follows from others. */
  readonly follows?: boolean;
  readonly className?: string;
  /** Hides the sentence under the field; its place shows it. */
  readonly errorElsewhere?: string;
}

/** Steps a quantity by the arrow keys, of a complex one the part that the caret stands in; undefined for other keys. */
export function stepByKey(
  event: KeyboardEvent<HTMLInputElement>,
  value: string,
): Stepped | undefined | 'none' {
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return undefined;
  event.preventDefault();
  const caret = event.currentTarget.selectionStart ?? value.length;
  const direction = event.key === 'ArrowUp' ? 1 : -1;
  return stepAt(value, caret, direction, event.shiftKey ? 0.1 : event.altKey ? 10 : 1) ?? 'none';
}

/** What is typed, what is meant by it, and what the design had before, as long as it has not answered. */
interface Draft {
  readonly text: string;
  readonly meant: string;
  readonly was: string | undefined;
}

/** Milliseconds after which a design has taken what was typed, or has not. */
const REFUSED = 250;

const Field = styled.div`
  position: relative;
`;
/** The unit that a bare number is taken in, behind it. */
const Ghost = styled.span`
  position: absolute;
  top: 0;
  left: 7px;
  line-height: 26px;
  font-weight: 500;
  color: ${colour('quiet')};
  pointer-events: none;
  white-space: pre;
  > span {
    visibility: hidden;
  }
`;

/**
 * The one number field: takes any unit or expression, steps with the arrow keys (Shift finer, Alt coarser), returns to
 * what was entered last with Escape, and says what is wrong in words. A bare number is taken in the field's own unit
 * where only one is sensible, which is shown behind it.
 */
export function QuantityInput(props: QuantityInputProps) {
  const {
    label,
    help,
    value,
    onChange,
    error,
    placeholder,
    follows,
    className,
    errorElsewhere,
    kind,
    known,
  } = props;
  const id = useId();
  const box = useRef<HTMLInputElement>(null);
  const before = useRef(value);
  const caret = useRef<number>(undefined);
  // What is typed stays as it is typed until the field is left; the design has what is meant by it.
  const [draft, setDraft] = useState<Draft>();
  // The design's answer to what is typed may come a moment later; until then it has what it had.
  const typing = draft && (draft.meant === value || draft.was === value) ? draft : undefined;
  if (draft?.was !== undefined && draft.meant === value)
    setDraft(draft.text === value ? undefined : { ...draft, was: undefined });
  const shown = typing?.text ?? value;
  const typed = shown.trim();
  const unit = typing?.meant.startsWith(`${typed} `) ? typing.meant.slice(typed.length) : '';
  const meant = (text: string) => meantEntry(text, kind, known && new Set(known()));
  const write = (text: string) => {
    const entry = meant(text);
    setDraft({ text, meant: entry, was: value });
    behindHand(() => onChange(entry));
  };
  // What the design does not take is given up.
  useEffect(() => {
    if (draft?.was === undefined) return;
    const timer = setTimeout(() => setDraft((d) => (d === draft ? undefined : d)), REFUSED);
    return () => clearTimeout(timer);
  }, [draft]);
  useLayoutEffect(() => {
    if (caret.current === undefined) return;
    box.current?.setSelectionRange(caret.current, caret.current);
    caret.current = undefined;
  });
  return (
    <Field className={className} {...helpHandlers(label, help)}>
      <InputBox
        ref={box}
        aria-label={label}
        aria-invalid={error !== undefined}
        aria-describedby={error ? (errorElsewhere ?? id) : undefined}
        $quiet={follows}
        value={shown}
        title={shown.length > 18 ? shown : undefined}
        maxLength={300}
        placeholder={placeholder}
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => write(event.target.value)}
        // The number that a following face shows already is no change to the field, but it is a wish.
        onInput={(event) => follows && event.currentTarget.value === shown && onChange(shown)}
        onFocus={() => {
          before.current = value;
          endMerge();
        }}
        onBlur={() => {
          setDraft(undefined);
          endMerge();
        }}
        onKeyDown={(event) => {
          const stepped = stepByKey(event, shown);
          if (stepped === 'none') return;
          if (stepped) {
            // The field follows with the design, so that both are drawn at once.
            caret.current = stepped.caret;
            behindHand(() => onChange(meant(stepped.text)));
            return;
          }
          if (event.key === 'Enter') {
            endMerge();
            if (follows && !error && shown !== '') onChange(shown);
            // What is entered stands; Escape takes back only what is not.
            before.current = value;
            setDraft(undefined);
            event.currentTarget.select();
          } else if (event.key === 'Escape' && value !== before.current) {
            setDraft(undefined);
            if (props.onRestore) props.onRestore();
            else onChange(before.current);
            event.stopPropagation();
          }
        }}
      />
      {unit !== '' && (
        <Ghost aria-hidden="true">
          <span>{shown}</span>
          {unit}
        </Ghost>
      )}
      {error && !errorElsewhere && <ErrorText id={id}>{error}</ErrorText>}
    </Field>
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
        behindHand(() => onChange(text));
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
