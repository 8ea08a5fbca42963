import { parts, type Corner, type Turn } from '../parts';
import type { ResolvedPiece } from './resolve';
import { GROUND } from './joined';

/** One pin of one piece. */
export interface PinAt<P = ResolvedPiece> {
  readonly piece: P;
  readonly pin: number;
}

/** Which pins meet at each node; ground is not listed. */
export function pinsByNode<P extends { readonly nodes: readonly string[] }>(
  pieces: readonly P[],
): Map<string, PinAt<P>[]> {
  const map = new Map<string, PinAt<P>[]>();
  for (const piece of pieces)
    piece.nodes.forEach((node, pin) => {
      if (node === GROUND) return;
      const list = map.get(node);
      if (list) list.push({ piece, pin });
      else map.set(node, [{ piece, pin }]);
    });
  return map;
}

/** What the pins of a piece meet: widths of the copper there, and how far junctions reach into the piece. */
export interface Surroundings {
  readonly byNode: ReadonlyMap<string, readonly PinAt[]>;
  /** Width in m of the copper that meets a pin; lines count before junctions. */
  neighbour(piece: ResolvedPiece, pin: number): number | undefined;
  /** Gap in m between the strip that meets a pin and the one coupled to it. */
  beside(piece: ResolvedPiece, pin: number): number | undefined;
  /** Whether a mounted part and no line meets a pin. */
  bare(piece: ResolvedPiece, pin: number): boolean;
  /** Width in m of the line that ends at a pin of a mounted part; undefined where copper goes on or there is none. */
  pad(piece: ResolvedPiece, pin: number): number | undefined;
  /** By how much the copper at a pin goes on before it ends open, m; undefined where it does not. */
  open(piece: ResolvedPiece, pin: number): number | undefined;
  /** The corner that alone meets a pin. */
  corner(piece: ResolvedPiece, pin: number): Corner | undefined;
  /** What turns along the line beyond a pin, as one goes away from there. */
  turns(piece: ResolvedPiece, pin: number): readonly Turn[];
  /** Length of the piece at a pin that junctions cover with copper of their own, m. */
  setback(piece: ResolvedPiece, pin: number): number;
}

/** So many pieces on nobody looks for what turns. */
const FURTHEST = 4;

export function surroundings(pieces: readonly ResolvedPiece[]): Surroundings {
  const byNode = pinsByNode(pieces);
  const others = (piece: ResolvedPiece, pin: number): PinAt[] =>
    (byNode.get(piece.nodes[pin]) ?? []).filter((o) => o.piece !== piece || o.pin !== pin);
  /** @param passed points behind which nobody looks a second time: they may stand in a ring */
  const setback = (piece: ResolvedPiece, pin: number, passed: readonly ResolvedPiece[] = []): number => {
    let most = 0;
    for (const other of others(piece, pin)) {
      const definition = parts.get(other.piece.kind);
      if (definition?.point && !passed.includes(other.piece))
        most = Math.max(most, setback(other.piece, 1 - other.pin, [...passed, other.piece]));
      if (!other.piece.values || !definition?.setbacks) continue;
      most = Math.max(most, definition.setbacks(other.piece.values, other.piece.settings)[other.pin] ?? 0);
    }
    return most;
  };
  /** What meets a pin where that is one piece, at which pin of it. */
  const only = (piece: ResolvedPiece, pin: number) => {
    const [met, ...more] = others(piece, pin);
    if (!met || more.length > 0) return undefined;
    const { kind, values, settings } = met.piece;
    return values && { piece: met.piece, kind, values, settings, pin: met.pin };
  };
  return {
    byNode,
    neighbour(piece, pin) {
      let found: number | undefined;
      for (const other of others(piece, pin)) {
        const definition = parts.get(other.piece.kind);
        if (!other.piece.values || !definition?.widths) continue;
        const width = definition.widths(other.piece.values, other.piece.settings)[other.pin];
        if (width === undefined) continue;
        if (definition.line) return width;
        found ??= width;
      }
      return found;
    },
    beside(piece, pin) {
      for (const other of others(piece, pin)) {
        const gap = other.piece.values && parts.get(other.piece.kind)?.gaps?.(other.piece.values)[other.pin];
        if (gap !== undefined) return gap;
      }
      return undefined;
    },
    bare(piece, pin) {
      const met = others(piece, pin).map((o) => parts.get(o.piece.kind));
      return met.some((d) => d?.bridges) && !met.some((d) => d?.widths !== undefined);
    },
    pad(piece, pin) {
      const met = byNode.get(piece.nodes[pin]) ?? [];
      const [mounted, copper] = [true, false].map((is) =>
        met.filter((o) => Boolean(parts.get(o.piece.kind)?.bridges) === is),
      );
      // Of several parts on one pad the first one tells of it.
      if (copper.length !== 1 || mounted[0]?.piece !== piece || mounted[0].pin !== pin) return undefined;
      const { kind, values, settings } = copper[0].piece;
      // A pad inside of a junction has the rim of that.
      if (!values || setback(piece, pin) > 0) return undefined;
      return parts.get(kind)?.widths?.(values, settings)[copper[0].pin];
    },
    open: (piece, pin) => {
      const met = only(piece, pin);
      return met && parts.get(met.kind)?.opens?.(met.values);
    },
    corner(piece, pin) {
      const met = only(piece, pin);
      const corner = met && parts.get(met.kind)?.corner?.(met.values, met.settings);
      return corner && met.pin > 0 ? { ...corner, angle: -corner.angle } : corner;
    },
    turns(piece, pin) {
      const found: Turn[] = [];
      const passed = [piece];
      let at = 0;
      for (let met = only(piece, pin); met && !passed.includes(met.piece);) {
        const way = parts.get(met.kind)?.way?.(met.values, met.settings, met.pin);
        if (!way || passed.length > FURTHEST) break;
        for (const turn of way.turns) found.push({ ...turn, from: at + turn.from, to: at + turn.to });
        at += way.length;
        passed.push(met.piece);
        met = only(met.piece, 1 - met.pin);
      }
      return found;
    },
    setback: (piece, pin) => setback(piece, pin),
  };
}
