import { equalised, invertersOf, passEdge } from './bandpass';
import { chain, characteristic, line, shunt, tailedPair, type Lossless } from './lossless';
import { checkShape, FilterError, lowpassElements, type FilterShape } from './prototype';

const QUARTER = Math.PI / 2;

export interface HairpinSpecification extends FilterShape {
  /** Over the centre. */
  readonly bandwidth: number;
  /** Angle of the line that joins the two arms of a resonator, radians at the centre. */
  readonly fold: number;
  /** Angle of the line that the open ends of the arms are prolonged by, bent towards one another: a loop with a slit. */
  readonly tail?: number;
  /** Impedance of the resonators' lines over that of the terminations. */
  readonly resonator: number;
  /** The first and the last resonator are tapped, or coupled to a line at each end. */
  readonly feed: 'tapped' | 'coupled';
}

/** Angles at the centre in radians, impedances over that of the terminations. */
export interface Hairpin {
  /** Of the coupled arms, from source to load: those that feed are the first and the last where the feed is coupled. */
  readonly arms: readonly { readonly even: number; readonly odd: number; readonly theta: number }[];
  /** Of the outer arms where they are tapped: from the open end to the tap, and on to the line that joins the arms. */
  readonly open: number;
  readonly inner: number;
}

/** Even impedance over that of the resonators from which on nobody etches it: the search has gone astray. */
const MOST = 10;
/** Angle by which a tail grows at a time on the way from a hairpin to a loop. */
const BEND = 0.15;
/** Shortest line that is etched beside a tap, radians. */
const LEAST = 0.02;

/**
 * Half-wave resonators folded in two, neighbours the other way round, so that each pair of arms couples between opposite
 * ends: from narrow-band formulas to angles and couplings whose ripple is equal and whose edges stand. Sources: Cristal &
 * Frankel 1972; tapped, Cohn 1974, Wong 1979.
 * @throws FilterError
 */
export function designHairpin(spec: HairpinSpecification): Hairpin {
  checkShape(spec);
  const { order: n, bandwidth, fold, tail = 0, resonator: zr, feed } = spec;
  const edge = passEdge(bandwidth);
  if (!(fold > 0 && fold < 0.6 * Math.PI))
    throw new FilterError('fold', 'must leave the arms some length: below a hundred degrees of line');
  const tapped = feed === 'tapped';
  const g = [1, ...lowpassElements(spec)];
  const j = invertersOf(spec, bandwidth);
  // Where the search starts: a hairpin, which is bent to a loop bit by bit.
  const straight = QUARTER - fold / 2;
  if (straight - tail < 0.1)
    throw new FilterError('fold', 'and the ends behind the arms leave these no length: take a smaller one');
  // Shorter arms couple less.
  const lost = 1 / Math.sin(straight);
  const inner = Math.floor(n / 2);
  const ends = tapped ? 0 : 1;
  const count = inner + ends;
  const couplings = Array.from({ length: count }, (_, i) => {
    const wanted = tapped ? j[i + 1] : j[i];
    return Math.min(0.7, wanted * lost * (tapped || i > 0 ? 1 : 1 / Math.sqrt(zr)));
  });
  const tap = Math.asin(Math.min(0.95, Math.sqrt((QUARTER * bandwidth) / (g[1] * zr))));
  if (tapped && tap < fold / 2 + LEAST)
    throw new FilterError(
      'fold',
      'is so wide that the tap falls on the line that joins the arms: take a smaller one, or a coupled feed',
    );
  const start = [
    ...couplings.map((c) => Math.log(c)),
    ...couplings.map(() => Math.log(straight)),
    ...(tapped ? [Math.log(QUARTER - tap), Math.log(tap - fold / 2)] : [0]),
  ];
  const sections = tapped ? n - 1 : n + 1;
  const parts = (x: readonly number[]): Hairpin => ({
    arms: Array.from({ length: sections }, (_, i) => {
      const at = Math.min(i, sections - 1 - i);
      const c = Math.exp(x[at]);
      const mean = !tapped && at === 0 ? Math.exp(x[2 * count]) : zr;
      return {
        even: mean * Math.sqrt((1 + c) / (1 - c)),
        odd: mean * Math.sqrt((1 - c) / (1 + c)),
        theta: Math.exp(x[count + at]),
      };
    }),
    open: tapped ? Math.exp(x[2 * count]) : 0,
    inner: tapped ? Math.exp(x[2 * count + 1]) : 0,
  });
  const network = (x: readonly number[], theta: number, tail: number): Lossless => {
    const r = theta / QUARTER;
    const { arms, open, inner: rest } = parts(x);
    const base = line(zr, fold * r);
    const list: Lossless[] = [];
    if (tapped) list.push(shunt(Math.tan((open + tail) * r) / zr), line(zr, rest * r), base);
    arms.forEach(({ even, odd, theta: arm }, i) => {
      // The line that feeds has no tail.
      const y = Math.tan(tail * r) / zr;
      list.push(
        tailedPair(even, odd, arm * r, !tapped && i === 0 ? 0 : y, !tapped && i === sections - 1 ? 0 : y),
      );
      if (tapped || i < sections - 1) list.push(base);
    });
    if (tapped) list.push(line(zr, rest * r), shunt(Math.tan((open + tail) * r) / zr));
    return chain(...list);
  };
  let found: number[] | undefined = start;
  const bends = Math.ceil(tail / BEND);
  for (let i = 0; i <= bends && found; i++) {
    const less = i === 0 ? 0 : tail / bends;
    const bent = i * less;
    const shorter = (v: number) => Math.log(Math.max(LEAST, Math.exp(v) - less));
    const from: number[] = found.map((v, k) =>
      (k >= count && k < 2 * count) || (tapped && k === 2 * count) ? shorter(v) : v,
    );
    found = equalised(spec, edge, from, (x, theta) => characteristic(network(x, theta, bent)));
  }
  const made = found && parts(found);
  if (!made || made.arms.some(({ even, odd, theta }) => !(odd > 0 && even < MOST * zr && theta < Math.PI)))
    throw new FilterError(
      'bandwidth',
      'is out of reach of a hairpin filter of this order and fold: take a narrower band',
    );
  if (tapped && made.inner < LEAST)
    throw new FilterError(
      'fold',
      'is so wide that the tap falls on the line that joins the arms: take a smaller one, or a coupled feed',
    );
  return made;
}
