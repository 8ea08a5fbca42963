import { chebyshevPlaces, chebyshevWeights } from '../numeric';
import type { SData } from '../results';

/** A response that is solved at few frequencies and read off at many. */
export interface Thin {
  /** The frequencies to solve at, Hz. */
  readonly at: Float64Array;
  /**
   * From the response there that at all frequencies, which stands until the next is asked for; undefined where it does not agree
   * with itself.
   */
  readonly whole: (s: SData) => SData | undefined;
}

/** Numbers of places that are tried. */
const COUNTS = [17, 25, 33, 49, 65] as const;
/** How far S may be off where the places are chosen, and where it is looked after a state that is like it. */
const CHOSEN = 1e-6;
const LIKE = 5e-6;
/** Frequencies between places at which that is looked. */
const LOOKS = 3;
/** Fewer than this share of the frequencies have to be solved; otherwise nothing is won. */
const WORTH = 0.6;

/** Weights of all places for one frequency after the other. */
interface Weights {
  readonly count: number;
  readonly frequencies: number;
  readonly w: Float64Array;
  /**
   * Where the frequencies mirror one another about the middle of the places, as those of a linear sweep do: what is the same in two that
   * do, and what is the opposite, for each pair of places that do. It takes half the products.
   */
  readonly halves?: { readonly even: Float64Array; readonly odd: Float64Array };
}

/** How far frequencies may be from one another's images, of their range. */
const MIRRORED = 1e-12;

function weightsOf(places: readonly number[], freq: readonly number[]): Weights {
  const count = places.length;
  const w = new Float64Array(freq.length * count);
  freq.forEach((f, k) => chebyshevWeights(places, f, w.subarray(k * count, (k + 1) * count)));
  const n = freq.length;
  const around = places[0] + places[count - 1];
  const isMirrored = freq.every((f, k) => Math.abs(f + freq[n - 1 - k] - around) < MIRRORED * around);
  if (!isMirrored || count % 2 === 0) return { count, frequencies: n, w };
  const own = (count + 1) / 2;
  const rows = Math.ceil(n / 2);
  const [even, odd] = [new Float64Array(rows * own), new Float64Array(rows * own)];
  for (let k = 0; k < rows; k++)
    for (let i = 0; i < own; i++) {
      const [a, b] = [w[k * count + i], w[k * count + count - 1 - i]];
      // The place in the middle is its own image.
      even[k * own + i] = i === own - 1 ? a : (a + b) / 2;
      odd[k * own + i] = i === own - 1 ? 0 : (a - b) / 2;
    }
  return { count, frequencies: n, w, halves: { even, odd } };
}

/** By how much entries may differ from those across the diagonal for one to stand for both. */
const RECIPROCAL = 1e-10;

type Room = Pick<SData, 're' | 'im'>;
const roomFor = (length: number): Room => ({ re: new Float64Array(length), im: new Float64Array(length) });

/** S-parameters at frequencies from those at places. */
function readOff(
  { count, frequencies, w, halves }: Weights,
  { ports, re, im }: SData,
  out = roomFor(frequencies * ports * ports),
): Room {
  const size = ports * ports;
  const { re: or, im: oi } = out;
  const [vr, vi] = [new Float64Array(count), new Float64Array(count)];
  for (let e = 0; e < size; e++) {
    const other = (e % ports) * ports + Math.floor(e / ports);
    let same = other < e;
    for (let i = 0, at = e, across = other; i < count; i++, at += size, across += size) {
      vr[i] = re[at];
      vi[i] = im[at];
      if (same && Math.abs(vr[i] - re[across]) + Math.abs(vi[i] - im[across]) > RECIPROCAL) same = false;
    }
    if (same) {
      for (let k = 0, to = 0; k < frequencies; k++, to += size) {
        or[to + e] = or[to + other];
        oi[to + e] = oi[to + other];
      }
      continue;
    }
    if (halves) {
      const { even, odd } = halves;
      const own = (count + 1) / 2;
      for (let i = 0, j = count - 1; i < own - 1; i++, j--) {
        const [r, x] = [vr[i], vi[i]];
        vr[i] = r + vr[j];
        vi[i] = x + vi[j];
        vr[j] = r - vr[j];
        vi[j] = x - vi[j];
      }
      for (let k = 0, at = 0; 2 * k < frequencies; k++) {
        let er = 0;
        let ei = 0;
        let dr = 0;
        let di = 0;
        for (let i = 0, j = count - 1; i < own; i++, j--, at++) {
          const a = even[at];
          const b = odd[at];
          er += a * vr[i];
          ei += a * vi[i];
          dr += b * vr[j];
          di += b * vi[j];
        }
        const to = k * size + e;
        const image = (frequencies - 1 - k) * size + e;
        or[to] = er + dr;
        oi[to] = ei + di;
        or[image] = er - dr;
        oi[image] = ei - di;
      }
      continue;
    }
    for (let k = 0, at = 0, to = e; k < frequencies; k++, to += size) {
      let r0 = 0;
      let i0 = 0;
      let r1 = 0;
      let i1 = 0;
      let i = 0;
      for (; i + 1 < count; i += 2, at += 2) {
        const a = w[at];
        const b = w[at + 1];
        r0 += a * vr[i];
        i0 += a * vi[i];
        r1 += b * vr[i + 1];
        i1 += b * vi[i + 1];
      }
      if (i < count) {
        r0 += w[at] * vr[i];
        i0 += w[at++] * vi[i];
      }
      or[to] = r0 + r1;
      oi[to] = i0 + i1;
    }
  }
  return out;
}

/**
 * Looks for Chebyshev's places between which a response and such as are like it can be read off (Trefethen 2013, chapter 8: what is
 * analytic about the band is met geometrically), and says which; undefined where it would take too many of them, as it does
 * for narrow bands within wide ones.
 * @param freq all frequencies, Hz, ascending
 * @param known the response at all of them
 * @param solve the same at others
 */
export function thin(freq: Float64Array, known: SData, solve: (at: Float64Array) => SData): Thin | undefined {
  const [from, to] = [freq[0], freq[freq.length - 1]];
  const size = known.ports * known.ports;
  for (const count of COUNTS) {
    if (!(count + LOOKS < WORTH * freq.length)) return undefined;
    const places = chebyshevPlaces(from, to, count);
    const weights = weightsOf(places, [...freq]);
    const { re, im } = readOff(weights, solve(Float64Array.from(places)));
    /** How far the response is off at each frequency. */
    const off = Array.from(freq, (_, k) => {
      let most = 0;
      for (let x = k * size; x < (k + 1) * size; x++)
        most = Math.max(most, Math.hypot(re[x] - known.re[x], im[x] - known.im[x]));
      return most;
    });
    if (!off.every((x) => x < CHOSEN)) continue;
    // Where it was off most, in each part of the band.
    const looks = Array.from({ length: LOOKS }, (_, part) => {
      const [a, b] = [part, part + 1].map((p) => Math.floor((p * freq.length) / LOOKS));
      return off.slice(a, b).reduce((best, x, i) => (x > off[best] ? a + i : best), a);
    });
    const checks = weightsOf(
      places,
      looks.map((k) => freq[k]),
    );
    // One after the other is read off into the same room: hundreds of them would keep the collector busy.
    const [room, seen] = [freq.length, LOOKS].map((n) => roomFor(n * size));
    return {
      at: Float64Array.from([...places, ...looks.map((k) => freq[k])]),
      whole(few) {
        readOff(checks, few, seen);
        for (let x = 0; x < seen.re.length; x++) {
          const at = count * size + x;
          if (!(Math.hypot(seen.re[x] - few.re[at], seen.im[x] - few.im[at]) < LIKE)) return undefined;
        }
        return { ...few, freq, ...readOff(weights, few, room) };
      },
    };
  }
  return undefined;
}
