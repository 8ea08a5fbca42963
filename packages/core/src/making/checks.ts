import {
  copperAround,
  nearestBetween,
  nearestOn,
  sidesOf,
  within,
  type Point,
  type Ring,
  type Side,
} from '../polygons';
import { formatQuantity } from '../units';
import type { BoardPlan } from './board';
import { atRim } from './grounds';
import type { ShopLimits } from './shop';
import { wordBox } from './words';

/** What a board is checked for before it is made, the gravest first. */
export const checkRules = [
  { id: 'outside', label: 'copper beyond the rim' },
  { id: 'overlap', label: 'copper that overlaps' },
  { id: 'width', label: 'narrow copper' },
  { id: 'gap', label: 'narrow gaps' },
  { id: 'sliver', label: 'slivers' },
  { id: 'edge', label: 'copper at the rim' },
  { id: 'drill', label: 'drills' },
  { id: 'ring', label: 'annular rings' },
  { id: 'holeEdge', label: 'holes at the rim' },
  { id: 'web', label: 'holes close together' },
  { id: 'word', label: 'words over copper' },
] as const;
export type CheckRule = (typeof checkRules)[number]['id'];

/** Something that a shop would send back. */
export interface Finding {
  readonly rule: CheckRule;
  /** Where it is, m: the two ends of what is too small, or one place. */
  readonly at: Point;
  readonly to?: Point;
  readonly text: string;
  readonly remedy: string;
}

/** Corners of copper sharper than this are slivers, rad. */
const SHARP = Math.PI / 4;
/** Sides whose normals are this near to opposite face each other, as a cosine. */
const FACING = 0.8;
/** What is short of a limit by no more than this is not, m. */
const SLACK = 2e-8;
/** Findings of one kind closer than this are one, m, or as many limits. */
const ONE = 0.3e-3;
/** A rule that is broken more often than this is told with its gravest. */
const MOST = 50;
/** Room that the copper of a connector takes beside a port at the rim, widths of its line. */
const BESIDE = 8;

const shown = (v: number) => formatQuantity(v, 'length', { digits: 3 });

interface Found extends Finding {
  /** How grave it is among those of its rule: larger is worse. */
  readonly gravity: number;
  /** Corners that its sides end at: what has one in common with another hangs together with it. */
  readonly corners?: readonly string[];
}

/** The corners at the ends of sides, by name. */
const cornersOf = (rings: readonly Ring[], ...sides: readonly Side[]): readonly string[] =>
  sides.flatMap(({ ring, index }) => [`${ring} ${index}`, `${ring} ${(index + 1) % rings[ring].length}`]);

const less = (a: Point, b: Point): Point => [b[0] - a[0], b[1] - a[1]];
const dot = (a: Point, b: Point): number => a[0] * b[0] + a[1] * b[1];

/**
 * Whether two sides face each other through copper, or through board, where they are nearest. At a corner that looks towards the
 * other side, any direction between the normals of its sides is its own.
 */
function faces(
  from: Side,
  p: Point,
  other: Side,
  q: Point,
  rings: readonly Ring[],
  through: 1 | -1,
): boolean {
  const u = less(p, q);
  const long = Math.hypot(u[0], u[1]);
  if (long === 0) return false;
  const way: Point = [(through * u[0]) / long, (through * u[1]) / long];
  const normalAt = (side: Side, place: Point, towards: Point): Point => {
    const ring = rings[side.ring];
    const n = ring.length;
    const end =
      Math.hypot(place[0] - side.a[0], place[1] - side.a[1]) < 1e-10
        ? -1
        : Math.hypot(place[0] - side.b[0], place[1] - side.b[1]) < 1e-10
          ? 1
          : 0;
    if (end === 0) return side.normal;
    const [c, d] = end < 0 ? [ring[(side.index + n - 1) % n], side.a] : [side.b, ring[(side.index + 2) % n]];
    const size = Math.hypot(d[0] - c[0], d[1] - c[1]) || 1;
    const beside: Point = [(c[1] - d[1]) / size, (d[0] - c[0]) / size];
    const [first, second] = end < 0 ? [beside, side.normal] : [side.normal, beside];
    // Normals that part on the side looked through leave a cone between them.
    const turn = through * (first[0] * second[1] - first[1] * second[0]);
    const inside =
      turn < 0 &&
      through * (first[0] * towards[1] - first[1] * towards[0]) <= 1e-9 &&
      through * (towards[0] * second[1] - towards[1] * second[0]) <= 1e-9;
    return inside ? towards : side.normal;
  };
  const a = normalAt(from, p, way);
  const b = normalAt(other, q, [-way[0], -way[1]]);
  return dot(a, way) > 0.3 && dot(b, way) < -0.3 && dot(a, b) < -FACING;
}

/** Findings of one rule near to one another as the gravest of them. */
function gathered(found: readonly Found[]): Finding[] {
  const left = [...found].sort((a, b) => b.gravity - a.gravity);
  const kept: Found[] = [];
  while (left.length > 0 && kept.length < MOST) {
    const worst = left.shift()!;
    kept.push(worst);
    // What hangs together with it goes with it.
    const edge = [worst];
    for (let one = edge.pop(); one; one = edge.pop())
      for (let k = left.length - 1; k >= 0; k--)
        if (
          Math.hypot(left[k].at[0] - one.at[0], left[k].at[1] - one.at[1]) < ONE ||
          left[k].corners?.some((c) => one.corners?.includes(c))
        )
          edge.push(...left.splice(k, 1));
  }
  return kept.map(({ rule, at, to, text, remedy }) => ({ rule, at, ...(to && { to }), text, remedy }));
}

/** What a shop would send back of a board. Copper is taken as it is drawn, before etching. */
export function checkPlan(plan: BoardPlan, shop: ShopLimits): Finding[] {
  const { outlines, letters, board, holes, words, etched, ports } = plan;
  const rings = [...outlines, ...letters];
  const found: Found[] = [];
  const reach = Math.max(shop.width, shop.gap, 1e-5);
  const known = sidesOf(rings, 2 * reach);
  const rim = sidesOf([board], Math.max(shop.edge, 1e-3));
  const box = (p: Point, q: Point, by: number) => ({
    x0: Math.min(p[0], q[0]) - by,
    x1: Math.max(p[0], q[0]) + by,
    y0: Math.min(p[1], q[1]) - by,
    y1: Math.max(p[1], q[1]) + by,
  });

  for (const side of known.sides) {
    const many = rings[side.ring].length;
    for (const other of known.near(box(side.a, side.b, reach))) {
      if (other.ring < side.ring || (other.ring === side.ring && other.index <= side.index)) continue;
      const apart = other.index - side.index;
      if (other.ring === side.ring && (apart === 1 || apart === many - 1)) continue;
      // Letters may be filled: they are only read.
      if (side.ring >= outlines.length && other.ring >= outlines.length) continue;
      const { p, q, distance } = nearestBetween(side.a, side.b, other.a, other.b);
      if (distance >= reach - SLACK) continue;
      const same = other.ring === side.ring;
      if (distance === 0) {
        found.push({
          rule: 'overlap',
          at: p,
          text: same ? 'copper runs into itself' : 'copper runs into copper that it is not joined to',
          remedy: 'move one of the two away',
          gravity: 1,
          corners: cornersOf(rings, side, other),
        });
        continue;
      }
      if (distance < shop.width - SLACK && faces(side, p, other, q, rings, 1))
        found.push({
          rule: 'width',
          at: p,
          to: q,
          text: `copper ${shown(distance)} wide; the shop etches ${shown(shop.width)}`,
          remedy: 'widen it, or choose another impedance or a higher board',
          gravity: -distance,
          corners: cornersOf(rings, side, other),
        });
      if (distance < shop.gap - SLACK && faces(side, p, other, q, rings, -1))
        found.push({
          rule: 'gap',
          at: p,
          to: q,
          text: same
            ? `a slot ${shown(distance)} wide; the shop etches ${shown(shop.gap)}`
            : `${shown(distance)} between copper that is not joined; the shop etches ${shown(shop.gap)}`,
          remedy: same ? 'widen the slot' : 'move the two apart, or join them',
          gravity: -distance,
          corners: cornersOf(rings, side, other),
        });
    }
  }

  outlines.forEach((ring) =>
    ring.forEach((corner, i) => {
      const a = less(corner, ring[(i + ring.length - 1) % ring.length]);
      const b = less(corner, ring[(i + 1) % ring.length]);
      const turn = b[0] * a[1] - b[1] * a[0];
      const angle = Math.atan2(turn, dot(a, b));
      if (angle > 0 && angle < SHARP)
        found.push({
          rule: 'sliver',
          at: corner,
          text: `copper ends in a corner of ${Number(((angle * 180) / Math.PI).toPrecision(3))}\u00B0, which lifts off or is etched away`,
          remedy: 'cut the tip off, or let the lines meet at a wider angle',
          gravity: -angle,
        });
    }),
  );

  // A line that ends at a port of the rim may reach it, and so may the ground of its connector.
  const open = atRim(ports, board);
  const mayReach = ([x, y]: Point) =>
    open.some((p) => Math.hypot(p.x - x, p.y - y) < Math.max(BESIDE * p.width, 4 * shop.edge));
  for (const side of known.sides) {
    const { a: corner, b: next } = side;
    const corners = cornersOf(rings, side);
    if (!within([board], ...corner) && distanceTo(board, corner) > SLACK)
      found.push({
        rule: 'outside',
        at: corner,
        text: `copper reaches ${shown(distanceTo(board, corner))} beyond the rim`,
        remedy: 'move it inside, or make the board larger',
        gravity: distanceTo(board, corner),
        corners,
      });
    for (const { a, b } of rim.near(box(corner, next, shop.edge))) {
      const { p, q, distance } = nearestBetween(corner, next, a, b);
      if (distance < shop.edge - SLACK && !mayReach(p))
        found.push({
          rule: 'edge',
          at: p,
          to: q,
          text: `copper ${shown(distance)} from the rim; the shop asks for ${shown(shop.edge)}`,
          remedy: 'move it inwards, or make the board larger',
          gravity: -distance,
          corners,
        });
    }
  }

  holes.forEach((hole, i) => {
    const at: Point = [hole.x, hole.y];
    const radius = hole.diameter / 2;
    if (!shop.drills(hole.diameter))
      found.push({
        rule: 'drill',
        at,
        text: `a hole of ${shown(hole.diameter)}; the shop drills ${shop.drilled}`,
        remedy: 'choose a diameter that it drills',
        gravity: 0,
      });
    const copper = copperAround(outlines, at) - radius;
    if (copper < shop.ring - SLACK)
      found.push({
        rule: 'ring',
        at,
        text:
          copper <= 0
            ? 'a hole that is not wholly in copper'
            : `${shown(copper)} of copper around a hole; the shop asks for ${shown(shop.ring)}`,
        remedy: 'have lands added around holes (Shop), widen the copper, or drill it smaller',
        gravity: -copper,
      });
    const toRim = distanceTo(board, at) - radius;
    if (toRim < shop.edge - SLACK)
      found.push({
        rule: 'holeEdge',
        at,
        text: `a hole ${shown(Math.max(0, toRim))} from the rim; the shop asks for ${shown(shop.edge)}`,
        remedy: 'move it inwards',
        gravity: -toRim,
      });
    for (const other of holes.slice(0, i)) {
      const apart = Math.hypot(other.x - hole.x, other.y - hole.y) - radius - other.diameter / 2;
      if (apart < shop.web - SLACK)
        found.push({
          rule: 'web',
          at,
          to: [other.x, other.y],
          text: `${shown(Math.max(0, apart))} of board between two holes; the shop asks for ${shown(shop.web)}`,
          remedy: 'move them apart, or leave one out',
          gravity: -apart,
        });
    }
  });

  for (const word of [...words, ...etched]) {
    const isEtched = etched.includes(word);
    const rect = wordBox(word);
    const [[x, y], , [u, v]] = rect;
    const around = box([x, y], [u, v], 0);
    const hit =
      within(outlines, x, y) ||
      known
        .near(around)
        .some(
          (s) =>
            s.ring < outlines.length &&
            (within([rect], ...s.a) ||
              rect.some((c, i) => nearestBetween(c, rect[(i + 1) % 4], s.a, s.b).distance === 0)),
        );
    if (word.crowded || hit || !rect.every((c) => within([board], ...c) || distanceTo(board, c) < SLACK))
      found.push({
        rule: 'word',
        at: [(x + u) / 2, (y + v) / 2],
        text: `\u201C${word.text}\u201D ${word.crowded && isEtched ? 'is not etched: there is no room without copper' : hit ? 'lies over copper' : 'lies beyond the rim'}`,
        remedy: isEtched
          ? 'make the letters smaller, or the board larger'
          : 'leave more board beside the port',
        gravity: 0,
      });
  }
  return checkRules.flatMap((rule) => gathered(found.filter((f) => f.rule === rule.id)));
}

/** Distance from a place to an outline, m. */
function distanceTo(ring: Ring, at: Point): number {
  return ring.reduce((least, a, i) => {
    const [x, y] = nearestOn(at, a, ring[(i + 1) % ring.length]);
    return Math.min(least, Math.hypot(x - at[0], y - at[1]));
  }, Infinity);
}
