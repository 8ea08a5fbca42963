import { GROUND, newId, type Design, type Piece } from '../network';
import { parts, type PartDefinition, type Variant } from '../parts';
import { DECIMAL } from '../units';

/** Pure changes of a design's document: what growing, inserting and joining are made of. */

/** One pin of one piece of the document. */
export interface PinOf {
  readonly piece: Piece;
  readonly pin: number;
}

/** Pins by their nodes, kept as long as the pieces are: walks ask for them again and again. */
const pinned = new WeakMap<Design['pieces'], ReadonlyMap<string, readonly PinOf[]>>();

export function pinsAtNode({ pieces }: Design, node: string): readonly PinOf[] {
  let known = pinned.get(pieces);
  if (!known) {
    const found = new Map<string, PinOf[]>();
    for (const piece of pieces)
      piece.nodes.forEach((n, pin) => {
        if (n !== GROUND) (found.get(n) ?? found.set(n, []).get(n)!).push({ piece, pin });
      });
    pinned.set(pieces, (known = found));
  }
  return known.get(node) ?? [];
}

/** Nodes that only one pin stands at, in the order of the pieces. */
export const openNodes = (design: Design): string[] => {
  const count = new Map<string, number>();
  for (const p of design.pieces)
    for (const n of p.nodes) if (n !== GROUND) count.set(n, (count.get(n) ?? 0) + 1);
  return [...count].filter(([, n]) => n === 1).map(([node]) => node);
};

/** A node that nothing stands at yet. */
export const freshNode = (): string => `n${newId()}`;

/** A name that no piece has: `line`, then `line 2` … */
export function freshName(design: Design, base: string): string {
  const names = new Set(design.pieces.map((p) => p.name));
  if (!names.has(base)) return base;
  let n = 2;
  while (names.has(`${base} ${n}`)) n++;
  return `${base} ${n}`;
}

/** The number of the next port, as text. */
export function nextPort(design: Design): string {
  const used = new Set(design.pieces.filter((p) => p.kind === 'port').map((p) => Number(p.settings?.number)));
  let n = 1;
  while (used.has(n)) n++;
  return String(n);
}

/** The part and the variant that a menu entry stands for. */
export function variantOf(id: string): { part: PartDefinition; variant: Variant } | undefined {
  for (const part of parts.values())
    for (const variant of part.variants) if (variant.id === id) return { part, variant };
  return undefined;
}

/** Renames a node everywhere. */
export const renameNode = (design: Design, from: string, to: string): Design => ({
  ...design,
  pieces: design.pieces.map((p) =>
    p.nodes.includes(from) ? { ...p, nodes: p.nodes.map((n) => (n === from ? to : n)) } : p,
  ),
});

/** Moves one pin of a piece to another node. */
export const moveToNode = (design: Design, piece: string, pin: number, node: string): Design => ({
  ...design,
  pieces: design.pieces.map((p) =>
    p.id === piece ? { ...p, nodes: p.nodes.map((n, i) => (i === pin ? node : n)) } : p,
  ),
});

export const replacePiece = (design: Design, id: string, change: (p: Piece) => Piece): Design => ({
  ...design,
  pieces: design.pieces.map((p) => (p.id === id ? change(p) : p)),
});

/** Puts pieces into the list after another, so that the ledger reads along the path. */
export function addAfter(design: Design, after: string | undefined, added: readonly Piece[]): Design {
  const at = after === undefined ? -1 : design.pieces.findIndex((p) => p.id === after);
  const pieces = [...design.pieces];
  pieces.splice(at < 0 ? pieces.length : at + 1, 0, ...added);
  return { ...design, pieces };
}

/** What a line that starts at a node holds across, taken from the nearest line there. */
export function acrossAt(design: Design, node: string): Readonly<Record<string, string>> | undefined {
  const seen = new Set<string>();
  let edge = [node];
  for (let step = 0; step < 3 && edge.length > 0; step++) {
    const next: string[] = [];
    for (const n of edge)
      for (const { piece } of pinsAtNode(design, n)) {
        if (seen.has(piece.id)) continue;
        seen.add(piece.id);
        if (parts.get(piece.kind)?.line) {
          if (piece.held.z0 !== undefined) return { z0: piece.held.z0 };
          if (piece.held.width !== undefined) return { width: piece.held.width };
        }
        if (piece.kind === 'port' && piece.held.z !== undefined && !/j/.test(piece.held.z))
          return { z0: piece.held.z };
        if (parts.get(piece.kind)?.fits) next.push(...piece.nodes);
      }
    edge = next;
  }
  return undefined;
}

const PLAIN = new RegExp(`^\\s*([+-]?${DECIMAL})\\s*([A-Za-z\u00B5\u03A9\u00B0%]+)\\s*$`);

/** A share of a quantity's text: a plain one is worked out, an expression keeps its form. */
export function shareOf(text: string, share: number): string {
  const plain = PLAIN.exec(text);
  if (plain) return `${Number((Number(plain[1]) * share).toPrecision(12))} ${plain[2]}`;
  const factor = String(Number(share.toPrecision(12)));
  return /[+-]/.test(text.trim().slice(1)) ? `${factor}*(${text.trim()})` : `${factor}*${text.trim()}`;
}
