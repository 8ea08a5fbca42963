/** A point, m. */
export type Point = readonly [number, number];

/** The corners of an outline, m. */
export type Ring = readonly Point[];

/** Area within an outline, negative where it turns right. */
export const areaOf = (ring: Ring): number =>
  ring.reduce((sum, [x, y], i) => {
    const [u, v] = ring[(i + 1) % ring.length];
    return sum + (x * v - u * y) / 2;
  }, 0);

/** Whether a point lies inside of closed outlines, those inside of others being holes. */
export function within(rings: readonly Ring[], x: number, y: number): boolean {
  let inside = false;
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [xi, yi] = ring[i];
      const [xj, yj] = ring[j];
      if (yi > y !== yj > y && x < xi + ((y - yi) / (yj - yi)) * (xj - xi)) inside = !inside;
    }
  return inside;
}
