import { Part, sameContent } from './ledgerParts';
import { memo, useEffect, useRef } from 'react';
import styled from 'styled-components';
import {
  type Design,
  type Piece,
  type Project,
  type ResolvedDesign,
  type ResolvedPiece,
} from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { Quiet, SectionTitle, Segments } from '../../controls/basics';
import { helpHandlers } from '../../controls/help';
import { NameInput } from '../../controls/NameInput';
import { ErrorText } from '../../controls/QuantityInput';
import { colour } from '../../theme';
import { holdFace, releaseFace, renamePiece, setSetting } from '../edits';
import { FaceEditor, shownValue } from '../FaceEditor';

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
const Title = styled.span`
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
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
}: PiecesProps) {
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
            f0={resolved.f0}
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
  readonly f0: number | undefined;
  readonly isOpen: boolean;
  readonly isHovered: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
}

const PieceRow = memo(function PieceRow(props: PieceRowProps) {
  const { design, piece, document, errors, widest, dataName, f0, isOpen, isHovered, onSelect, onHover } =
    props;
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
        <Title>
          {piece.name}
          <br />
          <small>
            {piece.kind === 'port' ? `port ${piece.settings.number}` : (definition?.name ?? piece.kind)}
          </small>
        </Title>
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
              onHold={(face, text, others) => holdFace(design, document, face, text, others, f0)}
              onRelease={(face) => releaseFace(design, document, face)}
            />
          ) : (
            <Quiet>{definition.about}</Quiet>
          )}
          {definition.source && <Source>{definition.source}</Source>}
        </Editor>
      )}
    </Row>
  );
}, sameContent);
