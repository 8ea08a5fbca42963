import { parseExpression, QuantityError } from '../units';
import type { Design } from './document';

/** Names that a design's expressions use. */
export function usedNames(design: Design): Set<string> {
  const names = new Set<string>();
  const texts = [
    ...design.values.map((v) => v.value),
    ...design.pieces.flatMap((p) => [
      ...Object.values(p.held),
      ...(p.settings?.theory ? [p.settings.theory] : []),
    ]),
    ...design.markers.map((m) => m.freq),
    design.sweep.start,
    design.sweep.stop,
    design.goal,
    ...(design.plots ?? []).flatMap((p) => [
      ...(p.reference === undefined ? [] : [p.reference]),
      ...(p.limits ?? []).flatMap((l) => [l.from, l.to]),
    ]),
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
