/** A point, m. */
export type Point = readonly [number, number];

/** What surrounds the copper: one dielectric below it, another medium above, a ground plane under all, perhaps a lid. */
export interface Layers {
  readonly below: { readonly er: number; readonly tand: number; readonly height: number };
  /** The lid stands at `height` over the copper; infinite where there is none. */
  readonly above: { readonly er: number; readonly tand: number; readonly height: number };
  /**
   * By how much the phase constant of lines is less than that of a sheet, for metal that has a thickness: what a current induces is
   * so much less, and what a charge raises so much more, which leaves impedances as they are. Absent: 1.
   */
  readonly swift?: number;
}

/** Perfectly conducting side walls, m. */
export interface Walls {
  readonly x0: number;
  readonly x1: number;
  readonly y0: number;
  readonly y1: number;
}

/** A port: current enters the copper over a straight edge of its outline. */
export interface CopperPort {
  readonly number: number;
  readonly edge: readonly [Point, Point];
  /** How far inside the reference plane lies, m. */
  readonly plane: number;
  /** Reference impedance of its S-parameters, ohm. */
  readonly z0: number;
  /** A part stands there: the line ends, and does not go on behind the port. */
  readonly ends?: boolean;
  /** Number of the port at the other side of that part. */
  readonly other?: number;
}

/** Whether a port is at a pad of a part whose other side has one too: the copper ends there, but for the current. */
export const isPad = ({ ends, other }: CopperPort): boolean => ends === true && other !== undefined;

/** The width of the line at a port, m. */
export const widthOf = ({ edge: [a, b] }: Pick<CopperPort, 'edge'>): number =>
  Math.hypot(b[0] - a[0], b[1] - a[1]);

/** The middle of a port's edge. */
export const middleOf = ({ edge: [a, b] }: Pick<CopperPort, 'edge'>): Point => [
  (a[0] + b[0]) / 2,
  (a[1] + b[1]) / 2,
];

/** Axis that the line at a port goes along: 0 that of x, whose port's edge is upright. */
export const axisOf = ({ edge: [a, b] }: Pick<CopperPort, 'edge'>): 0 | 1 =>
  Math.abs(a[0] - b[0]) < Math.abs(a[1] - b[1]) ? 0 : 1;

/** Whether a direction of length 1 is that of an axis. */
export const isOnAxis = (nx: number, ny: number): boolean => Math.min(Math.abs(nx), Math.abs(ny)) < 1e-9;

/** Whether a straight edge lies on a wall, to `within` m. */
export function liesOn(
  walls: Walls | undefined,
  [[ax, ay], [bx, by]]: CopperPort['edge'],
  within: number,
): boolean {
  if (!walls) return false;
  const near = (a: number, b: number, w: number) => Math.max(Math.abs(a - w), Math.abs(b - w)) < within;
  return near(ax, bx, walls.x0) || near(ax, bx, walls.x1) || near(ay, by, walls.y0) || near(ay, by, walls.y1);
}

/** How far it is from a place inside of walls to the one that is met first along a direction of length 1, m. */
export function toWall({ x0, x1, y0, y1 }: Walls, [x, y]: Point, [nx, ny]: Point): number {
  const along = (n: number, low: number, high: number) =>
    Math.abs(n) < 1e-9 ? Infinity : (n < 0 ? low : high) / n;
  return Math.min(along(nx, x0 - x, x1 - x), along(ny, y0 - y, y1 - y));
}

/** The metal itself. */
export interface Metal {
  /** S/m; infinite for a perfect conductor. */
  readonly conductivity: number;
  readonly thickness: number;
  /** RMS roughness, m. */
  readonly roughness: number;
}

/** Impedance of the metal per square at a frequency, ohm. */
export type Sheet = (f: number) => { readonly re: number; readonly im: number };

/** Copper to be solved as one piece: everything that its response depends on, as plain data. */
export interface Copper {
  readonly layers: Layers;
  readonly metal: Metal;
  /** Closed polygons; where they overlap their union counts. */
  readonly polygons: readonly (readonly Point[])[];
  readonly ports: readonly CopperPort[];
  readonly walls?: Walls;
}

/** Copper whose corners lie this close to one another is the same, m: what tables of lines say may differ by as much. */
const SAME = 2e-8;

/** Whether two pieces of copper are the same, on the same board with the same ports. */
export function sameCopper(a: Copper, b: Copper): boolean {
  const near = (x: number, y: number) => x === y || Math.abs(x - y) < SAME;
  const same = (x: number, y: number) => x === y || Math.abs(x - y) <= 1e-9 * Math.abs(x);
  const points = (p: readonly Point[], q: readonly Point[]) =>
    p.length === q.length && p.every(([x, y], i) => near(x, q[i][0]) && near(y, q[i][1]));
  const fields = (p: object, q: object) =>
    Object.entries(p).every(([name, x]) => same(x as number, (q as Record<string, number>)[name]));
  return (
    fields(a.layers.below, b.layers.below) &&
    fields(a.layers.above, b.layers.above) &&
    fields(a.metal, b.metal) &&
    a.polygons.length === b.polygons.length &&
    a.polygons.every((p, i) => points(p, b.polygons[i])) &&
    a.ports.length === b.ports.length &&
    a.ports.every((p, i) => {
      const q = b.ports[i];
      return (
        p.number === q.number &&
        p.z0 === q.z0 &&
        Boolean(p.ends) === Boolean(q.ends) &&
        p.other === q.other &&
        near(p.plane, q.plane) &&
        points(p.edge, q.edge)
      );
    }) &&
    (a.walls && b.walls
      ? (['x0', 'x1', 'y0', 'y1'] as const).every((side) => near(a.walls![side], b.walls![side]))
      : a.walls === b.walls)
  );
}

/** A stretch of frequencies, Hz. */
export interface Band {
  readonly start: number;
  readonly stop: number;
}

/** How closely it is solved. */
export const accuracies = ['draft', 'normal', 'fine'] as const;
export type Accuracy = (typeof accuracies)[number];

/** Copper that cannot be solved; the message is a sentence for the engineer. */
export class CopperError extends Error {
  constructor(
    message: string,
    /** The port whose entry it is, if one. */
    readonly port?: number,
  ) {
    super(message);
  }
}
