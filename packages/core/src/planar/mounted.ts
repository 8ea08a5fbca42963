import type { CopperPort } from './contract';
import { cellBehind, placeOf } from './entry';
import { edgeHalf, type Mesh } from './mesh';

/** Cosine up to which a port looks at another one. */
const LOOKS = 0.9;
/** A gap below this is none, m. */
const NEAR = 1e-9;

/** Two ports at both sides of one part that look at one another. */
export interface Facing {
  /** Their indices. */
  readonly ports: readonly [number, number];
  /** Half of the way from one to the other, m. */
  readonly half: number;
}

/** The ports at which parts are mounted whose two pads face one another, in the mesh. */
export function facingPorts(mesh: Mesh, ports: readonly CopperPort[]): Facing[] {
  return ports.flatMap(({ other }, i) => {
    const j = ports.findIndex((p) => p.number === other);
    if (j <= i) return [];
    const [p, q] = [placeOf(mesh, i), placeOf(mesh, j)];
    const [dx, dy] = [q.x - p.x, q.y - p.y];
    const apart = Math.hypot(dx, dy);
    const along = p.nx * dx + p.ny * dy;
    // Pieces of line that are set in front of both may leave nothing between them.
    if (!(along > NEAR && along > LOOKS * apart && -(q.nx * dx + q.ny * dy) > LOOKS * apart)) return [];
    return [{ ports: [i, j], half: along / 2 } as const];
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
