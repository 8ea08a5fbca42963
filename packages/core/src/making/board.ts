import { areaOf, boxOf, cutOpen, grouped, nested, type Point, type Ring } from '../polygons';

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
  /** There is no room for it that has no copper. */
  readonly crowded?: true;
}

/** Where a design is entered, m and rad: the direction leads away from its copper. */
export interface BoardPort {
  readonly number: string;
  readonly x: number;
  readonly y: number;
  readonly angle: number;
  /** Of the line that ends there, m. */
  readonly width: number;
}

/** A part that is mounted on the board: its middle, the direction from its first pin to its second, its outline; m, rad. */
export interface Mounted {
  /** Of its piece, and the design that it is of. */
  readonly name: string;
  readonly design: string;
  readonly kind: string;
  /** What it is called, and of which value. */
  readonly what: string;
  readonly value: string;
  readonly x: number;
  readonly y: number;
  readonly angle: number;
  readonly outline: Ring;
  /** It stands at the rim and leads out of the board. */
  readonly connector?: true;
}

/** Everything of a board that a shop makes: m, y up, the lower left corner of the board at the origin. */
export interface BoardPlan {
  readonly name: string;
  /** Straight sides are off the curves that they stand for by at most this, m; those of letters by a two hundredth of their height. */
  readonly chord: number;
  /** Closed polygons without holes that do not overlap; what has a hole is cut through it. */
  readonly copper: readonly Ring[];
  /** The same uncut, without letters: outer outlines turn left, holes turn right. */
  readonly outlines: readonly Ring[];
  /** Letters etched into the copper. */
  readonly letters: readonly Ring[];
  readonly board: Ring;
  /** Where the origin of a design's own drawing lies on its board, m; absent of several designs. */
  readonly origin?: Point;
  readonly holes: readonly Hole[];
  /** Words that are only drawn. */
  readonly words: readonly Word[];
  /** Words that the letters in the copper are. */
  readonly etched: readonly Word[];
  readonly ports: readonly BoardPort[];
  readonly mounted: readonly Mounted[];
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

/** Outlines and what follows from them: cut open, their area and their size. */
export function copperOf(
  outlines: readonly Ring[],
  letters: readonly Ring[] = [],
): Pick<BoardPlan, 'copper' | 'outlines' | 'letters' | 'area' | 'width' | 'height'> {
  const all = [...outlines, ...letters];
  // They lie apart: only what has holes is cut.
  const copper = grouped(all).flatMap(({ outer, holes }) =>
    holes.length > 0 ? cutOpen(nested([outer, ...holes])) : [outer],
  );
  const { x0, x1, y0, y1 } = boxOf(copper.flat());
  return {
    copper,
    outlines,
    letters,
    area: all.reduce((sum, ring) => sum + areaOf(ring), 0),
    width: x1 - x0,
    height: y1 - y0,
  };
}

/** A plan turned to the left by quarters about its board's lower left corner, and moved so that this corner of its board is at a place. */
export function placedPlan(plan: BoardPlan, turns: number, x: number, y: number): BoardPlan {
  const turned = ([u, v]: Point): Point =>
    ([[u, v] as const, [-v, u] as const, [-u, -v] as const, [v, -u] as const] as const)[turns % 4];
  const { x0, y0 } = boxOf(plan.board.map(turned));
  const at = (p: Point): Point => {
    const [u, v] = turned(p);
    return [u - x0 + x, v - y0 + y];
  };
  const moved = <T extends { readonly x: number; readonly y: number }>(thing: T): T => {
    const [u, v] = at([thing.x, thing.y]);
    return { ...thing, x: u, y: v };
  };
  const upright = (w: Word): Word => {
    const [u, v] = at([w.x + w.height / 2, w.y + w.height / 2]);
    return { ...w, x: u - w.height / 2, y: v - w.height / 2 };
  };
  const angle = (turns * Math.PI) / 2;
  const rings = (list: readonly Ring[]) => list.map((ring) => ring.map(at));
  return {
    ...plan,
    copper: rings(plan.copper),
    outlines: rings(plan.outlines),
    letters: rings(plan.letters),
    board: plan.board.map(at),
    ...(plan.origin && { origin: at(plan.origin) }),
    holes: plan.holes.map(moved),
    // Words stay upright, with the middle of their first letter where it was.
    words: plan.words.map(upright),
    etched: plan.etched.map(upright),
    ports: plan.ports.map((p) => ({ ...moved(p), angle: p.angle + angle })),
    mounted: plan.mounted.map((m) => ({ ...moved(m), angle: m.angle + angle, outline: m.outline.map(at) })),
    ...(turns % 2 === 1 && { width: plan.height, height: plan.width }),
  };
}
