import type { Complex } from '../numeric';
import {
  checkQuantity,
  quantityKinds,
  QuantityError,
  real,
  type Quantity,
  type QuantityRule,
} from '../units';

/** What went wrong in words. */
export const message = (error: unknown): string => {
  if (error instanceof QuantityError || error instanceof RangeError) return error.message;
  // One place that fails must not take the whole page with it: it is a problem at that place like any other.
  return `cannot be worked out (${error instanceof Error ? error.message : String(error)})`;
};

export type ArgumentKind =
  | 'impedance'
  | 'positive impedance'
  | 'complex'
  | 'length'
  | 'positive length'
  | 'number'
  | 'angle'
  | 'level';
const argumentRules: Readonly<Record<ArgumentKind, QuantityRule>> = {
  impedance: { kind: 'impedance' },
  'positive impedance': { kind: 'impedance', min: 0, exclusive: true },
  complex: { kind: 'impedance', complex: true },
  length: { kind: 'length' },
  'positive length': { kind: 'length', min: 0, exclusive: true },
  number: { kind: 'number' },
  angle: { kind: 'angle' },
  level: { kind: 'level' },
};

/** Arguments of a helper function, each checked. */
export function argumentsOf(
  name: string,
  args: readonly Quantity[],
  kinds: readonly ArgumentKind[],
): Complex[] {
  const rules = kinds.map((k) => argumentRules[k]);
  if (args.length !== kinds.length)
    throw new QuantityError(
      `${name}() takes ${kinds.length === 1 ? 'one value' : `${kinds.length} values`}: ${rules.map((r) => (r.complex ? 'a complex impedance' : quantityKinds[r.kind].noun)).join(', ')}`,
    );
  return args.map((a, i) => {
    try {
      return checkQuantity(a, rules[i]);
    } catch (error) {
      throw new QuantityError(`${name}(): value ${i + 1} ${message(error)}`);
    }
  });
}

export const ohms = (z: Complex): Quantity => ({ ...z, dimension: quantityKinds.impedance.dimension });
export const metres = (x: number): Quantity => real(x, quantityKinds.length.dimension);
