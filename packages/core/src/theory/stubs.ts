import { cx, type Complex } from '../numeric';
import { seenThrough } from './transformer';

/** A match by stubs that cannot be had; `field` is the value that has to change. */
export class StubError extends RangeError {
  constructor(
    readonly field: 'load' | 'zLine' | 'spacing',
    message: string,
  ) {
    super(message);
  }
}

export type StubEnding = 'open' | 'short';

/** Angle brought into 0 to below pi; what lies a rounding below pi is nothing. */
function halfTurn(theta: number): number {
  const x = theta - Math.PI * Math.floor(theta / Math.PI);
  return Math.PI - x < 1e-12 ? 0 : x;
}

const isSmall = (x: number, scale: number): boolean => Math.abs(x) <= 1e-12 * scale;

/**
 * Angles theta in [0, pi), the shorter first, of a line behind which the conductance of `load` is `share` times the
 * line's own characteristic conductance: g / |cos + j y sin|^2 = share in the double angle. Undefined where every
 * angle does, empty where none.
 */
function anglesOfConductance(load: Complex, zLine: number, share: number): number[] | undefined {
  const y = cx.div({ re: zLine, im: 0 }, load);
  const q = y.re * y.re + y.im * y.im;
  const a = (1 - q) / 2;
  const b = -y.im;
  const reach = Math.hypot(a, b);
  const wanted = y.re / share - (1 + q) / 2;
  const scale = 1 + q;
  if (isSmall(reach, scale)) return isSmall(wanted, scale) ? undefined : [];
  const cosine = wanted / reach;
  if (Math.abs(cosine) > 1 + 1e-12) return [];
  const middle = Math.atan2(b, a);
  const half = Math.acos(Math.min(1, Math.max(-1, cosine)));
  return [(middle + half) / 2, (middle - half) / 2].map(halfTurn).sort((p, r) => p - r);
}

/** Parallel conductance of an impedance, S. */
export const conductance = (z: Complex): number => z.re / (z.re * z.re + z.im * z.im);
const susceptance = (z: Complex): number => -z.im / (z.re * z.re + z.im * z.im);

/**
 * Angles in [0, pi), the shorter first, of the line of impedance `zLine` (ohm) between a load and the plane where its
 * conductance is that of `source` (ohm), so that a shunt susceptance alone completes the match.
 * @throws StubError where there is no such plane, or where nothing is left to match
 */
export function stubPlanes(load: Complex, zLine: number, source: number): number[] {
  const angles = anglesOfConductance(load, zLine, zLine / source);
  if (!angles)
    throw new StubError(
      'load',
      'is matched as it is, so there is nothing for a stub to do; leave the stub out',
    );
  if (angles.length === 0)
    throw new StubError(
      'zLine',
      `a line of ${Number(zLine.toPrecision(4))} ohm never brings the load to the conductance of the source; change it towards ${Number(source.toPrecision(4))} ohm`,
    );
  return angles;
}

/**
 * Angle in [0, pi) of a stub of impedance `zStub` (ohm) in parallel that turns the impedance `from` into `to`, of which
 * it can change the susceptance only.
 */
export function stubAngle(ending: StubEnding, from: Complex, to: Complex, zStub: number): number {
  const b = (susceptance(to) - susceptance(from)) * zStub;
  // Open: y = j tan; shorted: y = -j cot.
  return halfTurn(ending === 'open' ? Math.atan(b) : Math.atan2(1, -b));
}

/** The impedance of the same conductance without susceptance: what a stub that completes a match leaves. */
export const resonated = (z: Complex): Complex => ({ re: 1 / conductance(z), im: 0 });

export interface DoubleStubPlane {
  /** Impedance that the first stub has to make of what it meets, ohm; the second finds the source's conductance. */
  readonly wanted: Complex;
}

/**
 * The two impedances that the first of two stubs may leave, `spacing` radians of line of impedance `zLine` away from
 * the second, so that the second stub completes the match to `source`: (cos - beta sin)^2 = g/k - g^2 sin^2 with g the
 * conductance at the first stub over the line's and k the source's over the line's.
 *
 * @param seen impedance at the first stub without it, ohm
 * @throws StubError naming the spacing: too near a multiple of 180 deg, or the load lies in its forbidden region
 */
export function doubleStubPlanes(
  seen: Complex,
  zLine: number,
  source: number,
  spacing: number,
): [DoubleStubPlane, DoubleStubPlane] {
  const s = Math.sin(spacing);
  const c = Math.cos(spacing);
  if (Math.abs(s) < 1e-6)
    throw new StubError(
      'spacing',
      'must not be a multiple of 180 deg: both stubs would stand at the same place electrically; 45 deg or 135 deg reach most loads',
    );
  const g = conductance(seen) * zLine;
  const k = zLine / source;
  const square = g / k - g * g * s * s;
  if (square < -1e-12 * (1 + g * g))
    throw new StubError('spacing', `leaves the load in its forbidden region`);
  const root = Math.sqrt(Math.max(0, square));
  const plane = (beta: number): DoubleStubPlane => ({
    wanted: cx.div({ re: zLine, im: 0 }, { re: g, im: beta }),
  });
  return [plane((c - root) / s), plane((c + root) / s)];
}

/** What would take a load out of the forbidden region of a double stub. */
export interface ForbiddenRegion {
  /** Conductance at the first stub and the largest that the spacing allows, over that of the source. */
  readonly conductance: number;
  readonly largest: number;
  /** Spacings up to this (and from 180 deg less this on) reach the load with the offset as it is, radians. */
  readonly spacing: number;
  /** Offsets from the load to the first stub that reach it with the spacing as it is, radians; to may be beyond pi. */
  readonly offset: { readonly from: number; readonly to: number } | undefined;
}

/** Largest conductance at the first of two stubs that they can match, over that of the source. */
export const largestConductance = (zLine: number, source: number, spacing: number): number =>
  1 / ((zLine / source) ** 2 * Math.sin(spacing) ** 2);

/** The forbidden region of a double stub as it bears on a load, or undefined where the load can be matched. */
export function forbiddenRegion(
  load: Complex,
  zLine: number,
  source: number,
  spacing: number,
  offset: number,
): ForbiddenRegion | undefined {
  const g = conductance(seenThrough(load, zLine, offset)) * source;
  const r = zLine / source;
  const largest = largestConductance(zLine, source, spacing);
  if (g <= largest * (1 + 1e-12)) return undefined;
  const edges = anglesOfConductance(load, zLine, largest * r);
  let range: ForbiddenRegion['offset'];
  if (edges?.length === 2) {
    const [p, q] = edges;
    const inside = conductance(seenThrough(load, zLine, (p + q) / 2)) * source < largest;
    range = inside ? { from: p, to: q } : { from: q, to: p + Math.PI };
  }
  return { conductance: g, largest, spacing: Math.asin(Math.min(1, 1 / (r * Math.sqrt(g)))), offset: range };
}
