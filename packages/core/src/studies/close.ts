import { openings, SAME_PLACE } from '../artwork';
import { resolveDesign, type Design, type Project } from '../network';
import { leastSquares } from '../numeric';
import { freeValues, putAll, takeOver, type Moved } from './free';

/** What would close a ring: new lengths of lines, and the design that has them. */
export interface Closing {
  readonly design: Design;
  readonly moved: readonly Moved[];
}

/**
 * The least change of lengths that closes a design's rings on the copper. Only lines that may move are changed, by
 * their trims, so that the ideal level stays. Undefined when no change of lengths can close them.
 */
export function closeRings(project: Project, design: Design): Closing | undefined {
  const resolved = resolveDesign(project, design);
  const free = freeValues(design, resolved, 'length');
  if (free.length === 0) return undefined;
  const count = openings(resolved).length;
  const { x } = leastSquares(
    (values, out) => {
      const open = openings(resolveDesign(project, putAll(design, free, values)));
      if (open.length !== count) return false;
      open.forEach((v, i) => (out[i] = v * 1e3));
      // A slight preference for small changes picks the least of those that close.
      free.forEach((v, i) => (out[count + i] = (values[i] - v.value) * 1e-1));
      return true;
    },
    free.map((v) => v.value),
    count + free.length,
    {
      step: 1e-6,
      maxIterations: 30,
      lower: free.map((v) => v.value - v.reach),
      upper: free.map((v) => v.value + v.reach),
    },
  );
  const closed = takeOver(design, free, x);
  const rest = openings(resolveDesign(project, closed.design));
  for (let i = 0; i < rest.length; i += 2)
    if (Math.hypot(rest[i], rest[i + 1]) > SAME_PLACE) return undefined;
  return closed;
}
