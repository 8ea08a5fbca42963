import { GROUND, surroundings, type ResolvedDesign, type ResolvedPiece } from '../network';
import { MOUNTED_SPAN, mountedWidth, parts, type Artwork, type ArtworkPin, type Point } from '../parts';

/** A piece put in its place on the board; m, y up. */
export interface PlacedPiece {
  readonly id: string;
  readonly kind: string;
  readonly copper: readonly (readonly Point[])[];
  readonly body: readonly (readonly Point[])[];
  readonly pins: readonly ArtworkPin[];
  /** Centre line along which a length is measured; empty where there is none. */
  readonly centre: readonly Point[];
  /** It stands between two pins that other pieces have placed. */
  readonly bridges?: boolean;
}

/** Two pins that are joined in the document and stand apart on the copper. */
export interface Closure {
  readonly node: string;
  /** Piece that stands where the node was placed first, and the one that does not meet it. */
  readonly first: string;
  readonly second: string;
  /** From the first to the second, m. */
  readonly dx: number;
  readonly dy: number;
  /** Angle by which the two directions miss each other, radians. */
  readonly angle: number;
  /** A mounted part whose span does not fit: the distance it would have to bridge, m. */
  readonly span?: number;
}

export interface Layout {
  readonly pieces: readonly PlacedPiece[];
  readonly closures: readonly Closure[];
  /** Where each node stands first. */
  readonly nodes: ReadonlyMap<string, ArtworkPin>;
  /** Bounding box of everything, m. */
  readonly box: { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
}

/** Distance in m below which two places are the same: far below what can be etched. */
export const SAME_PLACE = 5e-6;
/** A mounted part bridges distances that differ from its span by this share. */
const SPAN_TOLERANCE = 0.1;

const turnedBy = (angle: number): number => Math.abs(Math.atan2(Math.sin(angle), Math.cos(angle)));

/**
 * Places the pieces of a design pin to pin, starting at its first port and walking along the nodes. Geometry comes
 * from the electrical document alone; nothing is drawn by hand. Where a walk comes back to a node that is placed
 * already, the distance left is a closure.
 * @param chord how far straight sides may be off an arc, m; absent: as the screen and the field solution take it
 */
export function layOut(resolved: Pick<ResolvedDesign, 'pieces' | 'stack'>, chord?: number): Layout {
  const drawable = resolved.pieces.filter((p) => p.values && parts.has(p.kind));
  const around = surroundings(drawable);
  const widths = drawable.flatMap((p) => (p.values?.width ? [p.values.width.re] : []));
  const common = widths.length > 0 ? widths[0] : (resolved.stack?.substrate.height ?? 1e-3);

  const placed = new Map<string, PlacedPiece>();
  const nodes = new Map<string, ArtworkPin>();
  const drawn = (piece: ResolvedPiece): Artwork =>
    parts.get(piece.kind)!.artwork(piece.values!, {
      pins: piece.nodes.length,
      settings: piece.settings,
      facts: piece.facts,
      // Behind a mounted part stands a pad for it, however wide the lines are.
      width: (pin) =>
        around.neighbour(piece, pin) ??
        (around.bare(piece, pin) ? Math.min(common, mountedWidth(MOUNTED_SPAN)) : common),
      met: (pin) => around.neighbour(piece, pin),
      setback: (pin) => around.setback(piece, pin),
      chord,
    });

  const queue: string[] = [];
  const settle = (piece: ResolvedPiece, result: PlacedPiece) => {
    placed.set(piece.id, result);
    piece.nodes.forEach((node, i) => {
      if (node === GROUND || nodes.has(node)) return;
      nodes.set(node, result.pins[i]);
      queue.push(node);
    });
  };
  const moved = (turn: number, from: Point, to: Point) => {
    const c = Math.cos(turn);
    const s = Math.sin(turn);
    return (p: Point): Point => ({
      x: to.x + (p.x - from.x) * c - (p.y - from.y) * s,
      y: to.y + (p.x - from.x) * s + (p.y - from.y) * c,
    });
  };
  const put = (piece: ResolvedPiece, own: Artwork, turn: number, from: Point, to: Point, bridges = false) => {
    const move = moved(turn, from, to);
    settle(piece, {
      id: piece.id,
      kind: piece.kind,
      copper: own.copper.map((polygon) => polygon.map(move)),
      body: (own.body ?? []).map((polygon) => polygon.map(move)),
      pins: own.pins.map((p) => ({ ...move(p), angle: p.angle + turn })),
      centre: (own.centre ?? []).map(move),
      ...(bridges ? { bridges } : {}),
    });
  };
  /** Places a piece with a pin at a place, looking against it. */
  const join = (piece: ResolvedPiece, pin: number, at: ArtworkPin) => {
    const own = drawn(piece);
    put(piece, own, at.angle + Math.PI - own.pins[pin].angle, own.pins[pin], at);
  };
  const waiting: ResolvedPiece[] = [];
  const walk = () => {
    for (;;) {
      for (let node = queue.shift(); node !== undefined; node = queue.shift()) {
        const at = nodes.get(node)!;
        for (const { piece, pin } of around.byNode.get(node) ?? []) {
          if (placed.has(piece.id) || waiting.includes(piece)) continue;
          if (parts.get(piece.kind)!.bridges) waiting.push(piece);
          else join(piece, pin, at);
        }
      }
      // Mounted parts come last: by then it is known whether they bridge two places or lead on to the second.
      const index = waiting.findIndex((p) => p.nodes.every((n) => nodes.has(n)));
      const next = index >= 0 ? waiting.splice(index, 1)[0] : waiting.shift();
      if (!next) return;
      const [a, b] = next.nodes.map((n) => nodes.get(n));
      const own = drawn(next);
      if (a && b && next.nodes[0] !== next.nodes[1]) {
        const turn = Math.atan2(b.y - a.y, b.x - a.x);
        const span = own.pins[1].x;
        const middle = { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 };
        put(next, own, turn, { x: span / 2, y: 0 }, middle, true);
      } else {
        const pin = a ? 0 : 1;
        const at = (a ?? b)!;
        // To ground it stands beside the line, not in its way.
        const other = next.nodes[1 - pin];
        const aside = other === GROUND ? Math.PI / 2 : 0;
        join(next, pin, { ...at, angle: at.angle + aside });
      }
    }
  };
  const first = drawable.find((p) => p.kind === 'port' && p.settings.number === '1') ?? drawable[0];
  for (const root of first ? [first, ...drawable] : []) {
    if (placed.has(root.id)) continue;
    const below = Math.min(
      0,
      ...[...placed.values()].flatMap((p) => [...p.copper.flat(), ...p.pins].map((q) => q.y)),
    );
    const start: ArtworkPin = { x: 0, y: placed.size === 0 ? 0 : below - 4 * common, angle: 0 };
    if (root.nodes.length === 1 && !parts.get(root.kind)!.widths) {
      // A port or a load at the beginning looks along +x, where its neighbour goes on.
      const own = drawn(root);
      put(root, own, -own.pins[0].angle, own.pins[0], start);
    } else join(root, 0, start);
    walk();
  }

  const closures: Closure[] = [];
  const span = new Set<string>();
  for (const [node, at] of nodes) {
    const pins = (around.byNode.get(node) ?? []).filter(({ piece }) => placed.has(piece.id));
    const solid = pins.filter(({ piece }) => !placed.get(piece.id)!.bridges);
    solid.forEach(({ piece, pin }, i) => {
      const here = placed.get(piece.id)!.pins[pin];
      const dx = here.x - at.x;
      const dy = here.y - at.y;
      const facing =
        solid.length === 2 && i === 1 && pins[0].piece !== piece
          ? turnedBy(here.angle - placed.get(solid[0].piece.id)!.pins[solid[0].pin].angle + Math.PI)
          : 0;
      const angle = solid.some(({ piece: p }) => p.kind === 'port') ? 0 : facing;
      if (Math.hypot(dx, dy) > SAME_PLACE || angle > 0.01)
        closures.push({ node, first: solid[0].piece.id, second: piece.id, dx, dy, angle });
    });
    for (const { piece } of pins) {
      const own = placed.get(piece.id)!;
      if (!own.bridges || span.has(piece.id)) continue;
      span.add(piece.id);
      const [a, b] = piece.nodes.map((n) => nodes.get(n)!);
      const distance = Math.hypot(b.x - a.x, b.y - a.y);
      const wanted = piece.values!.span.re;
      if (Math.abs(distance - wanted) > SPAN_TOLERANCE * wanted)
        closures.push({
          node,
          first: piece.id,
          second: piece.id,
          dx: b.x - a.x,
          dy: b.y - a.y,
          angle: 0,
          span: distance,
        });
    }
  }

  const pieces = [...placed.values()];
  const points = pieces.flatMap((p) => [...p.copper.flat(), ...p.body.flat(), ...p.pins]);
  const xs = points.map((p) => p.x);
  const ys = points.map((p) => p.y);
  const x = Math.min(0, ...xs);
  const y = Math.min(0, ...ys);
  return {
    pieces,
    closures,
    nodes,
    box: { x, y, width: Math.max(0, ...xs) - x, height: Math.max(0, ...ys) - y },
  };
}

/**
 * How far each pin stands from where its node was placed first, x and y in turn, m; nothing but where a ring stays
 * open. Mounted parts, which bridge what is placed, are left out.
 */
export function openings(resolved: Pick<ResolvedDesign, 'pieces' | 'stack'>): number[] {
  const { nodes, pieces } = layOut(resolved);
  return pieces.flatMap((piece) => {
    if (piece.bridges) return [];
    const own = resolved.pieces.find((p) => p.id === piece.id)!;
    return own.nodes.flatMap((node, i) => {
      const at = nodes.get(node);
      return at ? [piece.pins[i].x - at.x, piece.pins[i].y - at.y] : [];
    });
  });
}
