import { leastSquares } from '../../numeric';
import { chain, characteristic, line, openPair, shunt, type Lossless } from './lossless';
import { extremes } from './extremes';
import { chebyshevT, checkShape, edgeOf, FilterError, lowpassElements, type FilterShape } from './prototype';

const QUARTER = Math.PI / 2;

/** Angle of the quarter waves at the lower edge of a band of a width over the centre. @throws FilterError */
export function passEdge(bandwidth: number): number {
  if (!(bandwidth > 0 && bandwidth < 1.9))
    throw new FilterError('bandwidth', 'must be above zero and below 190 % of the centre');
  return QUARTER * (1 - bandwidth / 2);
}

/**
 * |S11/S21|, with its sign, of a filter of quarter waves whose transmission is nothing at zero frequency, the lines
 * `theta` long: with x = cos(theta), a polynomial of the filter's order over sin(theta). Maximally flat about the centre,
 * or with equal ripple between the edges. Source: Horton & Wenzel 1965; Carlin & Kohler 1965.
 */
export function passTarget(shape: FilterShape, edge: number): (theta: number) => number {
  const { order: n, ripple } = shape;
  const most = edgeOf(shape);
  const xe = Math.cos(edge);
  const root = Math.sin(edge);
  return (theta) => {
    const x = Math.cos(theta) / xe;
    const sin = Math.sin(theta);
    if (ripple === 0) return (most * root * Math.pow(x, n)) / sin;
    return (most * ((1 + root) * chebyshevT(n, x) - (1 - root) * chebyshevT(n - 2, x))) / (2 * sin);
  };
}

/** Angles from the centre down, to a little past the edge, at which a response of quarter waves is compared with what it shall be. */
const places = (count: number, edge: number): number[] =>
  Array.from(
    { length: count },
    (_, i) => QUARTER - (Math.min(1.5 * (QUARTER - edge), 0.95 * QUARTER) * (i + 0.5)) / count,
  );

const EXACT = 1e-18;
/**
 * Parameters that give a network its target, those nearest to where the search starts; undefined where none do.
 * @param of the network of the logarithms of its parameters at an angle
 */
function fitted(
  start: readonly number[],
  of: (x: readonly number[], theta: number) => Lossless,
  target: (theta: number) => number,
  at: readonly number[],
): number[] | undefined {
  // Deep in the stop band the sign is beyond doubt.
  const far = at[at.length - 1];
  const sign = Math.sign(characteristic(of(start, far))) * Math.sign(target(far)) || 1;
  const { x, cost } = leastSquares(
    (y, out) => {
      at.forEach((theta, i) => {
        // What is far above one in the stop band counts by its logarithm's slope.
        const [is, wanted] = [sign * characteristic(of(y, theta)), target(theta)];
        out[i] = (is - wanted) / Math.hypot(1, wanted);
      });
      return out.every(Number.isFinite);
    },
    start,
    at.length,
    { step: 1e-5, maxIterations: 80, tolerance: 1e-14 },
  );
  return cost < EXACT ? x : undefined;
}

/** Shorted stubs a quarter wave long across, and the quarter waves between them; impedances over that of the terminations. */
export interface PassStubs {
  readonly stubs: readonly number[];
  readonly lines: readonly number[];
}

/**
 * As many shorted quarter-wave stubs as the order says, joined by quarter waves, whose response is exact at all
 * frequencies: of all impedances that have it, those nearest to the usual design's (Matthaei, Young & Jones 1964, section
 * 10.03). One stub would do with the lines; the more there are, the more alike they can be.
 * @param bandwidth over the centre
 * @throws FilterError
 */
export function designPassStubs(shape: FilterShape, bandwidth: number): PassStubs {
  checkShape(shape);
  const { order: n } = shape;
  const g = [1, ...lowpassElements(shape)];
  const half = Math.ceil(n / 2);
  const edge = passEdge(bandwidth);
  const tan = Math.tan(edge);
  // Where the search starts: inverters and shunt admittances of the usual design, its free parameter at one.
  const j = Array.from({ length: n - 1 }, (_, i) => {
    if (n === 2) return 1;
    return i === 0 || i === n - 2 ? Math.sqrt(g[1] / g[2]) : g[1] / Math.sqrt(g[i + 1] * g[i + 2]);
  });
  const root = (i: number) => Math.hypot(j[i], (g[1] * tan) / 2);
  const y = Array.from({ length: half }, (_, i) => {
    if (n === 1) return 2 * edgeOf(shape) * tan;
    if (i === 0) return (g[1] * tan) / 2 + root(0) - j[0];
    return root(i - 1) + root(i) - j[i - 1] - j[i];
  });
  const start = [...y, ...j.slice(0, Math.floor(n / 2))].map((v) => -Math.log(Math.max(1e-3, v)));
  const parts = (x: readonly number[]): PassStubs => ({
    stubs: Array.from({ length: n }, (_, i) => Math.exp(x[Math.min(i, n - 1 - i)])),
    lines: Array.from({ length: n - 1 }, (_, i) => Math.exp(x[half + Math.min(i, n - 2 - i)])),
  });
  const network = (x: readonly number[], theta: number): Lossless => {
    const { stubs, lines } = parts(x);
    const cot = -1 / Math.tan(theta);
    return chain(...stubs.flatMap((z, i) => [...(i > 0 ? [line(lines[i - 1], theta)] : []), shunt(cot / z)]));
  };
  const found = fitted(start, network, passTarget(shape, edge), places(n + 2, edge));
  if (!found)
    throw new FilterError(
      'bandwidth',
      'is out of reach of quarter-wave stubs of this order: take a wider band or another order',
    );
  return parts(found);
}

/** Coupled quarter waves between half-wave resonators, one more than these: modes' impedances over that of the terminations. */
export interface CoupledSections {
  readonly even: readonly number[];
  readonly odd: readonly number[];
}

/** Where coupled sections start: each an inverter between quarter waves of the terminations' impedance. Source: Cohn 1958. */
export function invertersOf(shape: FilterShape, bandwidth: number): number[] {
  const { order: n } = shape;
  const g = [1, ...lowpassElements(shape)];
  return Array.from({ length: n + 1 }, (_, i) =>
    i === 0 || i === n
      ? Math.sqrt((Math.PI * bandwidth) / (2 * g[i] * g[i + 1]))
      : (Math.PI * bandwidth) / (2 * Math.sqrt(g[i] * g[i + 1])),
  );
}

/**
 * Parameters whose response swings by the ripple and no more between both edges and has its edges there, those nearest to
 * where the search starts; undefined where none do. A maximally flat response has all its dips at one place near the
 * centre, which a response that leans to one side finds for itself.
 * @param k |S11/S21| with its sign, of the logarithms of the parameters, at an angle of quarter waves
 */
export function equalised(
  shape: FilterShape,
  edge: number,
  start: readonly number[],
  k: (x: readonly number[], theta: number) => number,
): number[] | undefined {
  const { order: n, ripple } = shape;
  const most = edgeOf(shape);
  const target = passTarget(shape, edge);
  // Where a Chebyshev polynomial of the order has its extremes, both edges among them.
  const at = Array.from({ length: n + 1 }, (_, i) => Math.acos(Math.cos(edge) * Math.cos((i * Math.PI) / n)));
  const sign = Math.sign(k(start, at[0])) * Math.sign(target(at[0])) || 1;
  const near = leastSquares(
    (y, out) => {
      at.forEach((theta, i) => (out[i] = sign * k(y, theta) - target(theta)));
      return out.every(Number.isFinite);
    },
    start,
    n + 1,
    { step: 1e-5, maxIterations: 150, tolerance: 1e-13 },
  );
  if (ripple === 0) return together(n, edge, near.x, (x, theta) => sign * k(x, theta));
  const last = leastSquares(
    (y, out) => {
      const inner = extremes((theta) => k(y, theta), edge, Math.PI - edge, 30 * n);
      if (inner.length !== n - 1) return false;
      inner.forEach(({ y: value }, i) => (out[i] = Math.abs(value) - most));
      out[n - 1] = Math.abs(k(y, edge)) - most;
      out[n] = Math.abs(k(y, Math.PI - edge)) - most;
      return out.every(Number.isFinite);
    },
    near.x,
    n + 1,
    { step: 1e-5, maxIterations: 40, tolerance: 1e-12 },
  );
  return last.cost < 1e-16 ? last.x : undefined;
}

/**
 * The same where all dips lie at one place: (x - u)^n (a + b x)/sin theta, met at as many places as there are unknowns,
 * with half the power at both edges.
 */
function together(
  n: number,
  edge: number,
  start: readonly number[],
  k: (x: readonly number[], theta: number) => number,
): number[] | undefined {
  const xe = Math.cos(edge);
  const root = Math.sin(edge);
  const at = Array.from({ length: n + 2 }, (_, i) =>
    Math.acos(xe * 0.98 * Math.cos(((i + 0.5) * Math.PI) / (n + 2))),
  );
  const target = ([u, a, b]: readonly number[], theta: number) => {
    const x = Math.cos(theta) / xe;
    return ((a + b * x) * root * Math.pow(x - u, n)) / Math.sin(theta);
  };
  const { x, cost } = leastSquares(
    (y, out) => {
      const own = y.slice(3);
      at.forEach((theta, i) => (out[i] = k(own, theta) - target(y, theta)));
      out[n + 2] = k(own, edge) - 1;
      out[n + 3] = k(own, Math.PI - edge) - (n % 2 ? -1 : 1);
      return out.every(Number.isFinite);
    },
    [0, 1, 0, ...start],
    n + 4,
    { step: 1e-5, maxIterations: 80, tolerance: 1e-14 },
  );
  return cost < EXACT ? x.slice(3) : undefined;
}

/**
 * Half-wave resonators coupled along their edges: from the narrow-band formula to the sections nearest to it whose ripple
 * is equal and whose edges stand, of wide bands too; maximally flat ones have all their dips at the centre.
 * @throws FilterError
 */
export function designCoupledResonators(shape: FilterShape, bandwidth: number): CoupledSections {
  checkShape(shape);
  const edge = passEdge(bandwidth);
  const { order: n, ripple } = shape;
  const half = Math.floor(n / 2) + 1;
  const inverters = invertersOf(shape, bandwidth).slice(0, half);
  // Half the sum and half the difference of the modes' impedances: both positive, the sum the larger.
  const start = inverters.flatMap((j) => [Math.log(1 + j * j), Math.log(j)]);
  const parts = (x: readonly number[]): CoupledSections => {
    const at = (i: number) => 2 * Math.min(i, n - i);
    const of = (sign: 1 | -1) =>
      Array.from({ length: n + 1 }, (_, i) => Math.exp(x[at(i)]) + sign * Math.exp(x[at(i) + 1]));
    return { even: of(1), odd: of(-1) };
  };
  const network = (x: readonly number[], theta: number): Lossless => {
    const { even, odd } = parts(x);
    return chain(...even.map((ze, i) => openPair(ze, odd[i], theta)));
  };
  const found =
    ripple > 0
      ? equalised(shape, edge, start, (x, theta) => characteristic(network(x, theta)))
      : (flattened(shape, edge, start, network) ??
        fitted(start, network, passTarget(shape, edge), places(n + 4, edge)));
  const made = found && parts(found);
  if (!made || made.odd.some((z) => !(z > 0)))
    throw new FilterError(
      'bandwidth',
      'is out of reach of coupled half-wave resonators of this order: take a narrower band',
    );
  return made;
}

/**
 * The same maximally flat: with two more coupled lines than a flat response of the order takes, x^n (a + b x^2)/sin theta
 * has all its dips at the centre whatever b is, which is found along with the rest.
 */
function flattened(
  shape: FilterShape,
  edge: number,
  start: readonly number[],
  network: (x: readonly number[], theta: number) => Lossless,
): number[] | undefined {
  const target = passTarget(shape, edge);
  const at = places(shape.order + 4, edge);
  const xe = Math.cos(edge);
  const more = (b: number, theta: number) => target(theta) * (1 + b * ((Math.cos(theta) / xe) ** 2 - 1));
  const sign = Math.sign(characteristic(network(start, edge))) * Math.sign(target(edge)) || 1;
  const { x, cost } = leastSquares(
    ([b, ...y], out) => {
      at.forEach((theta, i) => {
        const wanted = more(b, theta);
        out[i] = (sign * characteristic(network(y, theta)) - wanted) / Math.hypot(1, target(theta));
      });
      return out.every(Number.isFinite);
    },
    [0, ...start],
    at.length,
    { step: 1e-5, maxIterations: 80, tolerance: 1e-14 },
  );
  return cost < EXACT ? x.slice(1) : undefined;
}
