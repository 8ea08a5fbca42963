import { agm, cx, polynomialRoots, type Complex } from '../../numeric';
import { FilterError } from './prototype';

/** Shapes of a low-pass response that a specification is met with. */
export const filterShapes = [
  { id: 'butterworth', name: 'Butterworth', about: 'maximally flat' },
  { id: 'chebyshev', name: 'Chebyshev', about: 'equal ripple in the pass band' },
  { id: 'inverse', name: 'Inverse Chebyshev', about: 'flat, with equal ripple in the stop band' },
  { id: 'elliptic', name: 'Elliptic', about: 'equal ripple in both: the least order' },
  { id: 'bessel', name: 'Bessel', about: 'flattest delay' },
  { id: 'gaussian', name: 'Gaussian', about: 'no overshoot' },
] as const;
export type FilterShapeId = (typeof filterShapes)[number]['id'];

/** What a low-pass with its edge at 1 rad/s shall do. */
export interface LowpassGoal {
  /** Most loss in the pass band, dB. */
  readonly passLoss: number;
  /** From where on, over the edge, at least so much is stopped, dB. */
  readonly stopFrom: number;
  readonly stopLoss: number;
}

/** A low-pass response by its poles and zeros, rad/s: of unit size where it passes best. */
export interface Approximation {
  readonly order: number;
  readonly poles: readonly Complex[];
  /** On the imaginary axis; fewer than the poles where it only falls. */
  readonly zeros: readonly Complex[];
  readonly gain: number;
}

const MOST = 20;
/** Of the shapes that are found by trial: past this they fall no more steeply for it. */
const MOST_TRIED = 10;
const excess = (dB: number): number => Math.sqrt(Math.expm1((dB * Math.LN10) / 10));

/** K(k)/K(k') of a modulus and its complement. */
const ratioK = (k: number): number => agm(1, k) / agm(1, Math.sqrt((1 - k) * (1 + k)));

/**
 * The least order with which a shape meets a goal. Sources: Butterworth 1930; Cauer 1958 for the equal-ripple ones; of the
 * others by trial.
 * @throws FilterError where none of up to twenty does
 */
export function leastOrder(shape: FilterShapeId, goal: LowpassGoal): number {
  const { passLoss, stopFrom, stopLoss } = goal;
  if (!(stopFrom > 1))
    throw new FilterError('bandwidth', 'leaves no room between the edges of pass and stop band');
  const ratio = excess(stopLoss) / excess(passLoss);
  // What is met to a billionth is met.
  const up = (n: number) => Math.max(1, Math.ceil(n - 1e-9));
  let n: number;
  switch (shape) {
    case 'butterworth':
      n = up(Math.log(ratio) / Math.log(stopFrom));
      break;
    case 'chebyshev':
    case 'inverse':
      n = up(Math.acosh(Math.max(1, ratio)) / Math.acosh(stopFrom));
      break;
    case 'elliptic':
      // K(k)K'(k1) / (K'(k)K(k1)) with the selectivity k and the discrimination k1.
      n = ratio <= 1 ? 1 : up(ratioK(1 / stopFrom) / ratioK(1 / ratio));
      break;
    case 'bessel':
    case 'gaussian': {
      n = 1;
      while (n <= MOST_TRIED && lossAt(approximate(shape, n, goal), stopFrom) < stopLoss) n++;
      if (n > MOST_TRIED) n = Infinity;
    }
  }
  if (!(n <= MOST))
    throw new FilterError(
      'order',
      `would be above ${n === Infinity ? MOST_TRIED : MOST}: give the edges more room or stop less`,
    );
  return n;
}

const roots = (n: number): number[] => Array.from({ length: n }, (_, i) => ((2 * i + 1) * Math.PI) / (2 * n));

/**
 * Poles and zeros of a shape of an order: its pass band ends at 1 rad/s with the loss that the goal allows, and what the
 * order has to spare goes to the stop band: the elliptic response keeps its edge and stops deeper, the inverse Chebyshev has
 * its loss as asked and begins to stop earlier.
 */
export function approximate(shape: FilterShapeId, order: number, goal: LowpassGoal): Approximation {
  const e = excess(goal.passLoss);
  switch (shape) {
    case 'butterworth': {
      const radius = Math.pow(e, -1 / order);
      return finished(
        order,
        roots(order).map((t) => ({ re: -radius * Math.sin(t), im: radius * Math.cos(t) })),
        [],
        1,
      );
    }
    case 'chebyshev': {
      const a = Math.asinh(1 / e) / order;
      const poles = roots(order).map((t) => ({
        re: -Math.sinh(a) * Math.sin(t),
        im: Math.cosh(a) * Math.cos(t),
      }));
      return finished(order, poles, [], order % 2 ? 1 : 1 / Math.hypot(1, e));
    }
    case 'inverse': {
      // Scaled so that the pass band ends at 1: the stop band begins where the order lets it have the loss asked for.
      const deep = excess(goal.stopLoss);
      const ws = Math.cosh(Math.acosh(Math.max(1, deep / e)) / order);
      const a = Math.asinh(deep) / order;
      const poles = roots(order).map((t) =>
        cx.div({ re: ws, im: 0 }, { re: -Math.sinh(a) * Math.sin(t), im: Math.cosh(a) * Math.cos(t) }),
      );
      const zeros = roots(order)
        .filter((t) => Math.abs(Math.cos(t)) > 1e-9)
        .map((t) => ({ re: 0, im: ws / Math.cos(t) }));
      return finished(order, poles, zeros, 1);
    }
    case 'elliptic':
      return elliptic(order, goal);
    case 'bessel':
      return scaledTo(order, known('bessel', order, besselPoles), e);
    case 'gaussian':
      return scaledTo(order, known('gaussian', order, gaussianPoles), e);
  }
}

/** Poles that depend on the order alone. */
const poles = new Map<string, readonly Complex[]>();
function known(shape: string, order: number, make: (n: number) => Complex[]): readonly Complex[] {
  const key = `${shape} ${order}`;
  let own = poles.get(key);
  if (!own) poles.set(key, (own = make(order)));
  return own;
}

/** With the gain that makes it `size` at zero frequency. */
function finished(
  order: number,
  poles: readonly Complex[],
  zeros: readonly Complex[],
  size: number,
): Approximation {
  const product = (list: readonly Complex[]) => list.reduce((p, z) => p * cx.abs(z), 1);
  return { order, poles, zeros, gain: (size * product(poles)) / product(zeros) };
}

/** Frequencies scaled so that the loss at 1 rad/s is that of the excess e. */
function scaledTo(order: number, poles: readonly Complex[], e: number): Approximation {
  const raw = finished(order, poles, [], 1);
  const wanted = 10 * Math.log10(1 + e * e);
  let [low, high] = [1e-3, 1e3];
  for (let i = 0; i < 60; i++) {
    const middle = Math.sqrt(low * high);
    if (lossAt(raw, middle) < wanted) low = middle;
    else high = middle;
  }
  const scale = 1 / Math.sqrt(low * high);
  return finished(
    order,
    poles.map((p) => ({ re: p.re * scale, im: p.im * scale })),
    [],
    1,
  );
}

/** Complex elliptic function cd(u K, k) by descending Landen transformations. Source: Orfanidis 2006. */
function cd(u: Complex, k: number): Complex {
  const moduli = landen(k);
  // cos of u pi/2.
  const [x, y] = [(u.re * Math.PI) / 2, (u.im * Math.PI) / 2];
  let w: Complex = { re: Math.cos(x) * Math.cosh(y), im: -Math.sin(x) * Math.sinh(y) };
  for (let i = moduli.length - 1; i >= 0; i--) {
    const v = moduli[i];
    const squared = cx.mul(w, w);
    w = cx.div({ re: (1 + v) * w.re, im: (1 + v) * w.im }, { re: 1 + v * squared.re, im: v * squared.im });
  }
  return w;
}

function landen(k: number): number[] {
  const out: number[] = [];
  let v = k;
  for (let i = 0; i < 12 && v > 1e-18; i++) {
    const root = Math.sqrt((1 - v) * (1 + v));
    v = (v / (1 + root)) ** 2;
    out.push(v);
  }
  return out;
}

/** The inverse of sn(j v K, k) = j x for real x: v. */
function arcSn(x: number, k: number): number {
  let w = x;
  let before = k;
  for (const v of landen(k)) {
    w = (2 * w) / ((1 + v) * (1 + Math.hypot(1, before * w)));
    before = v;
  }
  return (2 / Math.PI) * Math.asinh(w);
}

/** Equal ripple in pass and stop band. Source: Cauer 1958; by elliptic functions, Orfanidis 2006. */
function elliptic(order: number, { passLoss, stopFrom }: LowpassGoal): Approximation {
  const e = excess(passLoss);
  const k = 1 / stopFrom;
  const half = Math.floor(order / 2);
  const places = Array.from({ length: half }, (_, i) => (2 * i + 1) / order);
  // The discrimination that the order has at this selectivity, by the degree equation; sn(u) is cd(1 - u).
  const k1 = places.reduce((product, u) => product * cd({ re: 1 - u, im: 0 }, k).re ** 4, Math.pow(k, order));
  const v = arcSn(1 / e, k1) / order;
  const zeros: Complex[] = [];
  const poles: Complex[] = [];
  for (const u of places) {
    const zero = 1 / (k * cd({ re: u, im: 0 }, k).re);
    const w = cd({ re: u, im: -v }, k);
    const [re, im] = [-Math.abs(w.im), Math.abs(w.re)];
    zeros.push({ re: 0, im: zero }, { re: 0, im: -zero });
    poles.push({ re, im }, { re, im: -im });
  }
  if (order % 2) poles.push({ re: -cx.abs(cd({ re: 1, im: -v }, k)), im: 0 });
  return finished(order, poles, zeros, order % 2 ? 1 : 1 / Math.hypot(1, e));
}

/** Poles whose delay is flattest at zero frequency, 1 s there. Source: Thomson 1949: the reverse Bessel polynomial. */
function besselPoles(n: number): Complex[] {
  const c = [1];
  // Its coefficients from the highest down: each is the one above times (n + j)(n - j + 1)/(2j).
  for (let j = 1; j <= n; j++) c.unshift((c[0] * (n + j) * (n - j + 1)) / (2 * j));
  return polynomialRoots(c);
}

/** Poles of 1/(1 + x + x^2/2 + ...), x = w^2, the series of a Gaussian cut off at the order. Source: Dishal 1959. */
function gaussianPoles(n: number): Complex[] {
  const c = [1];
  for (let j = 1; j <= n; j++) c.push(c[j - 1] / j);
  return polynomialRoots(c).map((y) => {
    const s = cx.sqrt({ re: -y.re, im: -y.im });
    return s.re > 0 ? { re: -s.re, im: -s.im } : s;
  });
}

/** Response at a frequency in rad/s. */
export function responseAt({ poles, zeros, gain }: Approximation, w: number): Complex {
  let h: Complex = { re: gain, im: 0 };
  for (const z of zeros) h = cx.mul(h, { re: -z.re, im: w - z.im });
  for (const p of poles) h = cx.div(h, { re: -p.re, im: w - p.im });
  return h;
}

/** Loss at a frequency in rad/s, dB. */
export const lossAt = (a: Approximation, w: number): number => -20 * Math.log10(cx.abs(responseAt(a, w)));

/** Group delay at a frequency in rad/s, s; zeros on the imaginary axis have none. */
export const delayAt = ({ poles }: Approximation, w: number): number =>
  poles.reduce((sum, p) => sum - p.re / (p.re * p.re + (w - p.im) ** 2), 0);
