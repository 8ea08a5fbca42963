import { contours } from 'd3-contour';

/** A place on the grid: column and row, counted from 0 at the middle of the first cell. */
export type GridPoint = readonly [column: number, row: number];

const RIM = 1e-9;

/**
 * Lines on which a grid of values has a level, and the closed outlines of where it is above it.
 * @param values row by row
 */
export function contourOf(
  values: readonly number[],
  columns: number,
  rows: number,
  level: number,
): { readonly lines: GridPoint[][]; readonly areas: GridPoint[][] } {
  const rings = contours()
    .size([columns, rows])
    .contour(values as number[], level)
    .coordinates.flat();
  const lines: GridPoint[][] = [];
  for (const ring of rings) {
    let line: GridPoint[] = [];
    let before: GridPoint | undefined;
    for (const [c, r] of ring) {
      const point: GridPoint = [c - 0.5, r - 0.5];
      // Along the rim of the grid an outline is closed, but nothing has the level there; where it meets the rim it has.
      const onRim =
        point[0] <= RIM || point[1] <= RIM || point[0] >= columns - 1 - RIM || point[1] >= rows - 1 - RIM;
      if (!onRim) {
        if (line.length === 0 && before) line.push(before);
        line.push(point);
      } else if (line.length > 0) {
        lines.push([...line, point]);
        line = [];
      }
      before = onRim ? point : undefined;
    }
    if (line.length > 0) lines.push(line);
  }
  return { lines, areas: rings.map((ring) => ring.map(([c, r]): GridPoint => [c - 0.5, r - 0.5])) };
}

/** A path through places on a grid. */
export const gridPath = (
  lines: readonly (readonly GridPoint[])[],
  place: (point: GridPoint) => readonly [number, number],
): string =>
  lines
    .map(
      (line) =>
        `M${line
          .map(place)
          .map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`)
          .join('L')}`,
    )
    .join('');
