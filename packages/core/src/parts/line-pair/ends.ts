import { across, attached, changingSlowly, uniformLine, type Electrical } from '../../electrical';
import { linePoint } from '../../lines';
import { C0 } from '../../numeric';
import type { ElectricalContext, PartFacts, PartState, PinEnd, ResolveContext } from '../contract';
import { tabled } from '../tabled';

/** Facts of a pair, by pin: by how much the strip there goes on before it ends open, m, beside the other one that goes on. */
export const ENDS = ['end1', 'end2', 'end3', 'end4'] as const;

/** The other pin of the same end. */
const partner = (pin: number): number => pin ^ 1;

/** Which strips of a pair end open beside the other one, of those that meet copper. */
export function openEnds({ open, neighbour }: Pick<ResolveContext, 'open' | 'neighbour'>): PartFacts {
  const facts: Record<string, readonly number[]> = {};
  ENDS.forEach((name, pin) => {
    const longer = open(pin);
    const other = partner(pin);
    if (longer !== undefined && open(other) === undefined && neighbour(other) !== undefined)
      facts[name] = [longer];
  });
  return facts;
}

/** A one-pin part of the opposite admittance. */
const opposite = (part: Electrical): Electrical => ({
  pins: 1,
  scatter(f, zn, re, im) {
    part.scatter(f, zn, re, im);
    const size = re[0] * re[0] + im[0] * im[0];
    re[0] /= size;
    im[0] /= -size;
  },
});

/** Ends of a pair as they are solved with the strip beside; `longer` by all of them than its length, m. */
interface Ends {
  readonly ends: readonly PinEnd[];
  readonly longer: number;
}
const NONE: Ends = { ends: [], longer: 0 };

/** The ends of a pair that tables hold; each other one is what its own piece makes of it. */
export function endsOf({ values, facts }: PartState, context: ElectricalContext): Ends {
  const [width, gap] = [values.width.re, values.gap.re];
  let all = 0;
  const ends = ENDS.flatMap((name, pin): PinEnd[] => {
    const longer = (facts[name] as readonly number[] | undefined)?.[0];
    if (longer === undefined) return [];
    const end = tabled('pair-end', [width, gap], context, { widths: [width, width, width] });
    const alone = tabled('open-end', [width], context, { widths: [width], longer: [longer] });
    if (!end || !alone) return [];
    all += longer;
    // The piece at the open pin is an end by itself, which is taken away from what this one is with the strip beside; where
    // that ends the other strip goes on alone.
    const beside = attached(end, 0, across(opposite(alone)), 0);
    const electrical = longer === 0 ? beside : attached(beside, 2, lone(context, width, -longer), 0);
    return [{ pin: partner(pin), beside: pin, electrical: changingSlowly(electrical) }];
  });
  return values.length.re + all > 0 ? { ends, longer: all } : NONE;
}

/** A strip by itself, lossless. */
function lone(context: ElectricalContext, width: number, length: number): Electrical {
  const section = context.section('strip', width);
  const points = [linePoint()];
  return uniformLine((f, out) => {
    section.impedanceAt(f, points);
    out.z0 = points[0].z0;
    out.alpha = 0;
    out.beta = (2 * Math.PI * f * length * Math.sqrt(points[0].eeff)) / C0;
  });
}
