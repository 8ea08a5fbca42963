import { crossSections, linePoint, synthesiseWidth, type MediumId, type Substrate } from '../lines';
import type { ResolveContext } from '../parts';

export type LineCalculator = Pick<ResolveContext, 'width' | 'line'>;

/** Calculators made last, by board and frequency: a design is worked out at every edit, mostly with the lines it had. */
const made = new Map<string, LineCalculator>();
const MADE = 8;
/** Lines that one of them remembers. */
const LINES = 5000;

/** Line properties at one frequency with the work of equal widths and impedances done once. */
export function lineCalculator(medium: MediumId, substrate: Substrate, f0: number): LineCalculator {
  const key = JSON.stringify([medium, f0, substrate, substrate.cover === Infinity]);
  const known = made.get(key);
  if (known) return known;
  const widths = new Map<number, number>();
  const lines = new Map<number, { z0: number; eeff: number }>();
  const remember = <T>(map: Map<number, T>, at: number, value: T): T => {
    if (map.size >= LINES) map.clear();
    map.set(at, value);
    return value;
  };
  const calculator: LineCalculator = {
    width: (z0) => widths.get(z0) ?? remember(widths, z0, synthesiseWidth(medium, substrate, z0, f0)),
    line(width) {
      const at = lines.get(width);
      if (at) return at;
      const point = linePoint();
      crossSections.strip[medium].prepare(substrate, [width]).impedanceAt(f0, [point]);
      return remember(lines, width, { z0: point.z0, eeff: point.eeff });
    },
  };
  for (const oldest of made.keys()) {
    if (made.size < MADE) break;
    made.delete(oldest);
  }
  made.set(key, calculator);
  return calculator;
}
