import type { Steps } from './steps';

export interface EvolutionOptions {
  readonly lower: readonly number[];
  readonly upper: readonly number[];
  /** The same seed gives the same search on every machine. */
  readonly seed: number;
  readonly generations?: number;
  /** Ends at a cost of this or less. */
  readonly enough?: number;
}

export interface EvolutionResult {
  readonly x: readonly number[];
  readonly cost: number;
}

/** Numbers in 0..1 from a seed, 32 bits at a time (a Weyl sequence through a mixing function; Steele, Lea & Flood 2014). */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x9e3779b9) >>> 0;
    let z = state;
    z = Math.imul(z ^ (z >>> 16), 0x85ebca6b);
    z = Math.imul(z ^ (z >>> 13), 0xc2b2ae35);
    return ((z ^ (z >>> 16)) >>> 0) / 4294967296;
  };
}

/** Members for each unknown, and at most. */
const MEMBERS = { each: 10, least: 20, most: 64 } as const;
/** Shares of the unknowns that a challenge changes, in turn at random: few for what is separable, most for what is not. */
const CROSSOVER = [0.2, 0.9];

/**
 * The least cost within bounds by differential evolution (Storn & Price 1997): each member is challenged by another to
 * which a random share of the difference of two more is added, now and then from the best. The first member is the
 * start. Yields the share done after each member.
 * @param cost Infinity where x is impossible; where it is more than `bound`, which no challenge takes, by how much does not matter
 */
export function* evolutionSteps(
  cost: (x: readonly number[], bound: number) => number,
  start: readonly number[],
  { lower, upper, seed, generations = 120, enough = 0 }: EvolutionOptions,
): Steps<EvolutionResult> {
  const n = start.length;
  const count = Math.min(MEMBERS.most, Math.max(MEMBERS.least, MEMBERS.each * n));
  const random = seeded(seed);
  const members = Array.from({ length: count }, (_, m) =>
    Array.from({ length: n }, (_x, i) => (m === 0 ? start[i] : lower[i] + random() * (upper[i] - lower[i]))),
  );
  const costs: number[] = [];
  let best = 0;
  for (let m = 0; m < count; m++) {
    costs.push(cost(members[m], Infinity));
    if (costs[m] < costs[best]) best = m;
    yield (m + 1) / (count * (generations + 1));
  }
  for (let g = 1; g <= generations && costs[best] > enough; g++)
    for (let m = 0; m < count; m++) {
      const other = () => members[Math.floor(random() * count)];
      const [a, b, c] = [random() < 0.2 ? members[best] : other(), other(), other()];
      const share = 0.4 + 0.5 * random();
      const changed = CROSSOVER[Math.floor(random() * CROSSOVER.length)];
      const sure = Math.floor(random() * n);
      const trial = members[m].map((v, i) => {
        if (i !== sure && random() > changed) return v;
        const there = a[i] + share * (b[i] - c[i]);
        // What leaves the bounds comes back to half of the way to them.
        if (there < lower[i]) return (v + lower[i]) / 2;
        return there > upper[i] ? (v + upper[i]) / 2 : there;
      });
      const is = cost(trial, costs[m]);
      if (is <= costs[m]) {
        members[m] = trial;
        costs[m] = is;
        if (is < costs[best]) best = m;
      }
      yield (g * count + m + 1) / (count * (generations + 1));
    }
  return { x: members[best], cost: costs[best] };
}
