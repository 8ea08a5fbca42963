/** Nodes of an interval: the extrema of Chebyshev's polynomial, with both ends, which are shared with the neighbours. */
const NODES = 8;
const DEGREE = NODES - 1;
const cosines = Float64Array.from({ length: NODES }, (_, i) => -Math.cos((Math.PI * i) / DEGREE));

/**
 * A smooth function of one variable that is dear to compute, read from values at nodes that are computed when they are
 * first needed: Chebyshev interpolation on intervals (Trefethen 2013), continuous across them.
 */
export class Table {
  /** Coefficients of Chebyshev's polynomials on an interval, value after value. */
  private readonly intervals = new Map<number, Float64Array>();
  private readonly ends = new Map<number, readonly number[]>();
  private readonly out: Float64Array;

  /**
   * @param f the function, `size` values at once
   * @param interval length of an interval
   */
  constructor(
    private readonly f: (x: number) => readonly number[],
    private readonly interval: number,
    private readonly size: number,
  ) {
    this.out = new Float64Array(size);
  }

  /** The function's values at x, to about the interval's eighth difference; the next call overwrites them. */
  at(x: number): Float64Array {
    const { out } = this;
    if (!Number.isFinite(x)) throw new RangeError('a table has no value where there is no number');
    const i = Math.floor(x / this.interval);
    let coefficients = this.intervals.get(i);
    if (!coefficients) this.intervals.set(i, (coefficients = this.interpolate(i)));
    // Clenshaw's recurrence at t in -1..1.
    const t = 2 * (x / this.interval - i) - 1;
    for (let v = 0, at = 0; v < out.length; v++, at += NODES) {
      let b1 = 0;
      let b2 = 0;
      for (let j = DEGREE; j > 0; j--) {
        const b = coefficients[at + j] + 2 * t * b1 - b2;
        b2 = b1;
        b1 = b;
      }
      out[v] = coefficients[at] + t * b1 - b2;
    }
    return out;
  }

  private interpolate(i: number): Float64Array {
    const middle = (i + 0.5) * this.interval;
    const values = Array.from(cosines, (c, n) =>
      n === 0 ? this.end(i) : n === DEGREE ? this.end(i + 1) : this.f(middle + (c * this.interval) / 2),
    );
    const half = (n: number) => (n === 0 || n === DEGREE ? 0.5 : 1);
    return Float64Array.from({ length: NODES * this.size }, (_, at) => {
      const v = Math.floor(at / NODES);
      const j = at % NODES;
      const sum = values.reduce(
        (total, value, n) => total + half(n) * value[v] * Math.cos(j * Math.acos(cosines[n])),
        0,
      );
      return (2 * half(j) * sum) / DEGREE;
    });
  }

  private end(i: number): readonly number[] {
    let known = this.ends.get(i);
    if (!known) this.ends.set(i, (known = this.f(i * this.interval)));
    return known;
  }
}
