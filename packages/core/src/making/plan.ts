import { layOut, nearPieces } from '../artwork';
import { areaOf, boxOf, circle, copperAround, outlinesOf, type Point, type Ring } from '../polygons';
import { formatComplex } from '../units';
import { around as aroundCopper, portWord } from './words';
import { copperOf, type BoardPlan, type BoardPort, type Hole, type Mounted } from './board';
import { surroundings, type ResolvedDesign, type ResolvedPiece } from '../network';
import { parts } from '../parts';
import { mm } from './mm';

export interface PlanOptions {
  /** By how much every line is widened to make up for etching, m; each edge by half of it. */
  readonly etch?: number;
  /** How far straight sides may be off arcs, m. */
  readonly chord?: number;
  /** Least copper around every hole, which is added where there is less, m; absent: none is. */
  readonly land?: number;
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

/** Files have whole nanometres: so has the plan, and what is said of it is true of them. */
export const inNm = (v: number): number => Math.round(v * 1e9) / 1e9;

/** Alike directions of two sides, as the cosine between them. */
const STRAIGHT = 1 - 1e-9;

/**
 * An outline with every side moved out of the copper by so much, corners carried on to where the sides meet; undefined of a hole
 * that closes.
 */
export function widened(ring: Ring, by: number): Ring | undefined {
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
  { etch = 0, chord = CHORD, land }: PlanOptions = {},
): BoardPlan | undefined {
  if (!(etch >= 0)) throw new RangeError('must be zero or more');
  const { stack } = resolved;
  if (!stack) return undefined;
  const layout = layOut(resolved, chord);
  const pieces = new Map(resolved.pieces.map((p) => [p.id, p]));
  const around = surroundings(resolved.pieces);
  const solid = layout.pieces.flatMap((p) => p.copper.map((ring) => ring.map(({ x, y }): Point => [x, y])));
  const bare = outlinesOf(solid);
  const drilled = layout.pieces.flatMap((p) => {
    const diameter = pieces.get(p.id)?.values?.hole?.re;
    return diameter === undefined
      ? []
      : p.body.map((ring) => ({
          piece: p,
          diameter,
          x: mean(ring.map((q) => q.x)),
          y: mean(ring.map((q) => q.y)),
        }));
  });
  const lands =
    land === undefined
      ? []
      : drilled.flatMap(({ x, y, diameter }): Ring[] => {
          const radius = diameter / 2 + land;
          // Wide enough by as much as its sides are off the circle.
          return copperAround(bare, [x, y]) >= radius - chord ? [] : [circle([x, y], radius + chord, chord)];
        });
  const drawn = lands.length > 0 ? outlinesOf([...solid, ...lands]) : bare;
  if (drawn.length === 0) return undefined;
  const made =
    etch > 0
      ? drawn.flatMap((ring) => {
          const wide = widened(ring, etch / 2);
          return wide ? [wide] : [];
        })
      : drawn;
  const { x0, x1, y0, y1 } = boxOf(made.flat());

  // A line that leads to a port ends where the board does.
  const margin = Math.max(ROOM, MARGIN * stack.substrate.height);
  const box = { left: x0 - margin, right: x1 + margin, low: y0 - margin, high: y1 + margin };
  const connectors = layout.pieces.filter((p) => parts.get(p.kind)?.connects);
  // Where a port has a connector its line begins behind that.
  const ports = layout.pieces.flatMap(({ id, kind, pins: [pin] }) => {
    if (kind !== 'port') return [];
    const [node] = pieces.get(id)!.nodes;
    const behind = connectors.find((c) => pieces.get(c.id)!.nodes[0] === node);
    return [
      { id, pin: behind?.pins[1] ?? pin, line: behind ? ([behind.id, 1] as const) : ([id, 0] as const) },
    ];
  });
  const widthAt = ([id, pin]: readonly [string, number]) => around.neighbour(pieces.get(id)!, pin) ?? 0;
  const near = (a: number, b: number) => Math.abs(a - b) < etch + 1e-8;
  for (const { pin } of ports) {
    const { x, y } = pin;
    if (near(x, x0)) box.left = x0;
    if (near(x, x1)) box.right = x1;
    if (near(y, y0)) box.low = y0;
    if (near(y, y1)) box.high = y1;
  }
  const at = (x: number, y: number): Point => [inNm(x - box.left), inNm(y - box.low)];
  const holes = drilled.map(({ piece: p, diameter, x: cx, y: cy }): Hole => {
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
  const numberOf = (id: string) => pieces.get(id)?.settings.number ?? '';
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
  const copper = copperOf(made.map((ring) => ring.map(([x, y]) => at(x, y))));
  const ends = ports.map(({ id, pin, line }): BoardPort => {
    const [x, y] = at(pin.x, pin.y);
    return {
      number: numberOf(id),
      x,
      y,
      angle: pin.angle + Math.PI,
      width: widthAt(line),
    };
  });
  const board: Ring = [
    at(box.left, box.low),
    at(box.right, box.low),
    at(box.right, box.high),
    at(box.left, box.high),
  ];
  const words = ends.map((port) => portWord(port, LETTER, aroundCopper(copper.outlines, board, LETTER)));
  return {
    name,
    chord,
    ...copper,
    board,
    origin: at(0, 0),
    holes,
    words,
    etched: [],
    ports: ends,
    mounted: layout.pieces.flatMap((p): Mounted[] => {
      const piece = pieces.get(p.id)!;
      const part = parts.get(p.kind);
      if (!part?.bridges && !part?.connects) return [];
      const [a, b] = p.pins;
      const [x, y] = at((a.x + b.x) / 2, (a.y + b.y) / 2);
      return [
        {
          name: piece.name,
          design: name,
          kind: p.kind,
          what: part.name,
          value: valueOf(piece),
          x,
          y,
          angle: Math.atan2(b.y - a.y, b.x - a.x),
          outline: (p.body[0] ?? []).map((q) => at(q.x, q.y)),
          ...(part.connects && { connector: true as const }),
        },
      ];
    }),
    narrowest: widths.length > 0 ? Math.min(...widths) + etch : undefined,
    narrowestGap: gap === undefined ? undefined : Math.max(0, gap - etch),
  };
}

/** What a piece is in numbers, as lists have it. */
function valueOf(piece: ResolvedPiece): string {
  const part = parts.get(piece.kind);
  return (part?.tells ?? [])
    .flatMap(({ face }) => {
      const value = piece.values?.[face];
      const rule = part?.properties.flatMap((p) => p.faces).find((f) => f.name === face)?.rule;
      if (!value || !rule) return [];
      return [formatComplex(value.re, value.im, rule.kind, { typed: true })];
    })
    .join(', ');
}

/** Why a design cannot be made, in words; undefined of one that can. */
export function unmade(resolved: ResolvedDesign): string | undefined {
  const [problem] = resolved.problems.filter(
    (p) => p.place.kind === 'piece' || p.place.kind === 'value' || p.place.kind === 'stack',
  );
  const wrong = resolved.pieces.find((p) => !p.values);
  return problem?.message ?? (wrong && `${wrong.name} has an error`);
}

const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / list.length;
