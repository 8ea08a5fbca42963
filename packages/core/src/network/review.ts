import { analyseLine } from '../lines';
import { formatQuantity, parseExpression, QuantityError } from '../units';
import type { Design } from './document';
import type { Place, ResolvedDesign } from './resolve';

/** Something a careful colleague would point at. */
export interface Remark {
  readonly severity: 'error' | 'caution';
  readonly place: Place;
  readonly message: string;
}

const PLACES: Readonly<Record<Place['kind'], (place: Place, name: (id: string) => string) => string>> = {
  stack: (p) => `Board, ${(p as { field: string }).field}`,
  value: (p) => (p as { name: string }).name,
  piece: (p, name) => name((p as { piece: string }).piece),
  sweep: (p) => `Sweep, ${(p as { field: string }).field}`,
  marker: () => 'A marker',
  goal: () => 'The goal',
  design: () => 'The design',
};

/** Names that a design's expressions use. */
export function usedNames(design: Design): Set<string> {
  const names = new Set<string>();
  const texts = [
    ...design.values.map((v) => v.value),
    ...design.pieces.flatMap((p) => Object.values(p.held)),
    ...design.markers.map((m) => m.freq),
    design.sweep.start,
    design.sweep.stop,
    design.goal,
  ];
  for (const text of texts) {
    try {
      for (const name of parseExpression(text).names) names.add(name);
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
    }
  }
  return names;
}

/** Everything questionable about a design: its errors, lines outside a model's range or the shop's, unused values. */
export function review(design: Design, resolved: ResolvedDesign): Remark[] {
  const nameOf = (id: string) => resolved.pieces.find((p) => p.id === id)?.name ?? id;
  const remarks: Remark[] = resolved.problems
    .filter((p) => !p.follows)
    .map((p) => ({
      severity: 'error',
      place: p.place,
      message: `${PLACES[p.place.kind](p.place, nameOf)}: ${p.message}.`,
    }));
  const { stack, f0 } = resolved;
  if (stack && f0 !== undefined) {
    const said = new Set<string>();
    for (const piece of resolved.pieces) {
      const width = piece.values?.width?.re;
      if (width === undefined) continue;
      const place: Place = { kind: 'piece', piece: piece.id, face: 'width' };
      if (width < stack.minWidth)
        remarks.push({
          severity: 'caution',
          place,
          message: `${piece.name}: ${formatQuantity(width, 'length', { digits: 3 })} is narrower than the ${formatQuantity(stack.minWidth, 'length', { digits: 3 })} this board\u2019s shop etches. A lower impedance or a thicker board widens it.`,
        });
      for (const warning of analyseLine(resolved.medium, stack.substrate, width, f0).warnings) {
        if (said.has(warning.code)) continue;
        said.add(warning.code);
        remarks.push({ severity: 'caution', place, message: `${piece.name}: ${warning.message}` });
      }
    }
  }
  const used = usedNames(design);
  for (const v of design.values)
    if (v.name !== 'f0' && !used.has(v.name))
      remarks.push({
        severity: 'caution',
        place: { kind: 'value', name: v.name },
        message: `${v.name}: nothing uses this value.`,
      });
  return remarks;
}
