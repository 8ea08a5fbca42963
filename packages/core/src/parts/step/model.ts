import { idealJoint, type Electrical } from '../../electrical';
import type { Medium, Substrate } from '../../lines';
import type { ElectricalContext } from '../contract';
import { perHertz, plateWidth, type LineAtFrequency } from '../junction';
import { openEndLength } from '../open-end/model';
import { tabled } from '../tabled';

/**
 * Series inductance (H) and shunt capacitance (F) of a step in width.
 * The inductance is that of a step between parallel plates of the lines' plate widths, X / Z = (2 D / lambda)
 * ln cosec(pi Dn / 2 Dw): Altschuler & Oliner 1960 for stripline, and by the plate model of microstrip (Wolff, Kompa &
 * Mehran 1972) for microstrip as well. The published fits for microstrip (Hammerstad 1975; Garg & Bahl 1978) lie at
 * twice and at 0.4 times of it, the second only inside its range. The capacitance of microstrip is that of the open
 * edge of the wide line (Hammerstad 1981).
 */
export function stepElements(
  medium: Medium,
  substrate: Substrate,
  a: LineAtFrequency,
  b: LineAtFrequency,
): { l: number; c: number } {
  const [wide, narrow] = a.width >= b.width ? [a, b] : [b, a];
  const dw = plateWidth(medium, substrate, wide);
  const dn = plateWidth(medium, substrate, narrow);
  const x = -((2 * dw) / (2 * Math.PI)) * Math.log(Math.sin((Math.PI / 2) * Math.min(1, dn / dw)));
  // A length x of the wide line has this inductance.
  const l = (wide.z0 * x * perHertz(wide)) / (2 * Math.PI);
  // Between two grounds the step is symmetric and has no edge of its own.
  if (medium.grounds === 2) return { l, c: 0 };
  const length = openEndLength(medium, substrate, wide) * (1 - narrow.width / wide.width);
  return { l, c: (length * perHertz(wide)) / (2 * Math.PI * wide.z0) };
}

/** A step in width as two lines meet it: pin 1 at the first, pin 2 at the second. */
export function stepBetween(context: ElectricalContext, a: LineAtFrequency, b: LineAtFrequency): Electrical {
  const found = tabled('step', [a.width, b.width], context, { widths: [a.width, b.width] });
  if (found) return found;
  const { l, c } = stepElements(context.medium, context.substrate, a, b);
  if (l === 0 && c === 0) return idealJoint(2);
  // The capacitance stands on the wide side, the inductance towards the narrow one.
  const [pc, pn] = a.width >= b.width ? [0, 1] : [1, 0];
  return {
    pins: 2,
    scatter(f, zn, re, im) {
      const w = 2 * Math.PI * f;
      // Chain from the wide side: A = 1, B = jwL, C = jwC, D = 1 - w^2 L C.
      const d = 1 - w * w * l * c;
      const dr = zn * (1 + d);
      const series = w * l;
      const shunt = w * c * zn * zn;
      const di = series + shunt;
      const q = 1 / (dr * dr + di * di);
      const put = (at: number, nr: number, ni: number) => {
        re[at] = (nr * dr + ni * di) * q;
        im[at] = (ni * dr - nr * di) * q;
      };
      put(pc * 3, zn * (1 - d), series - shunt);
      put(pn * 3, zn * (d - 1), series - shunt);
      put(1, 2 * zn, 0);
      re[2] = re[1];
      im[2] = im[1];
    },
  };
}
