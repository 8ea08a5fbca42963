import { inDesign, resolveDesign, type Attempt, type Design, type Project } from '../network';
import { tunables, tuned } from './tune';

/** Attempts that a design holds at most, and values on its strip: what the file takes. */
export const MOST_ATTEMPTS = 50;
export const MOST_TUNED = 24;

/** Keeps the present state of a design under a name. */
export const keepAttempt = (design: Design, id: string, name: string): Design => ({
  ...design,
  attempts: [...(design.attempts ?? []), { id, name, values: design.values, pieces: design.pieces }],
});

/** The design in the state of an attempt. */
export const inAttempt = (design: Design, attempt: Attempt): Design => ({
  ...design,
  values: attempt.values,
  pieces: attempt.pieces,
});

/**
 * The project with a design part of the way from its present state (share 0) to an attempt (share 1): every value that
 * is a number in both and differs is moved by the share; what else differs changes at the far end.
 */
export function blended(project: Project, design: Design, attempt: Attempt, share: number): Project {
  const put = (d: Design): Project => inDesign(project, design.id, () => d);
  const there = inAttempt(design, attempt);
  if (share <= 0) return put(design);
  if (share >= 1) return put(there);
  const others = new Map(
    tunables(put(there), there, resolveDesign(put(there), there)).map((t) => [t.key, t] as const),
  );
  let result = put(design);
  for (const own of tunables(project, design, resolveDesign(project, design))) {
    const other = others.get(own.key);
    if (!other || other.value === own.value) continue;
    // What follows from other values follows on the way, too.
    if (own.expression !== undefined && own.expression === other.expression) continue;
    result = tuned(result, design.id, own, own.value + share * (other.value - own.value));
  }
  return result;
}
