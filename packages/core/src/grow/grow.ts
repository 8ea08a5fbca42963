import { GROUND, newId, type Design, type Piece } from '../network';
import { changeAsked } from './hold';
import { parts, type PartSettings } from '../parts';
import {
  acrossAt,
  addAfter,
  freshName,
  freshNode,
  moveToNode,
  nextPort,
  pinsAtNode,
  renameNode,
  replacePiece,
  shareOf,
  variantOf,
} from './document';

/** A change that cannot be made, in words. */
export class GrowError extends Error {}

/** What a growth led to: the new design, the piece to select, and the node to go on from. */
export interface Grown {
  readonly design: Design;
  readonly piece: string;
  readonly node?: string;
}

/** Makes a piece of a variant: fitting the line it meets, with nodes of its own but for the pin it is entered by. */
export function makePiece(design: Design, id: string, node: string | undefined, data?: string): Piece {
  const found = variantOf(id);
  if (!found) throw new GrowError(`there is no part "${id}"`);
  const { part, variant } = found;
  const settings: PartSettings = {
    ...variant.settings,
    ...(part.kind === 'port' ? { number: nextPort(design) } : {}),
    ...(data === undefined ? {} : { data }),
  };
  const met = node === undefined ? undefined : acrossAt(design, node);
  const held: Record<string, string> = { ...variant.held };
  if (part.line && met) {
    delete held.z0;
    Object.assign(held, met);
  }
  // What a port is measured against is a choice for all ports, not what its line happens to be.
  if (part.kind === 'port') held.z = firstReference(design) ?? held.z;
  const count = part.pins(settings, () => undefined);
  const nodes = Array.from({ length: count }, () => freshNode());
  if (node !== undefined) nodes[variant.enter ?? 0] = node;
  return {
    id: newId(),
    name: part.kind === 'port' ? `port ${settings.number}` : freshName(design, part.name),
    kind: part.kind,
    held,
    ...(Object.keys(settings).length > 0 ? { settings } : {}),
    nodes,
  };
}

/** The reference of the first port there is. */
const firstReference = (design: Design): string | undefined =>
  design.pieces
    .filter((p) => p.kind === 'port')
    .sort((a, b) => Number(a.settings?.number) - Number(b.settings?.number))[0]?.held.z;

/** The node after a piece when one goes on from it: its first pin that nothing else stands at. */
const onwards = (design: Design, piece: Piece): string | undefined =>
  piece.nodes.find((n) => n !== GROUND && pinsAtNode(design, n).length === 1);

/**
 * Grows a part at a node. At an open pin it is joined on; between two pieces a part with two pins goes in between, and
 * one that branches off gets a tee.
 * @param variant id of a part's variant
 * @param pins number of pins of imported data
 * @throws GrowError in words
 */
export function grow(
  design: Design,
  node: string | undefined,
  variant: string,
  data?: { readonly id: string; readonly ports: number },
): Grown {
  if (node === undefined) {
    const piece = fitted(makePiece(design, variant, undefined, data?.id), data);
    const next = { ...design, pieces: [...design.pieces, piece] };
    return { design: next, piece: piece.id, node: onwards(next, piece) };
  }
  const standing = pinsAtNode(design, node);
  if (standing.length === 0) throw new GrowError('nothing stands at this pin any more');
  const before = standing[0].piece.id;
  const piece = fitted(makePiece(design, variant, node, data?.id), data);
  if (standing.length === 1) {
    const next = addAfter(design, before, [piece]);
    return { design: next, piece: piece.id, node: onwards(next, piece) };
  }
  const definition = parts.get(piece.kind)!;
  if (piece.nodes.length === 2 && !definition.bridges) {
    // In between: the second neighbour moves on to the new piece's other pin.
    const enter = piece.nodes.indexOf(node);
    const other = piece.nodes[1 - enter];
    const last = standing[standing.length - 1];
    const next = addAfter(moveToNode(design, last.piece.id, last.pin, other), before, [piece]);
    return { design: next, piece: piece.id };
  }
  if (definition.group === 'junction' && piece.nodes.length > 2) {
    const last = standing[standing.length - 1];
    const straight = piece.nodes[piece.nodes.indexOf(node) === 0 ? 1 : 0];
    const next = addAfter(moveToNode(design, last.piece.id, last.pin, straight), before, [piece]);
    return { design: next, piece: piece.id, node: onwards(next, piece) };
  }
  const tee = grow(design, node, 'tee-left');
  return grow(tee.design, tee.node, variant, data);
}

/** Imported data brings its own number of pins. */
function fitted(piece: Piece, data: { readonly ports: number } | undefined): Piece {
  if (!data || parts.get(piece.kind)?.asks !== 'data') return piece;
  return {
    ...piece,
    nodes: Array.from({ length: data.ports }, (_, i) => piece.nodes[i] ?? freshNode()),
  };
}

/** Takes a piece out. What it stood between is joined where that leaves the path whole, unless `open` is asked for. */
export function removePiece(design: Design, id: string, open = false): Design {
  const piece = design.pieces.find((p) => p.id === id);
  if (!piece) return design;
  const rest: Design = { ...design, pieces: design.pieces.filter((p) => p.id !== id) };
  const definition = parts.get(piece.kind);
  if (open || definition?.bridges || piece.nodes.length < 2) return rest;
  const [a, b] = piece.nodes;
  if (a === b || a === GROUND || b === GROUND) return rest;
  return renameNode(rest, b, a);
}

/** Puts a part of another kind in a piece's place; faces that both have stay held. */
export function replaceBy(design: Design, id: string, variant: string): Grown {
  const piece = design.pieces.find((p) => p.id === id);
  if (!piece) throw new GrowError('the piece is not in the design any more');
  const made = makePiece(design, variant, piece.nodes[0]);
  const definition = parts.get(made.kind)!;
  const held = { ...made.held };
  for (const property of definition.properties) {
    const kept = property.faces.filter((f) => piece.held[f.name] !== undefined);
    if (kept.length === 0) continue;
    for (const f of property.faces) delete held[f.name];
    held[kept[0].name] = piece.held[kept[0].name];
  }
  const nodes = made.nodes.map((n, i) => piece.nodes[i] ?? n);
  const next = replacePiece(design, id, () => ({ ...made, id, held, nodes, role: piece.role }));
  return { design: next, piece: id, node: onwards(next, { ...made, nodes }) };
}

/** Splits a line at a share of its length (0 to 1); the two halves meet at a new node. */
export function splitLine(design: Design, id: string, share: number): Grown {
  const piece = design.pieces.find((p) => p.id === id);
  if (!piece || !parts.get(piece.kind)?.line || piece.nodes.length !== 2)
    throw new GrowError('only a line between two pins can be split');
  if (!(share > 0 && share < 1)) throw new GrowError('a line is split between its ends');
  const middle = freshNode();
  const part = (s: number): Piece => {
    const shared = (of: Readonly<Record<string, string>>) => {
      const held = { ...of };
      for (const face of ['theta', 'length', 'trim', 'turn'])
        if (held[face] !== undefined) held[face] = shareOf(held[face], s);
      delete held.lead;
      return held;
    };
    return changeAsked({ ...piece, held: shared(piece.held) }, shared);
  };
  const second: Piece = {
    ...part(1 - share),
    id: newId(),
    name: freshName(design, piece.name),
    nodes: [middle, piece.nodes[1]],
  };
  const first = replacePiece(design, id, (p) => ({ ...part(share), nodes: [p.nodes[0], middle] }));
  return { design: addAfter(first, id, [second]), piece: second.id, node: middle };
}

/** Folds a straight line sideways with four mitred bends into five parts whose lengths make up the old one. */
export function foldLine(design: Design, id: string): Grown {
  const piece = design.pieces.find((p) => p.id === id);
  if (!piece || piece.kind !== 'line' || piece.held.turn !== undefined || piece.held.radius !== undefined)
    throw new GrowError('only a straight line can be folded');
  let result: Grown = { design, piece: id };
  let rest = id;
  const turns = ['left', 'right', 'right', 'left'];
  turns.forEach((side, i) => {
    const split = splitLine(result.design, rest, 1 / (5 - i));
    rest = split.piece;
    result = grow(split.design, split.node, `bend-mitred-${side}`);
  });
  return { design: result.design, piece: id };
}

/** Joins two open pins: both nodes become one. */
export function joinNodes(design: Design, a: string, b: string): Design {
  if (a === b) throw new GrowError('a pin cannot be joined to itself');
  return renameNode(design, b, a);
}

/** Parts a pin from what it meets. */
export const separatePin = (design: Design, piece: string, pin: number): Design =>
  moveToNode(design, piece, pin, freshNode());
