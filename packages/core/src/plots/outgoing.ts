import { cx, type Complex } from '../numeric';
import { flooredDecibels, type SData } from '../results';
import type { PlotCurve } from './measures';

/** What comes out of the ports when several are driven at once: a plot of its own, which needs to know the waves that go in. */
export const outgoing = {
  id: 'outgoing',
  name: 'Power out of the ports',
  unit: 'dB',
  ceiling: 0,
} as const;

/**
 * Power that leaves each port, in decibels of all that goes in: |b|^2 over the sum of |a|^2 with b = S a, in power waves (Kurokawa 1965).
 * @param waves into the ports, in their order, in any common unit
 */
export function outgoingCurves(data: SData, waves: readonly Complex[]): PlotCurve[] {
  const n = data.ports;
  const all = Math.sqrt(waves.reduce((sum, a) => sum + a.re * a.re + a.im * a.im, 0));
  return Array.from({ length: n }, (_, i) => ({
    id: `out${i + 1}`,
    label: `out of port ${i + 1}`,
    y: data.freq.map((_f, k) => {
      let b: Complex = { re: 0, im: 0 };
      waves.forEach((a, j) => {
        const at = (k * n + i) * n + j;
        b = cx.add(b, cx.mul({ re: data.re[at], im: data.im[at] }, a));
      });
      return flooredDecibels(b.re / all, b.im / all);
    }),
  }));
}
