import {
  GROUND,
  mapPiece,
  namesBehind,
  newId,
  renamedIn,
  type Design,
  type NamedValue,
  type Piece,
} from '../network';
import { parts } from '../parts';
import { freshName, freshNode, nextPort, pinsAtNode, replacePiece } from './document';
import { GrowError } from './grow';
import { changeAsked } from './hold';

/** Pieces carried from one place to another, with the named values they use. */
export interface Clip {
  readonly pieces: readonly Piece[];
  /** The node at which it is joined on. */
  readonly root: string;
  readonly values: readonly NamedValue[];
}

/**
 * Ids of the pieces that lie beyond a pin: all that is reached from its node without passing the piece itself. A ring
 * that comes back to the piece ends there.
 */
export function beyond(design: Design, piece: string, pin: number): string[] {
  const start = design.pieces.find((p) => p.id === piece);
  if (!start) return [];
  const found = new Set<string>();
  const queue = [start.nodes[pin]];
  const seen = new Set<string>();
  for (let node = queue.shift(); node !== undefined; node = queue.shift()) {
    if (seen.has(node)) continue;
    seen.add(node);
    for (const { piece: next } of pinsAtNode(design, node)) {
      if (next.id === piece || found.has(next.id)) continue;
      found.add(next.id);
      queue.push(...next.nodes.filter((n) => n !== GROUND));
    }
  }
  return [...found];
}

/** Mirrors pieces: what turned left turns right. */
export function mirrorPieces(design: Design, ids: readonly string[]): Design {
  return ids.reduce(
    (d, id) =>
      replacePiece(d, id, (p) => {
        const part = parts.get(p.kind);
        const mirrored = part?.mirrored?.(p.held, p.settings ?? {});
        if (!mirrored) return p;
        const { held, settings } = mirrored;
        const turned = { ...p, held, ...(Object.keys(settings).length > 0 ? { settings } : {}) };
        return changeAsked(turned, (asked) => part?.mirrored?.(asked, {}).held ?? asked);
      }),
    design,
  );
}

/** The values that texts use, with those that they use in turn. */
function valuesFor(design: Design, pieces: readonly Piece[]): NamedValue[] {
  const texts: string[] = [];
  for (const p of pieces) mapPiece(p, (text) => (texts.push(text), text));
  const wanted = namesBehind(design, texts);
  return design.values.filter((v) => wanted.has(v.name) && v.name !== 'f0');
}

/** Takes pieces into a clip; `root` is the node at which they will be joined on. */
export function clipOf(design: Design, ids: readonly string[], root: string): Clip {
  const pieces = design.pieces.filter((p) => ids.includes(p.id));
  if (pieces.length === 0) throw new GrowError('there is nothing to copy here');
  return { pieces, root, values: valuesFor(design, pieces) };
}

/** A clip of one piece, or of a piece and everything beyond its pins but the first. */
export function clipBranch(design: Design, piece: string): Clip {
  const start = design.pieces.find((p) => p.id === piece);
  if (!start) throw new GrowError('the piece is not in the design any more');
  const root = start.nodes[0];
  const back = new Set(beyond(design, piece, 0));
  const ids = [piece];
  start.nodes.forEach((_n, pin) => {
    if (pin === 0) return;
    const reached = beyond(design, piece, pin);
    // A side that leads back around a ring is not a branch.
    if (!reached.some((id) => back.has(id))) ids.push(...reached);
  });
  return clipOf(design, ids, root);
}

/**
 * Joins a copy of a clip to a node (or sets it beside the design without one). Values that the design has not come
 * along; one that means something else here takes a new name.
 */
export function paste(
  design: Design,
  clip: Clip,
  node: string | undefined,
  mirrored = false,
): { design: Design; pieces: readonly string[] } {
  const values = [...design.values];
  const renamed = new Map<string, string>();
  for (const v of clip.values) {
    const here = values.find((x) => x.name === v.name);
    if (here && here.value === v.value) continue;
    let name = v.name;
    for (let n = 2; values.some((x) => x.name === name); n++) name = `${v.name}_${n}`;
    if (name !== v.name) renamed.set(v.name, name);
    values.push({ ...v, name });
  }
  const swap = (text: string): string => renamedIn(text, renamed);
  let next: Design = {
    ...design,
    values: values.map((v) => (design.values.includes(v) ? v : { ...v, value: swap(v.value) })),
  };
  const nodes = new Map<string, string>([[GROUND, GROUND]]);
  nodes.set(clip.root, node ?? freshNode());
  const added: string[] = [];
  for (const p of clip.pieces) {
    const id = newId();
    const copied = p.nodes.map((n) => {
      const known = nodes.get(n) ?? freshNode();
      nodes.set(n, known);
      return known;
    });
    const number = p.kind === 'port' ? nextPort(next) : undefined;
    const own = mapPiece(p, swap);
    const copy: Piece = {
      ...own,
      id,
      name: number === undefined ? freshName(next, p.name.replace(/ \d+$/, '')) : `port ${number}`,
      nodes: copied,
    };
    const settings = {
      ...own.settings,
      ...(number === undefined ? {} : { number }),
    };
    next = {
      ...next,
      pieces: [...next.pieces, Object.keys(settings).length > 0 ? { ...copy, settings } : copy],
    };
    added.push(id);
  }
  return { design: mirrored ? mirrorPieces(next, added) : next, pieces: added };
}
