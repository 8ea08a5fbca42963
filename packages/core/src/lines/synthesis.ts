import { brent } from '../numeric/root';
import { linePoint, type CrossSection, type LineModelLevel, type MediumId, type Substrate } from './contract';
import { crossSections } from './kinds';

/** Thrown when no width in the computable range has the impedance asked for; carries what can be reached. */
export class UnreachableImpedance extends RangeError {
  constructor(
    readonly z0: number,
    readonly lowest: number,
    readonly highest: number,
    /** The dimension that was looked for. */
    dimension = 'width',
  ) {
    super(
      Number.isFinite(lowest) && Number.isFinite(highest)
        ? `no ${dimension} has ${trim(z0)} ohm on this substrate; it reaches from ${trim(lowest)} to ${trim(highest)} ohm`
        : `no ${dimension} has ${trim(z0)} ohm on this substrate`,
    );
  }
}

const trim = (x: number): string => String(Number(x.toPrecision(4)));

/** Widths over height between which synthesis searches. */
const NARROWEST = 1e-4;
const WIDEST = 1e3;

/**
 * Root of what rises (1) or falls (-1), walked to from `start` in growing steps.
 * @returns undefined where none lies between the bounds, and where the walk meets what is no number
 */
function bracketed(
  miss: (x: number) => number,
  start: number,
  rises: 1 | -1,
  least: number,
  most: number,
  first = 0.5,
): number | undefined {
  let a = Math.min(most, Math.max(least, start));
  let fa = miss(a);
  for (let step = first; fa !== 0; step *= 2) {
    const b = Math.min(most, Math.max(least, a - Math.sign(fa) * rises * step));
    const fb = miss(b);
    if (fa * fb <= 0) return brent(miss, a, b);
    if (b === least || b === most || Number.isNaN(fb)) return undefined;
    [a, fa] = [b, fb];
  }
  return a;
}

/**
 * Width in m whose impedance at `freq` is `z0`: the bracketed root of the analysis itself (Brent), so that analysis of
 * the result returns `z0` to about 1e-12.
 * @throws UnreachableImpedance when the substrate cannot reach `z0`
 */
export function synthesiseWidth(
  medium: MediumId,
  substrate: Substrate,
  z0: number,
  freq: number,
  level: LineModelLevel = 'dispersive',
): number {
  if (!(z0 > 0 && z0 < Infinity)) throw new RangeError('an impedance must be greater than zero and finite');
  const kind = crossSections.strip[medium];
  const p = linePoint();
  const points = [p];
  const h = substrate.height;
  const error = (x: number): number => {
    kind.prepare(substrate, [h * Math.exp(x)], level).impedanceAt(freq, points);
    return Math.log(p.z0 / z0);
  };
  const least = Math.log(NARROWEST);
  const most = Math.log(WIDEST);
  // Start where a wide strip's parallel-plate estimate points to, then walk outwards until the sign changes.
  const estimate = 377 / (z0 * Math.sqrt(substrate.er));
  const start = Math.log(Math.max(estimate - 1.2, 0.4 * Math.exp(-2 / estimate)));
  // The impedance falls with width: too high an impedance asks for a wider strip.
  const found = bracketed(error, start, -1, least, most, 0.25);
  if (found !== undefined) return h * Math.exp(found);
  throw new UnreachableImpedance(z0, z0 * Math.exp(error(most)), z0 * Math.exp(error(least)));
}

/** Logarithms of impedances over those wanted, for logarithms of two dimensions over the height. */
type Misses = (x: number, y: number) => [number, number];

/** Change of a logarithm for a derivative, what counts as met, and the longest step. */
const NUDGE = 1e-4;
const MET = 1e-13;
const STRIDE = 1.5;
const TRIES = 60;

/** Derivatives of two misses by two unknowns, row by row. */
type Slopes = readonly [number, number, number, number];

/**
 * Root in two unknowns by Newton's method: a derivative by differences, improved from step to step (Broyden 1965) and
 * made anew where it no longer helps; steps shortened until they help.
 * @param known derivatives near the start, where they are known
 * @returns undefined where none is found between the bounds
 */
function newton(
  misses: Misses,
  start: readonly [number, number],
  least: number,
  most: number,
  known?: Slopes,
): { readonly at: [number, number]; readonly slopes: Slopes | undefined } | undefined {
  const size = ([a, b]: readonly [number, number]) => Math.hypot(a, b);
  let [x, y] = start;
  let here = misses(x, y);
  let slopes: Slopes | undefined = known;
  let last = known;
  for (let i = 0; i < TRIES && !(size(here) < MET); i++) {
    const fresh = slopes === undefined;
    if (!slopes) {
      const byX = misses(x + NUDGE, y);
      const byY = misses(x, y + NUDGE);
      slopes = [
        (byX[0] - here[0]) / NUDGE,
        (byY[0] - here[0]) / NUDGE,
        (byX[1] - here[1]) / NUDGE,
        (byY[1] - here[1]) / NUDGE,
      ];
    }
    last = slopes;
    const [a, b, c, d] = slopes;
    const det = a * d - b * c;
    let [dx, dy] = [(b * here[1] - d * here[0]) / det, (c * here[0] - a * here[1]) / det];
    if (!Number.isFinite(dx + dy)) return undefined;
    const shorten = Math.min(1, STRIDE / Math.max(Math.abs(dx), Math.abs(dy)));
    let [tx, ty, there] = [x, y, here];
    for (let share = shorten, half = 0; half < (fresh ? 12 : 1); half++, share /= 2) {
      tx = Math.min(most, Math.max(least, x + share * dx));
      ty = Math.min(most, Math.max(least, y + share * dy));
      there = misses(tx, ty);
      if (size(there) < (fresh ? 1 : 0.5) * size(here)) break;
    }
    if (!(size(there) < size(here))) {
      // No step helps any more: rounding, or a bound.
      if (fresh) break;
      slopes = undefined;
      continue;
    }
    [dx, dy] = [tx - x, ty - y];
    const step = dx * dx + dy * dy;
    const left = [
      (there[0] - here[0] - a * dx - b * dy) / step,
      (there[1] - here[1] - c * dx - d * dy) / step,
    ];
    const poor = size(there) > 0.3 * size(here);
    slopes = poor ? undefined : [a + left[0] * dx, b + left[0] * dy, c + left[1] * dx, d + left[1] * dy];
    [x, y, here] = [tx, ty, there];
  }
  return size(here) < 1e-9 ? { at: [x, y], slopes: slopes ?? last } : undefined;
}

/** Thrown when no pair of strips has the impedances asked for. */
export class UnreachablePair extends RangeError {}

/** A pair that was looked for, with how its impedances go with its dimensions, for the next one near it. */
export interface FoundPair {
  readonly even: number;
  readonly odd: number;
  readonly width: number;
  readonly gap: number;
  /** Of logarithms by logarithms. */
  readonly slopes: Slopes | undefined;
}

/**
 * Width and gap in m of a pair whose modes have the impedances `even` and `odd` (ohm) at `freq`: a root of the analysis
 * itself in two unknowns.
 * @param near a pair found before, to begin from
 * @throws UnreachablePair when the substrate cannot reach them
 */
export function synthesisePair(
  medium: MediumId,
  substrate: Substrate,
  even: number,
  odd: number,
  freq: number,
  level: LineModelLevel = 'dispersive',
  near?: FoundPair,
): FoundPair {
  if (!(even > odd && odd > 0 && even < Infinity))
    throw new RangeError('the even impedance must be greater than the odd one, and both greater than zero');
  const kind = crossSections.pair[medium];
  const { height: h } = substrate;
  const points = [linePoint(), linePoint()];
  const misses: Misses = (x, y) => {
    kind.prepare(substrate, [h * Math.exp(x), h * Math.exp(y)], level).impedanceAt(freq, points);
    return [Math.log(points[0].z0 / even), Math.log(points[1].z0 / odd)];
  };
  const unreachable = () =>
    new UnreachablePair(
      `no pair of strips has ${trim(even)} ohm even and ${trim(odd)} ohm odd on this substrate`,
    );
  const [least, most] = [Math.log(NARROWEST), Math.log(WIDEST)];
  const from = (x: number, y: number, slopes?: Slopes): FoundPair | undefined => {
    const found = newton(misses, [Math.max(least, x), y], least, most, slopes);
    return (
      found && {
        even,
        odd,
        width: h * Math.exp(found.at[0]),
        gap: h * Math.exp(found.at[1]),
        slopes: found.slopes,
      }
    );
  };
  const beginning = near && foretold(near, even, odd);
  const nearby = beginning && from(Math.log(beginning[0] / h), Math.log(beginning[1] / h), near.slopes);
  if (nearby) return nearby;
  let alone: number;
  try {
    alone = Math.log(synthesiseWidth(medium, substrate, Math.sqrt(even * odd), freq, level) / h);
  } catch {
    throw unreachable();
  }
  // The coupling of strips a height wide falls about as exp(-1.5 gap/height) from a half.
  const coupling = (even - odd) / (even + odd);
  const gap = Math.log(Math.max(0.01, -0.7 * Math.log(2 * coupling)));
  for (const [dx, y] of [
    [-0.2, gap],
    [-0.8, Math.log(0.02)],
    [0, Math.log(2)],
  ]) {
    const found = from(alone + dx, y);
    if (found) return found;
  }
  throw unreachable();
}

/** Where a pair lies whose impedances differ a little from those of one that was found, by its derivatives. */
function foretold({ width, gap, slopes, ...found }: FoundPair, even: number, odd: number): [number, number] {
  if (!slopes) return [width, gap];
  const [a, b, c, d] = slopes;
  const [e, o] = [Math.log(even / found.even), Math.log(odd / found.odd)];
  const det = a * d - b * c;
  const [dx, dy] = [(d * e - b * o) / det, (a * o - c * e) / det];
  return Math.abs(dx) < 1 && Math.abs(dy) < 1 ? [width * Math.exp(dx), gap * Math.exp(dy)] : [width, gap];
}

/** One dimension of a pair, m, and what it is asked to be. */
export type PairGiven = ({ readonly width: number } | { readonly gap: number }) & {
  /** What is wanted, in words. */
  readonly asked: string;
  /**
   * What a pair of these impedances has over what is wanted: has to rise or fall with the impedances as with the dimension
   * looked for throughout.
   */
  readonly miss: (ze: number, zo: number) => number;
};

/** Gaps over the height between which one is looked for. */
const WIDEST_GAP = 60;

/**
 * The gap for strips of a width, or the width for strips a gap apart, that make the pair what it is asked to be, m.
 * @throws UnreachablePair when there is none
 */
export function pairDimension(
  medium: MediumId,
  substrate: Substrate,
  given: PairGiven,
  freq: number,
): number {
  const points = [linePoint(), linePoint()];
  const h = substrate.height;
  const ofGap = 'width' in given;
  const miss = (x: number): number => {
    const free = h * Math.exp(x);
    crossSections.pair[medium]
      .prepare(substrate, ofGap ? [given.width, free] : [free, given.gap])
      .impedanceAt(freq, points);
    return Math.log(given.miss(points[0].z0, points[1].z0));
  };
  // A wider gap raises the odd impedance and the decibels of coupling, wider strips lower the even and the mean one.
  const found = bracketed(
    miss,
    0,
    ofGap ? 1 : -1,
    Math.log(NARROWEST),
    Math.log(ofGap ? WIDEST_GAP : WIDEST),
  );
  if (found === undefined)
    throw new UnreachablePair(
      `${ofGap ? 'no gap between strips of this width' : 'no width of strips this far apart'} gives the pair ${given.asked} on this substrate`,
    );
  return h * Math.exp(found);
}

/** One dimension of a coplanar line is given, m; the other is looked for. */
export type CoplanarGiven = { readonly width: number } | { readonly slot: number };

/**
 * Width and slot in m of a coplanar line whose impedance at `freq` is `z0`.
 * @throws UnreachableImpedance when the dimension given does not allow it
 */
export function synthesiseCoplanar(
  kind: CrossSection<'coplanar'>,
  substrate: Substrate,
  z0: number,
  given: CoplanarGiven,
  freq: number,
  level: LineModelLevel = 'dispersive',
): [width: number, slot: number] {
  const points = [linePoint()];
  const dimensions = (x: number): [number, number] => {
    const free = Math.exp(x);
    return 'width' in given ? [given.width, free] : [free, given.slot];
  };
  const miss = (x: number): number => {
    kind.prepare(substrate, dimensions(x), level).impedanceAt(freq, points);
    return Math.log(points[0].z0 / z0);
  };
  // A wider slot raises the impedance, a wider strip lowers it.
  const rises = 'width' in given ? 1 : -1;
  const scale = Math.log('width' in given ? given.width : given.slot);
  const [least, most] = [scale - Math.log(1e3), scale + Math.log(1e3)];
  const found = bracketed(miss, scale, rises, least, most);
  if (found !== undefined) return dimensions(found);
  const [low, high] = rises > 0 ? [least, most] : [most, least];
  throw new UnreachableImpedance(
    z0,
    z0 * Math.exp(miss(low)),
    z0 * Math.exp(miss(high)),
    'width' in given ? 'slot' : 'width',
  );
}
