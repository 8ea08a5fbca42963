import { agm } from '../../src/numeric';
import {
  approximate,
  filterShapes,
  leastOrder,
  lossAt,
  lowpassElements,
  type Approximation,
} from '../../src/theory';
import { entry, made, response, size } from '../helpers';
import { each, spaced, type Group } from './contract';

/** Ladder elements for the ripple in dB, 0 flat, of the tables of Matthaei, Young & Jones 1964. */
const LADDERS: readonly (readonly [ripple: number, elements: readonly number[]])[] = [
  [0, [1, 2, 1]],
  [0, [0.618, 1.618, 2, 1.618, 0.618]],
  [0.5, [1.5963, 1.0967, 1.5963]],
  [0.5, [1.7058, 1.2296, 2.5408, 1.2296, 1.7058]],
  [0.5, [1.7372, 1.2583, 2.6381, 1.3444, 2.6381, 1.2583, 1.7372]],
  [3, [3.3487, 0.7117, 3.3487]],
];

/** Loss in dB where the stop band of an elliptic response begins, 0.1 dB in its pass band; the printed selectivity is rounded. */
const ELLIPTIC: readonly (readonly [order: number, stopFrom: number, loss: number])[] = [
  [3, 2.5, 30.5161],
  [5, 1.1494, 24.5451],
  [5, 1.2, 28.3031],
  [5, 1.25, 31.4911],
  [5, 1.2987, 34.2484],
  [5, 1.4085, 39.5947],
  [5, 1.6129, 47.5698],
  [5, 1.8182, 54.0215],
];

/** Complete elliptic integrals of the parameter m, Abramowitz & Stegun 1964, table 17.1. */
const INTEGRALS = [
  [0, 1.5707963267948966],
  [0.25, 1.685750354812596],
  [0.5, 1.8540746773013719],
  [0.75, 2.156515647499643],
] as const;

const GOALS = each([3, 4, 5, 7], [0.1, 0.5, 1]).map(([order, passLoss]) => ({ order, passLoss }));
const LARGE = 50;

/** Values at which samples of a curve turn, by the parabola through three of them. */
function turns(y: readonly number[]): number[] {
  const found: number[] = [];
  for (let k = 1; k + 1 < y.length; k++) {
    const [a, b, c] = [y[k - 1], y[k], y[k + 1]];
    if ((b - a) * (c - b) < 0 && Math.abs(b) < LARGE) found.push(b - (c - a) ** 2 / (8 * (a - 2 * b + c)));
  }
  return found;
}
const elliptic = (order: number, passLoss: number, stopFrom: number): Approximation =>
  approximate('elliptic', order, { passLoss, stopFrom, stopLoss: 30 });

export const filters: Group = {
  name: 'Filters',
  cases: [
    {
      what: 'ladder elements, flat and of equal ripple',
      against: 'the tables of Matthaei, Young & Jones 1964, four decimals',
      over: 'orders 3 to 7, 0 to 3 dB',
      bound: 1e-4,
      errors: () =>
        LADDERS.flatMap(([ripple, elements]) => {
          const g = lowpassElements({ order: elements.length, ripple });
          return elements.map((e, i) => Math.abs(g[i] / e - 1));
        }),
    },
    {
      what: 'elliptic responses, loss where the stop band begins',
      against: 'the table of Hong & Lancaster 2001 (after Saal & Ulbrich 1958), four decimals',
      over: 'orders 3 and 5, selectivities 1.15 to 2.5',
      bound: 1e-4,
      errors: () =>
        ELLIPTIC.map(([n, from, loss]) => Math.abs(lossAt(elliptic(n, 0.1, from), from) / loss - 1)),
    },
    {
      what: 'elliptic responses, ripple in the pass band',
      against: 'equal extremes, which no other response of the order and selectivity has (Zolotarev 1877)',
      over: 'orders 3 to 7, 0.1 to 1 dB',
      bound: 1e-6,
      absolute: true,
      errors: () =>
        GOALS.flatMap(({ order, passLoss }) => {
          const response = elliptic(order, passLoss, 1.3);
          const tops = turns(spaced(0, 1, 4001).map((w) => lossAt(response, w))).filter(
            (y) => y > passLoss / 2,
          );
          return [...tops, lossAt(response, 1)].map((y) => Math.abs(y - passLoss));
        }),
    },
    {
      what: 'elliptic responses, ripple in the stop band',
      against: 'equal extremes',
      over: 'orders 3 to 7, 0.1 to 1 dB',
      bound: 1e-4,
      absolute: true,
      errors: () =>
        GOALS.flatMap(({ order, passLoss }) => {
          const response = elliptic(order, passLoss, 1.3);
          const least = lossAt(response, 1.3);
          return turns(spaced(1.31, 6, 4001).map((w) => lossAt(response, w))).map((y) => Math.abs(y - least));
        }),
    },
    {
      what: 'inverse Chebyshev responses',
      against: 'the closed form 1/(1 + 1/(ε T(ωs/ω))²)',
      over: 'orders 2 to 9, 0.2 to 4 times the edge',
      bound: 1e-9,
      errors: () =>
        each([2, 3, 5, 9], spaced(0.2, 4, 12)).map(([order, w]) => {
          const goal = { passLoss: 0.2, stopFrom: 2, stopLoss: 40 };
          const [e, deep] = [goal.passLoss, goal.stopLoss].map((x) => Math.sqrt(10 ** (x / 10) - 1));
          const ws = Math.cosh(Math.acosh(deep / e) / order);
          const x = ws / w;
          const t = Math.abs(x) <= 1 ? Math.cos(order * Math.acos(x)) : Math.cosh(order * Math.acosh(x));
          const loss = 10 * Math.log10(1 + (deep / t) ** 2);
          return Math.abs(lossAt(approximate('inverse', order, goal), w) - loss) / Math.max(1, loss);
        }),
    },
    {
      what: 'complete elliptic integrals behind the least order',
      against: 'Abramowitz & Stegun 1964, table 17.1',
      over: 'm 0 to 0.75',
      bound: 1e-14,
      errors: () => INTEGRALS.map(([m, k]) => Math.abs(Math.PI / (2 * agm(1, Math.sqrt(1 - m))) / k - 1)),
    },
    {
      what: 'the least order of every shape',
      against: 'its own response: it keeps the goal, and one order less does not',
      over: '40 dB from 1.2 to 3 times the edge, 0.1 dB',
      bound: 0.5,
      absolute: true,
      errors: () =>
        each(filterShapes, [1.2, 1.5, 3]).flatMap(([{ id }, stopFrom]) => {
          const goal = { passLoss: 0.1, stopFrom, stopLoss: 40 };
          let order: number;
          try {
            order = leastOrder(id, goal);
          } catch {
            return [];
          }
          const keeps = (n: number) => {
            const r = approximate(id, n, goal);
            return lossAt(r, stopFrom) >= 40 - 1e-6 && lossAt(r, 1) <= 0.1 + 1e-6;
          };
          return [Number(!keeps(order)), order > 1 ? Number(keeps(order - 1)) : 0];
        }),
    },
    {
      what: 'designs of equal ripple, the whole network',
      against: 'the ripple at its extremes and at both edges of the band',
      over: 'edge-coupled, hairpins, loops, interdigital, comb, end-coupled; 0.1 dB',
      bound: 1e-6,
      absolute: true,
      errors: () =>
        (
          [
            ['bandpass-coupled', '10%'],
            ['bandpass-hairpin', '10%'],
            ['bandpass-loop', '5%'],
            ['bandpass-interdigital', '10%'],
            ['bandpass-combline', '6%'],
            ['bandpass-gap', '3%'],
          ] as const
        ).flatMap(([id, bandwidth]) => {
          const { project } = made(id, { freq: '5 GHz', shape: 'chebyshev', ripple: '0.1 dB', bandwidth });
          const half = parseFloat(bandwidth) / 200;
          const at = spaced(5e9 * (1 - half), 5e9 * (1 + half), 801);
          const data = response(project, 'ideal', at);
          const loss = at.map((_, k) => -20 * Math.log10(size(entry(data, 2, 1, k))));
          const tops = turns(loss).filter((y) => y > 0.05);
          return [...tops, loss[0], loss[800]].map((y) => Math.abs(y - 0.1));
        }),
    },
  ],
};
