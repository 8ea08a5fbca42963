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

/** A pair of half waves along the walls with its wave number, 1/m. */
interface Pair {
  readonly m: number;
  readonly n: number;
  readonly k: number;
}

/**
 * Resonances of a box with two layers (Hz, ascending, the lowest `told`) between `from` and `to`: for each pair of half waves
 * along the walls the frequencies at which the admittances of TM and of TE waves looking down and up sum to nothing.
 */
export function boxResonances(layers: Layers, walls: Walls, from: number, to: number, told = TOLD): number[] {
  const { below, above } = layers;
  const [a, b] = [walls.x1 - walls.x0, walls.y1 - walls.y0];
  if (above.height === Infinity) return [];
  const slow = Math.sqrt(Math.max(below.er, above.er));
  const most = (2 * Math.PI * to * slow) / C0;
  const pairs: Pair[] = [];
  for (let m = 0; (m * Math.PI) / a <= most; m++)
    for (let n = 0; (n * Math.PI) / b <= most; n++) {
      const k = Math.hypot((m * Math.PI) / a, (n * Math.PI) / b);
      if (m + n > 0 && k <= most) pairs.push({ m, n, k });
    }
  pairs.sort((p, q) => p.k - q.k);
  // No half wave stands upright in a box as low as this: there is one field for each pair, and it is TM.
  const low = most * (below.height + above.height) < 0.9 * Math.PI;
  const step = (to - from) / LOOKS;
  // Where so many are told and no more it is not looked for the highest of them.
  const enough = pairs[Math.min(pairs.length - 1, told)];
  let high = enough ? Math.max(1.1 * from, (enough.k * C0) / (2 * Math.PI * slow)) : to;
  for (;;) {
    high = Math.min(to, 1.3 * high);
    const found = pairs
      .flatMap((pair) => resonancesOf(layers, pair, from, high, step, low))
      .sort((x, y) => x - y);
    if (high >= to || found.length >= told) return found.slice(0, told);
  }
}

/** Those of one pair between `from` and `high`. @param step between two looks, Hz; @param low the box is too low for half waves upright */
function resonancesOf(
  { below, above }: Layers,
  { m, n, k }: Pair,
  from: number,
  high: number,
  step: number,
  low: boolean,
): number[] {
  const [slow, fast] = [Math.max, Math.min].map((f) => Math.sqrt(f(below.er, above.er)));
  // Below this no field of the pair oscillates.
  const least = Math.max(from, (0.999 * k * C0) / (2 * Math.PI * slow));
  if (least >= high) return [];
  const found: number[] = [];
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
      const [lo, hi] = [slow, fast].map((index) => (k * C0) / (2 * Math.PI * index));
      const place = signChange(sum, lo * (1 + 1e-12), hi * (1 - 1e-12), -1);
      if (place >= from && place <= high) found.push(place);
      continue;
    }
    const looks = Math.ceil((high - least) / step);
    let at = Math.max(least, 1);
    let last = sum(at);
    for (let i = 1; i <= looks; i++) {
      const f = least + ((high - least) * i) / looks;
      const now = sum(f);
      if (last * now < 0) {
        const place = signChange(sum, at, f, last);
        // A pole changes its sign too, but from large to large.
        if (Math.abs(sum(place)) < Math.min(Math.abs(last), Math.abs(now))) found.push(place);
      }
      [last, at] = [now, f];
    }
  }
  return found;
}
