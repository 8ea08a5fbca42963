import { GROUND, type Design, type Piece } from '../network';
import { parts } from '../parts';
import type { FreeValue } from './free';

/** What a piece is, whichever way it lies: not its number, not the side it turns to. */
const labelOf = (piece: Piece): string => {
  const held = Object.entries(piece.held)
    .filter(([face]) => !['turn', 'lead', 'radius'].includes(face))
    .sort(([a], [b]) => (a < b ? -1 : 1));
  const settings = Object.entries(piece.settings ?? {}).filter(
    ([name]) => name !== 'number' && name !== 'side',
  );
  return JSON.stringify([piece.kind, piece.role, held, settings, piece.marks?.retune]);
};

/**
 * Pieces that a network cannot tell from one another: the same kind, held alike, meeting the same. Found by refining
 * what each piece sees of its neighbours until nothing more can be told (Weisfeiler & Leman 1968). Nearly always these
 * are the images of one another under the symmetries of the network.
 * @returns the class of each piece by its id
 */
export function alike(design: Design): ReadonlyMap<string, number> {
  const number = (texts: readonly string[]): number[] => {
    const known = new Map<string, number>();
    return texts.map((t) => known.get(t) ?? (known.set(t, known.size), known.size - 1));
  };
  const { pieces } = design;
  let classes = number(pieces.map(labelOf));
  for (let round = 0, count = 0; round <= pieces.length; round++) {
    const next = new Set(classes).size;
    if (next === count) break;
    count = next;
    const seen = new Map<string, string[]>();
    pieces.forEach((p, i) =>
      p.nodes.forEach((node, pin) => {
        const part = parts.get(p.kind);
        const end = part?.alikePins?.[pin] ?? (part?.line || part?.bridges ? '' : pin);
        if (node !== GROUND) seen.set(node, [...(seen.get(node) ?? []), `${classes[i]}.${end}`]);
      }),
    );
    const views = new Map([...seen].map(([node, list]) => [node, list.sort().join()]));
    classes = number(
      pieces.map((p, i) =>
        JSON.stringify([classes[i], p.nodes.map((n) => (n === GROUND ? n : views.get(n)!)).sort()]),
      ),
    );
  }
  return new Map(pieces.map((p, i) => [p.id, classes[i]]));
}

/** Free values of pieces that are alike, and stand alike, moved as one: what is symmetric stays so. */
export function tied(design: Design, free: readonly FreeValue[]): FreeValue[] {
  const classes = alike(design);
  const groups = new Map<string, FreeValue[]>();
  for (const value of free) {
    const [what, id, face] = value.key.split(':');
    const own = what === 'piece' ? `${classes.get(id)}:${face}:${value.value.toPrecision(9)}` : value.key;
    groups.set(own, [...(groups.get(own) ?? []), value]);
  }
  return [...groups.values()].map((group): FreeValue => {
    const [first] = group;
    if (group.length === 1) return first;
    return {
      ...first,
      label: group.map((v) => v.label).join(' and '),
      reach: Math.min(...group.map((v) => v.reach)),
      put: (d, x, exact) => group.reduce((at, v) => v.put(at, x, exact), d),
    };
  });
}
