import { nearestSample, type SData } from '../results';

/** What the ports of a network do when port 1 is driven, counted from 0. */
export interface Roles {
  readonly ports: number;
  /** Ports that get a share of the power. */
  readonly outputs: readonly number[];
  /** Ports that get none. */
  readonly isolated: readonly number[];
  /** The output that takes a share of what passes, of a coupler. */
  readonly coupled?: number;
}

/** Less than this amplitude is none: 15 dB below the input. */
const NONE = 0.178;
/** Unless another port gets so much less still: then it is what a coupler takes, by intent. */
const MUCH_MORE = 4;
/** An output that gets less than this amplitude is coupled to the way through, not one of two halves. */
const COUPLED = 0.45;
/** What is no more than rounding, or than what stray coupling leaves. */
const FLOOR = 1e-4;

/** The roles of the ports, read from a response at the frequency nearest to `f0`. */
export function rolesOf(data: SData, f0: number): Roles {
  const n = data.ports;
  const k = nearestSample(data.freq, f0);
  const size = (i: number) => Math.hypot(data.re[(k * n + i) * n], data.im[(k * n + i) * n]);
  const others = Array.from({ length: n - 1 }, (_, i) => i + 1);
  const least = Math.min(...others.map(size));
  const isOutput = (i: number) => size(i) >= NONE || (size(i) > MUCH_MORE * least && size(i) > FLOOR);
  const outputs = others.filter(isOutput);
  const isolated = others.filter((i) => !isOutput(i));
  const weakest = outputs.length > 1 ? outputs.reduce((a, b) => (size(b) < size(a) ? b : a)) : undefined;
  const coupled =
    weakest !== undefined && isolated.length > 0 && size(weakest) < COUPLED ? weakest : undefined;
  return { ports: n, outputs, isolated, ...(coupled === undefined ? {} : { coupled }) };
}
