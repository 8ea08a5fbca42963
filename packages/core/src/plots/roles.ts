import type { SData } from '../results';

/** What the ports of a network do when port 1 is driven, counted from 0. */
export interface Roles {
  readonly ports: number;
  /** Ports that get a share of the power. */
  readonly outputs: readonly number[];
  /** Ports that get none. */
  readonly isolated: readonly number[];
}

/** Less than this amplitude is none: 15 dB below the input. */
const NONE = 0.178;

/** The roles of the ports, read from a response at the frequency nearest to `f0`. */
export function rolesOf(data: SData, f0: number): Roles {
  const n = data.ports;
  let k = 0;
  data.freq.forEach((f, i) => {
    if (Math.abs(f - f0) < Math.abs(data.freq[k] - f0)) k = i;
  });
  const outputs: number[] = [];
  const isolated: number[] = [];
  for (let i = 1; i < n; i++) {
    const at = (k * n + i) * n;
    (Math.hypot(data.re[at], data.im[at]) >= NONE ? outputs : isolated).push(i);
  }
  return { ports: n, outputs, isolated };
}
