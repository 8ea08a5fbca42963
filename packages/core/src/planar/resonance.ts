import { C0 } from '../numeric';
import type { Layers, Walls } from './contract';

/** Frequencies in a band at which is looked for a change of sign. */
const LOOKS = 240;
/** So many resonances are told at most. */
const TOLD = 60;

/** gamma coth(gamma d) of a layer without losses, and over gamma squared. */
function even(g2: number, d: number): readonly [number, number] {
  const g = Math.sqrt(Math.abs(g2));
  const t = g * d < 1e-6 ? 1 / d : g2 > 0 ? g / Math.tanh(g * d) : g / Math.tan(g * d);
  return [t, t / g2];
}

/** Where a function changes its sign between two places, to the last digits. */
function signChange(sum: (f: number) => number, lo: number, hi: number, low: number): number {
  for (let turn = 0; turn < 60; turn++) {
    const middle = (lo + hi) / 2;
    const value = sum(middle);
    if (value * low > 0) [lo, low] = [middle, value];
    else hi = middle;
  }
  return lo;
}

/**
 * Resonances of a box with two layers (Hz, ascending, the lowest `told`) between `from` and `to`: for each pair of half waves
 * along the walls the frequencies at which the admittances of TM and of TE waves looking down and up sum to nothing.
 */
export function boxResonances(
  { below, above }: Layers,
  walls: Walls,
  from: number,
  to: number,
  told = TOLD,
): number[] {
  const [a, b] = [walls.x1 - walls.x0, walls.y1 - walls.y0];
  if (above.height === Infinity) return [];
  const slow = Math.sqrt(Math.max(below.er, above.er));
  const fast = Math.sqrt(Math.min(below.er, above.er));
  const most = (2 * Math.PI * to * slow) / C0;
  const pairs: { readonly m: number; readonly n: number; readonly k: number }[] = [];
  for (let m = 0; (m * Math.PI) / a <= most; m++)
    for (let n = 0; (n * Math.PI) / b <= most; n++) {
      const k = Math.hypot((m * Math.PI) / a, (n * Math.PI) / b);
      if (m + n > 0 && k <= most) pairs.push({ m, n, k });
    }
  // No half wave stands upright in a box as low as this: there is one field for each pair, and it is TM.
  const low = most * (below.height + above.height) < 0.9 * Math.PI;
  const found: number[] = [];
  for (const { m, n, k } of pairs.sort((p, q) => p.k - q.k)) {
    // Below this no field of the pair oscillates.
    const least = Math.max(from, (0.999 * k * C0) / (2 * Math.PI * slow));
    if (found.length >= told) {
      found.sort((x, y) => x - y).splice(told);
      if (least > found[told - 1]) break;
    }
    for (const mode of low ? (['tm'] as const) : (['tm', 'te'] as const)) {
      // Of these a field along the strip's normal, or along the walls, needs half waves both ways.
      if (mode === 'tm' && (m === 0 || n === 0)) continue;
      const sum = (f: number): number => {
        const k02 = ((2 * Math.PI * f) / C0) ** 2;
        const lower = even(k * k - k02 * below.er, below.height);
        const upper = even(k * k - k02 * above.er, above.height);
        return mode === 'te' ? lower[0] + upper[0] : below.er * lower[1] + above.er * upper[1];
      };
      if (low) {
        // Between the poles of either layer there is one. Of one dielectric it has no field along the copper.
        if (slow === fast) continue;
        const [lo, hi] = [slow, fast].map((n) => (k * C0) / (2 * Math.PI * n));
        const place = signChange(sum, lo * (1 + 1e-12), hi * (1 - 1e-12), -1);
        if (place >= from && place <= to) found.push(place);
        continue;
      }
      let at = Math.max(least, 1);
      let last = sum(at);
      for (let i = 1; i <= LOOKS && least < to; i++) {
        const f = least + ((to - least) * i) / LOOKS;
        const now = sum(f);
        if (last * now < 0) {
          const place = signChange(sum, at, f, last);
          // A pole changes its sign too, but from large to large.
          if (Math.abs(sum(place)) < Math.min(Math.abs(last), Math.abs(now))) found.push(place);
        }
        [last, at] = [now, f];
      }
    }
  }
  return found.sort((x, y) => x - y).slice(0, told);
}
