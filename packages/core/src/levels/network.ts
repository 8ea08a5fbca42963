import { circuitOf } from '../network';
import type { Model } from '../parts';
import type { Level } from './contract';

/** Seconds for one part at one frequency, measured on a slow machine. */
const EACH = 2e-6;

/** A level that joins what its parts are in one model. */
export const networkLevel = (
  model: Model,
  own: Pick<Level, 'id' | 'name' | 'about' | 'fidelity'>,
): Level => ({
  ...own,
  subject: (resolved) => circuitOf(resolved, model),
  cost({ pieces }, points) {
    const ports = pieces.filter((p) => p.kind === 'port').length;
    return { seconds: EACH * pieces.length * points, bytes: 16 * points * ports * ports };
  },
});
