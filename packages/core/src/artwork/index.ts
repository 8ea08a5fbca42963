import type { ResolvedDesign } from '../network';
import { parts, type Artwork, type ArtworkPin, type Point } from '../parts';

/** A piece put in its place on the board. */
export interface PlacedPiece {
  readonly id: string;
  readonly kind: string;
  readonly copper: readonly (readonly Point[])[];
  readonly body: readonly (readonly Point[])[];
  readonly pins: readonly ArtworkPin[];
}

export interface Layout {
  readonly pieces: readonly PlacedPiece[];
  /** Bounding box of everything, m. */
  readonly box: { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
}

/**
 * Places the pieces of a design pin to pin, starting at its first port and walking along the nodes. Geometry comes
 * from the electrical document alone; nothing is drawn by hand.
 */
export function layOut(resolved: ResolvedDesign): Layout {
  const drawable = resolved.pieces.filter((p) => p.values && parts.has(p.kind));
  const widths = drawable.flatMap((p) => (p.values?.width ? [p.values.width.re] : []));
  const common = widths.length > 0 ? widths[0] : (resolved.stack?.substrate.height ?? 1e-3);
  const widthAt = (node: string): number => {
    const neighbour = drawable.find((p) => p.values?.width && p.nodes.includes(node));
    return neighbour?.values?.width?.re ?? common;
  };
  const placed = new Map<string, PlacedPiece>();
  const place = (id: string, at: ArtworkPin, pin: number) => {
    const piece = drawable.find((p) => p.id === id)!;
    const own: Artwork = parts
      .get(piece.kind)!
      .artwork(piece.values!, widthAt(piece.nodes[pin]), piece.nodes.length);
    const join = own.pins[pin];
    // The piece's pin looks against the one it joins.
    const turn = at.angle + Math.PI - join.angle;
    const c = Math.cos(turn);
    const s = Math.sin(turn);
    const move = (p: Point): Point => ({
      x: at.x + (p.x - join.x) * c - (p.y - join.y) * s,
      y: at.y + (p.x - join.x) * s + (p.y - join.y) * c,
    });
    placed.set(id, {
      id,
      kind: piece.kind,
      copper: own.copper.map((polygon) => polygon.map(move)),
      body: (own.body ?? []).map((polygon) => polygon.map(move)),
      pins: own.pins.map((p) => ({ ...move(p), angle: p.angle + turn })),
    });
  };
  const queue: { node: string; at: ArtworkPin }[] = [];
  const enqueue = (id: string) => {
    const piece = drawable.find((p) => p.id === id)!;
    piece.nodes.forEach((node, i) => queue.push({ node, at: placed.get(id)!.pins[i] }));
  };
  const first = drawable.find((p) => p.kind === 'port' && p.settings.number === '1') ?? drawable[0];
  for (const root of first ? [first, ...drawable] : []) {
    if (placed.has(root.id)) continue;
    const below = Math.max(0, ...[...placed.values()].flatMap((p) => p.copper.flat().map((q) => q.y)));
    const start: ArtworkPin = { x: 0, y: placed.size === 0 ? 0 : below + 4 * common, angle: 0 };
    if (root.kind === 'port') {
      placed.set(root.id, { id: root.id, kind: 'port', copper: [], body: [], pins: [start] });
      queue.push({ node: root.nodes[0], at: start });
    } else {
      place(root.id, start, 0);
      enqueue(root.id);
    }
    for (let next = queue.shift(); next; next = queue.shift()) {
      const { node, at } = next;
      for (const piece of drawable) {
        const pin = piece.nodes.indexOf(node);
        if (pin < 0 || placed.has(piece.id)) continue;
        place(piece.id, at, pin);
        enqueue(piece.id);
      }
    }
  }
  const pieces = [...placed.values()];
  const points = pieces.flatMap((p) => [...p.copper.flat(), ...p.body.flat(), ...p.pins]);
  const xs = points.map((p) => p.x);
  const ys = points.map((p) => p.y);
  const x = Math.min(0, ...xs);
  const y = Math.min(0, ...ys);
  return { pieces, box: { x, y, width: Math.max(0, ...xs) - x, height: Math.max(0, ...ys) - y } };
}
