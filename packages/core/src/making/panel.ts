import { resolveDesign, type EnclosureSide, type Panel, type PlacedDesign, type Project } from '../network';
import {
  areaOf,
  boxOf,
  changed,
  circle,
  copperAround,
  nearestBetween,
  outlinesIn,
  outlinesOf,
  sidesOf,
  swept,
  type Point,
  type Ring,
} from '../polygons';
import { formatQuantity, QuantityError, readQuantity, type QuantityRule } from '../units';
import { copperOf, placedPlan, type BoardPlan, type BoardPort, type Hole, type Word } from './board';
import { etchedWord } from './letters';
import { inNm, planOf, unmade, widened } from './plan';
import type { LengthField } from './shop';
import { around, nameWords, portWord, wordBox } from './words';

/** A panel with its designs in place. */
export interface PanelPlan {
  /** Absent while something is wrong with the panel's own fields. */
  readonly plan?: BoardPlan;
  /** Where each design's own board stands; m. */
  readonly tiles: readonly Tile[];
  /** What is wrong, at the field of the panel or of what is placed. */
  readonly problems: readonly PanelProblem[];
}

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

export interface PanelProblem {
  /** Id of the placing; absent: of the panel itself. */
  readonly placed?: string;
  /** Name of the field; absent: all of it. */
  readonly field?: string;
  readonly message: string;
}

const length: QuantityRule = { kind: 'length', min: 0 };
const some: QuantityRule = { kind: 'length', min: 0, exclusive: true };
const place: QuantityRule = { kind: 'length' };

/** Fields of a panel, by where they stand. */
export const panelFields: readonly LengthField<'width' | 'height' | 'margin' | 'letters' | 'marks'>[] = [
  {
    field: 'width',
    label: 'Width',
    help: 'Of the board. Empty: as far as what is on it reaches, and the margin.',
    rule: some,
  },
  {
    field: 'height',
    label: 'Height',
    help: 'Of the board. Empty: as far as what is on it reaches, and the margin.',
    rule: some,
  },
  {
    field: 'margin',
    label: 'Margin',
    help: 'Board around what is on it where no size is given, and between designs that are arranged.',
    rule: length,
  },
  {
    field: 'letters',
    label: 'Letters',
    help: 'Height of the names that are etched into the copper.',
    rule: some,
  },
  {
    field: 'marks',
    label: 'Marks',
    help: 'Diameter of the round marks in three corners, by which machines find the board.',
    rule: some,
  },
];

export const launchFields: readonly LengthField<'gap' | 'width' | 'length' | 'hole'>[] = [
  { field: 'gap', label: 'Gap', help: 'Between the line and the ground beside it.', rule: some },
  { field: 'width', label: 'Width', help: 'Of the ground beside the line, along the rim.', rule: some },
  {
    field: 'length',
    label: 'Length',
    help: 'Of the ground beside the line, from the rim inwards.',
    rule: some,
  },
  { field: 'hole', label: 'Hole', help: 'Diameter of the holes to ground in it.', rule: some },
];

export const fenceFields: readonly LengthField<'hole' | 'pitch' | 'inset'>[] = [
  { field: 'hole', label: 'Hole', help: 'Diameter of the holes to ground.', rule: some },
  {
    field: 'pitch',
    label: 'Pitch',
    help: 'From hole to hole: a twentieth of the wavelength in the board is dense.',
    rule: some,
  },
  {
    field: 'inset',
    label: 'Inset',
    help: 'From the rim of the board to the middles of the holes.',
    rule: some,
  },
];

export const placeFields: readonly LengthField<'x' | 'y'>[] = [
  { field: 'x', label: 'x', help: 'Left edge of the design\u2019s own board.', rule: place },
  { field: 'y', label: 'y', help: 'Lower edge of the design\u2019s own board.', rule: place },
];

/** Ports this near to the rim stand at it, m. */
const AT_RIM = 2e-5;
/** From the rim to the first hole of a launch, in diameters of it. */
const RIM = 1.25;
/** Copper around the holes of fences, in their diameters. */
const COLLAR = 0.5;
/** A fence keeps as many heights of the board away from other copper. */
const FENCE_CLEAR = 3;
/** Straight sides are off round pads by less than this, m. */
const CHORD = 1e-6;
/** Overlaps smaller than this are none, m. */
const ROUNDING = 1e-9;

const shown = (v: number) => formatQuantity(v, 'length', { digits: 4 });

type Area = Omit<Tile, 'id' | 'name' | 'copper'>;

/** By how much two boxes overlap in the direction in which it is least, m; 0 or less where they do not. */
const overlapOf = (a: Area, b: Area): number =>
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

const inWhole = (rings: readonly Ring[]): Ring[] =>
  rings.map((ring) => ring.map(([x, y]): Point => [inNm(x), inNm(y)]));

/** The side of the rim that an outward direction leads over. */
function sideOf([nx, ny]: Point): EnclosureSide {
  if (Math.abs(nx) > Math.abs(ny)) return nx < 0 ? 'left' : 'right';
  return ny < 0 ? 'front' : 'back';
}

/** Ports that stand at the rim and lead over it, each with the direction out of the board. */
export const atRim = (ports: readonly BoardPort[], board: Ring): readonly BoardPort[] =>
  ports.filter((port) => {
    const out: Point = [Math.cos(port.angle), Math.sin(port.angle)];
    return board.some((a, i) => {
      const b = board[(i + 1) % board.length];
      const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const [nx, ny] = [(b[1] - a[1]) / long, (a[0] - b[0]) / long];
      const off = (port.x - a[0]) * nx + (port.y - a[1]) * ny;
      const along = ((port.x - a[0]) * -ny + (port.y - a[1]) * nx) / long;
      return Math.abs(off) < AT_RIM && along > 0 && along < 1 && nx * out[0] + ny * out[1] > 0.99;
    });
  });

/** Ground beside ports at the rim, with holes in it; it keeps off all other copper by its gap. */
function launchesAt(
  ports: readonly BoardPort[],
  { gap, width, length: deep, hole }: Readonly<Record<'gap' | 'width' | 'length' | 'hole', number>>,
  others: readonly Ring[],
): { readonly copper: readonly Ring[]; readonly holes: Hole[] } {
  const pads: Ring[] = [];
  const wished: Hole[] = [];
  for (const port of ports) {
    const [ox, oy] = [Math.cos(port.angle), Math.sin(port.angle)];
    for (const side of [1, -1]) {
      const at = (inwards: number, aside: number): Point => [
        port.x - inwards * ox - side * aside * oy,
        port.y - inwards * oy + side * aside * ox,
      ];
      const near = port.width / 2 + gap;
      pads.push([at(0, near), at(0, near + width), at(deep, near + width), at(deep, near)]);
      const [from, to] = [RIM * hole, deep - hole];
      const count = Math.max(1, Math.floor((to - from) / (2 * hole) + 1 + 1e-9));
      for (let k = 0; k < count; k++) {
        const [x, y] = at(
          count === 1 ? (from + to) / 2 : from + ((to - from) * k) / (count - 1),
          near + width / 2,
        );
        wished.push({ x, y, diameter: hole });
      }
    }
  }
  if (pads.length === 0) return { copper: [], holes: [] };
  const { x0, x1, y0, y1 } = boxOf(pads.flat());
  const kept = others.flatMap((ring): Ring[] => {
    const box = boxOf(ring);
    const far = box.x0 > x1 + gap || box.x1 < x0 - gap || box.y0 > y1 + gap || box.y1 < y0 - gap;
    const wide = far || areaOf(ring) < 0 ? undefined : widened(ring, gap - ROUNDING);
    return wide ? [wide] : [];
  });
  const copper = outlinesIn(changed(changed([], pads), kept, true));
  const holes: Hole[] = [];
  for (const one of wished)
    // Grounds of neighbouring ports may run into one: its holes stand apart.
    if (
      copperAround(copper, [one.x, one.y]) > 0.75 * hole &&
      !holes.some((h) => Math.hypot(h.x - one.x, h.y - one.y) < 2 * hole - ROUNDING)
    )
      holes.push(one);
  return { copper, holes };
}

/** Holes along sides of the rim, joined by copper; none where other copper is too near. */
function fenceAlong(
  board: Ring,
  sides: readonly EnclosureSide[],
  { hole, pitch, inset }: Readonly<Record<'hole' | 'pitch' | 'inset', number>>,
  others: readonly Ring[],
  clear: number,
): { readonly copper: Ring[]; readonly holes: Hole[] } {
  const copper: Ring[] = [];
  const holes: Hole[] = [];
  const radius = hole * (0.5 + COLLAR);
  const known = sidesOf(others, Math.max(clear, 1e-4));
  board.forEach((a, i) => {
    const b = board[(i + 1) % board.length];
    const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const along: Point = [(b[0] - a[0]) / long, (b[1] - a[1]) / long];
    if (!sides.includes(sideOf([along[1], -along[0]])) || long <= 2 * inset) return;
    const count = Math.max(1, Math.floor((long - 2 * inset) / pitch + 1e-9));
    const own = Array.from({ length: count + 1 }, (_, k): Point => {
      const t = inset + ((long - 2 * inset) * k) / count;
      return [a[0] + t * along[0] - inset * along[1], a[1] + t * along[1] + inset * along[0]];
    });
    let run: Point[] = [];
    const close = () => {
      if (run.length > 0) copper.push(swept(run[0], run[run.length - 1], radius, CHORD));
      run = [];
    };
    for (const p of own) {
      const reach = radius + clear;
      const box = { x0: p[0] - reach, x1: p[0] + reach, y0: p[1] - reach, y1: p[1] + reach };
      if (known.near(box).some((s) => nearestBetween(p, p, s.a, s.b).distance < reach)) close();
      else {
        run.push(p);
        // Where two sides meet they have their corner in common.
        if (!holes.some((h) => Math.hypot(h.x - p[0], h.y - p[1]) < hole))
          holes.push({ x: p[0], y: p[1], diameter: hole });
      }
    }
    close();
  });
  return { copper, holes };
}

/**
 * A panel of a project as a shop makes it.
 * @param etch by how much every line is widened, m
 * @param land least copper around holes of designs, m; absent: as drawn
 */
export function panelOf(project: Project, panel: Panel, etch = 0, land?: number): PanelPlan {
  const problems: PanelProblem[] = [];
  const read = (text: string | undefined, rule: QuantityRule, at: Omit<PanelProblem, 'message'>) => {
    if (text === undefined) return undefined;
    try {
      return readQuantity(text, rule).re;
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      problems.push({ ...at, message: error.message });
      return undefined;
    }
  };
  const own = (field: (typeof panelFields)[number]['field']) => {
    const text = panel[field];
    const { rule } = panelFields.find((f) => f.field === field)!;
    return (field === 'width' || field === 'height') && text?.trim() === ''
      ? undefined
      : read(text, rule, { field });
  };
  const margin = own('margin') ?? 0;
  const sizes = { width: own('width'), height: own('height') };
  const group = <T extends string>(
    name: string,
    fields: readonly LengthField<T>[],
    texts: Readonly<Record<T, string>> | undefined,
  ): Readonly<Record<T, number>> | undefined => {
    if (!texts) return undefined;
    const values = fields.map(
      (f) => [f.field, read(texts[f.field], f.rule, { field: `${name}.${f.field}` })] as const,
    );
    return values.every(([, v]) => v !== undefined)
      ? (Object.fromEntries(values) as Readonly<Record<T, number>>)
      : undefined;
  };
  const launches = group('launches', launchFields, panel.launches);
  const fence = group('fence', fenceFields, panel.fence);
  const [letters, marks] = [own('letters'), own('marks')];

  // Each design once, however often it is placed.
  const made = new Map<string, ReturnType<typeof designPlan>>();
  const designPlan = (id: string) => {
    const design = project.designs.find((d) => d.id === id);
    if (!design) return { problem: 'this design is no longer in the project' };
    const resolved = resolveDesign(project, design);
    const problem = unmade(resolved);
    if (problem !== undefined) return { problem };
    try {
      const plan = planOf(design.name, resolved, { etch, land });
      return plan ? { plan, design, resolved } : { problem: 'it has no copper' };
    } catch (error) {
      if (error instanceof RangeError) return { problem: `etching ${error.message}` };
      throw error;
    }
  };
  const first = panel.placed.flatMap((p) => project.designs.find((d) => d.id === p.design) ?? [])[0];
  const set = panel.placed.flatMap((placed: PlacedDesign) => {
    let one = made.get(placed.design);
    if (!one) made.set(placed.design, (one = designPlan(placed.design)));
    const x = read(placed.x, place, { placed: placed.id, field: 'x' });
    const y = read(placed.y, place, { placed: placed.id, field: 'y' });
    if (!one.plan) {
      problems.push({ placed: placed.id, message: one.problem });
      return [];
    }
    if (one.design.stack !== first.stack || one.design.medium !== first.medium)
      problems.push({
        placed: placed.id,
        message: `stands on another board than ${first.name}: a panel is of one`,
      });
    if (x === undefined || y === undefined) return [];
    const plan = placedPlan(one.plan, placed.turns ?? 0, inNm(x), inNm(y));
    const { x0, x1, y0, y1 } = boxOf(plan.board);
    const tile: Tile = {
      id: placed.id,
      name: one.design.name,
      x: x0,
      y: y0,
      width: x1 - x0,
      height: y1 - y0,
      copper: plan.outlines,
    };
    return [{ plan, tile, resolved: one.resolved }];
  });
  const tiles = set.map((s) => s.tile);
  // Said at both: whichever was moved, its field is in hand.
  for (const tile of tiles)
    for (const other of inTheWay(tile, tiles))
      problems.push({
        placed: tile.id,
        message: `overlaps ${other.name} by ${shown(overlapOf(tile, other))}`,
      });

  const outline = panel.outline;
  const reach = boxOf(
    tiles.flatMap((t): Point[] => [
      [t.x, t.y],
      [t.x + t.width, t.y + t.height],
    ]),
  );
  const wide = sizes.width ?? (tiles.length > 0 ? reach.x1 + margin : 2 * margin);
  const high = sizes.height ?? (tiles.length > 0 ? reach.y1 + margin : 2 * margin);
  const board: Ring = outline ?? [
    [0, 0],
    [wide, 0],
    [wide, high],
    [0, high],
  ];
  const { x1: right, y1: back } = boxOf(board);
  for (const tile of tiles)
    if (
      tile.x < -ROUNDING ||
      tile.y < -ROUNDING ||
      tile.x + tile.width > right + ROUNDING ||
      tile.y + tile.height > back + ROUNDING
    )
      problems.push({ placed: tile.id, message: 'reaches beyond the board' });
  if (!(right > 0 && back > 0)) return { tiles, problems };

  const outlines = set.flatMap((s) => s.plan.outlines);
  const ports = set.flatMap((s) => s.plan.ports);
  const height = set[0]?.resolved.stack?.substrate.height ?? 0;
  const least = set[0]?.resolved.stack?.minWidth ?? 0;
  const extra: Ring[] = [];
  const holes: Hole[] = set.flatMap((s) => s.plan.holes);
  if (marks) {
    const inset = Math.max(1.5 * marks, margin / 2);
    for (const [x, y] of [
      [inset, inset],
      [right - inset, inset],
      [inset, back - inset],
    ])
      extra.push(circle([x, y], marks / 2, CHORD));
  }
  if (launches) {
    const at = launchesAt(atRim(ports, board), launches, outlines);
    extra.push(...at.copper);
    holes.push(...at.holes);
  }
  if (fence && panel.fence) {
    const along = fenceAlong(board, panel.fence.sides, fence, [...outlines, ...extra], FENCE_CLEAR * height);
    extra.push(...along.copper);
    holes.push(...along.holes);
  }
  const grounds = inWhole(
    outlinesOf(extra).flatMap((ring): Ring[] => {
      const made = etch > 0 ? widened(ring, etch / 2) : ring;
      return made ? [made] : [];
    }),
  );
  const solid = [...outlines, ...grounds];
  const taken: Ring[] = [];
  const room = ({ x, y, width: w, height: h }: Tile): Ring => [
    [x, y],
    [x + w, y],
    [x + w, y + h],
    [x, y + h],
  ];
  /** What is put beside one another takes its room from what comes later. */
  const wordsOf = ({ plan, tile }: (typeof set)[number]): readonly Word[] => {
    const height = letters ?? plan.words[0]?.height;
    if (height === undefined) return [];
    const own: Word[] = [];
    const put = (words: readonly Word[]) => {
      own.push(...words);
      taken.push(...words.map(wordBox));
    };
    for (const port of plan.ports) put([portWord(port, height, around([...solid, ...taken], room(tile)))]);
    if (letters !== undefined) put(nameWords(tile.name, letters, around([...solid, ...taken], room(tile))));
    return own;
  };
  const words = set.flatMap(wordsOf);
  const lettering = letters
    ? words.flatMap((w) =>
        w.crowded
          ? []
          : etchedWord(w.text, w.height, 1.2 * least + etch).map((ring) =>
              ring.map(([x, y]): Point => [x + w.x, y + w.y]),
            ),
      )
    : [];
  const smallest = (list: readonly (number | undefined)[]) => {
    const known = list.filter((v) => v !== undefined);
    return known.length > 0 ? Math.min(...known) : undefined;
  };
  return {
    tiles,
    problems,
    plan: {
      name: panel.name,
      chord: CHORD,
      ...copperOf(solid, inWhole(lettering)),
      board,
      holes,
      ...(letters ? { words: [], etched: words } : { words, etched: [] }),
      ports,
      mounted: set.flatMap((s) => s.plan.mounted),
      narrowest: smallest(set.map((s) => s.plan.narrowest)),
      narrowestGap: smallest(set.map((s) => s.plan.narrowestGap)),
    },
  };
}
