import { useRef, type PointerEvent as ReactPointerEvent, type RefObject } from 'react';
import { useWheel } from './wheel';

interface PanZoom<V> {
  readonly svg: RefObject<SVGSVGElement | null>;
  /** The picture is on the page. */
  readonly drawn: boolean;
  /** What is looked at, and how it is changed. */
  readonly view: () => V;
  readonly setView: (view: V) => void;
  /** What one looks at after the picture was dragged by so many pixels. */
  readonly pan: (from: V, dx: number, dy: number) => V;
  /** Zooms at a place in pixels; a factor above one is away from it. */
  readonly zoom: (factor: number, x: number, y: number, event: WheelEvent) => void;
  /** Whether a press there begins a drag. Default: everywhere. */
  readonly holds?: (event: ReactPointerEvent<SVGSVGElement>) => boolean;
  /** The pointer moves without a drag. */
  readonly onPoint?: (event: ReactPointerEvent<SVGSVGElement>) => void;
  /** It was pressed and let go without having moved. */
  readonly onPress?: () => void;
}

/** Pixels that a press may move without becoming a drag. */
const STILL = 4;

/** One way to look around in a picture: a drag pans, the wheel zooms where it stands. */
export function usePanZoom<V>({ svg, drawn, view, setView, pan, zoom, holds, onPoint, onPress }: PanZoom<V>) {
  const drag = useRef<{ x: number; y: number; from: V; moved: boolean } | null>(null);
  useWheel(svg, drawn, zoom);
  return {
    /** Whether the picture is being dragged. */
    isDragging: () => drag.current !== null,
    handlers: {
      onPointerDown(event: ReactPointerEvent<SVGSVGElement>) {
        if (event.button !== 0 || holds?.(event) === false) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { x: event.clientX, y: event.clientY, from: view(), moved: false };
      },
      onPointerMove(event: ReactPointerEvent<SVGSVGElement>) {
        const d = drag.current;
        if (!d) return onPoint?.(event);
        const [dx, dy] = [event.clientX - d.x, event.clientY - d.y];
        if (!d.moved && Math.hypot(dx, dy) < STILL) return;
        d.moved = true;
        setView(pan(d.from, dx, dy));
      },
      onPointerUp() {
        if (drag.current && !drag.current.moved) onPress?.();
        drag.current = null;
      },
    },
  };
}
