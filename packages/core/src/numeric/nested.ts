/**
 * Interpolation over [-1, 1]^m from few places: a polynomial in Newton's form on a set of places that grows one by one. A place is
 * told by its indices into one list of places for each variable; a set must hold with an index everything below it. Source: Chkifa,
 * Cohen & Schwab 2014, adaptive sparse polynomial interpolation.
 */
export type Index = readonly number[];

/** Steps of the search for the next place. */
const FINE = 4000;

/** Leja's places on [-1, 1], from the middle: each next one is where the product of distances to those before is largest. */
export function lejaPlaces(count: number): number[] {
  const places = [0, 1, -1].slice(0, count);
  const away = (x: number) => places.reduce((a, p) => a * Math.abs(x - p), 1);
  while (places.length < count) {
    let best = 0;
    for (let i = -FINE; i <= FINE; i++) if (away(i / FINE) > away(best) * (1 + 1e-12)) best = i / FINE;
    places.push(best);
  }
  return places;
}

/** Value of the Newton polynomial of a place, 1 there and 0 at all places with a lower index, at `at`. */
function newton(index: Index, places: readonly number[], at: readonly number[]): number {
  let product = 1;
  for (let j = 0; j < index.length; j++) {
    const own = places[index[j]];
    for (let i = 0; i < index[j]; i++) product *= (at[j] - places[i]) / (own - places[i]);
  }
  return product;
}

/** What is left at each place of what those before it tell: the coefficients of the interpolation. */
export class NestedInterpolation {
  private readonly indices: Index[] = [];
  private readonly surpluses: Float64Array[] = [];

  constructor(private readonly places: readonly number[]) {}

  /** Takes a place with its values; everything below it has been taken. Returns what those before did not tell. */
  take(index: Index, values: Float64Array): Float64Array {
    const at = index.map((i) => this.places[i]);
    const surplus = values.slice();
    this.indices.forEach((other, k) => {
      // Of a place that is not below this one the polynomial is nothing here.
      if (other.some((o, j) => o > index[j])) return;
      const h = newton(other, this.places, at);
      const s = this.surpluses[k];
      for (let i = 0; i < s.length; i++) surplus[i] -= h * s[i];
    });
    this.indices.push(index);
    this.surpluses.push(surplus);
    return surplus;
  }

  /** The values at a place in [-1, 1]^m. */
  at(u: readonly number[]): Float64Array {
    const out = new Float64Array(this.surpluses[0].length);
    this.indices.forEach((index, k) => {
      const h = newton(index, this.places, u);
      if (h === 0) return;
      const s = this.surpluses[k];
      for (let i = 0; i < s.length; i++) out[i] += h * s[i];
    });
    return out;
  }
}

/** Indices that could be taken next: everything below them has been. */
export function margin(taken: readonly Index[], most: number): Index[] {
  const known = new Set(taken.map(String));
  const found = new Map<string, Index>();
  for (const index of taken)
    index.forEach((_, j) => {
      const next = index.map((i, k) => (k === j ? i + 1 : i));
      const name = String(next);
      if (next[j] >= most || known.has(name) || found.has(name)) return;
      const below = next.every(
        (i, k) => i === 0 || known.has(String(next.map((x, l) => (l === k ? x - 1 : x)))),
      );
      if (below) found.set(name, next);
    });
  return [...found.values()];
}

/** Chebyshev's places between two ends, ascending, both ends included. */
export const chebyshevPlaces = (from: number, to: number, count: number): number[] =>
  Array.from({ length: count }, (_, i) =>
    i === 0
      ? from
      : i === count - 1
        ? to
        : (from + to) / 2 - ((to - from) / 2) * Math.cos((Math.PI * i) / (count - 1)),
  );

/** Writes the weights with which values at Chebyshev's places make the polynomial's at `x` (Berrut & Trefethen 2004, eq. 5.4). */
export function chebyshevWeights(places: ArrayLike<number>, x: number, out: Float64Array): void {
  const n = places.length;
  let sum = 0;
  for (let i = 0; i < n; i++) {
    const distance = x - places[i];
    if (distance === 0) {
      out.fill(0);
      out[i] = 1;
      return;
    }
    const w = ((i % 2 === 0 ? 1 : -1) * (i === 0 || i === n - 1 ? 0.5 : 1)) / distance;
    out[i] = w;
    sum += w;
  }
  for (let i = 0; i < n; i++) out[i] /= sum;
}

/**
 * Adds to `out` the weighed sum of values that stand for one place after the other, as many of each as `out` holds.
 * @param from where they begin in `values` @param times all weights
 */
export function addWeighed(
  weights: ArrayLike<number>,
  values: Float64Array,
  from: number,
  out: Float64Array,
  times = 1,
): void {
  const n = out.length;
  for (let k = 0; k < weights.length; k++) {
    const w = times * weights[k];
    if (w === 0) continue;
    const at = from + k * n;
    for (let e = 0; e < n; e++) out[e] += w * values[at + e];
  }
}
