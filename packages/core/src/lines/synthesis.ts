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
  let a = Math.min(most, Math.max(least, Math.log(Math.max(estimate - 1.2, 0.4 * Math.exp(-2 / estimate)))));
  let fa = error(a);
  if (fa === 0) return h * Math.exp(a);
  // The impedance falls with width: too high an impedance asks for a wider strip.
  const direction = fa > 0 ? 1 : -1;
  for (let step = 0.25; ; step *= 2) {
    const b = Math.min(most, Math.max(least, a + direction * step));
    const fb = error(b);
    if (fa * fb <= 0) return h * Math.exp(brent(error, a, b));
    // What is no number ends the search as what is out of reach does.
    if (b === least || b === most || Number.isNaN(fb)) {
      const highest = z0 * Math.exp(error(least));
      const lowest = z0 * Math.exp(error(most));
      throw new UnreachableImpedance(z0, lowest, highest);
    }
    a = b;
    fa = fb;
  }
}

/** Logarithms of impedances over those wanted, for logarithms of two dimensions over the height. */
type Misses = (x: number, y: number) => [number, number];

/** Change of a logarithm for a derivative, what counts as met, and the longest step. */
const NUDGE = 1e-4;
const MET = 1e-13;
const STRIDE = 1.5;
const TRIES = 60;

/**
 * Root in two unknowns by Newton's method with a derivative by differences, steps shortened until they help.
 * @returns undefined where none is found between the bounds
 */
function newton(
  misses: Misses,
  start: readonly [number, number],
  least: number,
  most: number,
): [number, number] | undefined {
  let [x, y] = start;
  let here = misses(x, y);
  const size = ([a, b]: readonly [number, number]) => Math.hypot(a, b);
  for (let i = 0; i < TRIES; i++) {
    if (size(here) < MET) return [x, y];
    const byX = misses(x + NUDGE, y);
    const byY = misses(x, y + NUDGE);
    const [a, b] = [(byX[0] - here[0]) / NUDGE, (byY[0] - here[0]) / NUDGE];
    const [c, d] = [(byX[1] - here[1]) / NUDGE, (byY[1] - here[1]) / NUDGE];
    const det = a * d - b * c;
    let [dx, dy] = [(b * here[1] - d * here[0]) / det, (c * here[0] - a * here[1]) / det];
    if (!Number.isFinite(dx + dy)) return undefined;
    const shorten = Math.min(1, STRIDE / Math.max(Math.abs(dx), Math.abs(dy)));
    dx *= shorten;
    dy *= shorten;
    let helped = false;
    for (let half = 0; half < 12 && !helped; half++, dx /= 2, dy /= 2) {
      const to: [number, number] = [
        Math.min(most, Math.max(least, x + dx)),
        Math.min(most, Math.max(least, y + dy)),
      ];
      const there = misses(...to);
      if (!(size(there) < size(here))) continue;
      [x, y] = to;
      here = there;
      helped = true;
    }
    // No step helps any more: rounding, or a bound.
    if (!helped) return size(here) < 1e-9 ? [x, y] : undefined;
  }
  return size(here) < 1e-9 ? [x, y] : undefined;
}

/** Thrown when no pair of strips has the impedances asked for. */
export class UnreachablePair extends RangeError {}

/**
 * Width and gap in m of a pair whose modes have the impedances `even` and `odd` (ohm) at `freq`: a root of the analysis
 * itself in two unknowns.
 * @throws UnreachablePair when the substrate cannot reach them
 */
export function synthesisePair(
  medium: MediumId,
  substrate: Substrate,
  even: number,
  odd: number,
  freq: number,
  level: LineModelLevel = 'dispersive',
): [width: number, gap: number] {
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
  let alone: number;
  try {
    alone = Math.log(synthesiseWidth(medium, substrate, Math.sqrt(even * odd), freq, level) / h);
  } catch {
    throw unreachable();
  }
  const [least, most] = [Math.log(NARROWEST), Math.log(WIDEST)];
  // The coupling of strips a height wide falls about as exp(-1.5 gap/height) from a half.
  const coupling = (even - odd) / (even + odd);
  const gap = Math.log(Math.max(0.01, -0.7 * Math.log(2 * coupling)));
  for (const [dx, y] of [
    [-0.2, gap],
    [-0.8, Math.log(0.02)],
    [0, Math.log(2)],
  ]) {
    const found = newton(misses, [Math.max(least, alone + dx), y], least, most);
    if (found) return [h * Math.exp(found[0]), h * Math.exp(found[1])];
  }
  throw unreachable();
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
  let a = scale;
  let fa = miss(a);
  for (let step = 0.5; fa !== 0; step *= 2) {
    const b = Math.min(most, Math.max(least, a - Math.sign(fa) * rises * step));
    const fb = miss(b);
    if (fa * fb <= 0) return dimensions(brent(miss, a, b));
    if (b === least || b === most || Number.isNaN(fb)) {
      const [low, high] = rises > 0 ? [least, most] : [most, least];
      throw new UnreachableImpedance(
        z0,
        z0 * Math.exp(miss(low)),
        z0 * Math.exp(miss(high)),
        'width' in given ? 'slot' : 'width',
      );
    }
    [a, fa] = [b, fb];
  }
  return dimensions(a);
}
