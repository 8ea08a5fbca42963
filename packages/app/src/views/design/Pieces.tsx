import { Part, sameContent } from './ledgerParts';
import { memo, useEffect, useRef } from 'react';
import styled from 'styled-components';
import type { Design, Piece, Project, ResolvedDesign, ResolvedPiece } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { movable } from '@ditch/core/studies';
import { sideHeld, type Side } from '@ditch/core/grow';
import { Quiet, SectionTitle, Segments, TextButton } from '../../controls/basics';
import { Chunks } from '../../controls/Chunks';
import { useHandler } from '../../controls/stable';
import { helpHandlers } from '../../controls/help';
import { NameInput } from '../../controls/NameInput';
import { ErrorText } from '../../controls/QuantityInput';
import { colour } from '../../theme';
import { hold, holdFace, markPiece, namesOf, releaseFace, renamePiece, setSetting } from '../edits';
import { FaceEditor, shownValue } from '../FaceEditor';

/** Rows are plain elements under one style: a hundred of them are drawn again while a value is tuned. */
const List = styled(Part)`
  .row {
    border-left: 3px solid transparent;
    padding: 0;
    content-visibility: auto;
    contain-intrinsic-size: auto 42px;
  }
  .row[data-selected] {
    border-left-color: ${colour('water')};
  }
  .row[data-selected],
  .row[data-hovered] {
    background: ${colour('waterSoft')};
  }
  .head {
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
  }
  .head small {
    color: ${colour('quiet')};
    font-size: 11px;
  }
  .title {
    overflow-wrap: anywhere;
  }
  .cell {
    display: flex;
    flex-direction: column;
    align-items: flex-end;
  }
  .face {
    color: ${colour('quiet')};
    white-space: nowrap;
  }
  .face[data-held] {
    color: ${colour('ink')};
    font-weight: 600;
  }
  .face i {
    display: inline-block;
    width: 5px;
    height: 5px;
    margin-right: 5px;
    border-radius: 50%;
    background: ${colour('water')};
    vertical-align: 0.15em;
  }
`;
const Held = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0 10px;
  padding: 2px 16px 5px !important;
  font-size: 11px;
  color: ${colour('quiet')};
`;
const Named = styled.div`
  display: flex;
  padding: 2px 0 4px 16px;
`;
const Chosen = styled.div`
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  align-items: center;
  gap: 6px;
  padding: 2px 0 2px 16px;
  font-size: 12px;
`;
const Source = styled.p`
  padding: 6px 0 0 16px;
  color: ${colour('quiet')};
  font-size: 11px;
`;
const Editor = styled.div`
  padding: 2px 12px 10px 13px;
`;

const RETUNE_HELP =
  'Whether retuning may change this piece: its length first, then its width. Feeds stay where nothing else is said.';
const RETUNE_CHOICES = [
  { id: 'move', label: 'may move it' },
  { id: 'stay', label: 'stays' },
];

interface PiecesProps {
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly selected?: string;
  readonly hovered?: string;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
}

function PieceFaces({ piece }: { piece: ResolvedPiece }) {
  const definition = parts.get(piece.kind);
  const required = definition?.properties.some((p) => p.otherwise === undefined);
  const column = (side: 'electrical' | 'physical') =>
    definition?.properties.flatMap((property) =>
      // What may be left out stands in the open row, unless it is all there is.
      (property.otherwise === undefined || (!required && piece.held.includes(property.faces[0].name))
        ? property.faces
        : []
      )
        .filter((f) => f.side === side)
        .map((face) => {
          const isHeld = piece.held.includes(face.name);
          return (
            <span key={face.name} className="face" data-held={isHeld || undefined}>
              {isHeld && <i title="held" />}
              {shownValue(piece.values?.[face.name], face)}
            </span>
          );
        }),
    );
  return (
    <>
      <span className="cell">{column('electrical')}</span>
      <span className="cell">{column('physical')}</span>
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
}: PiecesProps) {
  const list = useRef<HTMLElement>(null);
  useEffect(() => {
    if (selected)
      list.current?.querySelector(`[data-piece="${selected}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [selected]);
  const documents = new Map(design.pieces.map((p) => [p.id, p]));
  const wrong = new Map<string, Record<string, string>>();
  for (const { place, message } of resolved.problems)
    if (place.kind === 'piece') wrong.set(place.piece, { ...wrong.get(place.piece), [place.face]: message });
  const widest = Math.max(1e-9, ...resolved.pieces.map((p) => p.values?.width?.re ?? 0));
  return (
    <List ref={list} aria-label="Ledger of pieces" style={{ borderBottom: 0 }}>
      <SectionTitle>
        Ledger <span style={{ letterSpacing: '0.04em' }}>Electrical · physical</span>
      </SectionTitle>
      <Holding design={design} resolved={resolved} />
      <Chunks items={resolved.pieces} row={42} wanted={(piece) => piece.id === selected}>
        {(piece) => (
          <PieceRow
            key={piece.id}
            design={design.id}
            piece={piece}
            document={documents.get(piece.id)!}
            errors={wrong.get(piece.id) ?? NONE}
            widest={widest}
            dataName={project.data.find((d) => d.id === piece.settings.data)?.name}
            f0={resolved.f0}
            isOpen={selected === piece.id}
            isHovered={hovered === piece.id}
            onSelect={onSelect}
            onHover={onHover}
          />
        )}
      </Chunks>
    </List>
  );
});

const NONE: Readonly<Record<string, string>> = {};

/** Which side the design holds, and the way to hold the other: what stays when the board changes. */
function Holding({ design, resolved }: { design: Design; resolved: ResolvedDesign }) {
  const side = sideHeld(design);
  const now = useHandler((next: Side) => hold(design, resolved, next));
  return side === undefined ? null : <HoldingLine side={side} onHold={now} />;
}

const HOLD_HELP =
  'What stays when the board or the frequency changes. With the electrical side held the copper follows; with the copper held the impedances follow, as they do on a batch of laminate that has come out otherwise. What was held before is remembered.';

const HoldingLine = memo(function HoldingLine({
  side,
  onHold,
}: {
  side: Side | 'both';
  onHold: (side: Side) => void;
}) {
  return (
    <Held {...helpHandlers('What is held', HOLD_HELP)}>
      <span role="status">
        {side === 'electrical'
          ? 'The electrical side is held.'
          : side === 'physical'
            ? 'The copper is held.'
            : 'Some pieces hold copper, some their impedance.'}
      </span>
      <span>
        {side !== 'physical' && <TextButton onPress={() => onHold('physical')}>hold the copper</TextButton>}
        {side === 'both' && ' · '}
        {side !== 'electrical' && (
          <TextButton onPress={() => onHold('electrical')}>hold the electrical side</TextButton>
        )}
      </span>
    </Held>
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
  readonly f0: number | undefined;
  readonly isOpen: boolean;
  readonly isHovered: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
}

/** What a piece is, where its name does not say so already. */
function kindOf(piece: ResolvedPiece): string {
  const kind =
    piece.kind === 'port' ? `port ${piece.settings.number}` : (parts.get(piece.kind)?.name ?? piece.kind);
  return kind === piece.name ? '' : kind;
}

const PieceRow = memo(function PieceRow(props: PieceRowProps) {
  const { design, piece, document, errors, widest, dataName, f0, isOpen, isHovered, onSelect, onHover } =
    props;
  const definition = parts.get(piece.kind);
  const width = piece.values?.width?.re;
  const adjustable = definition?.properties.some((p) => p.adjusts);
  return (
    <div
      className="row"
      data-piece={piece.id}
      data-selected={isOpen || undefined}
      data-hovered={isHovered || undefined}
      onPointerEnter={() => onHover(piece.id)}
      onPointerLeave={() => onHover(undefined)}
    >
      <button
        className="head"
        type="button"
        aria-label={`${piece.name}${kindOf(piece) === '' ? '' : `, ${kindOf(piece)}`}, in the ledger`}
        aria-expanded={isOpen}
        onClick={() => onSelect(isOpen ? undefined : piece.id)}
      >
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
              strokeDasharray={definition?.impedance ? '3 2' : undefined}
            />
          )}
        </svg>
        <span className="title">
          {piece.name}
          <br />
          <small>
            {kindOf(piece)}
            {adjustable && !movable(document) && (kindOf(piece) === '' ? '' : ' · ') + 'not retuned'}
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
      </button>
      {Object.keys(errors).length > 0 && !isOpen && (
        <Editor>
          <ErrorText>{Object.values(errors)[0]}</ErrorText>
        </Editor>
      )}
      {isOpen && definition && (
        <Editor>
          <Named>
            <NameInput
              label={`name of ${piece.name}`}
              value={piece.name}
              onChange={(name) => renamePiece(design, piece.id, name)}
            />
          </Named>
          {definition.choices?.map((choice) => (
            <Chosen key={choice.name} {...helpHandlers(choice.label, choice.help)}>
              <span>{choice.label}</span>
              <Segments
                label={`${piece.name}: ${choice.label.toLowerCase()}`}
                value={piece.settings[choice.name] ?? choice.options[0].id}
                choices={choice.options}
                onChange={(id) => setSetting(design, document, choice.name, id)}
              />
            </Chosen>
          ))}
          {definition.properties.length > 0 && dataName === undefined ? (
            <FaceEditor
              properties={definition.properties}
              held={document.held}
              values={piece.values}
              errors={errors}
              owner={piece.name}
              known={() => namesOf(design)}
              onHold={(face, text, others) => holdFace(design, document, face, text, others, f0)}
              onRelease={(face) => releaseFace(design, document, face)}
            />
          ) : (
            <Quiet>{definition.about}</Quiet>
          )}
          {adjustable && (
            <Chosen {...helpHandlers('Retune', RETUNE_HELP)}>
              <span>Retune</span>
              <Segments
                label={`${piece.name}: whether retuning moves it`}
                value={movable(document) ? 'move' : 'stay'}
                choices={RETUNE_CHOICES}
                onChange={(id) => markPiece(design, document, { retune: id === 'stay' ? 'stay' : 'move' })}
              />
            </Chosen>
          )}
          {definition.source && <Source>{definition.source}</Source>}
        </Editor>
      )}
    </div>
  );
}, sameContent);
