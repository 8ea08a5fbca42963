/** A direction of a table: a range, walked evenly or in ratio, and how fast its degree uses up the table's. */
export interface Axis {
  readonly least: number;
  readonly most: number;
  readonly ratio?: boolean;
  /** Degree of the table that one degree along this axis counts for; absent: 1. */
  readonly cost?: number;
  /** Nodes begin at the least value instead of in the middle: what is worked out there is all that a low degree says. */
  readonly fromLeast?: boolean;
}

/** Points of [-1, 1], each where the product of distances from those before it is largest (Leja 1957): nested, one more per degree. */
function leja(count: number, first: number): number[] {
  const points = [first];
  const fine = Array.from({ length: 4001 }, (_, i) => -1 + i / 2000);
  while (points.length < count) {
    let [best, at] = [-1, 0];
    for (const x of fine) {
      const product = points.reduce((p, y) => p * Math.abs(x - y), 1);
      if (product > best + 1e-12) [best, at] = [product, x];
    }
    points.push(at);
  }
  return points;
}

/** Polynomials in several variables, told by their values at nested nodes. */
export interface Grid {
  /**
   * Degree along each axis of each basis function, each after all that are nowhere higher; its node has the same numbers.
   */
  readonly degrees: readonly (readonly number[])[];
  /** The node of a basis function in the axes' own values. */
  node(degrees: readonly number[]): number[];
  /** Values of the basis functions at a point. */
  weights(point: readonly number[]): Float64Array;
}

/**
 * @param degree total degree of the polynomials
 * @param more degrees along the axes of further ones, none before those that are nowhere higher
 */
export function gridOf(
  axes: readonly Axis[],
  degree: number,
  more: readonly (readonly number[])[] = [],
): Grid {
  const costs = axes.map((a) => a.cost ?? 1);
  const points = axes.map((a, i) =>
    leja(more.reduce((n, d) => Math.max(n, d[i]), Math.floor(degree / costs[i])) + 1, a.fromLeast ? -1 : 0),
  );
  let degrees: number[][] = [[]];
  for (const cost of costs)
    degrees = degrees.flatMap((before) => {
      const spent = before.reduce((s, d, k) => s + d * costs[k], 0);
      return Array.from({ length: Math.floor((degree - spent) / cost) + 1 }, (_, d) => [...before, d]);
    });
  const costOf = (d: readonly number[]) => d.reduce((s, x, k) => s + x * costs[k], 0);
  degrees.sort((a, b) => costOf(a) - costOf(b));
  degrees.push(...more.map((d) => [...d]));
  const own = ({ least, most, ratio }: Axis, t: number) =>
    ratio ? least * (most / least) ** ((t + 1) / 2) : least + ((t + 1) / 2) * (most - least);
  const unit = ({ least, most, ratio }: Axis, x: number) =>
    ratio ? (2 * Math.log(x / least)) / Math.log(most / least) - 1 : (2 * (x - least)) / (most - least) - 1;
  const scales = points.map((all) =>
    all.map((t, k) => all.slice(0, k).reduce((p, before) => p * (t - before), 1)),
  );
  // Newton's polynomials, each 1 at its own node and 0 at those before it.
  const along = (i: number, t: number): number[] => {
    const out = [1];
    let product = 1;
    for (let k = 1; k < points[i].length; k++) {
      product *= t - points[i][k - 1];
      out.push(product / scales[i][k]);
    }
    return out;
  };
  return {
    degrees,
    node: (d) => axes.map((axis, i) => own(axis, points[i][d[i]])),
    weights(point) {
      const values = axes.map((axis, i) => along(i, unit(axis, point[i])));
      const out = new Float64Array(degrees.length);
      for (let k = 0; k < out.length; k++) {
        let product = 1;
        for (let i = 0; i < values.length; i++) product *= values[i][degrees[k][i]];
        out[k] = product;
      }
      return out;
    },
  };
}
