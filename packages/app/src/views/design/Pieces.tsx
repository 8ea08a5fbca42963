import { Part } from './ledgerParts';
import { lazy, memo, Suspense, useEffect, useRef } from 'react';
import styled from 'styled-components';
import type { Piece, ResolvedPiece } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { faceKey, movable } from '@ditch/core/studies';
import { sideHeld, type Side } from '@ditch/core/grow';
import { write } from '../../charts/written';
import { byItself, Quiet, SectionTitle, Segments, TextButton } from '../../controls/basics';
import { Chunks } from '../../controls/Chunks';
import { useHandler } from '../../controls/stable';
import { helpHandlers } from '../../controls/help';
import { NameInput } from '../../controls/NameInput';
import { ErrorText } from '../../controls/QuantityInput';
import { sameEntries, useDerived, useDrawn, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { hold, holdFace, markPiece, namesOf, releaseFace, renamePiece, setFree, setSetting } from '../edits';
import { FreeMark } from '../../controls/FreeMark';
import { FaceEditor, shownValue } from '../FaceEditor';
import type { Scene } from './stage';

/** Rows are plain elements under one style: a hundred of them are drawn again while a value is tuned. */
const Outline = lazy(() => import('./Outline').then((m) => ({ default: m.Outline })));

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
  .sign {
    position: relative;
    height: 16px;
    svg {
      ${byItself}
    }
  }
  .head small {
    color: ${colour('quiet')};
    font-size: 11px;
  }
  .title {
    overflow-wrap: anywhere;
  }
  /* A number that changes is laid out by itself. */
  .face {
    display: block;
    contain: strict;
    height: 1.3em;
    color: ${colour('quiet')};
    text-align: right;
    white-space: nowrap;
    /* Digits of one width: there is nothing to be kerned or joined, and looking for it takes time. */
    font-kerning: none;
    font-variant-ligatures: none;
  }
  .face[data-held] {
    color: ${colour('ink')};
    font-weight: 600;
  }
  .face[data-held]::before {
    content: '';
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
  readonly scene: Live<Scene>;
  readonly selected?: string;
  readonly hovered?: string;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
  /** Asks for pieces to be solved over their sizes. */
  readonly onBack: (pieces: readonly string[]) => void;
}

/** A piece of the ledger, whatever its values. */
interface Row {
  readonly document: Piece;
  readonly errors: Readonly<Record<string, string>>;
  /** It stands on solved data. */
  readonly isStanding: boolean;
  readonly dataName: string | undefined;
}

/** The errors of pieces by face, the same object as long as they are the same. */
function errorsOf({ resolved }: Scene): ReadonlyMap<string, Readonly<Record<string, string>>> {
  const wrong = new Map<string, Record<string, string>>();
  for (const { place, message } of resolved.problems)
    if (place.kind === 'piece') wrong.set(place.piece, { ...wrong.get(place.piece), [place.face]: message });
  return wrong;
}

/** Pieces worked out, by id, with the width of the widest line, to which the little pictures are scaled. */
interface Worth {
  readonly pieces: ReadonlyMap<string, ResolvedPiece>;
  readonly widest: number;
}

function Faces({ document, worth }: { document: Piece; worth: Live<Worth> }) {
  const cells = useRef<HTMLElement[]>([]);
  const definition = parts.get(document.kind);
  const isHeld = (face: string) => document.held[face] !== undefined;
  const required = definition?.properties.some((p) => p.otherwise === undefined);
  // What may be left out stands in the open row, unless it is all there is.
  const faces = (definition?.properties ?? []).flatMap((p) =>
    p.otherwise === undefined || (!required && isHeld(p.faces[0].name)) ? p.faces : [],
  );
  useDrawn(() => {
    const values = worth.value.pieces.get(document.id)?.values;
    faces.forEach((face, i) => {
      const cell = cells.current[i];
      const text = shownValue(values?.[face.name], face);
      if (!cell || cell.textContent === text) return;
      // The text that stands there takes the new words; another one would have to be laid out from nothing.
      if (cell.firstChild) (cell.firstChild as Text).data = text;
      else cell.textContent = text;
    });
  });
  const column = (side: 'electrical' | 'physical') =>
    faces.map((face, i) =>
      face.side !== side ? null : (
        <span
          key={face.name}
          ref={(cell) => {
            if (cell) cells.current[i] = cell;
          }}
          className="face"
          data-held={isHeld(face.name) || undefined}
        />
      ),
    );
  return (
    <>
      <span className="cell">{column('electrical')}</span>
      <span className="cell">{column('physical')}</span>
    </>
  );
}

export const Pieces = memo(function Pieces({
  scene,
  selected,
  hovered,
  onSelect,
  onHover,
  onBack,
}: PiecesProps) {
  const list = useRef<HTMLElement>(null);
  useEffect(() => {
    if (selected)
      list.current?.querySelector(`[data-piece="${selected}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [selected]);
  const wrong = useDerived(() => [...errorsOf(scene.value)], [scene]);
  const rows = useLive(
    useDerived(
      () => {
        const { design, project } = scene.value;
        const errors = new Map(wrong.value);
        const standing = new Set(design.backed?.flatMap((b) => b.pieces));
        return design.pieces.map((document): Row => ({
          document,
          errors: errors.get(document.id) ?? NONE,
          isStanding: standing.has(document.id),
          dataName: project.data.find((d) => d.id === document.settings?.data)?.name,
        }));
      },
      [scene, wrong],
      sameEntries,
    ),
  );
  const resolved = useDerived(() => scene.value.resolved, [scene], Object.is);
  const worth = useDerived(
    (): Worth => {
      const { pieces } = resolved.value;
      return {
        pieces: new Map(pieces.map((p) => [p.id, p])),
        widest: Math.max(1e-9, ...pieces.map((p) => p.values?.width?.re ?? 0)),
      };
    },
    [resolved],
    Object.is,
  );
  const { id } = scene.peek().design;
  return (
    <List ref={list} aria-label="Ledger of pieces" style={{ borderBottom: 0 }}>
      <SectionTitle>
        Ledger <span style={{ letterSpacing: '0.04em' }}>Electrical · physical</span>
      </SectionTitle>
      <Holding scene={scene} />
      <Chunks items={rows} row={42} wanted={({ document }) => document.id === selected}>
        {({ document, errors, isStanding, dataName }) => (
          <PieceRow
            key={document.id}
            scene={scene}
            design={id}
            document={document}
            errors={errors}
            isStanding={isStanding}
            worth={worth}
            dataName={dataName}
            isOpen={selected === document.id}
            isHovered={hovered === document.id}
            onSelect={onSelect}
            onHover={onHover}
            onBack={onBack}
          />
        )}
      </Chunks>
    </List>
  );
});

const NONE: Readonly<Record<string, string>> = {};

/** Which side the design holds, and the way to hold the other: what stays when the board changes. */
function Holding({ scene }: { scene: Live<Scene> }) {
  const side = useLive(useDerived(() => sideHeld(scene.value.design), [scene]));
  const now = useHandler((next: Side) => hold(scene.peek().design, scene.peek().resolved, next));
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

interface PieceRowProps extends Row {
  readonly scene: Live<Scene>;
  readonly design: string;
  readonly worth: Live<Worth>;
  readonly isOpen: boolean;
  readonly isHovered: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
  readonly onBack: (pieces: readonly string[]) => void;
}

/** What a piece is, where its name does not say so already. */
function kindOf(piece: Piece): string {
  const kind =
    piece.kind === 'port' ? `port ${piece.settings?.number}` : (parts.get(piece.kind)?.name ?? piece.kind);
  return kind === piece.name ? '' : kind;
}

/** A little picture of a piece: how wide it is among the others, or what else it is. */
function Sign({ document, worth }: { document: Piece; worth: Live<Worth> }) {
  const definition = parts.get(document.kind);
  const bar = useRef<SVGRectElement>(null);
  useDrawn(() => {
    const { pieces, widest } = worth.value;
    const width = pieces.get(document.id)?.values?.width?.re ?? 0;
    const height = Math.round(10 * Math.max(2, 14 * (width / widest))) / 10;
    write(bar.current, 'y', String(8 - height / 2));
    write(bar.current, 'height', String(height));
  });
  const wide = useLive(
    useDerived(() => worth.value.pieces.get(document.id)?.values?.width !== undefined, [worth, document.id]),
  );
  return (
    <span className="sign">
      <svg width="22" height="16" aria-hidden="true">
        {wide ? (
          <rect ref={bar} width="22" fill={colour('copper')} />
        ) : document.kind === 'port' ? (
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
    </span>
  );
}

const PieceRow = memo(function PieceRow(props: PieceRowProps) {
  const { scene, design, document, errors, worth, dataName, isOpen, isHovered, onSelect, onHover } = props;
  const { isStanding, onBack } = props;
  const { id, name } = document;
  const definition = parts.get(document.kind);
  const adjustable = definition?.properties.some((p) => p.adjusts);
  const kind = kindOf(document);
  return (
    <div
      className="row"
      data-piece={id}
      data-selected={isOpen || undefined}
      data-hovered={isHovered || undefined}
      onPointerEnter={() => onHover(id)}
      onPointerLeave={() => onHover(undefined)}
    >
      <button
        className="head"
        type="button"
        aria-label={`${name}${kind === '' ? '' : `, ${kind}`}, in the ledger`}
        aria-expanded={isOpen}
        onClick={() => onSelect(isOpen ? undefined : id)}
      >
        <Sign document={document} worth={worth} />
        <span className="title">
          {name}
          <br />
          <small>
            {kind}
            {adjustable && !movable(document) && (kind === '' ? '' : ' · ') + 'not retuned'}
            {isStanding && (kind === '' ? '' : ' · ') + 'solved'}
          </small>
        </span>
        {dataName !== undefined ? (
          <Quiet
            style={{ gridColumn: '3 / -1', textAlign: 'right', overflow: 'hidden', textOverflow: 'ellipsis' }}
          >
            {dataName}
          </Quiet>
        ) : (
          <Faces document={document} worth={worth} />
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
              label={`name of ${name}`}
              value={name}
              onChange={(next) => renamePiece(design, id, next)}
            />
          </Named>
          {definition.choices?.map((choice) => (
            <Chosen key={choice.name} {...helpHandlers(choice.label, choice.help)}>
              <span>{choice.label}</span>
              <Segments
                label={`${name}: ${choice.label.toLowerCase()}`}
                value={document.settings?.[choice.name] ?? choice.options[0].id}
                choices={choice.options}
                onChange={(option) => setSetting(design, document, choice.name, option)}
              />
            </Chosen>
          ))}
          {definition.outlined ? (
            <Suspense>
              <Outline design={design} piece={document} errors={errors} />
            </Suspense>
          ) : definition.properties.length > 0 && dataName === undefined ? (
            <OwnFaces scene={scene} document={document} errors={errors} />
          ) : (
            <Quiet>{definition.about}</Quiet>
          )}
          {adjustable && (
            <Chosen {...helpHandlers('Retune', RETUNE_HELP)}>
              <span>Retune</span>
              <Segments
                label={`${name}: whether retuning moves it`}
                value={movable(document) ? 'move' : 'stay'}
                choices={RETUNE_CHOICES}
                onChange={(choice) =>
                  markPiece(design, document, { retune: choice === 'stay' ? 'stay' : 'move' })
                }
              />
            </Chosen>
          )}
          {definition.field === 'copper' && (
            <Chosen {...helpHandlers('Model', BACK_HELP)}>
              <span>{isStanding ? 'Solved' : 'Model'}</span>
              <TextButton onPress={() => onBack([id])}>
                {isStanding ? 'stands on solved data \u2026' : 'solve it over its sizes \u2026'}
              </TextButton>
            </Chosen>
          )}
          {definition.source && <Source>{definition.source}</Source>}
        </Editor>
      )}
    </div>
  );
});

const BACK_HELP =
  'The piece is solved by itself over ranges of its sizes and of the board; the modelled level stands on that from then on, at the speed of a formula.';
const NONE_FREE: readonly string[] = [];

/** The fields of an open piece, following its values. */
function OwnFaces({ scene, document, errors }: Pick<PieceRowProps, 'scene' | 'document' | 'errors'>) {
  const values = useLive(
    useDerived(
      () => scene.value.resolved.pieces.find((p) => p.id === document.id)?.values,
      [scene, document.id],
    ),
  );
  const free = useLive(useDerived(() => scene.value.design.strip ?? NONE_FREE, [scene], Object.is));
  const { id } = scene.peek().design;
  return (
    <FaceEditor
      properties={parts.get(document.kind)!.properties}
      held={document.held}
      values={values}
      errors={errors}
      owner={document.name}
      known={() => namesOf(id)}
      mark={(face, label) => {
        const key = faceKey(scene.peek().design, document, face);
        return <FreeMark label={label} on={free.includes(key)} onChange={(on) => setFree(id, key, on)} />;
      }}
      onHold={(face, text, others) => holdFace(id, document, face, text, others, scene.peek().resolved.f0)}
      onRelease={(face) => releaseFace(id, document, face)}
    />
  );
}
