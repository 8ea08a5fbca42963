import { C0 } from '../numeric';
import type { Layers, Walls } from './contract';

/** Frequencies in a band at which is looked for a change of sign. */
const LOOKS = 240;

/** gamma coth(gamma d) of a layer without losses, and over gamma squared. */
function even(g2: number, d: number): readonly [number, number] {
  const g = Math.sqrt(Math.abs(g2));
  const t = g * d < 1e-6 ? 1 / d : g2 > 0 ? g / Math.tanh(g * d) : g / Math.tan(g * d);
  return [t, t / g2];
}

/**
 * Resonances of a box with two layers (Hz, ascending) between `from` and `to`: for each pair of half waves along the walls
 * the frequencies at which the admittances of TM and of TE waves looking down and up sum to nothing.
 */
export function boxResonances({ below, above }: Layers, walls: Walls, from: number, to: number): number[] {
  const [a, b] = [walls.x1 - walls.x0, walls.y1 - walls.y0];
  if (above.height === Infinity) return [];
  const most = (2 * Math.PI * to * Math.sqrt(Math.max(below.er, above.er))) / C0;
  const found: number[] = [];
  for (let m = 0; (m * Math.PI) / a <= most; m++)
    for (let n = 0; (n * Math.PI) / b <= most; n++) {
      if (m + n === 0) continue;
      const k2 = ((m * Math.PI) / a) ** 2 + ((n * Math.PI) / b) ** 2;
      if (k2 > most * most) continue;
      for (const mode of ['tm', 'te'] as const) {
        // Of these a field along the strip's normal, or along the walls, needs half waves both ways.
        if (mode === 'tm' && (m === 0 || n === 0)) continue;
        const sum = (f: number): number => {
          const k02 = ((2 * Math.PI * f) / C0) ** 2;
          const lower = even(k2 - k02 * below.er, below.height);
          const upper = even(k2 - k02 * above.er, above.height);
          return mode === 'te' ? lower[0] + upper[0] : below.er * lower[1] + above.er * upper[1];
        };
        let last = sum(Math.max(from, 1));
        let at = from;
        for (let i = 1; i <= LOOKS; i++) {
          const f = from + ((to - from) * i) / LOOKS;
          const now = sum(f);
          // A pole changes its sign too, but from large to large.
          if (last * now < 0) {
            let [lo, hi, low] = [at, f, last];
            for (let turn = 0; turn < 60; turn++) {
              const middle = (lo + hi) / 2;
              const value = sum(middle);
              if (value * low > 0) [lo, low] = [middle, value];
              else hi = middle;
            }
            if (Math.abs(sum(lo)) < Math.min(Math.abs(last), Math.abs(now))) found.push(lo);
          }
          [last, at] = [now, f];
        }
      }
    }
  return found.sort((x, y) => x - y);
}
