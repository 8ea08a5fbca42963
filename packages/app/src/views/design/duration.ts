import { formatNumber } from '@ditch/core/units';

/** Seconds as one says them. */
export const duration = (s: number): string =>
  s < 0.95
    ? `${formatNumber(Math.max(0.1, Math.round(s * 10) / 10))}\u2009s`
    : s < 90
      ? `${Math.round(s)}\u2009s`
      : s < 5400
        ? `${Math.round(s / 60)}\u2009min`
        : `${formatNumber(Math.round(s / 360) / 10)}\u2009h`;
