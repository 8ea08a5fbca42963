interface Place {
  readonly x: number;
  readonly y: number;
}

/** How a piece lies on the board: its own point `own` stands at (x, y), turned by `angle`. */
export interface Frame extends Place {
  readonly angle: number;
  readonly own: Place;
}

/** Pixels within which what is there takes hold. */
const REACH = 7;

const STEPS = [1e-5, 2e-5, 5e-5, 1e-4, 2e-4, 5e-4, 1e-3];

/**
 * Where a corner comes to when it is moved over the board: to a corner or a pin that is there, level with one of them, or else
 * to a round number in the piece's own coordinates.
 * @param from where it was, in the piece's own coordinates, m
 * @param by how far it was moved on the board, m
 * @param others places on the board that take hold
 * @param scale pixels per metre
 */
export function snapped(
  from: Place,
  by: Place,
  frame: Frame,
  others: readonly Place[],
  scale: number,
): Place {
  const [c, s] = [Math.cos(frame.angle), Math.sin(frame.angle)];
  const x = from.x + by.x * c + by.y * s;
  const y = from.y - by.x * s + by.y * c;
  const near = REACH / scale;
  const ownOf = (p: Place): Place => {
    const [dx, dy] = [p.x - frame.x, p.y - frame.y];
    return { x: frame.own.x + dx * c + dy * s, y: frame.own.y - dx * s + dy * c };
  };
  let [bestX, bestY]: [number | undefined, number | undefined] = [undefined, undefined];
  for (const other of others.map(ownOf)) {
    const [dx, dy] = [Math.abs(other.x - x), Math.abs(other.y - y)];
    if (Math.hypot(dx, dy) < near) return other;
    if (dx < near && (bestX === undefined || dx < Math.abs(bestX - x))) bestX = other.x;
    if (dy < near && (bestY === undefined || dy < Math.abs(bestY - y))) bestY = other.y;
  }
  // The finest round step that is wide enough to be hit.
  const step = STEPS.find((d) => d * scale >= 4) ?? STEPS[STEPS.length - 1];
  const round = (v: number) => Math.round(v / step) * step;
  return { x: bestX ?? round(x), y: bestY ?? round(y) };
}
