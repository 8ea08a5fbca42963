import { outlinesOf, within } from '../polygons';
import { isOnAxis, middleOf, toWall, widthOf, type Copper, type Point } from './contract';
import { isCrossed } from './outline';

/** Uniform line that a port needs behind its plane, in widths and in heights: before it only its own wave is left. */
const NEED = { widths: 1, heights: 2 } as const;
/** Room that is left to other copper, in heights. */
const ROOM = 1;
const NEAR = 2e-9;

/** How far the sides of a port's line run straight inwards from its edge, m. */
function uniformBehind(outlines: readonly (readonly Point[])[], [a, b]: readonly [Point, Point]): number {
  const same = (p: Point, q: Point) => Math.hypot(p[0] - q[0], p[1] - q[1]) < NEAR;
  for (const ring of outlines) {
    const n = ring.length;
    for (let i = 0; i < n; i++) {
      const [p, q] = [ring[i], ring[(i + 1) % n]];
      if (!(same(p, a) && same(q, b)) && !(same(p, b) && same(q, a))) continue;
      const [before, after] = [ring[(i + n - 1) % n], ring[(i + 2) % n]];
      const width = Math.hypot(q[0] - p[0], q[1] - p[1]);
      const [ux, uy] = [(q[0] - p[0]) / width, (q[1] - p[1]) / width];
      const sides = [
        [before[0] - p[0], before[1] - p[1]],
        [after[0] - q[0], after[1] - q[1]],
      ];
      return Math.min(
        ...sides.map(([x, y]) => {
          const long = Math.hypot(x, y);
          return Math.abs(x * ux + y * uy) < 1e-3 * long ? long : 0;
        }),
      );
    }
  }
  return Infinity;
}

/** Whether a port's edge is part of a side of an outline. */
const liesAt = (outlines: readonly (readonly Point[])[], edge: readonly [Point, Point]): boolean =>
  outlines.some((ring) =>
    ring.some((p, i) => {
      const q = ring[(i + 1) % ring.length];
      const long = Math.hypot(q[0] - p[0], q[1] - p[1]);
      const [ex, ey] = [(q[0] - p[0]) / long, (q[1] - p[1]) / long];
      return edge.every(([x, y]) => {
        const along = (x - p[0]) * ex + (y - p[1]) * ey;
        const off = Math.abs((x - p[0]) * ey - (y - p[1]) * ex);
        return off < NEAR && along > -NEAR && along < long + NEAR;
      });
    }),
  );

/**
 * Prolongs lines at whose ports something else stands so close that other than their own waves reach the plane, and all lines
 * that have room for it to the wall that they look at: a box sends back what a line's end radiates inside of it. The planes
 * stay where they are: the line set in front is taken off again. Where a part is mounted a line ends, and nothing is moved.
 */
export function extended(copper: Copper): Copper {
  const { layers, walls, polygons, ports } = copper;
  const height = Math.min(layers.below.height, layers.above.height);
  const outlines = outlinesOf(polygons);
  const more: Point[][] = [];
  const moved = ports.map((port) => {
    const [a, b] = port.edge;
    if (port.ends || (walls && !liesAt(outlines, port.edge))) return port;
    const width = widthOf(port);
    const [mx, my] = middleOf(port);
    const [ux, uy] = [(b[0] - a[0]) / width, (b[1] - a[1]) / width];
    // Out is where no copper is a little way off.
    const step = 1e-3 * width;
    const sign = within(outlines, mx + uy * step, my - ux * step) ? -1 : 1;
    const [nx, ny] = [sign * uy, -sign * ux];
    const need = Math.max(NEED.widths * width, NEED.heights * height);
    if (walls && !isOnAxis(nx, ny)) return port;
    const lacks = walls ? toWall(walls, [mx, my], [nx, ny]) : need - uniformBehind(outlines, port.edge);
    if (!(lacks > NEAR)) return port;
    const half = width / 2 + ROOM * height;
    const inTheWay = isCrossed(outlines, { x: mx, y: my, nx, ny }, [1e-8, lacks + ROOM * height], half);
    if (inTheWay || within(outlines, mx + nx * step, my + ny * step)) return port;
    const out = ([x, y]: Point): Point => [x + nx * lacks, y + ny * lacks];
    more.push([a, b, out(b), out(a)]);
    return { ...port, edge: [out(a), out(b)] as const, plane: port.plane + lacks };
  });
  return more.length === 0 ? copper : { ...copper, polygons: [...polygons, ...more], ports: moved };
}
