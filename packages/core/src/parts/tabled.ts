import { changingSlowly, fromScattering, type Electrical } from '../electrical';
import { responseOf, square, storedIn, type JunctionKind } from '../junctions';
import { linePoint } from '../lines';
import { C0 } from '../numeric';
import type { ElectricalContext } from './contract';

/** Where a junction comes from that has a table, before what answers beyond it. */
export const TABLED =
  'Field solution of the copper, in a table over the widths (0.15 to 7 heights over the nearest ground), permittivity (1.9 to 13) and lid, up to the second mode. Beyond it: ';

/** How a part uses a table. */
interface Use {
  /** Width of the line at each pin of the junction, m. */
  readonly widths: readonly number[];
  /** The part's pin at each pin of the junction; absent: the same. */
  readonly order?: readonly number[];
  /** Line set in front of each pin of the junction, m. */
  readonly longer?: readonly number[];
}

/**
 * A junction as its table made by the field solution has it, or undefined where none holds these dimensions or this board.
 * @param dimensions in the order of the kind, m
 */
export function tabled(
  kind: JunctionKind,
  dimensions: readonly number[],
  context: ElectricalContext,
  { widths, order, longer }: Use,
): Electrical | undefined {
  const { medium, substrate } = context;
  const stored = storedIn(kind, medium.id, substrate, dimensions);
  if (!stored) return undefined;
  const n = widths.length;
  const sections = widths.map((w) => context.section('strip', w));
  const first = widths.map((w) => widths.indexOf(w));
  const point = linePoint();
  const points = [point];
  const z0 = new Float64Array(n);
  const eeff = new Float64Array(n);
  const lines = (f: number) => {
    for (let i = 0; i < n; i++) {
      // Lines of one width are worked out once.
      const same = first[i];
      if (same === i) sections[i].impedanceAt(f, points);
      z0[i] = same === i ? point.z0 : z0[same];
      eeff[i] = same === i ? point.eeff : eeff[same];
    }
    return z0;
  };
  const ahead = widths.map((_, i) => (longer?.[i] ?? 0) + (stored.recessed?.[i] ?? 0));
  const isMoved = ahead.some((x) => x !== 0);
  const response = responseOf(kind, stored, lines);
  const s = square(n);
  const references = Array.from({ length: n }, () => ({ re: 0, im: 0 }));
  const pinOf = (i: number) => order?.[i] ?? i;
  const electrical = fromScattering(n, references, (f, re, im) => {
    response(f, lines(f), s);
    for (let i = 0; i < n; i++) {
      references[pinOf(i)].re = z0[i];
      for (let j = 0; j < n; j++) {
        const [from, to] = [i * n + j, pinOf(i) * n + pinOf(j)];
        re[to] = s.re[from];
        im[to] = s.im[from];
        if (!isMoved) continue;
        const k = (-2 * Math.PI * f) / C0;
        const turn = k * (Math.sqrt(eeff[i]) * ahead[i] + Math.sqrt(eeff[j]) * ahead[j]);
        const [c, sn] = [Math.cos(turn), Math.sin(turn)];
        [re[to], im[to]] = [re[to] * c - im[to] * sn, re[to] * sn + im[to] * c];
      }
    }
  });
  return changingSlowly(electrical);
}
