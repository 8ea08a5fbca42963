import { lazy, Suspense, useEffect, useId, useRef, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import type { Drawing } from '@ditch/core/formats/drawing';
import { GrowError, outlineFrom, outlineText, readOutline, readSides, textOfOutline } from '@ditch/core/grow';
import type { Piece } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { Quiet, TextButton } from '../../controls/basics';
import { helpHandlers } from '../../controls/help';
import { ErrorText, InputBox } from '../../controls/QuantityInput';
import { chooseDrawing } from '../../store/library';
import { colour } from '../../theme';
import { endMerge } from '../../store/session';
import { changeOutline } from '../edits';

// Only a file of several layers needs one.
const Select = lazy(() => import('../../controls/Select').then((m) => ({ default: m.Select })));

const Field = styled.div`
  padding: 4px 0 2px 16px;
  font-size: 12px;
  > label {
    display: block;
    padding-bottom: 3px;
  }
`;
const Head = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: baseline;
`;
const Corners = styled.textarea`
  width: 100%;
  min-height: 96px;
  padding: 5px 7px;
  border: 1px solid ${colour('rule')};
  border-radius: 3px;
  background: ${colour('page')};
  color: ${colour('ink')};
  font: inherit;
  font-variant-numeric: tabular-nums;
  line-height: 1.45;
  resize: vertical;
  white-space: pre;
  overflow: auto;
  &[aria-invalid='true'] {
    border-color: ${colour('error')};
  }
`;

const CORNERS_HELP =
  'A corner of the outline in each line, as x, y; lengths or expressions such as w/2. An empty line begins a further outline. A DXF or Gerber file takes their place. Escape brings back what was there.';
const SIDES_HELP =
  'Sides of the outline at which there are pins, in the order of the pins. Side 1 leads from the first corner to the second; they are numbered on the board.';

/** Where in the text a face of a corner stands, in words. */
function placed(face: string, message: string): string {
  const found = /^([xy])(\d+)$/.exec(face);
  return found ? `Corner ${found[2]}, ${found[1]}: ${message}` : message;
}

/** What is typed as it stands in a piece, or undefined where it cannot. */
function readOr<T>(read: () => T): T | undefined {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof GrowError)) throw error;
    return undefined;
  }
}
const cornersIn = (typed: string) => readOr(() => textOfOutline(readOutline(typed)));
const sidesIn = (typed: string) => readOr(() => readSides(typed).join(' '));

interface OutlineProps {
  readonly design: string;
  readonly piece: Piece;
  readonly errors: Readonly<Record<string, string>>;
}

/** The outline of free copper and the sides at which its pins are, as text. */
export function Outline({ design, piece, errors }: OutlineProps) {
  const [id, helpId] = [useId(), useId()];
  const corners = outlineText(piece);
  const sides = piece.settings?.sides ?? '';
  const [typed, setTyped] = useState<string>();
  const [pins, setPins] = useState<string>();
  const [refused, setRefused] = useState<string>();
  const before = useRef({ corners, sides });
  const [file, setFile] = useState<{
    readonly name: string;
    readonly drawing: Drawing;
    readonly layer: string;
  }>();
  const forget = () => {
    setTyped(undefined);
    setPins(undefined);
    setRefused(undefined);
  };
  // What was typed is nothing to another state of the piece, such as one that comes back by undoing.
  useEffect(() => {
    setTyped((text) => (text !== undefined && cornersIn(text) === corners ? text : undefined));
    setPins((text) => (text !== undefined && sidesIn(text) === sides ? text : undefined));
    setRefused(undefined);
  }, [corners, sides]);
  const remember = () => {
    before.current = { corners, sides };
  };
  /** Takes over what is typed as it is typed; what cannot be stays in the field until it can. */
  const take = (text: string, at: string) => setRefused(changeOutline(design, piece, text, at));
  const leave = () => {
    if (refused === undefined) forget();
    endMerge();
  };
  /** The outlines of a layer of a file instead of what there is. */
  const takeLayer = (name: string, drawing: Drawing, layer: string) => {
    const { text, sides: ends } = outlineFrom(drawing.layers.find((l) => l.name === layer)!.outlines);
    forget();
    setFile({ name, drawing, layer });
    setRefused(changeOutline(design, piece, text, ends.join(' ')));
    endMerge();
  };
  const choose = async () => {
    const found = await chooseDrawing();
    if (found) takeLayer(found.name, found.drawing, found.drawing.layers[0].name);
  };
  const escape = (event: KeyboardEvent) => {
    if (event.key !== 'Escape') return;
    event.stopPropagation();
    forget();
    changeOutline(design, piece, before.current.corners, before.current.sides);
  };
  const [face, message] = Object.entries(errors)[0] ?? [];
  const wrong = refused ?? (face === undefined ? undefined : placed(face, message));
  return (
    <>
      <Field {...helpHandlers('Corners', CORNERS_HELP)}>
        <Head>
          <label htmlFor={id}>Corners</label>
          <TextButton onPress={() => void choose()}>from a file</TextButton>
        </Head>
        <Corners
          id={id}
          aria-label={`${piece.name}: corners`}
          aria-invalid={wrong !== undefined}
          aria-describedby={helpId}
          spellCheck={false}
          rows={Math.min(14, (typed ?? corners).split('\n').length + 1)}
          value={typed ?? corners}
          onFocus={remember}
          onChange={(event) => {
            setTyped(event.target.value);
            take(event.target.value, pins ?? sides);
          }}
          onBlur={leave}
          onKeyDown={escape}
        />
      </Field>
      <Field {...helpHandlers('Pins', SIDES_HELP)}>
        <label htmlFor={`${id} sides`}>Pins at sides</label>
        <InputBox
          id={`${id} sides`}
          aria-label={`${piece.name}: sides with pins`}
          spellCheck={false}
          value={pins ?? sides.split(' ').join(', ')}
          onFocus={remember}
          onChange={(event) => {
            setPins(event.target.value);
            take(typed ?? corners, event.target.value);
          }}
          onBlur={leave}
          onKeyDown={escape}
        />
      </Field>
      {file && (
        <Field role="status" aria-label="what was read">
          {file.drawing.layers.length > 1 && (
            <Suspense>
              <Select
                label="layer of the file"
                value={file.layer}
                choices={file.drawing.layers.map((l) => ({
                  id: l.name,
                  label: `layer ${l.name}, ${l.outlines.length} ${l.outlines.length > 1 ? 'outlines' : 'outline'}`,
                }))}
                onChange={(layer) => takeLayer(file.name, file.drawing, layer)}
              />
            </Suspense>
          )}
          <Quiet>
            From {file.name}, {file.drawing.kind}, curves within{' '}
            {formatQuantity(file.drawing.chord, 'length', { digits: 2 })}.
            {file.drawing.notes.map((note) => ` ${note[0].toUpperCase()}${note.slice(1)}.`)} Pins stand where
            lines seem to end; name other sides below.
          </Quiet>
        </Field>
      )}
      <Field id={helpId}>
        {wrong === undefined ? (
          <Quiet>Only the solved level knows what this copper does.</Quiet>
        ) : (
          <ErrorText role="alert">{wrong}</ErrorText>
        )}
      </Field>
    </>
  );
}
