import type { Medium, Substrate } from '../../lines';
import { perHertz, plateWidth, type InMedium, type LineAtFrequency } from '../junction';

/** A bend's symmetric T: series inductance in all (H), shunt capacitance (F), and its planes' distance from the corner (m). */
export interface BendElements {
  readonly l: number;
  readonly c: number;
  readonly plane: number;
}

type Bend = (
  medium: Medium,
  substrate: Substrate,
  line: LineAtFrequency,
  angle: number,
  mitred: boolean,
) => BendElements;

/** Plane of an angle's inner corner over the width, and phase over frequency in turns. */
const shareOf = (angle: number) => Math.tan(angle / 2) / 2;
const turns = (line: LineAtFrequency) => perHertz(line) / (2 * Math.PI);

const bends: InMedium<Bend> = {
  /** Altschuler & Oliner 1960 for any angle, planes at half the plate width; a mitred one has the same mean length without reflection. */
  stripline(medium, substrate, line, angle, mitred) {
    const k = turns(line);
    const d = plateWidth(medium, substrate, line);
    const x = (1 + angle / Math.PI) / 2;
    // X_a / Z = (2 D / lambda) (psi(x) + 1.9635 - 1/x) in each arm, psi(x) = 0.5223 ln x + 0.394, and
    // X_b / Z = -(lambda / 2 pi D) cot(angle / 2). As ln 2x the rounded constants vanish exactly at no angle.
    const series = (4 * d * (0.5223 * Math.log(2 * x) + 2 - 1 / x)) / (2 * Math.PI);
    const shunt = d * Math.tan(angle / 2);
    const mean = (series + shunt) / 2;
    return {
      l: (mitred ? mean : series) * k * line.z0,
      c: ((mitred ? mean : shunt) * k) / line.z0,
      plane: d * shareOf(angle),
    };
  },
  /** Kirschning, Jansen & Koster 1983, stated for right angles, w/h 0.2 to 6, er 2.36 to 10.4; planes at the inner corner; other angles in proportion. */
  microstrip(_medium, { er, height }, line, angle, mitred) {
    const u = line.width / height;
    const share = angle / (Math.PI / 2);
    const mm = height * 1e3;
    const c = mitred
      ? (3.93 * er + 0.62) * u * u + (7.6 * er + 3.8) * u
      : (10.35 * er + 2.5) * u * u + (2.6 * er + 5.64) * u;
    const l = mitred
      ? 0.44 * (1 - 1.062 * Math.exp(-0.177 * Math.pow(u, 0.947)))
      : 0.22 * (1 - 1.35 * Math.exp(-0.18 * Math.pow(u, 1.39)));
    return {
      l: l * mm * 1e-9 * share,
      c: c * mm * 1e-15 * share,
      plane: line.width * shareOf(angle),
    };
  },
};

/** Elements of a square or mitred (50 %) bend of `angle` (radians). */
export const bendElements = (
  medium: Medium,
  substrate: Substrate,
  line: LineAtFrequency,
  angle: number,
  mitred: boolean,
): BendElements => bends[medium.id](medium, substrate, line, angle, mitred);
