import type { Electrical } from '../electrical';
import { chebyshevPlaces, chebyshevWeights } from '../numeric';
import type { Network } from './joined';

/** Sweeps of fewer points are solved part by part and point by point. */
const MANY = 64;
/** Places that are tried, one count after the other. */
const COUNTS = [8, 16, 32] as const;
/** How far what is read between the places may be off, in S. */
const WITHIN = 1e-9;

/** Chebyshev's places in a range of frequencies (Hz), and what each counts at one between them. */
class Places {
  readonly at: readonly number[];
  private readonly shares: Float64Array;
  private last = NaN;

  constructor(
    readonly low: number,
    readonly high: number,
    count: number,
  ) {
    this.at = chebyshevPlaces(low, high, count);
    this.shares = new Float64Array(count);
  }

  /** All parts of a network ask for one frequency after the other. */
  sharesAt(f: number): Float64Array {
    if (f !== this.last) chebyshevWeights(this.at, f, this.shares);
    this.last = f;
    return this.shares;
  }
}

/** What a part scatters at the places, an entry's places side by side. */
interface Read {
  readonly places: Places;
  readonly re: Float64Array;
  readonly im: Float64Array;
}

function read({ places, re, im }: Read, f: number, outRe: Float64Array, outIm: Float64Array): void {
  const shares = places.sharesAt(f);
  const n = shares.length;
  const size = re.length / n;
  for (let e = 0, from = 0; e < size; e++, from += n) {
    let [a, b] = [0, 0];
    for (let k = 0; k < n; k++) {
      a += shares[k] * re[from + k];
      b += shares[k] * im[from + k];
    }
    outRe[e] = a;
    outIm[e] = b;
  }
}

/** A part read at some places; undefined where it bends too much between them. */
function readAt(part: Electrical, places: Places, zn: number): Read | undefined {
  const size = part.pins ** 2;
  const n = places.at.length;
  const [sr, si, pr, pi] = [0, 0, 0, 0].map(() => new Float64Array(size));
  const found = { places, re: new Float64Array(size * n), im: new Float64Array(size * n) };
  for (let k = 0; k < n; k++) {
    part.scatter(places.at[k], zn, sr, si);
    for (let e = 0; e < size; e++) {
      found.re[e * n + k] = sr[e];
      found.im[e * n + k] = si[e];
    }
  }
  // Between all of them: a kink shows beside it only.
  for (let k = 1; k < n; k++) {
    const f = (places.at[k - 1] + places.at[k]) / 2;
    part.scatter(f, zn, sr, si);
    read(found, f, pr, pi);
    for (let e = 0; e < size; e++)
      if (!(Math.abs(pr[e] - sr[e]) + Math.abs(pi[e] - si[e]) < WITHIN)) return undefined;
  }
  return found;
}

/** A part that changes slowly with frequency, read at a few places of a range where that says the same. */
function slow(part: Electrical, all: readonly Places[]): Electrical {
  const [{ low, high }] = all;
  const known = new Map<number, Read | undefined>();
  return {
    pins: part.pins,
    scatter(f, zn, re, im) {
      if (f < low || f > high) return part.scatter(f, zn, re, im);
      let own = known.get(zn);
      if (!own && !known.has(zn)) {
        for (const places of all) if (!own) own = readAt(part, places, zn);
        known.set(zn, own);
      }
      if (own) read(own, f, re, im);
      else part.scatter(f, zn, re, im);
    },
  };
}

/**
 * A network as it is solved over a sweep: parts that are dear to work out and change slowly with frequency are read at a few
 * places of it instead of at each of its points, within 1e-9 in S, or worked out as they are. Where there are none, or few
 * points, it is the network itself. @param freq ascending, Hz
 */
export function sweptOver(network: Network, freq: Float64Array): Network {
  const [low, high] = [freq[0], freq[freq.length - 1]];
  if (freq.length < MANY || !(low < high) || !network.parts.some((p) => p.electrical.isSlow)) return network;
  const all = COUNTS.map((count) => new Places(low, high, count));
  const parts = network.parts.map((p) =>
    p.electrical.isSlow ? { ...p, electrical: slow(p.electrical, all) } : p,
  );
  return { ...network, parts };
}
