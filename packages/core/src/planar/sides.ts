import { CopperError, liesOn, type Copper, type Point } from './contract';
import type { Grading } from './grid';
import { outlinesOf } from '../polygons';

/** Two parts of the outline that turn by more than this have a corner between them, rad. */
export const CORNER = 0.4;

/** Share of the way to other sides that a corner may move. */
const CLEAR = 0.3;
/** Length of a side below which its cells get no smaller, in what counts of copper that is wide. */
const SHORT = 0.1;
/** How far the tip of an acute corner moves, of what its sides do. */
const TIP = 1.5;

/** Points of the outline, which are whole nanometres, and of ports closer than this are one, m. */
const ALIKE = 2e-9;

/** Places along a part of the outline from which is looked across the copper, and across the gap before it. */
const LOOKS = [0.05, 0.275, 0.5, 0.725, 0.95] as const;

/** A part of the outline between two corners or bends: copper lies to its left. */
export interface Side {
  readonly a: Point;
  readonly b: Point;
  /** Outward. */
  readonly nx: number;
  readonly ny: number;
  readonly length: number;
  /** The port or the wall that it is. */
  readonly port?: number;
  readonly wall?: boolean;
  /** The copper goes on behind it as its own mirror image. */
  readonly fold?: boolean;
  /** The cell at it, m. */
  cell: number;
  /** The narrowest gap in front of it, m. */
  room: number;
}

/** Sine of the angle up to which an outline all but goes straight on. */
const STRAIGHT = 0.3;

/** Share of the cell up to which a side is none. */
const SLIVER = 0.15;

/** What is known of a part of the outline from its ends. */
export const sideOf = (a: Point, b: Point): Omit<Side, 'cell' | 'room'> => {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  return { a, b, length, nx: (b[1] - a[1]) / length, ny: (a[0] - b[0]) / length };
};

/** The nearest side but one from a point in a direction, and how far away it is; infinitely where there is none. */
export function facing(
  sides: readonly Side[],
  own: Side,
  x: number,
  y: number,
  dx: number,
  dy: number,
): { readonly far: number; readonly side?: Side } {
  let far = Infinity;
  let nearest: Side | undefined;
  for (const side of sides) {
    if (side === own) continue;
    const ex = side.b[0] - side.a[0];
    const ey = side.b[1] - side.a[1];
    const d = dx * ey - dy * ex;
    if (Math.abs(d) < 1e-9 * side.length) continue;
    const t = ((side.a[0] - x) * ey - (side.a[1] - y) * ex) / d;
    const s = ((side.a[0] - x) * dy - (side.a[1] - y) * dx) / d;
    if (t > 1e-9 * side.length && s >= -1e-9 && s <= 1 + 1e-9 && t < far) [far, nearest] = [t, side];
  }
  return { far, side: nearest };
}

/** How far it is from a point in a direction to the nearest side but one; infinite where there is none. */
export const across = (...asked: Parameters<typeof facing>): number => facing(...asked).far;

/** How far a point is from a side. */
export function distance({ a, length, nx, ny }: Side, x: number, y: number): number {
  // Along it the direction is the normal turned left.
  const t = Math.max(0, Math.min(length, (x - a[0]) * -ny + (y - a[1]) * nx));
  return Math.hypot(x - a[0] + ny * t, y - a[1] - nx * t);
}

/** Whether current enters there: at a port, or out of a wall as its own image. */
export const isEntered = (s: Side): boolean => s.port !== undefined || s.wall === true;

export const turnBetween = (p: Side, q: Side): number =>
  Math.atan2(p.nx * q.ny - p.ny * q.nx, p.nx * q.nx + p.ny * q.ny);

/** Outlines with the ends of the ports as corners, as sides. */
export function sidesOf({ polygons, ports, walls }: Copper): Side[][] {
  const same = (p: Point, q: Point) => Math.hypot(p[0] - q[0], p[1] - q[1]) < ALIKE;
  const found = new Set<number>();
  const rings = outlinesOf(polygons).map((ring) => {
    const corners: Point[] = [];
    ring.forEach((a, i) => {
      const b = ring[(i + 1) % ring.length];
      const side = sideOf(a, b);
      corners.push(a);
      const on = ports
        .flatMap((p) => p.edge)
        .map((p) => ({ p, t: (p[0] - a[0]) * -side.ny + (p[1] - a[1]) * side.nx }))
        .filter(
          ({ p, t }) =>
            t > ALIKE &&
            t < side.length - ALIKE &&
            Math.abs((p[0] - a[0]) * side.nx + (p[1] - a[1]) * side.ny) < ALIKE,
        )
        .sort((u, v) => u.t - v.t);
      for (const { p } of on) if (!same(p, corners[corners.length - 1])) corners.push(p);
    });
    return corners.map((a, i): Side => {
      const b = corners[(i + 1) % corners.length];
      const port = ports.findIndex(
        ({ edge: [p, q] }) => (same(a, p) && same(b, q)) || (same(a, q) && same(b, p)),
      );
      if (port >= 0) found.add(port);
      const wall = liesOn(walls, [a, b], ALIKE);
      return { ...sideOf(a, b), ...(port >= 0 && { port }), wall, cell: Infinity, room: Infinity };
    });
  });
  ports.forEach((p, i) => {
    if (!found.has(i)) throw new CopperError('its edge does not lie on the outline of the copper', p.number);
  });
  return rings;
}

/** Parts of an outline without a corner inside; a ring without any is one. Sides of ports and walls are by themselves. */
export function runsOf(ring: readonly Side[]): Side[][] {
  const breaks = (i: number): boolean => {
    const [p, q] = [ring[(i + ring.length - 1) % ring.length], ring[i]];
    return isEntered(p) || isEntered(q) || Math.abs(turnBetween(p, q)) > CORNER;
  };
  const start = ring.findIndex((_, i) => breaks(i));
  if (start < 0) return [[...ring]];
  const runs: Side[][] = [];
  for (let k = 0; k < ring.length; k++) {
    const i = (start + k) % ring.length;
    if (breaks(i)) runs.push([]);
    runs[runs.length - 1].push(ring[i]);
  }
  return runs;
}

/** How near other copper comes to each side, be it with a corner only; what goes on from the side itself is none. */
function clearSides(rings: readonly (readonly Side[])[]): void {
  const all = rings.flatMap((ring) =>
    ring.map((side, i) => ({
      side,
      beside: [ring[(i + ring.length - 1) % ring.length], ring[(i + 1) % ring.length]],
    })),
  );
  for (const { side, beside } of all)
    for (const { side: other } of all) {
      if (other === side || beside.includes(other)) continue;
      const { a } = other;
      if (a === side.a || a === side.b || beside.some((s) => a === s.a || a === s.b)) continue;
      if ((a[0] - side.a[0]) * side.nx + (a[1] - side.a[1]) * side.ny <= 0) continue;
      const away = distance(side, a[0], a[1]);
      side.room = Math.min(side.room, away);
      // The corner belongs to two sides, and comes as near with both.
      other.room = Math.min(other.room, away);
    }
}

/** Chooses the cell at each side: from the copper and the gap across from it, and how far it goes on. */
export function sizeSides(rings: readonly (readonly Side[])[], { edge, gap, widest }: Grading): void {
  const all = rings.flat();
  clearSides(rings);
  for (const ring of rings)
    for (const run of runsOf(ring)) {
      const whole = run.reduce((sum, s) => sum + s.length, 0);
      for (const side of run) {
        if (isEntered(side)) continue;
        // What a jog does that is short against the height needs no cells of its own.
        let size = Math.min(whole, edge * Math.max(Math.min(whole, widest), SHORT * widest));
        for (const t of LOOKS) {
          const x = side.a[0] + t * (side.b[0] - side.a[0]);
          const y = side.a[1] + t * (side.b[1] - side.a[1]);
          // At the tip of an acute corner copper is as narrow as one likes; how far it goes on says enough there.
          const behind = facing(all, side, x, y, -side.nx, -side.ny);
          const isTip = behind.side?.a === side.b || behind.side?.b === side.a;
          const ahead = across(all, side, x, y, side.nx, side.ny);
          side.room = Math.min(side.room, ahead);
          size = Math.min(size, isTip ? Infinity : edge * behind.far, ahead / gap);
        }
        side.cell = size;
      }
      // Along one run cells change slowly.
      for (const way of [1, -1])
        for (let k = 1; k < run.length; k++) {
          const [from, to] = way > 0 ? [run[k - 1], run[k]] : [run[run.length - k], run[run.length - 1 - k]];
          to.cell = Math.min(to.cell, from.cell + 0.3 * (from.length + to.length));
        }
    }
}

/** Outlines without the sides of a corner that are nothing against the cells there: those beside them meet where they would. */
export function withoutSlivers(rings: readonly (readonly Side[])[]): Side[][] {
  return rings.map((ring) => {
    const left = [...ring];
    for (let i = 0; i < left.length && left.length > 4; i++) {
      const n = left.length;
      const [before, after] = [(i + n - 1) % n, (i + 1) % n];
      const [p, s, q] = [left[before], left[i], left[after]];
      if (!(s.length < SLIVER * s.cell) || [p, s, q].some(isEntered)) continue;
      const turn = p.nx * q.ny - p.ny * q.nx;
      if (Math.abs(turn) < STRAIGHT) continue;
      // Both lines from the end of the first one on.
      const t = ((q.a[0] - p.b[0]) * q.nx + (q.a[1] - p.b[1]) * q.ny) / turn;
      const meets: Point = [p.b[0] - t * p.ny, p.b[1] + t * p.nx];
      const shift = Math.max(Math.abs(t), Math.hypot(meets[0] - q.a[0], meets[1] - q.a[1]));
      if (shift > 2 * s.length || shift > 0.5 * Math.min(p.length, q.length)) continue;
      left[before] = { ...p, ...sideOf(p.a, meets) };
      left[after] = { ...q, ...sideOf(meets, q.b) };
      left.splice(i--, 1);
    }
    return left;
  });
}

/**
 * The outline with every side moved outwards, ends of ports moved inwards by the depth of their blocks.
 * @param others sides that acute corners keep away from, so that what comes near to them is not joined to them
 */
export function movedRing(
  ring: readonly Side[],
  out: (s: Side) => number,
  depth: (s: Side) => number,
  others: readonly Side[] = [],
): Side[] {
  const n = ring.length;
  const corners = ring.map((q, i): Point => {
    const p = ring[(i + n - 1) % n];
    const [dp, dq] = [p, q].map((s) => out(s) - depth(s));
    const turn = p.nx * q.ny - p.ny * q.nx;
    const [x, y] = q.a;
    // Where the outline all but goes straight on, by what is between both: where lines meet that are moved by different
    // amounts is far along them.
    const along = p.nx * q.nx + p.ny * q.ny;
    if (along > 0 && Math.abs(turn) < STRAIGHT) {
      const d = (dp + dq) / 2 / (1 + along);
      return [x + d * (p.nx + q.nx), y + d * (p.ny + q.ny)];
    }
    // Where both moved lines meet; an acute corner goes little further out than a square one, and never into other copper.
    const [mx, my] = [(dp * q.ny - dq * p.ny) / turn, (dq * p.nx - dp * q.nx) / turn];
    const far = Math.hypot(mx, my);
    const isAcute = turn > 0 && along < -0.1 && Math.min(dp, dq) > 0;
    const most = isAcute
      ? others.reduce(
          (d, s) => (s === p || s === q ? d : Math.min(d, CLEAR * distance(s, x, y))),
          TIP * Math.max(dp, dq),
        )
      : Infinity;
    const share = far > most ? most / far : 1;
    return [x + share * mx, y + share * my];
  });
  return ring.map((s, i) => ({ ...s, ...sideOf(corners[i], corners[(i + 1) % n]) }));
}
