import type { FilterKind, FilterSpecification } from '../theory';
import { QuantityError, readQuantity, type QuantityKind } from '../units';

/** What is asked of a filter, as texts. */
export interface FilterWishes {
  readonly kind: FilterKind;
  /** Edge of the pass band of a low- or high-pass. */
  readonly edge: string;
  /** Edges of the pass band of a band-pass, or towards the stop band of a band stop. */
  readonly low: string;
  readonly high: string;
  readonly passLoss: string;
  /** What is stopped: from where, and to where if it is more than one frequency. */
  readonly stopFrom: string;
  readonly stopTo: string;
  readonly stopLoss: string;
  readonly z0: string;
}

/** Where the page begins: what follows the second harmonic of a local oscillator out of the way. */
export const initialWishes: FilterWishes = {
  kind: 'lowpass',
  edge: '6 GHz',
  low: '5.6 GHz',
  high: '6 GHz',
  passLoss: '0.5 dB',
  stopFrom: '10.55 GHz',
  stopTo: '',
  stopLoss: '40 dB',
  z0: '50 ohm',
};

export type WishErrors = Readonly<Partial<Record<keyof FilterWishes, string>>>;

/** The wishes in numbers, or what is wrong at which of them. */
export function readWishes(wishes: FilterWishes): {
  readonly spec: FilterSpecification | undefined;
  readonly errors: WishErrors;
} {
  const errors: Partial<Record<keyof FilterWishes, string>> = {};
  const read = (name: Exclude<keyof FilterWishes, 'kind'>, kind: QuantityKind): number => {
    try {
      return readQuantity(wishes[name], { kind, min: 0, exclusive: true }).re;
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      errors[name] = error.message;
      return NaN;
    }
  };
  const { kind } = wishes;
  const single = kind === 'lowpass' || kind === 'highpass';
  const edges = single ? [read('edge', 'frequency')] : [read('low', 'frequency'), read('high', 'frequency')];
  const passLoss = read('passLoss', 'level');
  const from = read('stopFrom', 'frequency');
  const to = wishes.stopTo.trim() === '' ? from : read('stopTo', 'frequency');
  const stopLoss = read('stopLoss', 'level');
  read('z0', 'impedance');
  const refuse = (name: keyof FilterWishes, message: string) => (errors[name] ??= message);
  if (!single && edges[0] >= edges[1]) refuse('high', 'must be above the lower edge');
  if (passLoss > 3) refuse('passLoss', 'must be at most 3 dB: more is no pass band');
  if (passLoss >= stopLoss) refuse('stopLoss', 'must be more than what the pass band may lose');
  if (to < from) refuse('stopTo', 'must not be below where the stop band begins');
  const [low, high] = edges;
  if (kind === 'lowpass' && from <= low) refuse('stopFrom', 'must lie above the edge of the pass band');
  if (kind === 'highpass' && to >= low)
    refuse(wishes.stopTo.trim() === '' ? 'stopFrom' : 'stopTo', 'must lie below the edge of the pass band');
  if (kind === 'bandpass' && from <= high && to >= low) refuse('stopFrom', 'must lie beside the pass band');
  if (kind === 'bandstop' && (from <= low || to >= high))
    refuse('stopFrom', 'must lie between the two pass bands');
  const spec: FilterSpecification = { kind, edges, passLoss, stop: [from, to], stopLoss };
  return { spec: Object.keys(errors).length === 0 ? spec : undefined, errors };
}
