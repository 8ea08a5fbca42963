import { circuitOf } from '../network';
import type { Cost, Level, LiveId, LiveLevel, Subject } from './contract';

/** Seconds for one part at one frequency, measured on a slow machine. */
const EACH = 2e-6;

/** What joining the parts of a subject takes; of copper only that its samples are read. */
export function costOf({ pieces }: Subject, points: number): Cost {
  const ports = pieces.filter((p) => p.kind === 'port').length;
  return { seconds: EACH * pieces.length * points, bytes: 16 * points * ports * ports };
}

/** A level that joins what its parts are in one model. */
export const networkLevel = (id: LiveId, own: Pick<Level, 'name' | 'about' | 'fidelity'>): LiveLevel => ({
  ...own,
  id,
  subject: (resolved) => circuitOf(resolved, id),
});
