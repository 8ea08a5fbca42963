import { useEffect, type RefObject } from 'react';
import { useHandler } from '../controls/stable';

/**
 * Listens to the wheel over an element that is on the page while `drawn`. React's own wheel listener is passive, and
 * zooming must keep the page from scrolling.
 * @param onZoom factor above one for towards the hand, the place in the element's pixels, and the event's modifiers
 */
export function useWheel(
  element: RefObject<SVGSVGElement | null>,
  drawn: boolean,
  onZoom: (factor: number, x: number, y: number, event: WheelEvent) => void,
): void {
  const zoom = useHandler(onZoom);
  useEffect(() => {
    const target = element.current;
    if (!target) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const rect = target.getBoundingClientRect();
      // Shift turns the wheel sideways in some browsers.
      const turn = event.deltaY || event.deltaX;
      zoom(Math.exp(turn * 0.0015), event.clientX - rect.left, event.clientY - rect.top, event);
    };
    target.addEventListener('wheel', onWheel, { passive: false });
    return () => target.removeEventListener('wheel', onWheel);
  }, [element, drawn, zoom]);
}
