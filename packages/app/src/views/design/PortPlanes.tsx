import { memo } from 'react';
import { lineOfPort, type Piece } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { behindHand, say } from '../../store/session';
import { useDerived, useLive } from '../../live';
import { colour } from '../../theme';
import { holdFace, releaseFace } from '../edits';
import { LITERAL, movedAlong, stepOf, useGrips } from './grips';
import type { LayerProps } from './Placed';

interface Place {
  readonly x: number;
  readonly y: number;
}

/** The place so far along a way of straight pieces, and its direction, radians. */
function alongWay(way: readonly Place[], distance: number): Place & { readonly angle: number } {
  let rest = distance;
  for (let i = 0; ; i++) {
    const [a, b] = [way[i], way[i + 1]];
    const length = Math.hypot(b.x - a.x, b.y - a.y);
    const angle = Math.atan2(b.y - a.y, b.x - a.x);
    if (rest <= length || i + 2 >= way.length) {
      const t = length > 0 ? rest / length : 0;
      return { x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y), angle };
    }
    rest -= length;
  }
}

interface PortPlanesProps extends LayerProps {
  readonly chosen: Piece | undefined;
}

/** Reference planes of the ports: an arrow where one lies inside of a line; of the port that is open, to be moved along it. */
export const PortPlanes = memo(function PortPlanes(props: PortPlanesProps) {
  const { artwork, chosen } = props;
  const some = useLive(
    useDerived(
      () =>
        artwork.value.resolved.pieces.some(
          (p) => p.kind === 'port' && (p.id === chosen?.id || (p.values?.plane?.re ?? 0) > 0),
        ),
      [artwork, chosen?.id],
    ),
  );
  return some ? <Arrows {...props} /> : null;
});

function Arrows({ artwork, view: live, chosen }: PortPlanesProps) {
  const { design, resolved, layout } = useLive(artwork);
  const view = useLive(live);
  const { grip, shown, setShown } = useGrips<number>();
  if (!view) return null;
  const ports = resolved.pieces.flatMap((port) => {
    if (port.kind !== 'port') return [];
    const plane = port.values?.plane?.re ?? 0;
    const isOpen = port.id === chosen?.id;
    const met = plane > 0 || isOpen ? lineOfPort(port, resolved.pieces) : undefined;
    const centre = met && layout.pieces.find((p) => p.id === met.line.id)?.centre;
    if (!met || !centre || centre.length < 2) return [];
    const way = met.line.nodes[0] === port.nodes[0] ? centre : [...centre].reverse();
    return [{ port, plane, isOpen, length: met.length, at: alongWay(way, plane) }];
  });
  const set = (piece: Piece, plane: number, length: number) => {
    const text = piece.held.plane;
    if (text !== undefined && !LITERAL.test(text))
      return say(
        `${piece.name}: its reference plane is held by an expression. Change the value it is made of.`,
      );
    const next = Math.min(Math.max(0, plane), 0.999 * length);
    setShown(formatQuantity(next, 'length'));
    if (next < 1e-6) releaseFace(design.id, piece, 'plane');
    else
      holdFace(design.id, piece, 'plane', formatQuantity(next, 'length', { typed: true, digits: 4 }), [
        'plane',
      ]);
  };
  return (
    <>
      {ports.map(({ port, plane, isOpen, length, at }) => {
        const turn = `translate(${view.sx(at.x)} ${view.sy(at.y)}) rotate(${(-at.angle * 180) / Math.PI})`;
        const arrow = (
          <g stroke={colour('ink')} fill="none" strokeWidth={2}>
            <path d="M0 -22V22" stroke={colour('raised')} strokeWidth={5} />
            <path d="M0 -22V22M0 -22H15m-5 -4l5 4l-5 4" strokeLinejoin="round" />
          </g>
        );
        if (!isOpen || !chosen)
          return (
            <g
              key={port.id}
              transform={turn}
              role="img"
              aria-label={`reference plane of ${port.name}`}
              pointerEvents="none"
            >
              {arrow}
            </g>
          );
        return (
          <g
            key={port.id}
            transform={turn}
            role="slider"
            tabIndex={0}
            aria-label={`reference plane of ${port.name}`}
            aria-valuenow={Number((plane * 1e3).toFixed(4))}
            aria-valuetext={formatQuantity(plane, 'length')}
            {...grip(plane, (from, dx, dy) =>
              set(chosen, from + movedAlong(at.angle, dx, dy) / view.scale, length),
            )}
            onKeyDown={(event) => {
              const step = stepOf(event.key);
              if (!step) return;
              event.preventDefault();
              event.stopPropagation();
              behindHand(() => set(chosen, plane + step * (event.shiftKey ? 1e-5 : 1e-4), length));
            }}
          >
            <rect x={-10} y={-26} width={28} height={52} fill="transparent" />
            {arrow}
            {shown && (
              <text
                transform={`rotate(${(at.angle * 180) / Math.PI})`}
                x={12}
                y={-28}
                fontSize={12}
                fontWeight={600}
                fill={colour('waterText')}
              >
                {shown}
              </text>
            )}
          </g>
        );
      })}
    </>
  );
}
