import { difference, intersection, union, type Geom } from 'polyclip-ts';
import { areaOf, isBetween, NEAR, within, type Point, type Ring } from './ring';

/** Ends of lines of a drawing this close are joined, m. */
const JOINED = 1e-6;

/**
 * Points of an arc after its first, so close that no chord is further than `chord` (m) from it.
 * @param sweep angle from the first point to the last, rad, positive turning left
 */
export function arcPoints(
  [cx, cy]: Point,
  radius: number,
  from: number,
  sweep: number,
  chord: number,
): Point[] {
  const most = chord < radius ? 2 * Math.acos(1 - chord / radius) : Math.PI / 2;
  const count = Math.max(1, Math.ceil(Math.abs(sweep) / most - 1e-9));
  return Array.from({ length: count }, (_, i): Point => {
    const a = from + (sweep * (i + 1)) / count;
    return [cx + radius * Math.cos(a), cy + radius * Math.sin(a)];
  });
}

export const circle = (centre: Point, radius: number, chord: number): Ring =>
  arcPoints(centre, radius, 0, 2 * Math.PI, Math.min(chord, 0.3 * radius));

/** Arc of an edge of a polyline, whose bulge is the tangent of a quarter of its angle; its points after the first. */
export function bulged(a: Point, b: Point, bulge: number, chord: number): Point[] {
  if (Math.abs(bulge) < 1e-9) return [b];
  const sweep = 4 * Math.atan(bulge);
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const half = Math.hypot(dx, dy) / 2;
  if (half === 0) return [b];
  // From the middle of the chord to the centre, to the left of it where the arc is less than half a turn and turns left.
  const off = half / Math.tan(sweep / 2) / (2 * half);
  const centre: Point = [(a[0] + b[0]) / 2 - dy * off, (a[1] + b[1]) / 2 + dx * off];
  const from = Math.atan2(a[1] - centre[1], a[0] - centre[0]);
  return [
    ...arcPoints(centre, Math.hypot(a[0] - centre[0], a[1] - centre[1]), from, sweep, chord).slice(0, -1),
    b,
  ];
}

/** The way of a round tool of some radius along a straight line. */
export function swept(a: Point, b: Point, radius: number, chord: number): Ring {
  const along = Math.atan2(b[1] - a[1], b[0] - a[0]);
  if (a[0] === b[0] && a[1] === b[1]) return circle(a, radius, chord);
  const fine = Math.min(chord, 0.3 * radius);
  const start = (p: Point, angle: number): Point => [
    p[0] + radius * Math.cos(angle),
    p[1] + radius * Math.sin(angle),
  ];
  const quarter = Math.PI / 2;
  return [
    start(b, along - quarter),
    ...arcPoints(b, radius, along - quarter, Math.PI, fine),
    start(a, along + quarter),
    ...arcPoints(a, radius, along + quarter, Math.PI, fine),
  ];
}

/** Lines whose ends meet, joined to closed ways; what stays open is counted. */
export function closedWays(ways: readonly Ring[]): { rings: Ring[]; open: number } {
  const near = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]) < JOINED;
  const left = ways.map((w) => [...w]);
  const rings: Ring[] = [];
  let open = 0;
  for (let way = left.pop(); way; way = left.pop()) {
    for (;;) {
      const end = way[way.length - 1];
      if (way.length > 2 && near(end, way[0])) {
        rings.push(way.slice(0, -1));
        break;
      }
      const next = left.findIndex((w) => near(w[0], end) || near(w[w.length - 1], end));
      if (next < 0) {
        open++;
        break;
      }
      const [more] = left.splice(next, 1);
      way.push(...(near(more[0], end) ? more : more.reverse()).slice(1));
    }
  }
  return { rings, open };
}

/** Everything drawn so far, holes kept. */
export type Area = [number, number][][][];

const geom = (rings: readonly Ring[]): Geom =>
  rings.map((ring) => [ring.map(([x, y]): [number, number] => [Math.round(x / NEAR), Math.round(y / NEAR)])]);

/** The area with more copper, or with copper taken out of it. */
export function changed(area: Area, rings: readonly Ring[], clear = false): Area {
  const sound = rings.filter((r) => Math.abs(areaOf(r)) > NEAR * NEAR);
  if (sound.length === 0) return area;
  const all = geom(sound);
  if (area.length === 0) return clear ? area : union(all);
  return clear ? difference(area, all) : union(area, all);
}

/** Rings inside of others are holes, copper inside of those again: each by how many it lies in. */
export function nested(rings: readonly Ring[]): Area {
  const depths = rings.map(
    (ring) => rings.filter((other) => other !== ring && ring.every(([x, y]) => within([other], x, y))).length,
  );
  let area: Area = [];
  for (let depth = 0; depth <= Math.max(0, ...depths); depth++)
    area = changed(
      area,
      rings.filter((_, i) => depths[i] === depth),
      depth % 2 === 1,
    );
  return area;
}

/** Outlines of an area: outer ones turn left, holes turn right. */
export const outlinesIn = (area: Area): Ring[] =>
  area.flatMap((polygon) =>
    polygon.map((ring, i) => {
      const open = ring.slice(0, -1).map(([x, y]): Point => [x * NEAR, y * NEAR]);
      return areaOf(open) > 0 === (i === 0) ? open : open.reverse();
    }),
  );

/** Outlines without holes: what has one is cut upright through the middle of it. */
export function cutOpen(area: Area): Ring[] {
  return area.flatMap((polygon): Ring[] => {
    if (polygon.length === 1) {
      const open = polygon[0].slice(0, -1).map(([x, y]): Point => [x * NEAR, y * NEAR]);
      const kept = open.filter((_, i) => !isBetween(open, i, 2 * NEAR));
      if (kept.length < 3) return [];
      return [areaOf(kept) > 0 ? kept : kept.reverse()];
    }
    const xs = polygon[1].map(([x]) => x);
    const middle = Math.round((Math.min(...xs) + Math.max(...xs)) / 2);
    const [ox, oy] = [polygon[0].map(([x]) => x), polygon[0].map(([, y]) => y)];
    const [low, high] = [Math.min(...oy) - 1, Math.max(...oy) + 1];
    const half = (from: number, to: number): Geom => [
      [
        [from, low],
        [to, low],
        [to, high],
        [from, high],
      ],
    ];
    return [half(Math.min(...ox) - 1, middle), half(middle, Math.max(...ox) + 1)].flatMap((side) =>
      cutOpen(intersection([polygon], side)),
    );
  });
}
