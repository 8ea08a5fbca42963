import { memo, useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import {
  usedNames,
  type Design,
  type Piece,
  type Problem,
  type Project,
  type Remark,
  type ResolvedDesign,
  type ResolvedPiece,
} from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import {
  formatComplex,
  formatQuantity,
  quantityKinds,
  sameDimension,
  type Quantity,
  type QuantityKind,
} from '@ditch/core/units';
import type { Stack, StackProblem } from '@ditch/core/stack';
import { Quiet, SectionTitle, Segments, TextButton } from '../../controls/basics';
import { helpHandlers } from '../../controls/help';
import { ErrorText, InputBox, QuantityInput, ScrubLabel } from '../../controls/QuantityInput';
import { endMerge, useSession } from '../../store/session';
import { colour } from '../../theme';
import { addValue, changeDesign, chooseStack, holdFace, removeValue, renameValue, setValue } from '../edits';
import { FaceEditor, shownValue } from '../FaceEditor';
import { StackForm } from '../StackForm';

const Part = styled.section`
  padding: 10px 0 8px;
  border-bottom: 1px solid ${colour('rule')};
  > ${SectionTitle}, > div {
    padding-inline: 16px;
  }
`;
const ValueRow = styled.div`
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) 88px;
  align-items: center;
  gap: 6px;
  min-height: 29px;
`;
const Note = styled.span`
  display: flex;
  justify-content: space-between;
  gap: 4px;
  color: ${colour('quiet')};
  font-size: 11px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
`;
const NameBox = styled(InputBox)`
  padding: 0 2px;
  border-bottom-color: transparent;
  font-weight: 600;
`;
const Row = styled.div<{ $selected: boolean; $hovered: boolean }>`
  border-left: 3px solid ${({ $selected }) => ($selected ? colour('water') : 'transparent')};
  background: ${({ $selected, $hovered }) => ($selected || $hovered ? colour('waterSoft') : 'transparent')};
  padding: 0 !important;
`;
const RowHead = styled.button`
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) 76px 84px;
  align-items: center;
  gap: 8px;
  width: 100%;
  min-height: 40px;
  padding: 4px 16px 4px 13px;
  border: 0;
  background: none;
  text-align: left;
  cursor: pointer;
  line-height: 1.3;
  small {
    color: ${colour('quiet')};
    font-size: 11px;
  }
`;
const Cell = styled.span`
  display: flex;
  flex-direction: column;
  align-items: flex-end;
`;
const Face = styled.span<{ $held: boolean }>`
  color: ${({ $held }) => ($held ? colour('ink') : colour('quiet'))};
  font-weight: ${({ $held }) => ($held ? 600 : 400)};
  white-space: nowrap;
  i {
    display: inline-block;
    width: 5px;
    height: 5px;
    margin-right: 5px;
    border-radius: 50%;
    background: ${colour('water')};
    vertical-align: 0.15em;
  }
`;
const Editor = styled.div`
  padding: 2px 12px 10px 13px;
`;
const ReviewBox = styled.section`
  max-height: 170px;
  overflow: auto;
  padding: 10px 16px;
  border-top: 1px solid ${colour('rule')};
  background: ${colour('page')};
  h2 {
    font-size: 13px;
    margin-bottom: 4px;
  }
  li {
    display: grid;
    grid-template-columns: 8px 1fr;
    gap: 8px;
    padding: 2px 0;
    font-size: 12px;
  }
  li::before {
    content: '';
    width: 8px;
    height: 8px;
    margin-top: 5px;
    border-radius: 2px;
    background: ${colour('caution')};
  }
  li[data-severity='error']::before {
    background: ${colour('error')};
  }
`;

/** Whether two sets of props say the same, so that a row is drawn again only when something of its own changed. */
function sameContent<P extends object>(a: P, b: P): boolean {
  return (Object.keys(b) as (keyof P)[]).every(
    (key) =>
      a[key] === b[key] || (typeof b[key] === 'object' && JSON.stringify(a[key]) === JSON.stringify(b[key])),
  );
}

/** A quantity in its own engineering unit, whatever its dimension. */
function shown(quantity: Quantity): string {
  const kind = (Object.keys(quantityKinds) as QuantityKind[]).find((k) =>
    sameDimension(quantityKinds[k].dimension, quantity.dimension),
  );
  if (!kind) return String(quantity.re);
  return quantity.im === 0
    ? formatQuantity(quantity.re, kind)
    : formatComplex(quantity.re, quantity.im, kind);
}

interface LedgerProps {
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly remarks: readonly Remark[];
  readonly selected?: string;
  readonly hovered?: string;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
}

export const Values = memo(function Values({ design, resolved }: Pick<LedgerProps, 'design' | 'resolved'>) {
  const [fresh, setFresh] = useState<string>();
  const used = usedNames(design);
  return (
    <Part aria-label="Named values">
      <SectionTitle>
        Values
        <TextButton aria-label="Add a named value" onPress={() => setFresh(addValue(design))}>
          add
        </TextButton>
      </SectionTitle>
      {design.values.map((v) => {
        const problem = resolved.problems.find((p) => p.place.kind === 'value' && p.place.name === v.name);
        const quantity = resolved.values.get(v.name);
        const literal = /^\s*[+-]?(\d|\.\d)/.test(v.value);
        return (
          <ValueLine
            key={v.name}
            design={design.id}
            name={v.name}
            value={v.value}
            note={v.note ?? ''}
            result={!literal && quantity && !problem ? shown(quantity) : undefined}
            problem={problem?.message}
            unused={v.name !== 'f0' && !used.has(v.name)}
            fresh={fresh === v.name}
          />
        );
      })}
    </Part>
  );
});

interface ValueLineProps {
  readonly design: string;
  readonly name: string;
  readonly value: string;
  readonly note: string;
  /** What an expression comes to. */
  readonly result: string | undefined;
  readonly problem: string | undefined;
  readonly unused: boolean;
  readonly fresh: boolean;
}

/** One named value; drawn again only when something of its own changed. */
const ValueLine = memo(function ValueLine(props: ValueLineProps) {
  const { design, name, value, note, result, problem, unused, fresh } = props;
  const change = (text: string) => setValue(design, name, text);
  return (
    <div>
      <ValueRow>
        <ScrubLabel value={value} onChange={change}>
          <ValueName design={design} name={name} autoFocus={fresh} />
        </ScrubLabel>
        <QuantityInput
          label={`value ${name}`}
          help={`${note ? `${note}. ` : ''}A quantity with its unit or an expression of other values; every piece that uses ${name} follows.`}
          value={value}
          error={problem}
          errorElsewhere={`value-${name}-error`}
          onChange={change}
        />
        <Note>
          <span>{result ?? note}</span>
          {unused && (
            <TextButton aria-label={`Remove ${name}`} onPress={() => removeValue(design, name)}>
              remove
            </TextButton>
          )}
        </Note>
      </ValueRow>
      {problem && <ErrorText id={`value-${name}-error`}>{problem}</ErrorText>}
    </div>
  );
});

/** The name of a value; a new one is written into every expression that uses it. */
function ValueName({ design, name, autoFocus }: { design: string; name: string; autoFocus: boolean }) {
  const [text, setText] = useState(name);
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => setText(name), [name]);
  useEffect(() => {
    if (autoFocus) box.current?.select();
  }, [autoFocus]);
  const taken = (other: string) =>
    useSession
      .getState()
      .project?.designs.find((d) => d.id === design)
      ?.values.some((v) => v.name === other);
  const valid = text === name || (/^[A-Za-z_]\w*$/.test(text) && !taken(text));
  const commit = () => {
    if (text !== name && valid && name !== 'f0') renameValue(design, name, text);
    else setText(name);
  };
  return (
    <NameBox
      ref={box}
      aria-label={`name of ${name}`}
      aria-invalid={!valid}
      value={text}
      readOnly={name === 'f0'}
      spellCheck={false}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') setText(name);
      }}
      {...(name === 'f0'
        ? helpHandlers('f0', 'The design frequency: electrical lengths are counted here. Its name is fixed.')
        : {})}
    />
  );
}

interface BoardProps {
  readonly design: string;
  readonly medium: Design['medium'];
  readonly stack: Stack;
  readonly stacks: readonly Stack[];
  readonly problems: readonly StackProblem[];
}

export const Board = memo(function Board({ design, medium, stack, stacks, problems }: BoardProps) {
  const [open, setOpen] = useState(false);
  return (
    <Part aria-label="Board">
      <SectionTitle>
        Board
        <TextButton aria-expanded={open || problems.length > 0} onPress={() => setOpen(!open)}>
          {open ? 'close' : 'change'}
        </TextButton>
      </SectionTitle>
      {open || problems.length > 0 ? (
        <div>
          <Segments
            label="Medium"
            value={medium}
            choices={[
              { id: 'microstrip', label: 'Microstrip' },
              { id: 'stripline', label: 'Stripline' },
            ]}
            onChange={(m) => changeDesign(design, `make it ${m}`, { medium: m as Design['medium'] })}
          />
          <StackForm
            stack={stack}
            stacks={stacks}
            problems={problems}
            onChoose={(s) => chooseStack(design, s)}
          />
        </div>
      ) : (
        <div style={{ paddingTop: 4 }}>
          {stack.name}{' '}
          <Quiet>
            · {stack.height} · {stack.thickness} · {medium}
          </Quiet>
        </div>
      )}
    </Part>
  );
}, sameContent);

function PieceFaces({ piece }: { piece: ResolvedPiece }) {
  const definition = parts.get(piece.kind);
  const column = (side: 'electrical' | 'physical') =>
    definition?.properties.flatMap((property) =>
      property.faces
        .filter((f) => f.side === side)
        .map((face) => {
          const isHeld = piece.held.includes(face.name);
          return (
            <Face key={face.name} $held={isHeld}>
              {isHeld && <i title="held" />}
              {shownValue(piece.values?.[face.name], face)}
            </Face>
          );
        }),
    );
  return (
    <>
      <Cell>{column('electrical')}</Cell>
      <Cell>{column('physical')}</Cell>
    </>
  );
}

export const Pieces = memo(function Pieces({
  design,
  resolved,
  project,
  selected,
  hovered,
  onSelect,
  onHover,
}: Omit<LedgerProps, 'remarks'>) {
  const list = useRef<HTMLElement>(null);
  useEffect(() => {
    if (selected)
      list.current?.querySelector(`[data-piece="${selected}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [selected]);
  const widest = Math.max(1e-9, ...resolved.pieces.map((p) => p.values?.width?.re ?? 0));
  return (
    <Part ref={list} aria-label="Ledger of pieces" style={{ borderBottom: 0 }}>
      <SectionTitle>
        Ledger <span style={{ letterSpacing: '0.04em' }}>Electrical · physical</span>
      </SectionTitle>
      {resolved.pieces.map((piece) => {
        const errors: Record<string, string> = {};
        for (const p of resolved.problems)
          if (p.place.kind === 'piece' && p.place.piece === piece.id) errors[p.place.face] = p.message;
        return (
          <PieceRow
            key={piece.id}
            design={design.id}
            piece={piece}
            document={design.pieces.find((p) => p.id === piece.id)!}
            errors={errors}
            widest={widest}
            dataName={project.data.find((d) => d.id === piece.settings.data)?.name}
            isOpen={selected === piece.id}
            isHovered={hovered === piece.id}
            onSelect={onSelect}
            onHover={onHover}
          />
        );
      })}
    </Part>
  );
});

interface PieceRowProps {
  readonly design: string;
  readonly piece: ResolvedPiece;
  readonly document: Piece;
  readonly errors: Readonly<Record<string, string>>;
  /** Width of the widest line, to which the little pictures are scaled. */
  readonly widest: number;
  readonly dataName: string | undefined;
  readonly isOpen: boolean;
  readonly isHovered: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
}

const PieceRow = memo(function PieceRow(props: PieceRowProps) {
  const { design, piece, document, errors, widest, dataName, isOpen, isHovered, onSelect, onHover } = props;
  const definition = parts.get(piece.kind);
  const width = piece.values?.width?.re;
  return (
    <Row
      data-piece={piece.id}
      $selected={isOpen}
      $hovered={isHovered}
      onPointerEnter={() => onHover(piece.id)}
      onPointerLeave={() => onHover(undefined)}
    >
      <RowHead type="button" aria-expanded={isOpen} onClick={() => onSelect(isOpen ? undefined : piece.id)}>
        <svg width="22" height="16" aria-hidden="true">
          {width !== undefined ? (
            <rect
              y={8 - Math.max(1, 7 * (width / widest))}
              width="22"
              height={Math.max(2, 14 * (width / widest))}
              fill={colour('copper')}
            />
          ) : piece.kind === 'port' ? (
            <circle cx="11" cy="8" r="5" fill="none" stroke={colour('water')} strokeWidth="2" />
          ) : (
            <rect
              x="3"
              y="2"
              width="16"
              height="12"
              fill="none"
              stroke={colour('quiet')}
              strokeDasharray={piece.kind === 'load' ? '3 2' : undefined}
            />
          )}
        </svg>
        <span>
          {piece.name}
          <br />
          <small>
            {piece.kind === 'port' ? `port ${piece.settings.number}` : (definition?.name ?? piece.kind)}
          </small>
        </span>
        {dataName !== undefined ? (
          <Quiet
            style={{ gridColumn: '3 / -1', textAlign: 'right', overflow: 'hidden', textOverflow: 'ellipsis' }}
          >
            {dataName}
          </Quiet>
        ) : (
          <PieceFaces piece={piece} />
        )}
      </RowHead>
      {Object.keys(errors).length > 0 && !isOpen && (
        <Editor>
          <ErrorText>{Object.values(errors)[0]}</ErrorText>
        </Editor>
      )}
      {isOpen && definition && (
        <Editor>
          {definition.properties.length > 0 && dataName === undefined ? (
            <FaceEditor
              properties={definition.properties}
              held={document.held}
              values={piece.values}
              errors={errors}
              owner={piece.name}
              onHold={(face, text, others) => holdFace(design, document, face, text, others)}
            />
          ) : (
            <Quiet>{definition.about}</Quiet>
          )}
        </Editor>
      )}
    </Row>
  );
}, sameContent);

export const Review = memo(function Review({ remarks, onSelect }: Pick<LedgerProps, 'remarks' | 'onSelect'>) {
  return (
    <ReviewBox aria-label="Review">
      <h2>Review{remarks.length > 0 ? ` \u00B7 ${remarks.length}` : ''}</h2>
      {remarks.length === 0 ? (
        <Quiet>Nothing to question: every line can be etched and stands inside its models’ ranges.</Quiet>
      ) : (
        <ul>
          {remarks.map((r) => {
            const { place } = r;
            return (
              <li key={r.message} data-severity={r.severity}>
                <span>
                  {r.message}{' '}
                  {place.kind === 'piece' && (
                    <TextButton onPress={() => onSelect(place.piece)}>Show</TextButton>
                  )}
                </span>
              </li>
            );
          })}
        </ul>
      )}
    </ReviewBox>
  );
});

const SweepGrid = styled.div`
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) minmax(0, 1fr) 64px;
  align-items: center;
  gap: 6px;
  min-height: 29px;
`;

/** Where the response is computed and what counts as matched. */
interface SweepProps {
  readonly design: string;
  readonly sweep: Design['sweep'];
  readonly goal: string;
  /** Problems of the sweep and the goal only. */
  readonly problems: readonly Problem[];
}

export const SweepPart = memo(function SweepPart({ design, sweep, goal, problems }: SweepProps) {
  const message = (field: string) =>
    problems.find((p) => p.place.kind === 'sweep' && p.place.field === field)?.message;
  const goalProblem = problems.find((p) => p.place.kind === 'goal')?.message;
  const set = (change: Partial<Design['sweep']>) =>
    changeDesign(design, 'change the sweep', { sweep: { ...sweep, ...change } }, 'sweep');
  const problem = message('start') ?? message('stop') ?? message('points');
  return (
    <Part aria-label="Sweep and goal">
      <SectionTitle>Sweep</SectionTitle>
      <SweepGrid>
        <b>from, to</b>
        <QuantityInput
          label="sweep start"
          help="First frequency of the response; an expression such as f0/2 follows the design frequency."
          value={sweep.start}
          error={message('start')}
          errorElsewhere="sweep-error"
          onChange={(start) => set({ start })}
        />
        <QuantityInput
          label="sweep stop"
          help="Last frequency of the response."
          value={sweep.stop}
          error={message('stop')}
          errorElsewhere="sweep-error"
          onChange={(stop) => set({ stop })}
        />
        <PointsBox points={sweep.points} error={message('points')} onChange={(points) => set({ points })} />
      </SweepGrid>
      {problem && (
        <div>
          <ErrorText id="sweep-error">{problem}</ErrorText>
        </div>
      )}
      <ValueRow>
        <b>match</b>
        <QuantityInput
          label="return loss goal"
          help="Return loss that counts as matched; the waterline reads the bandwidth at this level."
          value={goal}
          error={goalProblem}
          onChange={(text) => changeDesign(design, 'change the goal', { goal: text }, 'goal')}
        />
        <Note>return loss</Note>
      </ValueRow>
    </Part>
  );
}, sameContent);

function PointsBox({
  points,
  error,
  onChange,
}: {
  points: number;
  error?: string;
  onChange: (points: number) => void;
}) {
  const [text, setText] = useState(String(points));
  useEffect(() => setText(String(points)), [points]);
  const valid = /^\d+$/.test(text) && Number(text) >= 2 && Number(text) <= 20001;
  return (
    <InputBox
      aria-label="sweep points"
      title={valid ? 'points' : 'a whole number from 2 to 20001'}
      aria-invalid={!valid || error !== undefined}
      value={text}
      inputMode="numeric"
      onChange={(event) => {
        setText(event.target.value);
        const n = Number(event.target.value);
        if (/^\d+$/.test(event.target.value) && n >= 2 && n <= 20001) onChange(n);
      }}
      onBlur={() => {
        if (!valid) setText(String(points));
        endMerge();
      }}
      {...helpHandlers('Points', 'Number of frequencies computed, 2 to 20001.')}
    />
  );
}
