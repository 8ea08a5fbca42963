import { passBands } from '@ditch/core/candidates';
import {
  delayAt,
  normalised,
  specifiedLoss,
  type Approximation,
  type FilterSpecification,
} from '@ditch/core/theory';

export type Measured = 'loss' | 'delay';

const POINTS = 601;

/** The response of a shape over what a specification speaks of: |S21| in dB, or the group delay in ns. */
export function prototypeCurve(
  spec: FilterSpecification,
  response: Approximation,
  measure: Measured,
): { readonly x: Float64Array; readonly y: Float64Array } {
  const top = 1.15 * Math.max(spec.stop[1], ...passBands(spec).flat());
  const x = Float64Array.from({ length: POINTS }, (_, k) => (top * (k + 1)) / POINTS);
  if (measure === 'loss') return { x, y: x.map((f) => Math.max(-200, -specifiedLoss(spec, response, f))) };
  return {
    x,
    y: x.map((f) => {
      const step = 1e-5 * f;
      const slope = (normalised(spec, f + step) - normalised(spec, f - step)) / (2 * step);
      const seconds = (delayAt(response, normalised(spec, f)) * Math.abs(slope)) / (2 * Math.PI);
      return Number.isFinite(seconds) ? seconds * 1e9 : NaN;
    }),
  };
}
