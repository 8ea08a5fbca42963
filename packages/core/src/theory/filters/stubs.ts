import { checkShape, FilterError, lowpassElements, refuseEvenRipple, type FilterShape } from './prototype';

/** Open stubs across and the lines between them, from source to load: impedances over that of the terminations. */
export interface StubFilter {
  readonly stubs: readonly number[];
  /** One fewer than the stubs. */
  readonly lines: readonly number[];
}

/** A reactance in series, its impedance over S, or across, its admittance over S. */
interface Element {
  readonly way: 'series' | 'shunt';
  readonly value: number;
}

/**
 * Pulls a line of `z` through an element that stands behind it (Kuroda's identities; Ozaki & Ishii 1958): the element,
 * now of the other kind, stands first and a line of another impedance behind it.
 */
function pulled(z: number, { way, value }: Element): [Element, number] {
  if (way === 'series') return [{ way: 'shunt', value: value / (z * (z + value)) }, z + value];
  const behind = z / (1 + z * value);
  return [{ way: 'series', value: z - behind }, behind];
}

/**
 * Open stubs of one length joined by lines of the same length, with |S21|^2 = 1/(1 + e^2 T^2(tan theta/tan edge)), or
 * maximally flat: a low-pass up to the angle `edge` and a band stop about a quarter wave. The ladder in Richards' variable
 * is exact; redundant lines of the terminations' impedance enter from both ends and turn what is in series into what is
 * across. Sources: Richards 1948; Ozaki & Ishii 1958; Matthaei, Young & Jones 1964.
 * @param edge angle of the lines at the edge of the pass band, radians
 * @throws FilterError
 */
export function designStubFilter(shape: FilterShape, edge: number): StubFilter {
  checkShape(shape);
  refuseEvenRipple(shape);
  if (!(edge > 0 && edge < Math.PI / 2))
    throw new FilterError('bandwidth', 'must be above zero and below twice the centre');
  const n = shape.order;
  const g = lowpassElements(shape);
  // The line that reaches the middle last has passed none; each element is turned once for each line that passes it.
  const middle = Math.ceil(n / 2);
  const fromLeft = middle - (n % 2);
  let elements: Element[] = Array.from({ length: n }, (_, i) => ({
    way: passes(i, n, fromLeft) % 2 === 0 ? 'shunt' : 'series',
    value: g[i] / Math.tan(edge),
  }));
  const lines: number[] = new Array<number>(n - 1).fill(1);
  const enter = (list: Element[], count: number): [Element[], number[]] => {
    const made: number[] = [];
    let current = list;
    // The first to enter goes furthest.
    for (let k = count; k >= 1; k--) {
      let z = 1;
      current = current.map((element, i) => {
        if (i >= k) return element;
        const [turned, behind] = pulled(z, element);
        z = behind;
        return turned;
      });
      made.unshift(z);
    }
    return [current, made];
  };
  const [left, leftLines] = enter(elements, fromLeft);
  const [right, rightLines] = enter([...left].reverse(), n - 1 - fromLeft);
  elements = [...right].reverse();
  leftLines.forEach((z, i) => (lines[i] = z));
  rightLines.forEach((z, i) => (lines[n - 2 - i] = z));
  return { stubs: elements.map(({ value }) => 1 / value), lines };
}

/** How many lines pass the element i (from 0) on their way in from its end. */
const passes = (i: number, n: number, fromLeft: number): number =>
  i < fromLeft ? fromLeft - i : Math.max(0, n - 1 - fromLeft - (n - 1 - i));

/** Angle of a band stop's lines at its lower pass band edge; `bandwidth` over the centre. */
export const stopEdge = (bandwidth: number): number => (Math.PI / 2) * (1 - bandwidth / 2);
