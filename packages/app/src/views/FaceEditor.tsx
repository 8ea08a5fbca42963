import { useRef, type ReactNode } from 'react';
import styled from 'styled-components';
import type { Complex } from '@ditch/core/numeric';
import type { Face, Property } from '@ditch/core/parts';
import { formatComplex, formatQuantity } from '@ditch/core/units';
import { TextButton } from '../controls/basics';
import { ErrorText, QuantityInput, ScrubLabel } from '../controls/QuantityInput';
import { colour } from '../theme';

const Grid = styled.div`
  display: grid;
  grid-template-columns: 10px 104px minmax(0, 1fr) auto;
  align-items: center;
  column-gap: 6px;
  row-gap: 2px;
`;
const Dot = styled.i<{ $held: boolean }>`
  width: 6px;
  height: 6px;
  border-radius: 50%;
  background: ${({ $held }) => ($held ? colour('water') : 'transparent')};
`;
const Label = styled.span<{ $held: boolean }>`
  color: ${({ $held }) => ($held ? colour('ink') : colour('quiet'))};
  font-size: 12px;
`;
const Value = styled.span`
  color: ${colour('quiet')};
  font-size: 12px;
  white-space: nowrap;
`;
const Message = styled.div`
  grid-column: 2 / -1;
`;

/** A value as text that can be typed back, with enough digits to hold it. */
export const typedValue = (value: Complex | undefined, face: Face): string => {
  if (!value) return '';
  if (face.rule.complex) return formatComplex(value.re, value.im, face.rule.kind, { typed: true, digits: 6 });
  // Nobody says 59.94166 deg; a hundredth of a degree is less than any line is etched to.
  if (face.rule.kind === 'angle') return `${Number(((value.re * 180) / Math.PI).toFixed(2))} deg`;
  return formatQuantity(value.re, face.rule.kind, { typed: true, digits: 6 });
};

/** A value for reading. */
export const shownValue = (value: Complex | undefined, face: Face, digits = 4): string => {
  if (!value) return '\u2013';
  if (face.rule.complex) return formatComplex(value.re, value.im, face.rule.kind, { digits });
  return formatQuantity(value.re, face.rule.kind, { digits });
};

const LITERAL = /^\s*[+-]?(\d|\.\d)/;

interface FaceEditorProps {
  readonly properties: readonly Property[];
  /** Held faces as typed. */
  readonly held: Readonly<Record<string, string>>;
  /** All faces in SI units. */
  readonly values: Readonly<Record<string, Complex>> | undefined;
  readonly errors: Readonly<Record<string, string | undefined>>;
  /** A face was typed into: it is held from now on. */
  readonly onHold: (face: string, text: string, others: readonly string[]) => void;
  /** An optional face is let go, so that it follows again. */
  readonly onRelease?: (face: string) => void;
  /** What marks a held face as free to move; undefined for one that cannot be. */
  readonly mark?: (face: string, label: string) => ReactNode;
  /** Names that have a value here. */
  readonly known?: () => readonly string[];
  /** Put before field names, to tell pieces apart in speech. */
  readonly owner?: string;
}

/** Fields for both faces of a piece: typing into one holds it, the others of its property follow. */
export function FaceEditor({
  properties,
  held,
  values,
  errors,
  onHold,
  onRelease,
  owner,
  known,
  mark,
}: FaceEditorProps) {
  // What was held when a field was entered: Escape brings that back, and not the number a following face showed.
  const entered = useRef(held);
  const remember = () => {
    entered.current = held;
  };
  const restore = (property: Property) => {
    const names = property.faces.map((f) => f.name);
    const was = names.find((name) => entered.current[name] !== undefined);
    if (was !== undefined) onHold(was, entered.current[was], names);
    else onRelease?.(names.find((name) => held[name] !== undefined) ?? names[0]);
  };
  return (
    <Grid onFocus={remember} onKeyUp={(event) => event.key === 'Enter' && remember()}>
      {properties.map((property) => {
        const names = property.faces.map((f) => f.name);
        return property.faces.map((face) => {
          const isHeld = held[face.name] !== undefined;
          const text = isHeld ? held[face.name] : typedValue(values?.[face.name], face);
          const change = (next: string) =>
            next.trim() === '' && property.otherwise !== undefined && onRelease
              ? onRelease(face.name)
              : onHold(face.name, next, names);
          const isExpression = isHeld && !LITERAL.test(text);
          const error = errors[face.name];
          const label = owner ? `${owner}: ${face.label.toLowerCase()}` : face.label;
          return [
            <Dot key={`${face.name}-dot`} $held={isHeld} aria-hidden="true" />,
            <Label key={`${face.name}-label`} $held={isHeld}>
              <ScrubLabel value={text} onChange={change}>
                {face.label}
              </ScrubLabel>
            </Label>,
            <QuantityInput
              key={`${face.name}-input`}
              label={`${label}${isHeld ? '' : ' (follows)'}`}
              help={face.help}
              kind={face.rule.kind}
              known={known}
              value={text}
              placeholder={property.otherwise}
              follows={!isHeld}
              error={error}
              errorElsewhere={`${property.id}-${face.name}-error`}
              onChange={change}
              onRestore={() => restore(property)}
            />,
            <Value key={`${face.name}-value`}>
              {isHeld && mark?.(face.name, label)}
              {isExpression && !error ? shownValue(values?.[face.name], face) : ''}
              {isHeld && property.otherwise !== undefined && onRelease && (
                <TextButton
                  aria-label={`let ${label.toLowerCase()} go: ${property.otherwise}`}
                  onPress={() => onRelease(face.name)}
                >
                  {' '}
                  let go
                </TextButton>
              )}
            </Value>,
            error ? (
              <Message key={`${face.name}-error`}>
                <ErrorText id={`${property.id}-${face.name}-error`}>{error}</ErrorText>
              </Message>
            ) : null,
          ];
        });
      })}
    </Grid>
  );
}
