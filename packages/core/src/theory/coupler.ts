import { brent, solveReal } from '../numeric';

/** How many quarter waves a symmetric coupler may have. */
export const COUPLER_SECTIONS = [1, 3, 5] as const;
export type CouplerSections = (typeof COUPLER_SECTIONS)[number];

export interface CouplerSpecification {
  /** Coupled power over that which goes in, as a positive number of decibels, at the centre. */
  readonly coupling: number;
  readonly sections: CouplerSections;
  /** Equal ripple: by how many decibels the coupling swings to each side. Absent or 0: maximally flat. */
  readonly ripple?: number;
}

export interface Coupler {
  /**
   * Even-mode impedances of the sections over the system impedance, from one end to the other; the odd ones are their
   * inverses.
   */
  readonly even: number[];
  /** Relative band in which the coupling stays within the ripple, or within 1 dB of its centre where there is none. */
  readonly band: number;
}

export class CouplerError extends RangeError {
  constructor(
    readonly field: 'coupling' | 'sections' | 'ripple',
    message: string,
  ) {
    super(message);
  }
}

const QUARTER = Math.PI / 2;

/** Coupled over through voltage of a share of the power (0 to 1), and back. */
const ratioOf = (power: number): number => Math.sqrt(power / (1 - power));
const powerOf = (f: number): number => (f * f) / (1 + f * f);
const shareOf = (dB: number): number => Math.pow(10, -dB / 10);

/**
 * Coupled over through voltage of a cascade of quarter waves at theta, (B - C)/2j of the even mode's chain matrix. Of a
 * symmetric coupler the odd mode is its dual, so this is all there is: it is matched and isolated at every frequency.
 */
function ratioAt(even: readonly number[], theta: number): number {
  const c = Math.cos(theta);
  const s = Math.sin(theta);
  let [a, b, g, d] = [1, 0, 0, 1];
  for (const z of even)
    [a, b, g, d] = [a * c - (b * s) / z, a * s * z + b * c, g * c + (d * s) / z, d * c - g * s * z];
  return (b - g) / 2;
}

/** A polynomial in u = cos^2 theta. */
const valueAt = (p: readonly number[], u: number): number => p.reduceRight((sum, x) => sum * u + x, 0);
const targetAt = (p: readonly number[], u: number): number => Math.sqrt(1 - u) * valueAt(p, u);

/** Impedances whose ratio is sin(theta) P(cos^2 theta): Newton's method from no coupling on. */
function realised(p: readonly number[]): number[] {
  const n = p.length;
  const all = (x: readonly number[]) => [...x, ...x.slice(0, -1).reverse()].map(Math.exp);
  // A polynomial of n coefficients is known by n of its values.
  const u = Array.from({ length: n }, (_, k) => Math.cos(((k + 1) * QUARTER) / (n + 1)) ** 2);
  const misses = (x: readonly number[], share: number) =>
    u.map((v) => ratioAt(all(x), Math.acos(Math.sqrt(v))) - share * targetAt(p, v));
  let x = Array.from({ length: n }, () => 0);
  const strongest = Math.max(...u.map((v) => Math.abs(targetAt(p, v))), 1e-30);
  const stages = Math.max(1, Math.ceil(4 * strongest));
  for (let stage = 1; stage <= stages; stage++)
    for (let turn = 0; turn < 40; turn++) {
      const miss = misses(x, stage / stages);
      const slopes = new Float64Array(n * n);
      for (let j = 0; j < n; j++) {
        const h = 1e-6;
        const by = (d: number) =>
          misses(
            x.map((v, k) => (k === j ? v + d : v)),
            stage / stages,
          );
        const [up, down] = [by(h), by(-h)];
        for (let i = 0; i < n; i++) slopes[i * n + j] = (up[i] - down[i]) / (2 * h);
      }
      const step = solveReal(n, slopes, Float64Array.from(miss));
      x = x.map((v, k) => v - step[k]);
      if (Math.max(...step.map(Math.abs)) < 1e-14 * Math.max(1, ...x.map(Math.abs))) break;
    }
  return all(x);
}

/** Coefficients of the flattest sin(theta) P(cos^2 theta): the series of 1/sqrt(1 - u), broken off. */
function flattest(n: number, f0: number): number[] {
  const p = [f0];
  for (let k = 1; k < n; k++) p.push((p[k - 1] * (2 * k - 1)) / (2 * k));
  return p;
}

/**
 * Coefficients of the one that swings between `low` and `high` on n extremes from the centre outwards, the outermost a
 * maximum: Remez' exchange of the places for the extremes found.
 */
function rippled(n: number, low: number, high: number): number[] {
  const wanted = (k: number) => ((n - 1 - k) % 2 === 0 ? high : low);
  let places = Array.from({ length: n }, (_, k) => 0.8 * Math.sin((k * QUARTER) / n) ** 2);
  let p: number[] = [];
  for (let turn = 0; turn < 60; turn++) {
    const rows = new Float64Array(n * n);
    places.forEach((u, i) => {
      for (let j = 0; j < n; j++) rows[i * n + j] = Math.sqrt(1 - u) * Math.pow(u, j);
    });
    p = [
      ...solveReal(
        n,
        rows,
        Float64Array.from(places, (_, k) => wanted(k)),
      ),
    ];
    // Extremes of sqrt(1 - u) P(u): P(u) = 2 (1 - u) P'(u).
    const slope = (u: number) => {
      const rise = p.slice(1).map((x, k) => x * (k + 1));
      return 2 * (1 - u) * valueAt(rise, u) - valueAt(p, u);
    };
    const found = [0];
    const steps = 400;
    for (let i = 0; i < steps; i++) {
      const [a, b] = [i / steps, (i + 1) / steps];
      if (slope(a) * slope(b) < 0) found.push(brent(slope, a, b, { tolerance: 1e-15 }));
    }
    if (found.length !== n) break;
    const moved = Math.max(...found.map((u, k) => Math.abs(u - places[k])));
    places = found;
    if (moved < 1e-13) break;
  }
  return p;
}

/**
 * A symmetric coupler of quarter waves, matched and isolated at every frequency. Its coupled over through voltage is
 * sin(theta) times a polynomial in cos^2(theta), which is made maximally flat at the centre or of equal ripple, and the
 * impedances whose cascade has that polynomial are found by Newton's method from no coupling on. Sources: Levy 1963;
 * Cristal & Young 1965.
 *
 * @throws CouplerError naming the value that cannot be met
 */
export function designCoupler({ coupling, sections, ripple = 0 }: CouplerSpecification): Coupler {
  if (!(coupling > 0 && coupling <= 80))
    throw new CouplerError('coupling', 'must be a positive number of decibels up to 80, for example 20');
  if (!COUPLER_SECTIONS.includes(sections)) throw new CouplerError('sections', 'must be 1, 3 or 5');
  if (!(ripple >= 0 && ripple < coupling && ripple <= 3))
    throw new CouplerError('ripple', 'must be from 0 to 3 dB, and less than the coupling');
  if (sections === 1 && ripple > 0) throw new CouplerError('ripple', 'takes 3 or 5 sections');
  const n = (sections + 1) / 2;
  const f0 = ratioOf(shareOf(coupling));
  const [low, high] = [ripple, -ripple].map((r) => ratioOf(shareOf(coupling + r)));
  const p = ripple > 0 ? rippled(n, low, high) : flattest(n, f0);
  const even = realised(p);
  // Outwards from the last extreme the coupling only falls.
  const floor = ripple > 0 ? low : ratioOf(shareOf(coupling + 1));
  let [inside, outside] = [QUARTER, 0];
  const steps = 2000;
  for (let i = steps - 1; i >= 0 && outside === 0; i--) {
    const theta = (QUARTER * i) / steps;
    if (targetAt(p, Math.cos(theta) ** 2) < floor * (1 - 1e-9)) outside = theta;
    else inside = theta;
  }
  const edge = brent((t) => targetAt(p, Math.cos(t) ** 2) - floor, outside, inside, { tolerance: 1e-12 });
  return { even, band: 2 * (1 - edge / QUARTER) };
}

/** Share of the power that a coupler of these even-mode impedances couples where its sections are `theta` long. */
export const coupledPower = (even: readonly number[], theta: number): number => powerOf(ratioAt(even, theta));

/**
 * Capacitance in farad that, between the strips at both ends of a coupled section, makes a quarter wave at `f` (Hz) of
 * the odd mode of the impedance `zo` (ohm) where the even mode has one; 0 where the odd mode is no faster. Seen from the
 * odd mode it stands twice from each strip to the middle: with wC' = cos(theta')/zo a line of theta' below 90 deg and of
 * zo/sin(theta') is a quarter wave of zo. Source: the loaded line of Hirota, Minakawa & Muraguchi 1990, as Dydyk 1999 has
 * it for couplers.
 * @param share of the odd mode's wave number in that of the even one
 */
export const eveningCapacitance = (zo: number, share: number, f: number): number =>
  share < 1 ? Math.cos(QUARTER * share) / (4 * Math.PI * f * zo) : 0;

/**
 * Even and odd impedance of four interdigitated fingers of which every other is joined, from those of two neighbours of
 * them as a pair, ohm: each finger couples to its neighbours. Source: Ou 1975; Pozar, section 7.6.
 */
export function ofFourFingers(ze: number, zo: number): [even: number, odd: number] {
  return [(ze * (ze + zo)) / (3 * zo + ze), (zo * (ze + zo)) / (3 * ze + zo)];
}

/** The pair of neighbours whose four fingers have these impedances, ohm: the same in closed form the other way. */
export function neighboursOf(even: number, odd: number): [ze: number, zo: number] {
  const z0 = Math.sqrt(even * odd);
  const c = (even - odd) / (even + odd);
  const root = Math.sqrt(9 - 8 * c * c);
  const turn = Math.sqrt((1 + c) / (1 - c));
  // (4C - 3 + root) and (4C + 3 - root) over 2C: for little coupling the difference is 4C^2/3.
  const less = (8 * c * c) / (3 + root);
  return [((4 * c - less) / (2 * c)) * turn * z0, ((4 * c + less) / (2 * c)) * (z0 / turn)];
}
