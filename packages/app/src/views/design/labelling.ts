import type { Layout, PlacedPiece } from '@ditch/core/artwork';
import type { Design, ResolvedDesign, ResolvedPiece } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { formatQuantity, namesIn } from '@ditch/core/units';
import type { View } from './view';

/** What stands beside a piece, in pixels of the view. */
export interface Label {
  readonly id: string;
  readonly lines: readonly string[];
  /** Of the piece that is chosen or pointed at. */
  readonly full: boolean;
  readonly anchor: 'start' | 'middle' | 'end';
  readonly x: number;
  /** Base line of the first line. */
  readonly top: number;
}

export const LINE_HEIGHT = 13;
/** Width of a character at the size of labels, on the average. */
const CHARACTER = 6.2;

interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Where a label's letters lie. */
export function labelBox({ lines, anchor, x, top }: Label): Rect {
  const width = CHARACTER * Math.max(...lines.map((l) => l.length));
  const left = anchor === 'start' ? x : anchor === 'end' ? x - width : x - width / 2;
  return { x: left, y: top - 10, width, height: LINE_HEIGHT * (lines.length - 1) + 12 };
}

const overlap = (a: Rect, b: Rect): boolean =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** The words of a piece's label; none where it is not told or has no room. */
function wordsOf(piece: ResolvedPiece, full: boolean, long: number, chain: boolean): string[] {
  const { values } = piece;
  const definition = parts.get(piece.kind);
  // The sides of an outline that is open for changes are numbered instead.
  if (!values || !definition || (full && definition.outlined)) return [];
  const told = definition.label?.(values);
  if (told) {
    // Feeds only lead to the ports; what they are is asked for.
    if (!full && (long < 52 || piece.role === 'feed')) return [];
    return [
      full || (chain && long > 110) ? `${piece.name} \u00B7 ${told.what}` : told.what,
      ...(full || long > 84 ? [told.size] : []),
    ];
  }
  if (definition.bridges) {
    const face = definition.properties[0].faces[0];
    const value = formatQuantity(values[face.name].re, face.rule.kind, { digits: 3 });
    return full ? [piece.name, value] : [value];
  }
  return full || definition.impedance ? [piece.name] : [];
}

/** Middle of a piece, the direction across it, and how far its copper reaches that way, m. */
function stance(placed: PlacedPiece, width: number) {
  const path = placed.centre;
  const average = (points: readonly { x: number; y: number }[]) => ({
    x: points.reduce((sum, p) => sum + p.x, 0) / points.length,
    y: points.reduce((sum, p) => sum + p.y, 0) / points.length,
  });
  const middle =
    placed.body.length > 0 && placed.pins.length === 1
      ? average(placed.body.flat())
      : path.length > 2
        ? path[Math.floor(path.length / 2)]
        : average(path.length === 2 ? path : placed.pins);
  const ends = path.length > 1 ? [path[0], path[path.length - 1]] : placed.pins;
  const tangent =
    path.length > 1 || placed.pins.length === 2
      ? Math.atan2(ends[1].y - ends[0].y, ends[1].x - ends[0].x)
      : 0;
  const extent = placed.pins.length === 1 ? placed.body.flat().map((p) => Math.abs(p.y - middle.y)) : [];
  return { middle, tangent, half: Math.max(width / 2, ...extent) };
}

/** Ids of the pieces that have values on the tuning strip. */
export function freeOf({ strip = [], pieces }: Pick<Design, 'strip' | 'pieces'>): ReadonlySet<string> {
  const keys = new Set(strip);
  if (keys.size === 0) return new Set();
  return new Set(
    pieces.flatMap(({ id, held }) =>
      Object.entries(held).some(
        ([face, text]) =>
          keys.has(`piece:${id}:${face}`) || namesIn(text).some((name) => keys.has(`value:${name}`)),
      )
        ? [id]
        : [],
    ),
  );
}

/** Where they are, in pixels of the view. */
export function freeMarksOf(
  layout: Layout,
  free: ReadonlySet<string>,
  view: View,
): { readonly id: string; readonly x: number; readonly y: number }[] {
  if (free.size === 0) return [];
  return layout.pieces.flatMap((placed) => {
    if (!free.has(placed.id)) return [];
    const { middle } = stance(placed, 0);
    return [{ id: placed.id, x: view.sx(middle.x), y: view.sy(middle.y) }];
  });
}

/**
 * Impedance and size beside each line that has room for them, away from the middle of the board; on the other side
 * where another label stands already, and left out where that is taken too.
 */
export function labelsOf(
  layout: Layout,
  resolved: Pick<ResolvedDesign, 'pieces'>,
  view: View,
  chosen: string | undefined,
): Label[] {
  const { box } = layout;
  const centre = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  const byId = new Map(resolved.pieces.map((p) => [p.id, p]));
  const chain = box.height * view.scale < 60;
  const out: Label[] = [];
  const taken: Rect[] = [];
  // The one that is asked for finds its place first.
  const order = [...layout.pieces].sort((a, b) => Number(b.id === chosen) - Number(a.id === chosen));
  for (const placed of order) {
    const piece = byId.get(placed.id);
    const values = piece?.values;
    if (!piece || !values) continue;
    const full = placed.id === chosen;
    const lines = wordsOf(piece, full, (values.length?.re ?? 0) * view.scale, chain);
    if (lines.length === 0) continue;
    const { middle, tangent, half } = stance(placed, values.width?.re ?? 0.8e-3);
    let [nx, ny] = [-Math.sin(tangent), Math.cos(tangent)];
    if (nx * (middle.x - centre.x) + ny * (middle.y - centre.y) < -1e-9 || (chain && ny < 0))
      [nx, ny] = [-nx, -ny];
    const off = half * view.scale + 10;
    for (const side of [1, -1]) {
      const [sx, sy] = [nx * side, ny * side];
      const y = view.sy(middle.y) - sy * off;
      const label: Label = {
        id: placed.id,
        lines,
        full,
        anchor: sx > 0.35 ? 'start' : sx < -0.35 ? 'end' : 'middle',
        x: view.sx(middle.x) + sx * off,
        // Above the copper the last line stands next to it, below it the first.
        top:
          sy > 0.35
            ? y - LINE_HEIGHT * (lines.length - 1)
            : sy < -0.35
              ? y + 9
              : y - (LINE_HEIGHT / 2) * (lines.length - 1) + 4,
      };
      const rect = labelBox(label);
      if (taken.some((t) => overlap(t, rect))) continue;
      taken.push(rect);
      out.push(label);
      break;
    }
  }
  return out;
}
