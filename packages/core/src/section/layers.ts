import { gaussLegendre } from '../numeric/quadrature';

/** Relative permittivities of the layer that the copper stands on and of the one around it. */
export interface Filling {
  readonly below: number;
  readonly above: number;
}

/** What lies around the copper, seen from the interface that it stands on (y = 0); lengths in one unit of the caller's. */
export interface Heights {
  /** Distance of the ground plane below. */
  readonly ground: number;
  /** Distance of the plane above; Infinity without one. */
  readonly cover: number;
}

/** An image of a charge at y: it stands at `sign` y + `shift`; its charge for each of the fillings. */
export interface Image {
  readonly sign: 1 | -1;
  readonly shift: number;
  readonly weights: readonly number[];
}

/** What of the potential is smooth, as an integral over k: weights (with dk/k) of its exponentials for one filling. */
export interface Smooth {
  /** Of exp(-k (y + y')). */
  readonly down: Float64Array;
  /** Of exp(k (y + y' - 2 top)), from the copper's top, so that nothing overflows; empty without a cover. */
  readonly up: Float64Array;
  /** Of exp(k (y - y' - top)) and the same with y and y' exchanged; empty without a cover. */
  readonly across: Float64Array;
}

/**
 * The potential of a line charge in the upper layer, times 2 pi e0 and the upper permittivity: -ln r over the images,
 * which hold its singular part and are neutral together, and the integral over k of cos(k x) with the smooth rest.
 */
export interface Green {
  readonly images: readonly Image[];
  readonly k: Float64Array;
  readonly smooth: readonly Smooth[];
}

/** exp(-SMALL) is left out of an integral. */
const SMALL = 15;
const POINTS = 12;
/** Radians of the fastest oscillation that a rule of that many points takes in. */
const RADIANS = 7;

/**
 * Nodes and weights (dk/k) of an integral over k from 0 whose integrand falls as exp(-k least), oscillates as
 * exp(j k extent) and changes near 0 over 1/far.
 */
export function spectrum(least: number, extent: number, far: number): { k: Float64Array; w: Float64Array } {
  const end = SMALL / least;
  const rules = Math.max(3, Math.ceil((end * Math.max(extent, least / 2)) / RADIANS));
  const edges = Array.from({ length: rules + 1 }, (_, i) => (end * i) / rules);
  for (let first = edges[1] / 2; first * far > 1 && edges.length < rules + 60; first /= 2)
    edges.splice(1, 0, first);
  const { nodes, weights } = gaussLegendre(POINTS);
  const count = (edges.length - 1) * POINTS;
  const k = new Float64Array(count);
  const w = new Float64Array(count);
  for (let e = 1, n = 0; e < edges.length; e++) {
    const half = (edges[e] - edges[e - 1]) / 2;
    for (let i = 0; i < POINTS; i++, n++) {
      k[n] = edges[e - 1] + (1 + nodes[i]) * half;
      w[n] = (weights[i] * half) / k[n];
    }
  }
  return { k, w };
}

/**
 * The layered medium's Green's function between places at the interface or above it.
 * Source: the transmission line in the transverse direction (Yamashita & Mittra 1968), its limit for large k taken out as
 * images (Silvester 1968).
 * @param top height of the copper's highest face
 * @param extent largest distance between two charges along x
 */
export function greenOf(
  { ground: h, cover: c }: Heights,
  fillings: readonly Filling[],
  top: number,
  extent: number,
): Green {
  const open = c === Infinity;
  const contrast = fillings.map(({ below, above }) => (below - above) / (below + above));
  const grounded = contrast.map((K) => (open ? K - 1 : K * K - 1));
  // With the first images in the planes this one makes all of them neutral, so that the rest is finite at k = 0.
  const neutral = contrast.map((K) => (open ? 0 : 1 + K - K * K));
  const images: Image[] = [
    { sign: 1, shift: 0, weights: contrast.map(() => 1) },
    { sign: -1, shift: -2 * h, weights: grounded },
  ];
  if (contrast.some((K) => K !== 0)) images.push({ sign: -1, shift: 0, weights: contrast.map((K) => -K) });
  if (!open)
    images.push(
      { sign: -1, shift: 2 * c, weights: contrast.map(() => -1) },
      { sign: -1, shift: -2 * (h + c), weights: neutral },
    );
  const least = open ? 2 * h : Math.min(2 * h, 2 * c - top, 4 * (c - top));
  const { k, w } = spectrum(least, extent, open ? h : Math.max(h, c));
  const smooth = contrast.map((K, f): Smooth => {
    const down = new Float64Array(k.length);
    const up = new Float64Array(open ? 0 : k.length);
    const across = new Float64Array(open ? 0 : k.length);
    for (let n = 0; n < k.length; n++) {
      const q = Math.exp(-2 * k[n] * h);
      const below = -(K + q) / (1 + K * q);
      const p = open ? 0 : Math.exp(-2 * k[n] * c);
      const inverse = 1 / (1 + below * p);
      down[n] = w[n] * (below * inverse + K - grounded[f] * q - neutral[f] * q * p);
      if (open) continue;
      const common = w[n] * below * inverse;
      up[n] = common * Math.exp(-2 * k[n] * (2 * c - top));
      across[n] = -common * Math.exp(-k[n] * (2 * c - top));
    }
    return { down, up, across };
  });
  return { images, k, smooth };
}
