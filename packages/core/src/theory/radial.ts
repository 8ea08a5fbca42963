import { C0, brent } from '../numeric';

/** Rings into which a sector is cut. */
export const RINGS = 24;

/** Radii of a sector whose entry has the chord `width`: inner and outer, m. */
export function radii(width: number, reach: number, angle: number): { inner: number; outer: number } {
  const inner = width / (2 * Math.sin(angle / 2));
  return { inner, outer: inner + reach };
}

/** A ring as a uniform line: impedance (ohm), turn of its reflection there and back (rad), and what is left of its size. */
export interface Ring {
  z0: number;
  turn: number;
  size: number;
}

/** Widths of the rings from the entry to the edge, each as wide as its arc in the middle, m. */
export function ringWidths(entry: number, reach: number, angle: number): number[] {
  const { inner } = radii(entry, reach, angle);
  return Array.from({ length: RINGS }, (_, i) => (inner + ((i + 0.5) * reach) / RINGS) * angle);
}

/** Reflection at the entry against the first ring, from the outer edge inwards. `edge`: turn at the edge, rad. */
export function throughRings(
  rings: readonly Ring[],
  edge: number,
  out: { z0: number; re: number; im: number },
): void {
  let gr = Math.cos(edge);
  let gi = -Math.sin(edge);
  let z = 0;
  for (let i = rings.length - 1; i >= 0; i--) {
    const { z0: next, turn, size } = rings[i];
    if (i < rings.length - 1) {
      // The same impedance seen against the next ring's.
      const nr = z * (1 + gr) - next * (1 - gr);
      const ni = (z + next) * gi;
      const dr = z * (1 + gr) + next * (1 - gr);
      const di = (z - next) * gi;
      const d = 1 / (dr * dr + di * di);
      gr = (nr * dr + ni * di) * d;
      gi = (ni * dr - nr * di) * d;
    }
    z = next;
    const c = size * Math.cos(turn);
    const s = -size * Math.sin(turn);
    [gr, gi] = [gr * c - gi * s, gr * s + gi * c];
  }
  out.z0 = z;
  out.re = gr;
  out.im = gi;
}

/** Steps in which a reach is looked for, and how many: guided wavelengths of the entry. */
const STRIDE = 1 / 20;
const STRIDES = 15;
/** Most steps of putting right; a few do, but for sectors a thousand heights wide. */
const POLISHES = 20;

interface LineValues {
  readonly z0: number;
  readonly eeff: number;
}
type LineOfWidth = (width: number) => LineValues;

/** Nodes of the interpolation over width. */
const NODES = 12;

/**
 * Lines between two widths from a few of them: Chebyshev's nodes over the logarithm of the width, barycentric
 * (Berrut & Trefethen 2004). A line under a lid is a field solution, and a search asks for hundreds.
 */
function interpolated(
  line: LineOfWidth,
  from: number,
  to: number,
): { line: LineOfWidth; samples: LineValues[] } {
  const [a, b] = [Math.log(from), Math.log(to)];
  const x = Array.from({ length: NODES }, (_, i) => Math.cos(((2 * i + 1) * Math.PI) / (2 * NODES)));
  const weight = x.map((_, i) => (i % 2 ? -1 : 1) * Math.sin(((2 * i + 1) * Math.PI) / (2 * NODES)));
  const samples = x.map((t) => line(Math.exp((a + b + t * (b - a)) / 2)));
  return {
    samples,
    line(width) {
      const t = (2 * Math.log(width) - a - b) / (b - a);
      let sum = 0;
      let z0 = 0;
      let eeff = 0;
      for (let i = 0; i < NODES; i++) {
        const d = t - x[i];
        if (d === 0) return samples[i];
        const w = weight[i] / d;
        sum += w;
        z0 += w * Math.log(samples[i].z0);
        eeff += w * samples[i].eeff;
      }
      return { z0: Math.exp(z0 / sum), eeff: eeff / sum };
    },
  };
}

/** Reaches found last, by all that they depend on: a design asks again at every edit. */
const found = new Map<string, number | undefined>();
const FOUND = 64;

/**
 * The shortest reach at which an ideal radial stub has the susceptance `b` (S; infinite is a short).
 * @param entry width of its entry, m
 * @param angle its opening, rad
 * @param line impedance (ohm) and effective permittivity of a width in m at `f0` (Hz)
 * @returns m, or undefined where none does
 */
export function reachOf(
  b: number,
  entry: number,
  angle: number,
  f0: number,
  line: LineOfWidth,
): number | undefined {
  const own = line(entry);
  const wanted = b === Infinity ? Math.PI / 2 : (Math.atan(own.z0 * b) + Math.PI) % Math.PI;
  if (!(wanted > 0)) return undefined;
  const wavelength = C0 / (f0 * Math.sqrt(own.eeff));
  const widest = radii(entry, STRIDES * STRIDE * wavelength, angle).outer * angle;
  const near = interpolated(line, Math.min(entry, ringWidths(entry, 0, angle)[0]), widest);
  const key = JSON.stringify([b, entry, angle, f0, near.samples, own]);
  if (!found.has(key)) {
    if (found.size >= FOUND) found.delete(found.keys().next().value!);
    found.set(key, solveReach(wanted, entry, angle, f0, line, near.line, own.z0, wavelength));
  }
  return found.get(key);
}

function solveReach(
  wanted: number,
  entry: number,
  angle: number,
  f0: number,
  exact: LineOfWidth,
  near: LineOfWidth,
  reference: number,
  wavelength: number,
): number | undefined {
  const at = { z0: 0, re: 0, im: 0 };
  /** Angle of the uniform open stub as wide as the entry that would show the same, 0 to pi; it grows with the reach. */
  const openAngle = (reach: number, line: LineOfWidth): number => {
    const rings = ringWidths(entry, reach, angle).map((w) => {
      const { z0, eeff } = line(w);
      return { z0, turn: (4 * Math.PI * f0 * Math.sqrt(eeff) * reach) / (RINGS * C0), size: 1 };
    });
    throughRings(rings, 0, at);
    return Math.atan2(reference * (1 - at.re), -at.z0 * at.im);
  };
  let from = 0;
  let before = 0;
  for (let k = 1; k <= STRIDES; k++) {
    const to = k * STRIDE * wavelength;
    const there = openAngle(to, near);
    // Past half a turn it begins anew.
    const turned = there < before;
    if (turned || there >= wanted) {
      const edge = before;
      // Before the turn it lies above the stride's first value, after it below the last.
      const split = turned ? (edge + there) / 2 : 0;
      const away = (reach: number): number => {
        const x = reach === from ? edge : openAngle(reach, near);
        return (x < split ? x + Math.PI : x) - wanted;
      };
      let reach = brent(away, from, to, { tolerance: 1e-12 });
      // What the interpolation lacks is put right with the lines themselves and its slope.
      const h = 1e-4 * wavelength;
      let slope = (away(reach + h) - away(reach - h)) / (2 * h);
      let last = { reach: 0, off: 0 };
      for (let i = 0; i < POLISHES; i++) {
        const off = openAngle(reach, exact) - wanted;
        const rest = off - Math.PI * Math.round(off / Math.PI);
        // The slope between the last two, once there are two.
        if (i > 0 && rest !== last.off) slope = (rest - last.off) / (reach - last.reach);
        last = { reach, off: rest };
        const step = rest / slope;
        reach -= step;
        if (Math.abs(step) < 1e-14 * reach) break;
      }
      return reach;
    }
    from = to;
    before = there;
  }
  return undefined;
}
