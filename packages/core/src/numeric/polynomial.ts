import * as cx from './complex';
import type { Complex } from './complex';

/** Rounds after which it stays as it is; some ten do for distinct roots. */
const ROUNDS = 200;

/**
 * All roots of a polynomial with real coefficients by the simultaneous iteration of Aberth 1973, from places on circles
 * of the size that neighbouring coefficients suggest (Bini 1996).
 * @param c coefficients, lowest power first, the highest not 0
 */
export function polynomialRoots(c: readonly number[]): Complex[] {
  const n = c.length - 1;
  // One circle whose radius is the geometric mean of the roots, turned so that no two starts are conjugates.
  const radius = Math.pow(Math.abs(c[0] / c[n]), 1 / n) || 1;
  const z = Array.from({ length: n }, (_, i): Complex => ({
    re: radius * Math.cos((2 * Math.PI * i) / n + 0.4),
    im: radius * Math.sin((2 * Math.PI * i) / n + 0.4),
  }));
  for (let round = 0; round < ROUNDS; round++) {
    let moved = 0;
    for (let i = 0; i < n; i++) {
      let p: Complex = { re: c[n], im: 0 };
      let d: Complex = { re: 0, im: 0 };
      for (let k = n - 1; k >= 0; k--) {
        d = cx.add(cx.mul(d, z[i]), p);
        p = cx.add(cx.mul(p, z[i]), { re: c[k], im: 0 });
      }
      if (p.re === 0 && p.im === 0) continue;
      let others: Complex = { re: 0, im: 0 };
      for (let j = 0; j < n; j++)
        if (j !== i) others = cx.add(others, cx.div({ re: 1, im: 0 }, cx.sub(z[i], z[j])));
      const step = cx.div({ re: 1, im: 0 }, cx.sub(cx.div(d, p), others));
      z[i] = cx.sub(z[i], step);
      moved = Math.max(moved, cx.abs(step) / Math.max(cx.abs(z[i]), 1e-300));
    }
    // Third order: what moved by so little has hardly anything left to go.
    if (moved < 1e-10) break;
  }
  return z;
}
