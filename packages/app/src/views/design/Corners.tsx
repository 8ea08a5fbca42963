import { useState } from 'react';
import { pinSides, removeCorner, splitSide } from '@ditch/core/grow';
import type { Piece } from '@ditch/core/network';
import { turning } from '@ditch/core/parts';
import { formatQuantity } from '@ditch/core/units';
import { behindHand, say } from '../../store/session';
import { useLive } from '../../live';
import { colour } from '../../theme';
import { change, moveCorner } from '../edits';
import { useGrips } from './grips';
import type { LayerProps } from './Placed';
import { snapped, type Frame } from './snapping';

const LITERAL = /^\s*[+-]?(\d|\.\d)[^*/()a-z]*[a-z]*\s*$/i;
const typed = (x: number) => formatQuantity(x, 'length', { typed: true, digits: 6 });

/** How far the number of a side stands inside of it, pixels. */
const INWARDS = 15;

interface CornersProps extends LayerProps {
  readonly document: Piece;
}

/** A corner as it was when it was taken. */
interface Taken {
  readonly at: { readonly x: number; readonly y: number };
  readonly frame: Frame;
}

/**
 * Grips on free copper: a corner is moved by pointer or arrows, taken away by Delete; the number in the middle of a side
 * sets a corner there. Moved by pointer a corner stops at what is there.
 */
export function Corners({ artwork, document, view: live }: CornersProps) {
  const { design, resolved, layout } = useLive(artwork);
  const view = useLive(live);
  const { grip, shown, setShown } = useGrips<Taken>();
  const [moving, setMoving] = useState(0);
  const values = resolved.pieces.find((p) => p.id === document.id)?.values;
  const placed = layout.pieces.find((p) => p.id === document.id);
  if (!values || !placed || !view) return null;
  const own = (k: number) => ({ x: values[`x${k}`].re, y: values[`y${k}`].re });
  const all = placed.copper.flat();
  if (all.length < 2) return null;
  // From the piece's own coordinates to the board's.
  const [a, b] = [own(1), own(2)];
  const angle = Math.atan2(all[1].y - all[0].y, all[1].x - all[0].x) - Math.atan2(b.y - a.y, b.x - a.x);
  const frame: Frame = { x: all[0].x, y: all[0].y, angle, own: a };
  const free = (k: number) =>
    LITERAL.test(document.held[`x${k}`] ?? '') && LITERAL.test(document.held[`y${k}`] ?? '');
  const put = (k: number, x: number, y: number) => {
    if (!free(k))
      return say(
        `Corner ${k} is held by an expression. Change the value it is made of, or type another place.`,
      );
    setMoving(k);
    setShown(`${formatQuantity(x, 'length')}, ${formatQuantity(y, 'length')}`);
    moveCorner(design.id, document, k, typed(x), typed(y));
  };
  const others = layout.pieces.flatMap((p) =>
    p.id === document.id ? [] : [...p.copper.flat(), ...p.pins.map(({ x, y }) => ({ x, y }))],
  );
  const pins = pinSides(document);
  let first = 1;
  const sides = placed.copper.flatMap((ring) =>
    ring.map((p, i) => {
      const q = ring[(i + 1) % ring.length];
      const side = first + i;
      if (i === ring.length - 1) first += ring.length;
      // A little inside of the copper, where no pin stands.
      const length = Math.hypot(q.x - p.x, q.y - p.y) || 1;
      const inwards = (turning(ring) > 0 ? INWARDS : -INWARDS) / view.scale / length;
      return {
        side,
        x: (p.x + q.x) / 2 - (q.y - p.y) * inwards,
        y: (p.y + q.y) / 2 + (q.x - p.x) * inwards,
      };
    }),
  );
  const split = (side: number) =>
    change(design, `set a corner into ${document.name}`, (d) => ({
      design: splitSide(d, document.id, side),
    }));
  return (
    <g>
      {sides.map(({ side, x, y }) => (
        <g
          key={`side ${side}`}
          role="button"
          tabIndex={0}
          aria-label={`side ${side} of ${document.name}: set a corner into its middle`}
          transform={`translate(${view.sx(x)} ${view.sy(y)})`}
          style={{ cursor: 'copy' }}
          onClick={(event) => {
            event.stopPropagation();
            split(side);
          }}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' && event.key !== ' ') return;
            event.preventDefault();
            event.stopPropagation();
            split(side);
          }}
        >
          <circle r={9} fill={colour('raised')} stroke={colour('rule')} />
          <text
            textAnchor="middle"
            y={3.5}
            fontSize={10}
            fontWeight={pins.includes(side) ? 700 : 400}
            fill={colour(pins.includes(side) ? 'waterText' : 'quiet')}
          >
            {side}
          </text>
        </g>
      ))}
      {all.map((corner, i) => {
        const k = i + 1;
        const here = own(k);
        return (
          <g
            key={k}
            role="slider"
            tabIndex={0}
            aria-label={`corner ${k} of ${document.name}`}
            aria-valuenow={Number((here.x * 1e3).toFixed(4))}
            aria-valuetext={`${formatQuantity(here.x, 'length')}, ${formatQuantity(here.y, 'length')}`}
            transform={`translate(${view.sx(corner.x)} ${view.sy(corner.y)})`}
            {...grip({ at: here, frame }, (from, dx, dy) => {
              const moved = { x: dx / view.scale, y: -dy / view.scale };
              const { x, y } = snapped(from.at, moved, from.frame, others, view.scale);
              put(k, x, y);
            })}
            onKeyDown={(event) => {
              const step = event.shiftKey ? 1e-5 : 1e-4;
              const move = {
                ArrowRight: [step, 0],
                ArrowLeft: [-step, 0],
                ArrowUp: [0, step],
                ArrowDown: [0, -step],
              }[event.key];
              if (move) behindHand(() => put(k, here.x + move[0], here.y + move[1]));
              else if (event.key === 'Delete' || event.key === 'Backspace')
                change(design, `take a corner off ${document.name}`, (d) => ({
                  design: removeCorner(d, document.id, k),
                }));
              else return;
              event.preventDefault();
              event.stopPropagation();
            }}
          >
            <circle r={13} fill="transparent" />
            <circle r={4.5} fill={colour('raised')} stroke={colour('water')} strokeWidth={2} />
          </g>
        );
      })}
      {shown && all[moving - 1] && (
        <text
          x={view.sx(all[moving - 1].x) + 12}
          y={view.sy(all[moving - 1].y) - 12}
          fontSize={12}
          fontWeight={600}
          fill={colour('waterText')}
        >
          {shown}
        </text>
      )}
    </g>
  );
}
