import { ETA0 } from '../numeric/constants';
import type { StaticPoint } from './contract';
import { closedStrip } from './microstrip';

/**
 * Both modes of a pair of thin strips in open microstrip at zero frequency, by fitted formulas. Source: Kirschning &
 * Jansen 1984; 0.6 % in impedance and 0.7 % in permittivity for u and g from 0.1 to 10 and er to 18.
 * @param u width over height
 * @param g gap over height
 */
export function closedPair(er: number, u: number, g: number): { even: StaticPoint; odd: StaticPoint } {
  const { exp, log, pow } = Math;
  const single = closedStrip(er, u, 0);
  const z = single.air / Math.sqrt(single.eeff);

  const v = (u * (20 + g * g)) / (10 + g * g) + g * exp(-g);
  const v4 = pow(v, 4);
  const a = 1 + log((v4 + pow(v / 52, 2)) / (v4 + 0.432)) / 49 + log(1 + pow(v / 18.1, 3)) / 18.7;
  const b = 0.564 * pow(Math.max(er - 0.9, 0) / (er + 3), 0.053);
  const even = (er + 1) / 2 + ((er - 1) / 2) * pow(1 + 10 / v, -a * b);

  const ao = 0.7287 * (single.eeff - (er + 1) / 2) * (1 - exp(-0.179 * u));
  const bo = (0.747 * er) / (0.15 + er);
  const co = bo - (bo - 0.207) * exp(-0.414 * u);
  const down = 0.593 + 0.694 * exp(-0.562 * u);
  const odd = ((er + 1) / 2 + ao - single.eeff) * exp(-co * pow(g, down)) + single.eeff;

  const g10 = pow(g, 10);
  const q1 = 0.8695 * pow(u, 0.194);
  const q2 = 1 + 0.7519 * g + 0.189 * pow(g, 2.31);
  const q3 = 0.1975 + pow(16.6 + pow(8.4 / g, 6), -0.387) + log(g10 / (1 + pow(g / 3.4, 10))) / 241;
  const q4 = (2 * q1) / q2 / (exp(-g) * pow(u, q3) + (2 - exp(-g)) * pow(u, -q3));
  const q5 = 1.794 + 1.14 * log(1 + 0.638 / (g + 0.517 * pow(g, 2.43)));
  const q6 = 0.2305 + log(g10 / (1 + pow(g / 5.8, 10))) / 281.3 + log(1 + 0.598 * pow(g, 1.154)) / 5.1;
  const q7 = (10 + 190 * g * g) / (1 + 82.3 * pow(g, 3));
  const q8 = exp(-6.5 - 0.95 * log(g) - pow(g / 0.15, 5));
  const q9 = log(q7) * (q8 + 1 / 16.5);
  const q10 = q4 - (q5 * exp(log(u) * q6 * pow(u, -q9))) / q2;
  const at = (eeff: number, q: number): StaticPoint => ({
    z0: (z * Math.sqrt(single.eeff / eeff)) / (1 - (z / ETA0) * Math.sqrt(single.eeff) * q),
    eeff,
  });
  return { even: at(even, q4), odd: at(odd, q10) };
}
