import { useEffect, useState } from 'react';
import type { Flow } from '@ditch/core/planar';

/** From little current to much, dB below the most of it. */
export const RANGE = 30;
const RAMP = ['#f1e6d3', '#e3b98f', '#c17a50', '#8f3f24', '#45170f'].map((hex) =>
  [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)),
);
const shade = (share: number): string => {
  const at = Math.min(0.9999, Math.max(0, share)) * (RAMP.length - 1);
  const [a, b] = [RAMP[Math.floor(at)], RAMP[Math.floor(at) + 1]];
  return `rgb(${a.map((v, i) => Math.round(v + (b[i] - v) * (at % 1))).join(' ')})`;
};
export const SHADES = Array.from({ length: 64 }, (_, i) => shade(i / 63));

/** Size of the current in each cell: its peak over a period, or at a phase (rad). */
export function sizes({ x, y }: Flow, phase: number | undefined): Float64Array {
  const out = new Float64Array(x.re.length);
  for (let c = 0; c < out.length; c++) {
    if (phase === undefined) {
      // The larger half axis of the ellipse that the current goes round.
      const sum = x.re[c] ** 2 + x.im[c] ** 2 + y.re[c] ** 2 + y.im[c] ** 2;
      const re = x.re[c] ** 2 - x.im[c] ** 2 + y.re[c] ** 2 - y.im[c] ** 2;
      const im = 2 * (x.re[c] * x.im[c] + y.re[c] * y.im[c]);
      out[c] = Math.sqrt((sum + Math.hypot(re, im)) / 2);
    } else {
      const [cos, sin] = [Math.cos(phase), Math.sin(phase)];
      out[c] = Math.hypot(x.re[c] * cos - x.im[c] * sin, y.re[c] * cos - y.im[c] * sin);
    }
  }
  return out;
}

/** The most of it but for the very edges, where it grows without end the finer the cells are. */
export function mostOf(flow: Flow): number {
  const all = Float64Array.from(sizes(flow, undefined)).sort();
  return all[Math.floor(0.99 * (all.length - 1))] || 1;
}

export const shadeOf = (size: number, most: number): string => {
  const level = 20 * Math.log10(Math.max(size, 1e-12) / most);
  return SHADES[Math.round(63 * Math.min(1, Math.max(0, 1 + level / RANGE)))];
};

/** Something worked out by a worker for what is looked at, anew when that is another. */
export function useWorked<T>(
  key: string | undefined,
  work: (signal: AbortSignal) => Promise<{ readonly value: T } | { readonly problem: string }>,
): { readonly value?: T; readonly problem?: string; readonly busy: boolean } {
  const [state, setState] = useState<{ key?: string; value?: T; problem?: string }>({});
  useEffect(() => {
    if (key === undefined) return;
    const control = new AbortController();
    work(control.signal).then(
      (reading) => !control.signal.aborted && setState({ key, ...reading }),
      (error: unknown) =>
        !control.signal.aborted &&
        setState({ key, problem: error instanceof Error ? error.message : String(error) }),
    );
    return () => control.abort();
    // The key says all that the work depends on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return {
    ...(state.key === key ? state : { value: state.value }),
    busy: key !== undefined && state.key !== key,
  };
}
