import { useMemo, useRef, type RefObject } from 'react';
import { useDrawn, type Live } from '../live';

/** Writes an attribute that has changed: one that is written again is read, laid out and painted again. */
export function write(element: Element | null | undefined, name: string, text: string): void {
  if (element && element.getAttribute(name) !== text) element.setAttribute(name, text);
}

/** Samples of a curve along two axes. */
export interface Samples {
  readonly a: ArrayLike<number>;
  readonly b: ArrayLike<number>;
}

/**
 * Draws curves into the paths of a layer, in their order, and leaves those alone whose samples are the ones that are drawn.
 * @param pathOf the path through samples
 * @param depends what the path hangs on beside them
 */
export function usePaths<T>(
  layer: RefObject<SVGGElement | null>,
  curves: Live<readonly T[]>,
  samplesOf: (curve: T) => Samples,
  pathOf: (samples: Samples) => string,
  depends: readonly unknown[],
): void {
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const drawn = useMemo(() => new WeakMap<Element, Samples>(), depends);
  const how = useRef({ samplesOf, pathOf });
  how.current = { samplesOf, pathOf };
  useDrawn(() => {
    const { children } = layer.current!;
    curves.value.forEach((curve, i) => {
      const path = children[i];
      const samples = how.current.samplesOf(curve);
      const was = path && drawn.get(path);
      if (!path || (was?.a === samples.a && was.b === samples.b)) return;
      write(path, 'd', how.current.pathOf(samples));
      drawn.set(path, samples);
    });
  });
}
