import { share, type Steps } from '../../numeric';
import type { MediumId, Substrate } from '../../lines';
import { layersOf, prepareSteps, type Accuracy } from '../../planar';
import { forms, pairEnds, scaledBy, SHARES, topOf, type JunctionKind, type PairEnd } from '../contract';
import { plain, storedOf, type Square } from '../stored';
import { pairsOf } from '../table';
import { curveSteps } from './curve';
import { HEIGHT, isHoused, junctionCopper, type SingleJunction } from './copper';
import { pairEndSteps } from './ends';

export { isHoused, junctionCopper, type SingleJunction } from './copper';
export { pairEndCopper } from './ends';
export { curveCopper } from './curve';

/** What is solved of a junction. */
export interface Asked {
  readonly medium: MediumId;
  readonly board: Pick<Substrate, 'er' | 'height' | 'cover'>;
  /** m */
  readonly dimensions: readonly number[];
  /** Side walls stand around it. */
  readonly housed: boolean;
  /** Hz, ascending. */
  readonly freq: readonly number[];
  readonly accuracy: Accuracy;
}

/** What a junction that is solved by itself stores at each frequency. */
function* singleSteps(
  kind: SingleJunction,
  { medium, board, dimensions, housed, freq, accuracy }: Asked,
): Steps<Square[]> {
  const { pins, joined } = forms[kind];
  const copper = junctionCopper(kind, dimensions, layersOf(medium, { ...board, tand: 0 }), housed);
  const band = { start: freq[0], stop: freq[freq.length - 1] };
  const prepared = yield* share(prepareSteps(copper, band, accuracy), 0, 0.6);
  const p = new Float64Array(pins * pins);
  const found: Square[] = [];
  for (const f of freq) {
    plain(
      prepared.lines(f).map(({ z0 }) => z0),
      joined,
      p,
    );
    found.push(storedOf(pins, prepared.own(f), p));
    yield 0.6 + (0.4 * found.length) / freq.length;
  }
  return found;
}

const isPairEnd = (kind: JunctionKind): kind is PairEnd => (pairEnds as readonly string[]).includes(kind);

/** Kinds that are told of the same copper: what is solved for one of them says all. */
export const toldWith = (kind: JunctionKind): readonly JunctionKind[] => {
  const modes: readonly JunctionKind[] = ['pair-bends-even', 'pair-bends-odd'];
  return modes.includes(kind) ? modes : [kind];
};

/**
 * What a junction stores at its table's frequencies, in the order of a table's numbers, for each of the kinds that are told with it.
 * @param place variables of its table
 */
export function* storedSteps(
  kind: JunctionKind,
  medium: MediumId,
  place: readonly number[],
  accuracy: Accuracy,
): Steps<number[][]> {
  const { axes, dimensionsAt, pins, isPlain } = forms[kind];
  const kinds = toldWith(kind);
  const [er, lid = 0] = medium === 'microstrip' ? place.slice(axes.length) : [1];
  const point = place.slice(0, axes.length);
  if (isPlain?.(point)) return [SHARES.flatMap(() => pairsOf(pins).flatMap(() => [0, 0]))];
  const inHeights = dimensionsAt(point);
  const top = topOf(kind, medium, inHeights, er, HEIGHT);
  // What a lid changes is told at the lowest place: further up it depends on where the lid ends.
  const places = lid > 0 ? SHARES.slice(0, 1) : SHARES;
  const asked: Asked = {
    medium,
    board: {
      er,
      height: medium === 'stripline' ? 2 * HEIGHT : HEIGHT,
      cover: lid === 0 ? Infinity : HEIGHT / lid,
    },
    dimensions: scaledBy(forms[kind], inHeights, HEIGHT),
    housed: isHoused(lid),
    freq: places.map((at) => at * top),
    accuracy,
  };
  if (kind === 'curve') {
    const numbers = yield* curveSteps(asked);
    return [SHARES.flatMap((_, i) => numbers[Math.min(i, numbers.length - 1)])];
  }
  const found = isPairEnd(kind)
    ? yield* pairEndSteps(kinds.filter(isPairEnd), asked, singleSteps)
    : [yield* singleSteps(kind, asked)];
  return found.map((all) => {
    const numbers = all.flatMap(({ re, im }, i) =>
      (
        [
          [re, places[i]],
          [im, places[i] ** 2],
        ] as const
      ).flatMap(([part, over]) =>
        pairsOf(pins).map(([a, b]) => (part[a * pins + b] + part[b * pins + a]) / (2 * over)),
      ),
    );
    return places.length === 1 ? SHARES.flatMap(() => numbers) : numbers;
  });
}
