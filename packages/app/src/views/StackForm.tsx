import styled from 'styled-components';
import { metals, readStackField, stackFields, type Stack, type StackProblem } from '@ditch/core/stack';
import type { MediumId } from '@ditch/core/lines';
import { valueOf } from '@ditch/core/units';
import { NameInput } from '../controls/NameInput';
import { ErrorText, QuantityInput, ScrubLabel } from '../controls/QuantityInput';
import { colour } from '../theme';
import { LaminateChoice } from './BoardChoice';
import { setStackField } from './edits';

const Grid = styled.div`
  display: grid;
  grid-template-columns: minmax(88px, auto) minmax(96px, 1fr) minmax(0, 84px);
  align-items: center;
  gap: 2px 8px;
  > label,
  > span {
    font-size: 12px;
  }
`;
const Unit = styled.span`
  color: ${colour('quiet')};
  font-size: 11px !important;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
`;
const Wide = styled.div`
  grid-column: 2 / -1;
`;

interface StackFormProps {
  readonly medium: MediumId;
  readonly stack: Stack;
  /** Stacks of the project, offered beside those that ship; without them the board is not chosen here. */
  readonly stacks?: readonly Stack[];
  readonly problems: readonly StackProblem[];
  readonly onChoose?: (stack: Stack) => void;
  /** The board goes by another id from now on. */
  readonly onIdentity?: (id: string) => void;
}

/** What is printed beside a field: the metal's name, the copper weight, an open lid. */
function note(field: string, stack: Stack): string {
  if (field === 'conductivity') {
    const sigma = valueOf(stack.conductivity);
    return metals.find((m) => valueOf(m.conductivity) === sigma)?.name ?? '';
  }
  if (field === 'thickness') {
    const t = valueOf(stack.thickness);
    if (t === undefined) return '';
    return /oz/.test(stack.thickness)
      ? `${(t * 1e6).toFixed(1)} \u00B5m`
      : t > 0
        ? `${Number((t / 34.798e-6).toPrecision(2))} oz`
        : 'vanishing';
  }
  if (field === 'cover' && stack.cover.trim() === '') return 'open';
  return '';
}

/** The board: one of the shipped laminates, or every property typed. Changes are followed by every design on it. */
export function StackForm({ medium, stack, stacks, problems, onChoose, onIdentity }: StackFormProps) {
  const set = (field: keyof Stack, text: string) => {
    const id = setStackField(stack.id, field, text);
    if (id !== stack.id) onIdentity?.(id);
  };
  const error = (field: string) => problems.find((p) => p.field === field)?.message;
  return (
    <Grid>
      {stacks && onChoose && (
        <>
          <span>Laminate</span>
          <Wide>
            <LaminateChoice stack={stack} stacks={stacks} onChoose={onChoose} />
          </Wide>
        </>
      )}
      <span>Name</span>
      <Wide>
        <NameInput label="Name of the board" value={stack.name} onChange={(name) => set('name', name)} />
      </Wide>
      {stackFields.map((info) => {
        const label = info.labelIn?.[medium] === undefined ? info.label : info.labelIn[medium];
        if (label === null) return null;
        const text = stack[info.field] ?? '';
        const change = (next: string) => set(info.field, next);
        const message = error(info.field);
        const valid = typeof readStackField(info, text) === 'number';
        return [
          <span key={`${info.field}-label`}>
            <ScrubLabel value={text} onChange={change}>
              {label}
            </ScrubLabel>
          </span>,
          <QuantityInput
            key={`${info.field}-input`}
            label={label}
            help={info.help}
            kind={info.rule.kind}
            value={text}
            placeholder={info.empty?.word}
            error={message}
            errorElsewhere={`stack-${info.field}-error`}
            onChange={change}
          />,
          <Unit key={`${info.field}-note`}>{valid ? note(info.field, stack) : ''}</Unit>,
          message ? (
            <Wide key={`${info.field}-error`}>
              <ErrorText id={`stack-${info.field}-error`}>{message}</ErrorText>
            </Wide>
          ) : null,
        ];
      })}
    </Grid>
  );
}
