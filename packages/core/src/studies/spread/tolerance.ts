import { QuantityError, readQuantity, type QuantityKind } from '../../units';

/** How a value spreads about its nominal one. */
export interface Tolerance {
  /** Plus and minus this: as a share of the nominal value, or in SI units. */
  readonly amount: number;
  readonly relative: boolean;
  /** All between the ends alike, or a normal distribution of which they are three standard deviations away. */
  readonly shape: 'normal' | 'uniform';
}

/** Standard deviations to an end. */
export const SIGMAS = 3;

/**
 * Reads plus and minus so much: `5%`, `20 um`, `0.02 mm:uniform`.
 * @param kind what it is of
 * @throws QuantityError in words
 */
export function readTolerance(text: string, kind: QuantityKind): Tolerance {
  const [amount, shape = 'normal', ...rest] = text.split(':').map((t) => t.trim());
  if (rest.length > 0 || (shape !== 'normal' && shape !== 'uniform'))
    throw new QuantityError(`is spread as normal or uniform, such as 5%:uniform`);
  if (amount === '') throw new QuantityError('needs plus and minus how much, such as 5% or 20 um');
  const share = /^(?:\u00B1|\+-|\+\/-)?\s*([\d.]+(?:e[-+]?\d+)?)\s*%$/i.exec(amount);
  if (share) {
    const value = Number(share[1]) / 100;
    if (!(value >= 0 && value < 1)) throw new QuantityError('must be from 0% to less than 100%');
    return { amount: value, relative: true, shape };
  }
  const { re } = readQuantity(amount.replace(/^(\u00B1|\+-|\+\/-)\s*/, ''), { kind, min: 0 });
  return { amount: re, relative: false, shape };
}
