import type { ResolvedDesign } from '@ditch/core/network';

/** Frequencies at which a design is read however coarse its sweep is, Hz: its own, its markers, the edges of its limits. */
export const readAt = ({ f0, markers, limits }: ResolvedDesign): readonly number[] => [
  ...(f0 === undefined ? [] : [f0]),
  ...markers.map((m) => m.freq),
  ...limits.flatMap((l) => [l.from, l.to]),
];
