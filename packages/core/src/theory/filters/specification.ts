import { approximate, leastOrder, lossAt, type Approximation, type FilterShapeId } from './approximation';
import { FilterError } from './prototype';

export const filterKinds = [
  { id: 'lowpass', name: 'Low-pass' },
  { id: 'highpass', name: 'High-pass' },
  { id: 'bandpass', name: 'Band-pass' },
  { id: 'bandstop', name: 'Band stop' },
] as const;
export type FilterKind = (typeof filterKinds)[number]['id'];

/** What a filter shall do, whatever it is made of. Frequencies in Hz, losses in dB. */
export interface FilterSpecification {
  readonly kind: FilterKind;
  /** Edges of the pass band: one of a low- or high-pass; of a band stop the ends of the two pass bands towards it. */
  readonly edges: readonly number[];
  readonly passLoss: number;
  /** What is stopped, from where to where. */
  readonly stop: readonly [from: number, to: number];
  readonly stopLoss: number;
}

/** Where a frequency lies on the low-pass that the specification comes from: its pass band ends at 1. */
export function normalised({ kind, edges }: FilterSpecification, f: number): number {
  const [low, high] = edges;
  switch (kind) {
    case 'lowpass':
      return f / low;
    case 'highpass':
      return f > 0 ? low / f : Infinity;
    default: {
      const centre = low * high;
      const across = f > 0 ? Math.abs(f * f - centre) / (f * (high - low)) : Infinity;
      return kind === 'bandpass' ? across : across > 0 ? 1 / across : Infinity;
    }
  }
}

/**
 * The response of a shape that meets the specification with the least order.
 * @throws FilterError
 */
export function meeting(spec: FilterSpecification, shape: FilterShapeId): Approximation {
  const stopFrom = Math.min(...spec.stop.map((f) => normalised(spec, f)));
  if (!(stopFrom > 1)) throw new FilterError('bandwidth', 'the stop band must lie outside the pass band');
  const goal = { passLoss: spec.passLoss, stopFrom, stopLoss: spec.stopLoss };
  return approximate(shape, leastOrder(shape, goal), goal);
}

/** Loss of such a response at a frequency in Hz, dB. */
export const specifiedLoss = (spec: FilterSpecification, response: Approximation, f: number): number =>
  lossAt(response, Math.min(1e6, normalised(spec, f)));

/** The least order with which a shape meets a specification; undefined where none does. */
export function leastOrderFor(spec: FilterSpecification, shape: FilterShapeId): number | undefined {
  try {
    return meeting(spec, shape).order;
  } catch (error) {
    if (error instanceof FilterError) return undefined;
    throw error;
  }
}

/**
 * Loss in dB that resonators of an unloaded quality add where the filter passes best: what the poles' distance from a line
 * that far to their right makes of it (Cohn 1959). Of a low-pass that is at zero frequency, of coils and capacitors that
 * have the quality at its edge.
 */
export function lostFor(
  { edges, kind }: FilterSpecification,
  response: Approximation,
  quality: number,
): number {
  const [low, high] = edges;
  const width = kind === 'bandpass' || kind === 'bandstop' ? (high - low) / Math.sqrt(low * high) : 1;
  const away = 1 / (quality * width);
  const size = (s: number) => {
    const product = (list: readonly { readonly re: number; readonly im: number }[]) =>
      list.reduce((p, { re, im }) => p * Math.hypot(s - re, im), 1);
    return (response.gain * product(response.zeros)) / product(response.poles);
  };
  return 20 * Math.log10(size(0) / size(away));
}
