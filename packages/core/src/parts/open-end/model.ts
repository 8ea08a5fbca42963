import { fromReflection, type Electrical } from '../../electrical';
import type { Medium, Substrate } from '../../lines';
import type { ElectricalContext } from '../contract';
import { lineAt, perHertz, type InMedium, type LineAtFrequency } from '../junction';
import { tabled } from '../tabled';

type OpenEnd = (substrate: Substrate, line: LineAtFrequency) => number;

const ends: InMedium<OpenEnd> = {
  /** Altschuler & Oliner 1960, from the exact end of a semi-infinite strip. */
  stripline({ height }, { width }) {
    // tan of the extension in the limit of low frequency: d (d + 2 w) / (4 d + 2 w).
    const d = (height * Math.LN2) / Math.PI;
    return (d * (d + 2 * width)) / (4 * d + 2 * width);
  },
  /** Kirschning, Jansen & Koster 1981 (0.01 to 100 in w/h, er up to 50, 2.5 %). */
  microstrip({ er, height }, { width, eeff }) {
    const u = width / height;
    const p = Math.pow(u, 0.8544);
    const e = Math.pow(eeff, 0.81);
    const x1 = (0.434907 * (e + 0.26) * (p + 0.236)) / ((e - 0.189) * (p + 0.87));
    const x2 = 1 + Math.pow(u, 0.371) / (2.35 * er + 1);
    const x3 = 1 + (0.5274 * Math.atan(0.084 * Math.pow(u, 1.9413 / x2))) / Math.pow(eeff, 0.9236);
    const x4 = 1 + 0.0377 * Math.atan(0.067 * Math.pow(u, 1.456)) * (6 - 5 * Math.exp(0.036 * (1 - er)));
    const x5 = 1 - 0.218 * Math.exp(-7.5 * u);
    return (height * x1 * x3 * x5) / x4;
  },
};

/** Length in m by which the fringing field at an open end lengthens a line, and that at the edge of thick metal. */
export const openEndLength = (medium: Medium, substrate: Substrate, line: LineAtFrequency): number =>
  ends[medium.id](substrate, line) + medium.outward(substrate);

/** The open end of a line of `width`, `longer` behind the pin, both m. */
export function endOf(width: number, context: ElectricalContext, longer = 0): Electrical {
  const found = tabled('open-end', [width], context, { widths: [width], longer: [longer] });
  if (found) return found;
  const line = lineAt(context, width);
  const turn = -2 * perHertz(line) * (openEndLength(context.medium, context.substrate, line) + longer);
  return fromReflection((f, out) => {
    out.z0 = line.z0;
    out.re = Math.cos(turn * f);
    out.im = Math.sin(turn * f);
  });
}
