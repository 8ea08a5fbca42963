/** One comparison of a model or a solution with something that can be named. */
export interface Case {
  readonly what: string;
  /** What it is held against: an exact value, a limit, an invariant, another solution, a published table. */
  readonly against: string;
  /** Over which range. */
  readonly over: string;
  /** Largest error it may have. */
  readonly bound: number;
  /** Errors are relative unless they are said to be absolute. */
  readonly absolute?: true;
  /** Errors over the range. */
  errors(): number[];
}

export interface Group {
  readonly name: string;
  readonly cases: readonly Case[];
}

/** Every combination of two lists. */
export const each = <A, B>(a: readonly A[], b: readonly B[]): (readonly [A, B])[] =>
  a.flatMap((x) => b.map((y) => [x, y] as const));

/** Numbers from 0 to 1 that are the same in every run (Lehmer 1949). */
export function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

/** Evenly spaced numbers, both ends included. */
export const spaced = (from: number, to: number, count: number): number[] =>
  Array.from({ length: count }, (_, i) => from + ((to - from) * i) / (count - 1));

/** The same with equal ratios. */
export const ratios = (from: number, to: number, count: number): number[] =>
  spaced(Math.log(from), Math.log(to), count).map(Math.exp);
