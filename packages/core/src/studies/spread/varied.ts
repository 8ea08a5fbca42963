import type { Design, Project, ResolvedDesign } from '../../network';
import { parts, propertiesOf } from '../../parts';
import { boardSpreads, stackSpreads, type StackSpread } from '../../stack';
import { formatQuantity, kindOf, QuantityError, type QuantityKind } from '../../units';
import { readTolerance, type Tolerance } from './tolerance';

/** Plus and minus so much of something, as it was typed. */
export interface Wanted {
  /** `value:z1`, `piece:c1:c`, `board:er`. */
  readonly key: string;
  readonly text: string;
}

/** Something that comes out otherwise than it was meant. */
export interface Varied {
  readonly key: string;
  readonly label: string;
  readonly kind: QuantityKind;
  /** SI units; of etching nothing. */
  readonly nominal: number;
  /** Plus and minus this, SI units. */
  readonly half: number;
  readonly shape: Tolerance['shape'];
}

/** A tolerance that cannot be, at what it is of. */
export class ToleranceError extends Error {
  constructor(
    readonly key: string,
    message: string,
  ) {
    super(message);
  }
}

/** The tolerances that stand in a document: those of a design's values and pieces, and of its board. */
export function tolerancesOf(project: Project, design: Design): Wanted[] {
  const stack = project.stacks.find((s) => s.id === design.stack);
  return [
    ...design.values.flatMap((v) => (v.spread ? [{ key: `value:${v.name}`, text: v.spread }] : [])),
    ...design.pieces.flatMap((p) =>
      Object.entries(p.marks?.spread ?? {}).map(([face, text]) => ({ key: `piece:${p.id}:${face}`, text })),
    ),
    ...stackSpreads.flatMap((id) => {
      const text = stack?.spread?.[id];
      return text ? [{ key: `board:${id}`, text }] : [];
    }),
  ];
}

/** The narrowest line of a design, m. */
function narrowest({ pieces }: ResolvedDesign): number {
  const widths = pieces.flatMap((p) =>
    p.values ? [...(parts.get(p.kind)?.widths?.(p.values, p.settings) ?? [])] : [],
  );
  return Math.min(...widths.flatMap((w) => (w !== undefined && w > 0 ? [w] : [])));
}

/** What a key means in a design. @throws ToleranceError */
function meant(
  design: Design,
  resolved: ResolvedDesign,
  key: string,
): { readonly label: string; readonly kind: QuantityKind; readonly nominal: number; readonly of?: number } {
  const [what, id, face] = key.split(':');
  if (what === 'value') {
    const value = design.values.find((v) => v.name === id);
    const quantity = resolved.values.get(id);
    const kind = quantity && kindOf(quantity.dimension);
    if (!value || !quantity || !kind)
      throw new ToleranceError(key, `the design has no value named "${id}" that could spread`);
    if (quantity.im !== 0)
      throw new ToleranceError(key, 'is complex; let its two parts be values of their own');
    return { label: value.note ? `${id}, ${value.note}` : id, kind, nominal: quantity.re };
  }
  if (what === 'piece') {
    const piece = design.pieces.find((p) => p.id === id);
    const value = resolved.pieces.find((p) => p.id === id)?.values?.[face];
    const definition = piece && parts.get(piece.kind);
    const property = definition
      ? propertiesOf(definition, piece.settings)
          .flatMap((p) => p.faces)
          .find((f) => f.name === face)
      : undefined;
    if (!piece || !value || !property || piece.held[face] === undefined || value.im !== 0)
      throw new ToleranceError(key, `holds no such real value`);
    return {
      label: `${piece.name}, ${property.label.toLowerCase()}`,
      kind: property.rule.kind,
      nominal: value.re,
    };
  }
  const board = id as StackSpread;
  if (!stackSpreads.includes(board)) throw new ToleranceError(key, 'is nothing that spreads');
  const { label } = boardSpreads.find((s) => s.id === board)!;
  if (board === 'etch') return { label, kind: 'length', nominal: 0, of: narrowest(resolved) };
  if (!resolved.stack) throw new ToleranceError(key, 'needs a board without errors');
  return { label, kind: board === 'er' ? 'number' : 'length', nominal: resolved.stack.substrate[board] };
}

/**
 * What spreads in a design. What has no spread is left out.
 * @throws ToleranceError at the key that cannot be
 */
export function variedOf(design: Design, resolved: ResolvedDesign, wanted: readonly Wanted[]): Varied[] {
  const out: Varied[] = [];
  for (const { key, text } of wanted) {
    const { label, kind, nominal, of } = meant(design, resolved, key);
    if (out.some((v) => v.key === key)) throw new ToleranceError(key, 'is given twice');
    let tolerance: Tolerance;
    try {
      tolerance = readTolerance(text, kind);
    } catch (error) {
      if (error instanceof QuantityError) throw new ToleranceError(key, error.message);
      throw error;
    }
    const half = tolerance.relative ? tolerance.amount * Math.abs(of ?? nominal) : tolerance.amount;
    // A length, a resistance or a permittivity that spreads to nothing is a slip of the pen.
    if (of === undefined && kind !== 'level' && nominal > 0 && half >= nominal)
      throw new ToleranceError(
        key,
        `spreads by as much as it is, ${formatQuantity(nominal, kind)}; give less`,
      );
    if (half > 0) out.push({ key, label, kind, nominal, half, shape: tolerance.shape });
  }
  return out;
}
