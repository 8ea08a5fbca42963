import { layOut } from '../artwork';
import { resolveDesign, type Design, type Project } from '../network';
import { leastSquares } from '../numeric';
import { freeValues } from './free';

/** What would close a ring: new lengths of lines, and the design that has them. */
export interface Closing {
  readonly design: Design;
  readonly moved: readonly { readonly label: string; readonly from: number; readonly to: number }[];
  /** Distance that stays open, m. */
  readonly left: number;
}

/** Sum of all distances between pins that are joined and stand apart, and of the kinks, as lengths. */
function openings(project: Project, design: Design): number[] {
  const resolved = resolveDesign(project, design);
  const { nodes, pieces } = layOut(resolved);
  return pieces.flatMap((piece) => {
    if (piece.bridges) return [];
    const own = resolved.pieces.find((p) => p.id === piece.id)!;
    return own.nodes.flatMap((node, i) => {
      const at = nodes.get(node);
      return at ? [piece.pins[i].x - at.x, piece.pins[i].y - at.y] : [];
    });
  });
}

/**
 * The least change of lengths that closes a design's rings on the copper. Only lines that may move are changed, by
 * their trims, so that the ideal level stays. Undefined when no change of lengths can close them.
 */
export function closeRings(project: Project, design: Design): Closing | undefined {
  const resolved = resolveDesign(project, design);
  const free = freeValues(design, resolved, 'length', true);
  if (free.length === 0) return undefined;
  const count = openings(project, design).length;
  const { x } = leastSquares(
    (values, out) => {
      const open = openings(
        project,
        free.reduce((d, v, i) => v.put(d, values[i]), design),
      );
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
  const plain = freeValues(design, resolved, 'length', false);
  const result = free.reduce(
    (d, v, i) => (Math.abs(x[i] - v.value) < 5e-8 ? d : plain[i].put(d, x[i])),
    design,
  );
  const rest = openings(project, result);
  let left = 0;
  for (let i = 0; i < rest.length; i += 2) left = Math.max(left, Math.hypot(rest[i], rest[i + 1]));
  if (left > 5e-6) return undefined;
  return {
    design: result,
    left,
    moved: free
      .map((v, i) => ({ label: v.label, from: v.value, to: x[i] }))
      .filter((m) => Math.abs(m.to - m.from) >= 5e-8),
  };
}
