import { fromAdmittance, type Electrical } from '../../electrical';
import { C0 } from '../../numeric';
import { inRoom, type Medium, type Substrate } from '../../lines';
import type { ElectricalContext } from '../contract';
import { lineAt, perHertz, type InMedium, type LineAtFrequency } from '../junction';
import { openEndLength } from '../open-end/model';
import { tabled } from '../tabled';

/** A gap's pi of capacitances (F) between planes at its edges: across it, and from each edge to ground. */
export interface GapElements {
  readonly across: number;
  readonly first: number;
  readonly second: number;
}

/** The narrower and the wider line, the gap in m, and the end capacitance (F) of either line alone. */
interface Ends {
  readonly narrow: LineAtFrequency;
  readonly wide: LineAtFrequency;
  readonly gap: number;
  readonly end: (line: LineAtFrequency) => number;
}
/** Capacitances across the gap and from the ends of the narrower and of the wider line to ground, F. */
type Gap = (substrate: Substrate, ends: Ends) => { across: number; narrower: number; wider: number };

const gaps: InMedium<Gap> = {
  /** Altschuler & Oliner 1960 for equal widths (the narrower is taken), at low frequency. */
  stripline({ height: h }, { narrow, gap }) {
    // B / Y of the pi about the gap's middle; with the planes at its edges the line to the middle is added.
    const series = h * Math.log(1 / Math.tanh((Math.PI * gap) / (2 * h)));
    const shunt = -2 * h * Math.log(Math.cosh((Math.PI * gap) / (2 * h)));
    const unit = Math.sqrt(narrow.eeff) / (C0 * 2 * Math.PI * narrow.z0);
    const across = series * unit;
    // Far apart the middle's negative susceptance and the added line leave the two open ends.
    const side = Math.max(0, (shunt + Math.PI * gap) * unit);
    return { across, narrower: side, wider: side };
  },
  /** Kirschning, Jansen & Koster 1983 (w/h 0.1 to 3, widths 1 to 3, gap 0.2 to any height). */
  microstrip({ er, height: h }, { narrow, wide, gap, end }) {
    const u = narrow.width / h;
    const s = gap / h;
    const ratio = wide.width / narrow.width;
    const q5 = 1.23 / (1 + 0.12 * Math.pow(ratio - 1, 0.9));
    const q1 = 0.04598 * (0.03 + Math.pow(u, q5)) * (0.272 + 0.07 * er);
    const q2 =
      0.107 * (u + 9) * Math.pow(s, 3.23) + (2.09 * Math.pow(u, 1.05) * (1.5 + 0.3 * u)) / (1 + 0.6 * u);
    const q3 = Math.exp(-0.5978 * Math.pow(ratio, 1.35)) - 0.55;
    const q4 = Math.exp(-0.5978 * Math.pow(1 / ratio, 1.35)) - 0.55;
    const across =
      500e-12 * h * Math.exp(-1.86 * s) * q1 * (1 + 4.19 * (1 - Math.exp(-0.785 * Math.sqrt(1 / u) * ratio)));
    return {
      across,
      narrower: (end(narrow) * (q2 + q3)) / (q2 + 1),
      wider: (end(wide) * (q2 + q4)) / (q2 + 1),
    };
  },
};

export function gapElements(
  medium: Medium,
  substrate: Substrate,
  a: LineAtFrequency,
  b: LineAtFrequency,
  gap: number,
): GapElements {
  const end = (line: LineAtFrequency) =>
    (openEndLength(medium, substrate, line) * perHertz(line)) / (2 * Math.PI * line.z0);
  const [narrow, wide] = a.width <= b.width ? [a, b] : [b, a];
  // The faces of thick metal are nearer to one another than a sheet's edges would be.
  const slot = gap - 2 * inRoom(medium.outward(substrate), gap);
  const { across, narrower, wider } = gaps[medium.id](substrate, { narrow, wide, gap: slot, end });
  return narrow === a
    ? { across, first: narrower, second: wider }
    : { across, first: wider, second: narrower };
}

/** Capacitances across, and from either end to ground, F. */
export const capacitances = ({ across, first, second }: GapElements): Electrical =>
  fromAdmittance(2, (f, re, im) => {
    const w = 2 * Math.PI * f;
    re.fill(0);
    im[0] = w * (across + first);
    im[1] = im[2] = -w * across;
    im[3] = w * (across + second);
  });

/** The ends of two lines of `widths` that face one another across a gap, m. @param across F; absent: as it follows from the gap */
export function gapOf(
  widths: readonly [number, number],
  gap: number,
  context: ElectricalContext,
  across?: number,
): Electrical {
  const found = tabled('gap', [...widths, gap], context, { widths });
  if (found) return found;
  const [a, b] = widths.map((width) => lineAt(context, width));
  const elements = gapElements(context.medium, context.substrate, a, b, gap);
  return capacitances(across === undefined ? elements : { ...elements, across });
}
