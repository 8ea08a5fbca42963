import type { Ring } from '../polygons';

/** A design's own board on a panel. */
export interface Tile {
  /** Id of the placing. */
  readonly id: string;
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Its own copper, of the outlines of the panel. */
  readonly copper?: readonly Ring[];
}

/** Overlaps smaller than this are none, m. */
export const ROUNDING = 1e-9;

type Area = Omit<Tile, 'id' | 'name' | 'copper'>;

/** By how much two boxes overlap in the direction in which it is least, m; 0 or less where they do not. */
export const overlapOf = (a: Area, b: Area): number =>
  Math.min(
    Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x),
    Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y),
  );

/** The others that a design in some place would overlap. */
export const inTheWay = (tile: Tile, others: readonly Tile[]): readonly Tile[] =>
  others.filter((o) => o.id !== tile.id && overlapOf(tile, o) > ROUNDING);

/**
 * The place nearest to a wished one in which a tile overlaps no other; on the board where there is one.
 * @param room size of the board, m; absent: it follows
 */
export function freePlace(
  tile: Tile,
  others: readonly Tile[],
  room?: { readonly width: number; readonly height: number },
): { readonly x: number; readonly y: number } {
  const rest = others.filter((o) => o.id !== tile.id);
  const inside = (v: number, most: number | undefined) =>
    Math.max(0, most === undefined ? v : Math.min(v, Math.max(0, most)));
  const start = {
    x: inside(tile.x, room && room.width - tile.width),
    y: inside(tile.y, room && room.height - tile.height),
  };
  // A nearest free place touches, in each direction, either nothing or an edge of another.
  const xs = [start.x, 0, ...rest.flatMap((o) => [o.x - tile.width, o.x + o.width])];
  const ys = [start.y, 0, ...rest.flatMap((o) => [o.y - tile.height, o.y + o.height])];
  let best: { x: number; y: number; far: number } | undefined;
  for (const x of xs)
    for (const y of ys) {
      if (x < -ROUNDING || y < -ROUNDING) continue;
      if (room && (x + tile.width > room.width + ROUNDING || y + tile.height > room.height + ROUNDING))
        continue;
      const far = Math.hypot(x - tile.x, y - tile.y);
      if (best && far >= best.far) continue;
      if (inTheWay({ ...tile, x, y }, rest).length === 0) best = { x, y, far };
    }
  // A board too small for it: beside everything, where it is seen that it does not fit.
  return best ?? { x: Math.max(0, ...rest.map((o) => o.x + o.width)), y: 0 };
}

/**
 * Places of boxes in rows beneath one another, with room between and around them, the highest first.
 * @param wide width of the board, m; absent: so that all of it is about as wide as high
 */
export function arranged<T extends { readonly width: number; readonly height: number }>(
  boxes: readonly T[],
  margin: number,
  wide?: number,
): ReadonlyMap<T, { readonly x: number; readonly y: number }> {
  const area = boxes.reduce((sum, b) => sum + (b.width + margin) * (b.height + margin), 0);
  const most = Math.max(...boxes.map((b) => b.width + 2 * margin), wide ?? 1.3 * Math.sqrt(area) + margin);
  const places = new Map<T, { x: number; y: number }>();
  let [x, y, high] = [margin, margin, 0];
  for (const box of [...boxes].sort((a, b) => b.height - a.height)) {
    if (x > margin && x + box.width + margin > most + ROUNDING) {
      [x, y, high] = [margin, y + high + margin, 0];
    }
    places.set(box, { x, y });
    x += box.width + margin;
    high = Math.max(high, box.height);
  }
  return places;
}
