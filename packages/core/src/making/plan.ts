import { layOut, nearPieces } from '../artwork';
import { areaOf, cutOpen, nested, outlinesOf, type Ring } from '../polygons';
import { surroundings, type ResolvedDesign } from '../network';
import { parts } from '../parts';
import { mm } from './mm';

/** A drilled hole, m. */
export interface Hole {
  readonly x: number;
  readonly y: number;
  readonly diameter: number;
  /** Diameter of a circle within the round pad that it stands in alone, m; absent where it ends a line. */
  readonly pad?: number;
}

/** A word on the board with its lower left corner, m. */
export interface Word {
  readonly x: number;
  readonly y: number;
  readonly height: number;
  readonly text: string;
}

/** Everything of a design that a shop makes: m, y up, the lower left corner of the board at the origin. */
export interface BoardPlan {
  readonly name: string;
  /** Closed polygons without holes that do not overlap; what has a hole is cut through it. */
  readonly copper: readonly Ring[];
  readonly board: Ring;
  readonly holes: readonly Hole[];
  readonly words: readonly Word[];
  /** Of the copper, m^2. */
  readonly area: number;
  /** Of the copper from end to end, m. */
  readonly width: number;
  readonly height: number;
  /** The narrowest line, m; undefined where no piece says one. */
  readonly narrowest: number | undefined;
  /** The narrowest gap between copper that is not joined, m; undefined where there is none within a few heights. */
  readonly narrowestGap: number | undefined;
}

export interface PlanOptions {
  /** By how much every line is widened to make up for etching, m; each edge by half of it. */
  readonly etch?: number;
  /** How far straight sides may be off arcs, m. */
  readonly chord?: number;
}

/** Straight sides are off arcs by less than this, m. */
const CHORD = 1e-6;
/** Board beside the copper, in heights of the board; where a line ends at a port the board ends as well. */
const MARGIN = 6;
/** Room for words beside the copper at least, m. */
const ROOM = 3e-3;
/** Letters beside a port, m. */
const LETTER = 1e-3;
/** Gaps wider than this, in heights of the board, are none. */
const WIDE = 6;
/** A corner reaches out by no more times than this what its sides do. */
const MITRE = 4;

/** Alike directions of two sides, as the cosine between them. */
const STRAIGHT = 1 - 1e-9;

/**
 * An outline with every side moved out of the copper by so much, corners carried on to where the sides meet; undefined of a hole
 * that closes.
 */
function widened(ring: Ring, by: number): Ring | undefined {
  // Copper lies to the left of every side.
  const normals = ring.map(([x, y], i) => {
    const [u, v] = ring[(i + 1) % ring.length];
    const long = Math.hypot(u - x, v - y);
    return [(v - y) / long, (x - u) / long] as const;
  });
  const out = ring.flatMap(([x, y], i): [number, number][] => {
    const [nx, ny] = normals[i];
    const [px, py] = normals[(i + ring.length - 1) % ring.length];
    const dot = px * nx + py * ny;
    if (dot > STRAIGHT) return [[x + nx * by, y + ny * by]];
    const reach = by / (1 + dot);
    if (px * ny - py * nx > 0 && Math.sqrt(2 / (1 + dot)) > MITRE)
      return [
        [x + px * by, y + py * by],
        [x + nx * by, y + ny * by],
      ];
    return [[x + (px + nx) * reach, y + (py + ny) * reach]];
  });
  return Math.sign(areaOf(out)) === Math.sign(areaOf(ring)) ? out : undefined;
}

/**
 * A design as a shop makes it. Undefined while the design has errors that leave nothing to be drawn.
 * @throws RangeError in words where etching cannot be made up for so
 */
export function planOf(
  name: string,
  resolved: ResolvedDesign,
  { etch = 0, chord = CHORD }: PlanOptions = {},
): BoardPlan | undefined {
  if (!(etch >= 0)) throw new RangeError('must be zero or more');
  const { stack } = resolved;
  if (!stack) return undefined;
  const layout = layOut(resolved, chord);
  const pieces = new Map(resolved.pieces.map((p) => [p.id, p]));
  const drawn = outlinesOf(
    layout.pieces.flatMap((p) => p.copper.map((ring) => ring.map(({ x, y }): [number, number] => [x, y]))),
  );
  if (drawn.length === 0) return undefined;
  const made =
    etch > 0
      ? drawn.flatMap((ring) => {
          const wide = widened(ring, etch / 2);
          return wide ? [wide] : [];
        })
      : drawn;
  const rings = cutOpen(nested(made));
  const xs = rings.flatMap((r) => r.map(([x]) => x));
  const ys = rings.flatMap((r) => r.map(([, y]) => y));
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];

  // A line that leads to a port ends where the board does.
  const margin = Math.max(ROOM, MARGIN * stack.substrate.height);
  const box = { left: x0 - margin, right: x1 + margin, low: y0 - margin, high: y1 + margin };
  const ports = layout.pieces.filter((p) => p.kind === 'port');
  const near = (a: number, b: number) => Math.abs(a - b) < etch + 1e-8;
  for (const { pins } of ports) {
    const [{ x, y }] = pins;
    if (near(x, x0)) box.left = x0;
    if (near(x, x1)) box.right = x1;
    if (near(y, y0)) box.low = y0;
    if (near(y, y1)) box.high = y1;
  }
  const at = (x: number, y: number): [number, number] => [x - box.left, y - box.low];
  const holes = layout.pieces.flatMap((p): Hole[] => {
    const diameter = pieces.get(p.id)?.values?.hole?.re;
    if (diameter === undefined) return [];
    return p.body.map((ring) => {
      const [cx, cy] = [mean(ring.map((q) => q.x)), mean(ring.map((q) => q.y))];
      const [x, y] = at(cx, cy);
      // A hole by itself has a pad of its own around it.
      const [own] = p.pins.length === 1 && p.copper.length === 1 ? p.copper : [];
      const isRound = own?.every(
        (q) => Math.abs(Math.hypot(q.x - cx, q.y - cy) - Math.hypot(own[0].x - cx, own[0].y - cy)) < 1e-9,
      );
      return {
        x,
        y,
        diameter,
        ...(isRound && { pad: 2 * (Math.hypot(own[0].x - cx, own[0].y - cy) - chord) + etch }),
      };
    });
  });
  const around = surroundings(resolved.pieces);
  const words = ports.map(({ id, pins: [pin] }): Word => {
    const text = pieces.get(id)?.settings.number ?? '';
    // Beside the line, a little inside of the board.
    const aside = 1.5 * LETTER + (around.neighbour(pieces.get(id)!, 0) ?? 0) / 2;
    const [dx, dy] = [-Math.cos(pin.angle), -Math.sin(pin.angle)];
    const [x, y] = at(pin.x - LETTER * dx - aside * dy, pin.y - LETTER * dy + aside * dx);
    // Never off the board.
    const [wide, high] = at(box.right, box.high);
    const within = (v: number, most: number) => Math.min(Math.max(0, v), most - LETTER);
    return { x: within(x, wide), y: within(y, high), height: LETTER, text };
  });
  const widths = resolved.pieces.flatMap((p) =>
    p.values ? (parts.get(p.kind)?.widths?.(p.values, p.settings) ?? []).flatMap((w) => (w ? [w] : [])) : [],
  );
  const gaps = [
    ...resolved.pieces.flatMap((p) =>
      p.values ? (parts.get(p.kind)?.gaps?.(p.values) ?? []).flatMap((g) => (g ? [g] : [])) : [],
    ),
    ...nearPieces(resolved, layout, WIDE * stack.substrate.height).map((n) => n.distance),
  ];
  const gap = gaps.length > 0 ? Math.min(...gaps) : undefined;
  if (etch > 0 && gap !== undefined && gap > 0 && gap <= etch)
    throw new RangeError(`closes the narrowest gap, ${mm(gap)} mm`);
  return {
    name,
    copper: rings.map((ring) => ring.map(([x, y]) => at(x, y))),
    board: [at(box.left, box.low), at(box.right, box.low), at(box.right, box.high), at(box.left, box.high)],
    holes,
    words,
    area: rings.reduce((sum, ring) => sum + Math.abs(areaOf(ring)), 0),
    width: x1 - x0,
    height: y1 - y0,
    narrowest: widths.length > 0 ? Math.min(...widths) + etch : undefined,
    narrowestGap: gap === undefined ? undefined : Math.max(0, gap - etch),
  };
}

const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / list.length;
