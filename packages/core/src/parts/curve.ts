import { fromScattering, uniformLine, type Electrical } from '../electrical';
import { curvedLine, heightOf, storedIn, type Curved } from '../junctions';
import { linePoint } from '../lines';
import { C0 } from '../numeric';
import type { ElectricalContext } from './contract';

/** A line that goes straight, curves and goes straight again; lengths of its centre line, m. */
interface CurvedCourse {
  readonly width: number;
  readonly radius: number;
  readonly arc: number;
  /** Straight before and behind the arc; less than nothing where the arc stands for what is taken off beside it. */
  readonly lead: number;
  readonly tail: number;
  readonly isLossless?: boolean;
}

/**
 * A line with an arc in it, which by the table counts as shorter and of less impedance than its centre line says; where no table
 * holds its width or the board, as long as that.
 */
export function withCurve(
  { width, radius, arc, lead, tail, isLossless = false }: CurvedCourse,
  context: ElectricalContext,
): Electrical {
  const { medium, substrate } = context;
  const section = context.section('strip', width);
  const point = linePoint();
  const points = [point];
  const length = lead + arc + tail;
  const read = (f: number) => {
    if (isLossless) section.impedanceAt(f, points);
    else section.at(f, points);
    return isLossless ? 0 : (point.alphaConductor + point.alphaDielectric) * length;
  };
  const stored = arc > 0 ? storedIn('curve', medium.id, substrate, [width, radius]) : undefined;
  if (!stored)
    return uniformLine((f, out) => {
      out.alpha = read(f);
      out.z0 = point.z0;
      out.beta = ((2 * Math.PI * f) / C0) * Math.sqrt(point.eeff) * length;
    });
  const at = curvedLine(stored, width, radius, arc, heightOf(medium.id, substrate));
  const by: Curved = { phase: 0, returned: 0, lost: [0, 0] };
  const references = [
    { re: 0, im: 0 },
    { re: 0, im: 0 },
  ];
  return fromScattering(2, references, (f, re, im) => {
    const alpha = read(f);
    references[0].re = references[1].re = point.z0;
    const beta = ((2 * Math.PI * f) / C0) * Math.sqrt(point.eeff);
    at(f, beta, by);
    const phase = by.phase + beta * (lead + tail);
    // Of waves that come from both ends alike, and of opposite ones.
    const [alike, opposite] = [Math.exp(-alpha - by.lost[0]), Math.exp(-alpha - by.lost[1])];
    const [ar, ai] = [alike * Math.cos(by.returned - phase), alike * Math.sin(by.returned - phase)];
    const [br, bi] = [-opposite * Math.cos(by.returned + phase), opposite * Math.sin(by.returned + phase)];
    re[1] = re[2] = (ar - br) / 2;
    im[1] = im[2] = (ai - bi) / 2;
    // What returns passes the straight piece on its side twice.
    const [sr, si] = [(ar + br) / 2, (ai + bi) / 2];
    const off = beta * (lead - tail);
    const [c, s] = [Math.cos(off), Math.sin(off)];
    re[0] = sr * c + si * s;
    im[0] = si * c - sr * s;
    re[3] = sr * c - si * s;
    im[3] = si * c + sr * s;
  });
}
