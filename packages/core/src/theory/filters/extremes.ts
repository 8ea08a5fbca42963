/** Extremes of a function inside an interval, each to about the root of rounding, with the value there. */
export function extremes(
  f: (x: number) => number,
  from: number,
  to: number,
  samples: number,
): { readonly x: number; readonly y: number }[] {
  const step = (to - from) / samples;
  const y = Array.from({ length: samples + 1 }, (_, i) => f(from + i * step));
  const out: { x: number; y: number }[] = [];
  for (let i = 1; i < samples; i++) {
    const [l, m, r] = [y[i - 1], y[i], y[i + 1]];
    if (!((m > l && m >= r) || (m < l && m <= r))) continue;
    // A parabola through three points, and once more through three closer ones.
    let x = from + i * step;
    let h = step;
    let [p, q, s] = [l, m, r];
    for (let pass = 0; pass < 2; pass++) {
      const curve = p - 2 * q + s;
      const shift = curve === 0 ? 0 : Math.max(-1, Math.min(1, (p - s) / (2 * curve)));
      x += shift * h;
      h *= 0.05;
      [p, q, s] = [f(x - h), f(x), f(x + h)];
    }
    out.push({ x, y: q });
  }
  return out;
}
