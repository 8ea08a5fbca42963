import { Note, Part, ValueRow } from './ledgerParts';
import { memo, useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { renameProblem, usedNames } from '@ditch/core/network';
import { formatComplex, formatQuantity, kindOf, type Quantity } from '@ditch/core/units';
import { SectionTitle, TextButton, TwoLines } from '../../controls/basics';
import { helpHandlers } from '../../controls/help';
import { useHandler } from '../../controls/stable';
import { ErrorText, InputBox, QuantityInput, ScrubLabel } from '../../controls/QuantityInput';
import { useSession } from '../../store/session';
import { useDerived, useLive, type Live } from '../../live';
import { FreeMark } from '../../controls/FreeMark';
import { addValue, namesOf, removeValue, renameValue, setFree, setValue } from '../edits';
import type { Scene } from './stage';

const NameBox = styled(InputBox)`
  padding: 0 2px;
  border-bottom-color: transparent;
  font-weight: 600;
`;
/** Many values scroll by themselves, so that the ledger stays in sight. */
const List = styled.div`
  max-height: 216px;
  margin-inline: -16px;
  overflow-y: auto;
  > div {
    padding-inline: 16px;
  }
`;
/** A quantity in its own engineering unit, whatever its dimension. */
function shown(quantity: Quantity): string {
  const kind = kindOf(quantity.dimension);
  if (!kind) return String(quantity.re);
  return quantity.im === 0
    ? formatQuantity(quantity.re, kind)
    : formatComplex(quantity.re, quantity.im, kind);
}

/** Whether hand and search can move it: a real quantity of a kind that there is. */
const isFreeable = (q: Quantity | undefined): boolean => q?.im === 0 && kindOf(q.dimension) !== undefined;

export const Values = memo(function Values({ scene }: { scene: Live<Scene> }) {
  const [fresh, setFresh] = useState<string>();
  const add = useHandler(() => setFresh(addValue(scene.peek().design)));
  return (
    <Part aria-label="Named values">
      <Top onAdd={add} />
      <List>
        <Lines scene={scene} fresh={fresh} />
      </List>
    </Part>
  );
});

function Lines({ scene, fresh }: { scene: Live<Scene>; fresh: string | undefined }) {
  const lines = useLive(
    useDerived(() => {
      const { design, resolved } = scene.value;
      const used = usedNames(design);
      return design.values.map(({ name, value, note = '' }) => ({
        name,
        value,
        note,
        problem: resolved.problems.find((p) => p.place.kind === 'value' && p.place.name === name)?.message,
        free: design.strip?.some((k) => k === `value:${name}`) ?? false,
        freeable: isFreeable(resolved.values.get(name)),
        unused: name !== 'f0' && !used.has(name),
      }));
    }, [scene]),
  );
  const { id } = scene.peek().design;
  return lines.map((line) => (
    <ValueLine key={line.name} scene={scene} design={id} fresh={fresh === line.name} {...line} />
  ));
}

/** Stands still while values change. */
const Top = memo(function Top({ onAdd }: { onAdd: () => void }) {
  return (
    <SectionTitle>
      Values
      <TextButton aria-label="Add a named value" onPress={onAdd}>
        add
      </TextButton>
    </SectionTitle>
  );
});

interface ValueLineProps {
  readonly scene: Live<Scene>;
  readonly design: string;
  readonly name: string;
  readonly value: string;
  readonly note: string;
  readonly problem: string | undefined;
  readonly unused: boolean;
  readonly fresh: boolean;
  /** Whether it is on the tuning strip, and whether it could be. */
  readonly free: boolean;
  readonly freeable: boolean;
}

/** One named value; drawn again only when something of its own changed. */
const ValueLine = memo(function ValueLine(props: ValueLineProps) {
  const { scene, design, name, value, note, problem, unused, fresh, free, freeable } = props;
  const change = (text: string) => setValue(design, name, text);
  const mark = useHandler((on: boolean) => setFree(design, `value:${name}`, on));
  const [nameProblem, setNameProblem] = useState<string>();
  return (
    <div>
      <ValueRow data-long={value.length > 16 || undefined}>
        <ScrubLabel value={value} onChange={change}>
          <ValueName design={design} name={name} autoFocus={fresh} onProblem={setNameProblem} />
        </ScrubLabel>
        <QuantityInput
          label={`value ${name}`}
          known={() => namesOf(design)}
          help={`${value.length > 30 ? `${name} = ${value}. ` : ''}${note ? `${note}. ` : ''}A quantity with its unit or an expression of other values; every piece that uses ${name} follows.`}
          value={value}
          error={problem}
          errorElsewhere={`value-${name}-error`}
          onChange={change}
        />
        <Note>
          <Result scene={scene} name={name} both={value.length > 16} note={note} />
          {freeable && <FreeMark label={name} on={free} onChange={mark} />}
          {unused && (
            <TextButton aria-label={`Remove ${name}`} onPress={() => removeValue(design, name)}>
              remove
            </TextButton>
          )}
        </Note>
      </ValueRow>
      {nameProblem !== undefined && (
        <ErrorText id={`name-${name}-error`}>
          {nameProblem}; it stays {name}. Escape brings the name back.
        </ErrorText>
      )}
      {problem && <ErrorText id={`value-${name}-error`}>{problem}</ErrorText>}
    </div>
  );
});

const ResultPlace = styled(TwoLines)`
  [data-long] & {
    height: 1.25em;
    white-space: nowrap;
  }
`;

/** What an expression comes to, beside or instead of the note. */
const Result = memo(function Result({
  scene,
  name,
  note,
  both,
}: Pick<ValueLineProps, 'scene' | 'name' | 'note'> & { readonly both: boolean }) {
  const result = useLive(
    useDerived(() => {
      const { design, resolved } = scene.value;
      const quantity = resolved.values.get(name);
      const text = design.values.find((v) => v.name === name)?.value ?? '';
      const wrong = resolved.problems.some((p) => p.place.kind === 'value' && p.place.name === name);
      return quantity && !wrong && !/^\s*[+-]?(\d|\.\d)/.test(text) ? shown(quantity) : undefined;
    }, [scene, name]),
  );
  if (result === undefined) return <span>{note}</span>;
  return (
    <ResultPlace>
      <span>
        <span>{both && note ? `${result} · ${note}` : result}</span>
      </span>
    </ResultPlace>
  );
});

/** The name of a value; a new one is written into every expression that means it, and a refused one says why. */
const ValueName = memo(function ValueName({
  design,
  name,
  autoFocus,
  onProblem,
}: {
  design: string;
  name: string;
  autoFocus: boolean;
  onProblem: (problem: string | undefined) => void;
}) {
  const [text, setText] = useState(name);
  const [problem, setProblem] = useState<string>();
  const box = useRef<HTMLInputElement>(null);
  const say = (said: string | undefined) => {
    setProblem(said);
    onProblem(said);
  };
  useEffect(() => setText(name), [name]);
  useEffect(() => {
    if (autoFocus) box.current?.select();
  }, [autoFocus]);
  const problemOf = (next: string): string | undefined => {
    const own = useSession.getState().project?.designs.find((d) => d.id === design);
    return own && next !== name ? renameProblem(own, name, next) : undefined;
  };
  const commit = () => {
    if (text === name || problemOf(text) !== undefined) return;
    renameValue(design, name, text);
  };
  return (
    <NameBox
      ref={box}
      aria-label={`name of ${name}`}
      aria-invalid={problem !== undefined}
      aria-describedby={problem === undefined ? undefined : `name-${name}-error`}
      value={text}
      readOnly={name === 'f0'}
      spellCheck={false}
      maxLength={60}
      onChange={(event) => {
        setText(event.target.value);
        say(problemOf(event.target.value));
      }}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') {
          setText(name);
          say(undefined);
        }
      }}
      {...(name === 'f0'
        ? helpHandlers('f0', 'The design frequency: electrical lengths are counted here. Its name is fixed.')
        : {})}
    />
  );
});
