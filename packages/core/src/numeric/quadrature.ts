const cache = new Map<number, { readonly nodes: Float64Array; readonly weights: Float64Array }>();

/**
 * Nodes and weights of Gauss-Legendre quadrature of order `n` on [-1, 1], by Newton's method on the Legendre
 * recurrence (Abramowitz & Stegun 1964, 25.4.29). Kept for later calls.
 */
export function gaussLegendre(n: number) {
  const known = cache.get(n);
  if (known) return known;
  const nodes = new Float64Array(n);
  const weights = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    let x = Math.cos((Math.PI * (i + 0.75)) / (n + 0.5));
    let slope = 1;
    for (let k = 0; k < 60; k++) {
      let p0 = 1;
      let p1 = x;
      for (let j = 2; j <= n; j++) {
        const p2 = ((2 * j - 1) * x * p1 - (j - 1) * p0) / j;
        p0 = p1;
        p1 = p2;
      }
      slope = (n * (x * p1 - p0)) / (x * x - 1);
      const dx = p1 / slope;
      x -= dx;
      if (Math.abs(dx) < 1e-16) break;
    }
    nodes[i] = x;
    weights[i] = 2 / ((1 - x * x) * slope * slope);
  }
  const rule = { nodes, weights };
  cache.set(n, rule);
  return rule;
}
