import { outlinesOf } from '../polygons';
import { middleOf, type Copper } from './contract';
import { cellBehind, placeOf } from './entry';
import { edgeHalf, type Mesh } from './mesh';
import { isCrossed } from './outline';

/** Cosine up to which a port looks at another one. */
const LOOKS = 0.9;
/** Share of the way between two pads, and of their width, from which on other copper is in it. */
const INSIDE = 0.02;
/** A gap below this is none, m. */
const NEAR = 1e-9;

/** Two ports at both sides of one part that look at one another. */
export interface Facing {
  /** Their indices. */
  readonly ports: readonly [number, number];
  /** Half of the way from one to the other in the mesh, and between the pads as they are drawn, m. */
  readonly half: number;
  readonly drawn: number;
}

/**
 * The ports at which parts are mounted whose two pads face one another, in the mesh, with no other copper between them: a current over
 * that would lie in it.
 */
export function facingPorts(mesh: Mesh, { ports, polygons }: Copper): Facing[] {
  const outlines = outlinesOf(polygons);
  return ports.flatMap(({ other }, i) => {
    const j = ports.findIndex((p) => p.number === other);
    if (j <= i) return [];
    const [p, q] = [placeOf(mesh, i), placeOf(mesh, j)];
    const [dx, dy] = [q.x - p.x, q.y - p.y];
    const apart = Math.hypot(dx, dy);
    const along = p.nx * dx + p.ny * dy;
    // Pieces of line that are set in front of both may leave nothing between them.
    if (!(along > NEAR && along > LOOKS * apart && -(q.nx * dx + q.ny * dy) > LOOKS * apart)) return [];
    // Not the pads themselves, nor what touches only the side of the way.
    const side = ((1 - INSIDE) * Math.min(p.width, q.width)) / 2;
    if (isCrossed(outlines, p, [INSIDE * along, (1 - INSIDE) * along], side)) return [];
    const [a, b] = [middleOf(ports[i]), middleOf(ports[j])];
    const drawn = Math.hypot(b[0] - a[0], b[1] - a[1]) / 2;
    return [{ ports: [i, j], half: along / 2, drawn } as const];
  });
}

/**
 * The same mesh whose facing ports are entered in the middle between them: what enters one and leaves the other goes on through the
 * part, so that it induces and radiates as a line's current does. It lies over no copper and leaves no charge on its way.
 */
export function bridged(mesh: Mesh, facing: readonly Facing[]): Mesh {
  if (facing.length === 0) return mesh;
  const cells = [...mesh.cells];
  const bases = mesh.bases.map((halves) => [...halves]);
  for (const { ports, half } of facing)
    for (const port of ports) {
      const place = placeOf(mesh, port);
      for (const row of place.rows) {
        const cell = cellBehind(place, row, 0, half);
        const at = cells.push(cell) - 1;
        // Two halves against one another are a current that is the same all the way.
        bases[row.basis].push(edgeHalf(at, cell, 0, 1), edgeHalf(at, cell, 2, -1));
      }
    }
  return { ...mesh, cells, bases };
}
