import { share, type Steps } from '../../numeric';
import type { MediumId, Substrate } from '../../lines';
import { layersOf, prepareSteps, type Accuracy } from '../../planar';
import { forms, pairEnds, scaledBy, SHARES, topOf, type JunctionKind, type PairEnd } from '../contract';
import { plain, storedOf, type Square } from '../stored';
import { pairsOf } from '../table';
import { curveSteps } from './curve';
import { HEIGHT, isHoused, junctionCopper, NEAR, type Feed, type SingleJunction } from './copper';
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

/** What a junction that is solved by itself stores at each frequency. @param feed lines to its ports, if not as far as they matter */
function* singleSteps(
  kind: SingleJunction,
  { medium, board, dimensions, housed, freq, accuracy }: Asked,
  feed?: Feed,
): Steps<Square[]> {
  const { pins, joined } = forms[kind];
  const layers = layersOf(medium, { ...board, tand: 0 });
  const copper = junctionCopper(kind, dimensions, layers, housed, feed);
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

/**
 * Junctions of more arms than this would be of thousands of cells with their lines: what is far along those is told by itself, on a
 * coarser mesh and to a lower degree, see `farSteps`.
 */
const FEW_ARMS = 2;

/** Whether what is far along the lines of a kind is told by itself. */
export const isToldFar = (kind: JunctionKind, medium: MediumId): boolean =>
  medium === 'microstrip' && !isPairEnd(kind) && forms[kind].pins > FEW_ARMS;

const isPairEnd = (kind: JunctionKind): kind is PairEnd => (pairEnds as readonly string[]).includes(kind);

/** Kinds that are told of the same copper: what is solved for one of them says all. */
export const toldWith = (kind: JunctionKind): readonly JunctionKind[] => {
  const modes: readonly JunctionKind[] = ['pair-bends-even', 'pair-bends-odd'];
  return modes.includes(kind) ? modes : [kind];
};

/** What is to be solved at a place of a table. @param places its frequencies, in shares of the top */
function askedAt(
  kind: JunctionKind,
  medium: MediumId,
  place: readonly number[],
  accuracy: Accuracy,
): Asked & { readonly places: readonly number[] } {
  const { axes, dimensionsAt } = forms[kind];
  const [er, lid = 0] = medium === 'microstrip' ? place.slice(axes.length) : [1];
  const inHeights = dimensionsAt(place.slice(0, axes.length));
  const top = topOf(kind, medium, inHeights, er, HEIGHT);
  // What a lid changes is told at the lowest place: further up it depends on where the lid ends.
  const places = lid > 0 ? SHARES.slice(0, 1) : SHARES;
  return {
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
    places,
  };
}

/** The numbers of a table of what is stored at each of its frequencies. */
function numbersOf(pins: number, places: readonly number[], all: readonly Square[]): number[] {
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
}

/**
 * What a junction stores at its table's frequencies, in the order of a table's numbers, for each of the kinds that are told with it.
 * Where {@link isToldFar}, without what is far along its lines.
 * @param place variables of its table
 */
export function* storedSteps(
  kind: JunctionKind,
  medium: MediumId,
  place: readonly number[],
  accuracy: Accuracy,
): Steps<number[][]> {
  const { axes, pins, isPlain } = forms[kind];
  const kinds = toldWith(kind);
  if (isPlain?.(place.slice(0, axes.length)))
    return [SHARES.flatMap(() => pairsOf(pins).flatMap(() => [0, 0]))];
  const { places, ...asked } = askedAt(kind, medium, place, accuracy);
  if (kind === 'curve') {
    const numbers = yield* curveSteps(asked);
    return [SHARES.flatMap((_, i) => numbers[Math.min(i, numbers.length - 1)])];
  }
  const found = isPairEnd(kind)
    ? yield* pairEndSteps(kinds.filter(isPairEnd), asked, singleSteps)
    : [yield* singleSteps(kind, asked, isToldFar(kind, medium) ? NEAR : undefined)];
  return found.map((all) => numbersOf(pins, places, all));
}

/** What lines that go on far behind it add to that of a junction of which {@link isToldFar} holds. */
export function* farSteps(
  kind: SingleJunction,
  medium: MediumId,
  place: readonly number[],
): Steps<number[][]> {
  const { places, ...asked } = askedAt(kind, medium, place, 'normal');
  const near = yield* share(singleSteps(kind, asked, NEAR), 0, 0.3);
  const far = yield* share(singleSteps(kind, asked), 0.3, 1);
  const [from, to] = [near, far].map((all) => numbersOf(forms[kind].pins, places, all));
  return [to.map((x, i) => x - from[i])];
}
