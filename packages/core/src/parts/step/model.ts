import type { Medium, Substrate } from '../../lines';
import { perHertz, plateWidth, type LineAtFrequency } from '../junction';
import { openEndLength } from '../open-end/model';

/**
 * Series inductance (H) and shunt capacitance (F) of a step in width.
 * Microstrip: inductance of Garg & Bahl 1978; capacitance of the wide line's open edge, Hammerstad 1981.
 * Stripline: Altschuler & Oliner 1960, a series inductance alone.
 */
export function stepElements(
  medium: Medium,
  substrate: Substrate,
  a: LineAtFrequency,
  b: LineAtFrequency,
): { l: number; c: number } {
  const [wide, narrow] = a.width >= b.width ? [a, b] : [b, a];
  if (medium === 'stripline') {
    const dw = plateWidth(medium, substrate, wide);
    const dn = plateWidth(medium, substrate, narrow);
    // X / Z = (2 D / lambda) ln cosec(pi Dn / 2 D): an inductance, since 1 / lambda is proportional to f.
    const x = -(2 * dw) * Math.log(Math.sin((Math.PI / 2) * Math.min(1, dn / dw)));
    return { l: (wide.z0 * x * perHertz(wide)) / (2 * Math.PI * 2 * Math.PI), c: 0 };
  }
  const ratio = wide.width / narrow.width;
  const l = (40.5 * (ratio - 1) - 75 * Math.log10(ratio) + 0.2 * (ratio - 1) ** 2) * 1e-9 * substrate.height;
  const length = openEndLength(medium, substrate, wide) * (1 - narrow.width / wide.width);
  return { l, c: (length * perHertz(wide)) / (2 * Math.PI * wide.z0) };
}
