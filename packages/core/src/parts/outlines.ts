import type { PartSettings, PartValues, Point } from './contract';

const numbersIn = (text = ''): number[] =>
  text
    .split(' ')
    .map(Number)
    .filter((n) => Number.isInteger(n) && n > 0);

/** Corners of each outline of a part whose outline is typed, from its settings. */
export const ringsOf = ({ rings }: PartSettings): number[] => numbersIn(rings);

/** Sides at which its pins are, by number: side k begins at corner k. */
export const sidesOf = ({ sides }: PartSettings): number[] => numbersIn(sides);

/** The corner that follows one in its outline; both count from 1 through all outlines. */
export function cornerAfter(rings: readonly number[], corner: number): number | undefined {
  let first = 1;
  for (const count of rings) {
    if (corner < first + count) return corner + 1 < first + count ? corner + 1 : first;
    first += count;
  }
  return undefined;
}

const cornerOf = (values: PartValues, k: number): Point => ({
  x: values[`x${k}`]?.re ?? 0,
  y: values[`y${k}`]?.re ?? 0,
});

/** Its outlines, m. */
export function outlinesIn(values: PartValues, settings: PartSettings): Point[][] {
  let next = 1;
  return ringsOf(settings).map((count) => Array.from({ length: count }, () => cornerOf(values, next++)));
}

/** Twice the area within an outline, positive where it turns left. */
export const turning = (ring: readonly Point[]): number =>
  ring.reduce((sum, a, i) => {
    const b = ring[(i + 1) % ring.length];
    return sum + a.x * b.y - b.x * a.y;
  }, 0);

/** Ends of a side, in the direction in which the copper lies to the left. */
export function sideAt(values: PartValues, settings: PartSettings, side: number): [Point, Point] | undefined {
  const rings = ringsOf(settings);
  const other = cornerAfter(rings, side);
  if (other === undefined) return undefined;
  let first = 1;
  for (const ring of outlinesIn(values, settings)) {
    if (side < first + ring.length) {
      const ends: [Point, Point] = [cornerOf(values, side), cornerOf(values, other)];
      return turning(ring) > 0 ? ends : [ends[1], ends[0]];
    }
    first += ring.length;
  }
  return undefined;
}

/** Twice the area of a triangle, positive where it turns left. */
export const turn = (p: Point, q: Point, r: Point): number =>
  (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x);

/** Whether two straight sides cross or touch. */
function meet(a: Point, b: Point, c: Point, d: Point): boolean {
  const side = (p: Point, q: Point, r: Point) => Math.sign(turn(p, q, r));
  const within = (p: Point, q: Point, r: Point) =>
    Math.min(p.x, q.x) <= r.x &&
    r.x <= Math.max(p.x, q.x) &&
    Math.min(p.y, q.y) <= r.y &&
    r.y <= Math.max(p.y, q.y);
  const [s1, s2, s3, s4] = [side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)];
  if (s1 !== s2 && s3 !== s4 && s1 * s2 <= 0 && s3 * s4 <= 0 && (s1 || s2) !== 0 && (s3 || s4) !== 0)
    return true;
  return (
    (s1 === 0 && within(a, b, c)) ||
    (s2 === 0 && within(a, b, d)) ||
    (s3 === 0 && within(c, d, a)) ||
    (s4 === 0 && within(c, d, b))
  );
}

/** What is wrong with an outline: the corner (from 0) at which, and why. */
export function flawOf(ring: readonly Point[]): { corner: number; message: string } | undefined {
  const n = ring.length;
  if (n < 3) return { corner: 0, message: 'an outline needs three corners at least' };
  const same = (p: Point, q: Point) => Math.hypot(p.x - q.x, p.y - q.y) < 1e-9;
  for (let i = 0; i < n; i++)
    if (same(ring[i], ring[(i + 1) % n]))
      return { corner: (i + 1) % n, message: 'is where the corner before it is' };
  for (let i = 0; i < n; i++)
    for (let j = i + 1; j < n; j++) {
      if (j === i + 1 || (i === 0 && j === n - 1)) continue;
      if (meet(ring[i], ring[(i + 1) % n], ring[j], ring[(j + 1) % n]))
        return {
          corner: j,
          message: `the side that begins here meets the one from corner ${i + 1} to ${((i + 1) % n) + 1} of its outline`,
        };
    }
  return undefined;
}
