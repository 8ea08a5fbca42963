import { C0, ETA0 } from '../../numeric';
import type { Medium, Substrate } from '../../lines';
import { perHertz, plateCutoff, plateWidth, type JunctionModel, type LineAtFrequency } from '../junction';
import { stepElements } from '../step/model';

/** A tee's elements at one frequency; lengths in m, susceptance in siemens at the side arm's node. */
export interface TeeElements {
  /** Distance of each arm's reference plane from where the centre lines meet: arms a, b and the side arm. */
  readonly da: number;
  readonly db: number;
  readonly d2: number;
  /** Turns ratios of the arms against the side arm. */
  readonly ta: number;
  readonly tb: number;
  readonly b: number;
}

/**
 * Elements of a tee with main arms a and b and side arm 2. Source: Hammerstad 1981, eq. 17 to 24, for microstrip. In
 * stripline the same parallel-plate picture holds for each half of the line, with twice the impedance, half the
 * spacing and no correction for the air above; the element values there are an approximation with the right limits.
 */
export function teeElements(
  medium: Medium,
  substrate: Substrate,
  a: LineAtFrequency,
  b: LineAtFrequency,
  side: LineAtFrequency,
): (f: number) => TeeElements {
  const halves = medium.grounds;
  const { er } = substrate;
  const dA = plateWidth(medium, substrate, a);
  const dB = plateWidth(medium, substrate, b);
  const dS = plateWidth(medium, substrate, side);
  const fA = plateCutoff(medium, substrate, a);
  const fB = plateCutoff(medium, substrate, b);
  const r = Math.sqrt(a.z0 * b.z0) / side.z0;
  const air = medium.homogeneous ? 1 : (er + 2) / er;
  const zs = (halves * side.z0) / ETA0;
  const ratioA = a.z0 / side.z0;
  const ratioB = b.z0 / side.z0;
  const fixed = 1 + 0.9 * Math.log(r) - 4.4 * Math.exp(-1.3 * r) - 20 * zs * zs;
  const plane = Math.sqrt(dA * dB);
  const inner = 0.05 + 0.7 * Math.exp(-1.6 * r) - 0.17 * Math.log(r);
  // 1 / lambda of both arms, without the frequency.
  const perWave = Math.sqrt(Math.sqrt(a.eeff * b.eeff)) / C0;
  return (f) => {
    const q = (f * f) / (fA * fB);
    const xa = (f / fA) * (f / fA);
    const xb = (f / fB) * (f / fB);
    // Above about half the cutoff the expansion in frequency ends; its value there is kept.
    const da = 0.055 * dS * ratioA * Math.max(0, 1 - 2 * ratioA * xa);
    const db = 0.055 * dS * ratioB * Math.max(0, 1 - 2 * ratioB * xb);
    const d2 = plane * (0.5 - r * (inner + 0.25 * r * q));
    const turns = (x: number, ratio: number, d: number) =>
      Math.sqrt(Math.max(0.25, 1 - Math.PI * x * ((ratio * ratio) / 12 + (0.5 - d2 / d) ** 2)));
    const ta = turns(xa, ratioA, dA);
    const tb = turns(xb, ratioB, dB);
    const susceptance =
      ((5.5 * plane * f * perWave * air * Math.sqrt(da * db)) / (side.z0 * ta * tb * dS)) *
      (fixed + 4.5 * r * q);
    return { da, db, d2, ta, tb, b: susceptance };
  };
}

/**
 * A tee as a junction of lines a, b and the side arm, with lengths measured to where the centre lines meet.
 * @param pads length of copper beyond the middle on arms a and b that end in a pad instead of a line, m
 */
export function teeJunction(
  medium: Medium,
  substrate: Substrate,
  a: LineAtFrequency,
  b: LineAtFrequency,
  side: LineAtFrequency,
  pads: readonly number[] = [0, 0],
): JunctionModel {
  const elements = teeElements(medium, substrate, a, b, side);
  const beta = [a, b, side].map(perHertz);
  return {
    z0: [a.z0, b.z0, side.z0],
    at(f, phase, turns) {
      const e = elements(f);
      phase[0] = beta[0] * f * (pads[0] - e.da);
      phase[1] = beta[1] * f * (pads[1] - e.db);
      phase[2] = -beta[2] * f * e.d2;
      turns[0] = 1 / e.ta;
      turns[1] = 1 / e.tb;
      turns[2] = 1;
      return e.b;
    },
  };
}

/**
 * A line with a part mounted at its side: the step between its two widths, with a third pin at the same place. The
 * step's inductance stands as a length of the narrow line, less that length's capacitance.
 */
export function stepJunction(
  medium: Medium,
  substrate: Substrate,
  a: LineAtFrequency,
  b: LineAtFrequency,
): JunctionModel {
  const { l, c } = stepElements(medium, substrate, a, b);
  const narrow = a.width < b.width ? a : b;
  const length = (l * 2 * Math.PI) / (narrow.z0 * perHertz(narrow));
  const shunt = c - l / (narrow.z0 * narrow.z0);
  return {
    z0: [a.z0, b.z0, narrow.z0],
    at(f, phase, turns) {
      phase.fill(0);
      phase[narrow === a ? 0 : 1] = perHertz(narrow) * f * length;
      turns.fill(1);
      return 2 * Math.PI * f * shunt;
    },
  };
}
