import { useRef, useState, type PointerEvent, type SyntheticEvent } from 'react';
import { behindHand, endMerge } from '../../store/session';

/**
 * Grips on the copper: taken by the pointer, moved, let go. What is said beside one that moves goes when it is let go or left.
 * `F` is what is remembered from when it was taken.
 */
export function useGrips<F>() {
  const drag = useRef<{ readonly x: number; readonly y: number; readonly from: F } | null>(null);
  const [shown, setShown] = useState<string>();
  const letGo = () => {
    drag.current = null;
    setShown(undefined);
    endMerge();
  };
  /** @param move told how far it is from where it was taken, pixels */
  const grip = (from: F, move: (from: F, dx: number, dy: number) => void) => ({
    style: { cursor: 'move', touchAction: 'none' } as const,
    onPointerDown(event: PointerEvent<SVGGElement>) {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { x: event.clientX, y: event.clientY, from };
    },
    onPointerMove({ clientX, clientY }: PointerEvent) {
      const d = drag.current;
      if (d) behindHand(() => move(d.from, clientX - d.x, clientY - d.y));
    },
    onPointerUp: letGo,
    onBlur: letGo,
    onClick: (event: SyntheticEvent) => event.stopPropagation(),
  });
  return { grip, shown, setShown };
}

/** Pixels moved along a direction on the board (y up), radians. */
export const movedAlong = (angle: number, dx: number, dy: number): number =>
  dx * Math.cos(angle) - dy * Math.sin(angle);

/** What a text begins with that is a number and no expression. */
export const LITERAL = /^\s*[+-]?(\d|\.\d)/;

/** What an arrow key does to a value: more, less, or nothing. */
export const stepOf = (key: string): 1 | -1 | undefined =>
  key === 'ArrowRight' || key === 'ArrowUp' ? 1 : key === 'ArrowLeft' || key === 'ArrowDown' ? -1 : undefined;
