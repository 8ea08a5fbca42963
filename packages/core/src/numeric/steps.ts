/**
 * Everything that takes long: a computation that yields the share done (0 to 1) many times a second and returns its
 * result. Whoever runs it decides when others have a turn, tells its progress, and cancels it by not going on.
 */
export type Steps<T> = Generator<number, T, void>;

/** Runs to the end in one go. */
export function drive<T>(steps: Steps<T>): T {
  for (let step = steps.next(); ; step = steps.next()) if (step.done) return step.value;
}

/** The same computation as a stretch of a longer one, from one share of it to another. */
export function* share<T>(steps: Steps<T>, from: number, to: number): Steps<T> {
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return step.value;
    yield from + (to - from) * step.value;
  }
}

/**
 * Runs while `turn` lets it: it is told the share done after every step and may return a promise to wait for; what it
 * throws ends the computation.
 */
export async function pace<T>(
  steps: Steps<T>,
  turn: (done: number) => Promise<void> | undefined,
): Promise<T> {
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return step.value;
    const waiting = turn(step.value);
    if (waiting) await waiting;
  }
}
