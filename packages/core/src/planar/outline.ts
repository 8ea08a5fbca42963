import { CopperError, type Point } from './contract';

/** Points closer than this are one, m. */
const NEAR = 1e-9;
/** Copper nearer to other copper than this is neither joined to it nor apart from it, m. */
const APART = 1e-7;

/** Refuses outlines that meet in one point, or come closer to one another than anything can be made. @throws CopperError */
export function checkOutlines(outlines: readonly (readonly Point[])[]): void {
  const edges = outlines.flatMap((ring, r) => {
    let from = 0;
    return ring.map((a, i) => {
      const b = ring[(i + 1) % ring.length];
      const start = from;
      from += Math.hypot(b[0] - a[0], b[1] - a[1]);
      return { r, a, b, start, end: from };
    });
  });
  const round = outlines.map((ring) =>
    ring.reduce((sum, [x, y], i) => {
      const [u, v] = ring[(i + 1) % ring.length];
      return sum + Math.hypot(u - x, v - y);
    }, 0),
  );
  for (const {
    r,
    a: [x, y],
    start: at,
  } of edges)
    for (const { r: other, a, b, start, end } of edges) {
      if (Math.min(a[0], b[0]) - APART > x || Math.max(a[0], b[0]) + APART < x) continue;
      if (Math.min(a[1], b[1]) - APART > y || Math.max(a[1], b[1]) + APART < y) continue;
      // Along the outline itself a corner is near to what is beside it.
      const along = Math.min(...[start - at, end - at].flatMap((d) => [Math.abs(d), round[r] - Math.abs(d)]));
      if (r === other && along < 3 * APART) continue;
      const long = (end - start) ** 2;
      const t = Math.max(0, Math.min(1, ((x - a[0]) * (b[0] - a[0]) + (y - a[1]) * (b[1] - a[1])) / long));
      const away = Math.hypot(x - a[0] - t * (b[0] - a[0]), y - a[1] - t * (b[1] - a[1]));
      if (away > APART) continue;
      const place = `at ${[x, y].map((v) => Number((v * 1e3).toFixed(4))).join(', ')} mm`;
      throw new CopperError(
        away < 2 * NEAR
          ? `the copper touches itself in one point ${place}: join it there over a width, or part it`
          : `the copper comes within ${Number((away * 1e6).toPrecision(2))} um of itself ${place} without being joined: join it, or part it`,
      );
    }
}

/** Whether a stretch between two places passes a rectangle (clipped by its sides, Liang & Barsky 1984). */
function meets(p: Point, q: Point, ...sides: readonly (readonly [low: number, high: number])[]): boolean {
  let [from, to] = [0, 1];
  sides.forEach(([low, high], axis) => {
    const way = q[axis] - p[axis];
    const ends = [low, high].map((side) => (side - p[axis]) / way);
    if (way === 0) {
      if (p[axis] < low || p[axis] > high) from = Infinity;
    } else {
      from = Math.max(from, Math.min(...ends));
      to = Math.min(to, Math.max(...ends));
    }
  });
  return from <= to;
}

/**
 * Whether copper's outlines pass a strip that leaves a place in a direction of length 1.
 * @param along from where to where on that way, and @param half to either side of it, m
 */
export const isCrossed = (
  outlines: readonly (readonly Point[])[],
  { x, y, nx, ny }: { readonly x: number; readonly y: number; readonly nx: number; readonly ny: number },
  along: readonly [number, number],
  half: number,
): boolean => {
  const local = ([px, py]: Point): Point => [(px - x) * nx + (py - y) * ny, (py - y) * nx - (px - x) * ny];
  return outlines.some((ring) =>
    ring.some((p, i) => meets(local(p), local(ring[(i + 1) % ring.length]), along, [-half, half])),
  );
};
