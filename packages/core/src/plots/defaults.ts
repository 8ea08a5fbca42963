import { measures } from './measures';
import type { Roles } from './roles';

/** Names of the plots that suit a network nobody has arranged yet. */
export function usualPlots({ ports, outputs, isolated, coupled }: Roles): string[] {
  if (ports === 1) return ['match', 'smith'];
  if (outputs.length > 1 && isolated.length === 0) return ['driven', 'isolation', 'smith'];
  if (coupled !== undefined) return ['driven', 'directivity', 'smith'];
  if (outputs.length > 1) return ['driven', 'phase', 'smith'];
  return ['driven', 'smith'];
}

export const measureOf = (id: string) => measures.find((m) => m.id === id);
