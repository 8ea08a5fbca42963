import type { PlotCurve } from './measures';

/** A limit to begin with: level as text in the plot's unit, and the curves it is about where that is not all. */
export interface LimitProposal {
  readonly side: 'below' | 'above' | 'at';
  readonly level: string;
  readonly tolerance?: string;
  readonly curves?: readonly string[];
}

/** Number of a size that a person would set: one digit, or a half of ten. */
function round(x: number): string {
  if (x === 0 || !Number.isFinite(x)) return '0';
  const step = Math.pow(10, Math.floor(Math.log10(Math.abs(x)))) / 2;
  return String(Number((Math.round(x / step) * step).toPrecision(6)));
}

const half = (x: number): string => String(Math.round(x * 2) / 2);

/**
 * A sensible first limit for a plot, from what its curves are at the design frequency: reflections below the goal of
 * the match, shares near what they are, everything else where it stands with a little room.
 * @param at the curves' values at the design frequency
 * @param goal return loss that counts as matched, dB
 */
export function proposeLimit(
  show: string,
  unit: string,
  curves: readonly Pick<PlotCurve, 'id'>[],
  at: (curve: number) => number,
  goal: number,
): LimitProposal {
  const all = curves.map((c, i) => ({ id: c.id, y: at(i) })).filter((c) => Number.isFinite(c.y));
  const level = Math.abs(goal);
  const highest = all.reduce((a, b) => (b.y > a.y ? b : a), all[0]);
  const lowest = all.reduce((a, b) => (b.y < a.y ? b : a), all[0]);
  if (show === 'match' || show === 'isolation') return { side: 'below', level: String(-level) };
  if (show === 'driven') {
    // The match and what is isolated shall vanish; what passes is another limit's business.
    const small = all.filter((c) => c.y < -12).map((c) => c.id);
    return { side: 'below', level: String(-level), curves: small.length > 0 ? small : ['S11'] };
  }
  if (!highest) return { side: 'below', level: '0' };
  if (show === 'split') return { side: 'above', level: half(lowest.y - 0.5) };
  if (show === 'directivity') return { side: 'above', level: String(level) };
  if (unit === 'dB') {
    // What is far below zero is kept there, what passes is kept up.
    return highest.y < -12
      ? { side: 'below', level: String(-level) }
      : show === 'loss' || show === 'imbalance'
        ? { side: 'below', level: half(Math.max(0.5, highest.y + 0.5)) }
        : { side: 'above', level: half(lowest.y - 0.5), curves: [lowest.id] };
  }
  if (unit === 'deg') return { side: 'at', level: String(Math.round(highest.y)), tolerance: '5' };
  return { side: 'below', level: round(1.1 * highest.y || 1) };
}
