import type { PlacedPiece } from '@ditch/core/artwork';
import { analyseLine } from '@ditch/core/lines';
import type { Piece, ResolvedDesign, ResolvedPiece } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { behindHand, say } from '../../store/session';
import { useLive } from '../../live';
import { colour } from '../../theme';
import { holdFace } from '../edits';
import { LITERAL, movedAlong, stepOf, useGrips } from './grips';
import type { LayerProps } from './Placed';
import type { View } from './view';

const typed = (x: number, kind: 'length' | 'angle' | 'impedance') =>
  formatQuantity(x, kind, { typed: true, digits: 5 });

interface HandlesProps extends LayerProps {
  readonly document: Piece;
}

/** Grips on the selected line: its length at its end, its width at its edge. What is held stays the face that is held. */
export function Handles({ artwork, document, view: live }: HandlesProps) {
  const { design: own, resolved, layout } = useLive(artwork);
  const view = useLive(live);
  const piece = resolved.pieces.find((p) => p.id === document.id);
  const placed = layout.pieces.find((p) => p.id === document.id);
  return (
    piece &&
    placed &&
    view && (
      <Grips
        design={own.id}
        document={document}
        piece={piece}
        placed={placed}
        resolved={resolved}
        view={view}
      />
    )
  );
}

interface GripsProps {
  readonly design: string;
  readonly document: Piece;
  readonly piece: ResolvedPiece;
  readonly placed: PlacedPiece;
  readonly resolved: ResolvedDesign;
  readonly view: View;
}

function Grips({ design, document, piece, placed, resolved, view }: GripsProps) {
  const { grip: gripped, shown: live, setShown: setLive } = useGrips<number>();
  const { values } = piece;
  if (!values?.length || !values.width || placed.centre.length < 2 || !resolved.stack || !resolved.f0)
    return null;
  const end = placed.centre[placed.centre.length - 1];
  const before = placed.centre[placed.centre.length - 2];
  const direction = Math.atan2(end.y - before.y, end.x - before.x);
  const middle = placed.centre[Math.floor(placed.centre.length / 2)];
  const near = placed.centre[Math.floor(placed.centre.length / 2) - 1];
  const left = Math.atan2(middle.y - near.y, middle.x - near.x) + Math.PI / 2;
  // Of a pair the second strip has a gap to be taken by; the first one's width is then taken at its far edge.
  const paired = values.gap !== undefined && placed.pins.length === 4;
  const towards = paired
    ? Math.atan2(placed.pins[1].y - placed.pins[0].y, placed.pins[1].x - placed.pins[0].x)
    : 0;
  const across = paired ? towards + Math.PI : left;
  const straight = placed.centre.length === 2;
  const place = straight ? { x: (end.x + before.x) / 2, y: (end.y + before.y) / 2 } : middle;
  const edge = {
    x: place.x + (values.width.re / 2) * Math.cos(across),
    y: place.y + (values.width.re / 2) * Math.sin(across),
  };

  const refuse = (face: string): void =>
    say(
      `${piece.name}: its ${face} is held by an expression. Change the value it is made of, or hold another face.`,
    );
  const setLength = (length: number) => {
    const face = document.held.length === undefined ? 'theta' : 'length';
    if (!LITERAL.test(document.held[face] ?? ''))
      return refuse(face === 'theta' ? 'electrical length' : 'length');
    const most = Math.max(length, 1e-6);
    const trim = values.trim?.re ?? 0;
    const plain = values.length.re - trim;
    setLive(formatQuantity(most, 'length'));
    if (face === 'length')
      holdFace(design, document, 'length', typed(most, 'length'), ['theta', 'length'], resolved.f0);
    else if (plain > 0)
      holdFace(
        design,
        document,
        'theta',
        typed((values.theta.re * Math.max(most - trim, 1e-6)) / plain, 'angle'),
        ['theta', 'length'],
      );
  };
  /** A size across a pair is held by what it is taken by. */
  const setAcross =
    (face: 'width' | 'gap', electrical: 'ze' | 'zo', what: string, least: number) => (size: number) => {
      if (!LITERAL.test(document.held[face] ?? document.held[electrical] ?? '')) return refuse(what);
      const most = Math.max(size, least);
      setLive(formatQuantity(most, 'length'));
      holdFace(design, document, face, typed(most, 'length'), [electrical, face]);
    };
  const setWidth = (width: number) => {
    const face = document.held.width === undefined ? 'z0' : 'width';
    if (!LITERAL.test(document.held[face] ?? '')) return refuse(face === 'z0' ? 'impedance' : 'width');
    const most = Math.max(width, 2e-6);
    setLive(formatQuantity(most, 'length'));
    if (face === 'width') return holdFace(design, document, 'width', typed(most, 'length'), ['z0', 'width']);
    const plain = Math.max(most - (values.widen?.re ?? 0), 1e-6);
    const { z0 } = analyseLine(resolved.medium, resolved.stack!.substrate, plain, resolved.f0!);
    return holdFace(design, document, 'z0', typed(z0, 'impedance'), ['z0', 'width']);
  };

  const grip = (
    name: string,
    at: { x: number; y: number },
    angle: number,
    value: number,
    set: (value: number) => void,
    gain: number,
  ) => (
    <g
      role="slider"
      tabIndex={0}
      aria-label={`${name} of ${piece.name}`}
      aria-valuenow={Number((value * 1e3).toFixed(4))}
      aria-valuetext={formatQuantity(value, 'length')}
      transform={`translate(${view.sx(at.x)} ${view.sy(at.y)}) rotate(${(-angle * 180) / Math.PI})`}
      {...gripped(value, (from, dx, dy) => set(from + (gain * movedAlong(angle, dx, dy)) / view.scale))}
      onKeyDown={(event) => {
        const step = stepOf(event.key);
        if (!step) return;
        event.preventDefault();
        event.stopPropagation();
        behindHand(() => set(value * (1 + step * (event.shiftKey ? 0.001 : 0.01))));
      }}
    >
      <rect x={-14} y={-14} width={28} height={28} fill="transparent" />
      <rect
        x={-4}
        y={-4}
        width={8}
        height={8}
        fill={colour('raised')}
        stroke={colour('water')}
        strokeWidth={2}
      />
    </g>
  );
  return (
    <g>
      {grip('length', end, direction, values.length.re, setLength, 1)}
      {grip(
        'width',
        edge,
        across,
        values.width.re,
        paired ? setAcross('width', 'ze', 'even impedance', 2e-6) : setWidth,
        2,
      )}
      {paired &&
        grip(
          'gap',
          {
            x: place.x + (values.width.re / 2 + values.gap.re) * Math.cos(towards),
            y: place.y + (values.width.re / 2 + values.gap.re) * Math.sin(towards),
          },
          towards,
          values.gap.re,
          setAcross('gap', 'zo', 'odd impedance', 1e-6),
          1,
        )}
      {live && (
        <text
          x={view.sx(end.x) + 12}
          y={view.sy(end.y) - 12}
          fontSize={12}
          fontWeight={600}
          fill={colour('waterText')}
        >
          {live}
        </text>
      )}
    </g>
  );
}
