import {
  crossSections,
  linePoint,
  pairDimension,
  synthesisePair,
  synthesiseWidth,
  type FoundPair,
  type MediumId,
  type Substrate,
} from '../lines';
import type { PairCalculator, ResolveContext } from '../parts';

export type LineCalculator = Pick<ResolveContext, 'width' | 'line' | 'pair'>;

const asked = (z: number, mode: string): string => `${Number(z.toPrecision(4))} ohm in the ${mode} mode`;

/** Calculators made last, by board and frequency: a design is worked out at every edit, mostly with the lines it had. */
const made = new Map<string, LineCalculator>();
const MADE = 8;
/** Lines that one of them remembers. */
const LINES = 5000;

/** Pairs found last on each board, at whatever frequency: one that is tuned lies near to where it was. */
const pairsFound = new Map<string, readonly FoundPair[]>();
const FOUND = 24;

function remember(board: string, found: FoundPair): void {
  const list = [found, ...(pairsFound.get(board) ?? [])].slice(0, FOUND);
  pairsFound.delete(board);
  pairsFound.set(board, list);
  for (const oldest of pairsFound.keys()) {
    if (pairsFound.size <= MADE) break;
    pairsFound.delete(oldest);
  }
}

/** The one whose impedances are nearest, where it is near enough to be worth beginning from. */
function nearest(board: string, ze: number, zo: number): FoundPair | undefined {
  const away = ({ even, odd }: FoundPair) => Math.abs(Math.log(even / ze)) + Math.abs(Math.log(odd / zo));
  const list = pairsFound.get(board) ?? [];
  const best = list.reduce<FoundPair | undefined>((a, b) => (!a || away(b) < away(a) ? b : a), undefined);
  return best && away(best) < 0.3 ? best : undefined;
}

/** Line properties at one frequency with the work of equal widths and impedances done once. */
export function lineCalculator(medium: MediumId, substrate: Substrate, f0: number): LineCalculator {
  const key = JSON.stringify([medium, f0, substrate, substrate.cover === Infinity]);
  const known = made.get(key);
  if (known) return known;
  const board = JSON.stringify([medium, substrate]);
  const widths = new Map<number, number>();
  const lines = new Map<number, { z0: number; eeff: number }>();
  const pairs = new Map<string, ReturnType<PairCalculator['at']>>();
  const strips = new Map<string, [number, number]>();
  const single = new Map<string, number>();
  /** What `make` gives, made once for each key. */
  const once = <K, T>(map: Map<K, T>, key: K, make: () => T): T => {
    const known = map.get(key);
    if (known !== undefined) return known;
    if (map.size >= LINES) map.clear();
    const value = make();
    map.set(key, value);
    return value;
  };
  const pair: PairCalculator = {
    at: (width, gap) =>
      once(pairs, `${width} ${gap}`, () => {
        const points = [linePoint(), linePoint()];
        crossSections.pair[medium].prepare(substrate, [width, gap]).impedanceAt(f0, points);
        const [even, odd] = points;
        return { ze: even.z0, zo: odd.z0, eeffEven: even.eeff, eeffOdd: odd.eeff };
      }),
    strips: (ze, zo) =>
      once(strips, `${ze} ${zo}`, () => {
        const found = synthesisePair(medium, substrate, ze, zo, f0, 'dispersive', nearest(board, ze, zo));
        remember(board, found);
        return [found.width, found.gap];
      }),
    gap: (zo, width) =>
      once(single, `gap ${zo} ${width}`, () =>
        pairDimension(
          medium,
          substrate,
          { width, asked: asked(zo, 'odd'), miss: (_even, odd) => odd / zo },
          f0,
        ),
      ),
    width: (ze, gap) =>
      once(single, `width ${ze} ${gap}`, () =>
        pairDimension(medium, substrate, { gap, asked: asked(ze, 'even'), miss: (even) => even / ze }, f0),
      ),
  };
  const calculator: LineCalculator = {
    pair,
    width: (z0) => once(widths, z0, () => synthesiseWidth(medium, substrate, z0, f0)),
    line: (width) =>
      once(lines, width, () => {
        const point = linePoint();
        crossSections.strip[medium].prepare(substrate, [width]).impedanceAt(f0, [point]);
        return { z0: point.z0, eeff: point.eeff };
      }),
  };
  for (const oldest of made.keys()) {
    if (made.size < MADE) break;
    made.delete(oldest);
  }
  made.set(key, calculator);
  return calculator;
}
