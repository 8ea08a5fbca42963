import type { Design, Piece, ResolvedDesign } from '../network';
import { parts, type PartValues } from '../parts';
import { namesIn, quantityKinds, sameDimension, type QuantityKind } from '../units';

/** A value that a study may move: a named value, or the adjustment of one piece. Lengths in m. */
export interface FreeValue {
  readonly key: string;
  /** What it is called in the report. */
  readonly label: string;
  readonly adjusts: 'length' | 'width' | 'mounted';
  readonly value: number;
  /** Where it is, if that is beyond its ends and a search begins at one of them. */
  readonly was?: number;
  /** What it is, where it is no length. */
  readonly kind?: QuantityKind;
  /** Where it ends below, if nearer than its reach. */
  readonly lower?: number;
  /** And above. */
  readonly upper?: number;
  /** How far it may go either way. */
  readonly reach: number;
  /** The design with another value: in full precision while searching, as text that can be etched in the end. */
  readonly put: (design: Design, value: number, exact: boolean) => Design;
}

/** A value before and after, in SI units. */
export interface Moved {
  readonly label: string;
  readonly kind: QuantityKind;
  readonly from: number;
  readonly to: number;
}

/** A length as typed text, in full precision or to a tenth of a micrometre. */
const lengthText = (x: number, exact: boolean): string =>
  exact ? `${x} m` : `${Number((x * 1e3).toFixed(4))} mm`;

const textOf = (kind: QuantityKind | undefined, x: number, exact: boolean): string => {
  if (kind !== 'capacitance') return lengthText(x, exact);
  // A hundredth of a femtofarad is less than anybody mounts.
  return exact ? `${x} F` : `${Number((x * 1e15).toFixed(2))} fF`;
};

const LITERAL = /^\s*[+-]?(\d|\.\d)/;

/** Whether the engineer lets retuning move a piece: feeds stay, what is marked to stay, and what has to be asked for. */
export const movable = (piece: Piece): boolean => {
  const mark = piece.marks?.retune;
  if (mark !== undefined) return mark !== 'stay';
  const adjusting = parts.get(piece.kind)?.properties.filter((p) => p.adjusts) ?? [];
  return piece.role !== 'feed' && (adjusting.length === 0 || adjusting.some((p) => !p.asked));
};

/** Most of a line's own length or width that retuning may take or add. */
const SHARE = { length: 0.4, width: 0.45 } as const;

/** Angle that a short line may gain or lose: what a via or a tee puts in its place, rad. */
const PUT_RIGHT = 0.4;

/** How far a length or a width may move. A short stub may give up nearly all of its length to what ends it. */
function roomOf(adjusts: 'length' | 'width', size: number, values: PartValues): number {
  const share = SHARE[adjusts] * size;
  const theta = values.theta?.re ?? 0;
  if (adjusts === 'width' || !(theta > 0)) return share;
  return Math.max(share, Math.min(0.9 * size, (PUT_RIGHT / theta) * size));
}

/**
 * What may move in a design: the adjustments of its movable pieces, or the named lengths that those are made of, each
 * once.
 */
export function freeValues(
  design: Design,
  resolved: ResolvedDesign,
  adjusts: 'length' | 'width',
): FreeValue[] {
  const found = new Map<string, FreeValue>();
  for (const piece of design.pieces) {
    const definition = parts.get(piece.kind);
    const here = resolved.pieces.find((p) => p.id === piece.id);
    if (!definition || !here?.values || !movable(piece)) continue;
    for (const property of definition.properties) {
      if ((property.adjusts === 'mounted' ? 'length' : property.adjusts) !== adjusts) continue;
      if (property.asked && piece.marks?.retune !== 'move') continue;
      const face = property.faces[0].name;
      const text = piece.held[face];
      const main = property.addsTo ?? adjusts;
      const { kind } = property.faces[0].rule;
      const size = adjusts === 'length' ? (here.values.length ?? here.values[face]) : here.values[main];
      const reach = property.reach?.(here.values) ?? roomOf(adjusts, size?.re ?? 0, here.values);
      if (!(reach > 0)) continue;
      if (text !== undefined && !LITERAL.test(text)) {
        for (const name of namesIn(text)) {
          const value = design.values.find((v) => v.name === name);
          const quantity = resolved.values.get(name);
          if (!value || !quantity || !LITERAL.test(value.value)) continue;
          if (!sameDimension(quantity.dimension, quantityKinds.length.dimension)) continue;
          const key = `value:${name}`;
          const known = found.get(key);
          found.set(key, {
            key,
            label: name,
            adjusts,
            value: quantity.re,
            reach: Math.min(reach, known?.reach ?? Infinity),
            put: (d, v, exact) => ({
              ...d,
              values: d.values.map((x) => (x.name === name ? { ...x, value: lengthText(v, exact) } : x)),
            }),
          });
        }
        continue;
      }
      // A property that must be held is moved itself; an adjustment that is left out begins at nothing.
      const value = here.values[face]?.re ?? 0;
      // What is mounted is what is held and its correction, whatever holds it.
      const copper = face === main || property.adjusts === 'mounted' ? undefined : piece.held[main];
      // Copper that an expression holds is the engineer's own.
      if (copper !== undefined && !LITERAL.test(copper)) continue;
      const start = here.values[main]?.re ?? 0;
      // What the shop can etch, or what is there where that is less already.
      const least = { width: resolved.stack?.minWidth, gap: resolved.stack?.minGap }[main];
      found.set(`piece:${piece.id}:${face}`, {
        key: `piece:${piece.id}:${face}`,
        label: `${piece.name}, ${property.faces[0].label.toLowerCase()}`,
        adjusts: property.adjusts!,
        ...(kind === 'length' ? {} : { kind }),
        value,
        reach,
        ...(least === undefined ? {} : { lower: value + Math.min(least, start) - start }),
        put: (d, v, exact) => ({
          ...d,
          pieces: d.pieces.map((p) => {
            if (p.id !== piece.id) return p;
            const held = { ...p.held };
            if (copper === undefined) held[face] = textOf(kind, v, exact);
            else {
              // Held copper moves along with its adjustment, so that the electrical face stays exactly what it was.
              held[main] = lengthText(start + v - value, exact);
              const moved = exact ? v - value : Number((start + v - value).toFixed(7)) - start;
              held[face] = exact
                ? `${value + moved} m`
                : `${Number(((value + moved) * 1e3).toPrecision(12))} mm`;
            }
            if (v === 0 && property.otherwise !== undefined) delete held[face];
            return { ...p, held };
          }),
        }),
      });
    }
  }
  return [...found.values()];
}

/** Less than half of what `lengthText` resolves is no move. */
const STILL = 5e-8;

/** The design with all values where a search stands. */
export const putAll = (design: Design, free: readonly FreeValue[], x: readonly number[]): Design =>
  free.reduce((d, value, i) => value.put(d, x[i], true), design);

/** The design with what a search has moved, as text that can be read and etched, and what that is. */
export function takeOver(
  design: Design,
  free: readonly FreeValue[],
  x: readonly number[],
): { readonly design: Design; readonly moved: readonly Moved[] } {
  const went = free
    .map((value, i) => ({ value, to: x[i] }))
    .filter(
      ({ value, to }) =>
        Math.abs(to - (value.was ?? value.value)) >= (value.kind ? 1e-6 * value.reach : STILL),
    );
  return {
    design: went.reduce((d, { value, to }) => value.put(d, to, false), design),
    moved: went.map(({ value, to }) => ({
      label: value.label,
      kind: value.kind ?? 'length',
      from: value.was ?? value.value,
      to,
    })),
  };
}
