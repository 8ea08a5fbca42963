/**
 * Arithmetic-geometric mean of two positive numbers.
 * Source: Gauss; Abramowitz & Stegun 1964, 17.6. Converges quadratically to double precision.
 */
export function agm(a: number, b: number): number {
  for (let i = 0; i < 40; i++) {
    const mean = 0.5 * (a + b);
    b = Math.sqrt(a * b);
    a = mean;
    if (Math.abs(a - b) <= 1e-16 * a) break;
  }
  return a;
}
