import type { Shop } from '../network';
import { formatQuantity, QuantityError, readQuantity, type QuantityRule } from '../units';

/** What a shop can make, in metres. */
export interface ShopLimits {
  readonly width: number;
  readonly gap: number;
  readonly ring: number;
  readonly edge: number;
  readonly web: number;
  readonly etch: number;
  /** Whether it drills a diameter, m. */
  readonly drills: (diameter: number) => boolean;
  /** What it drills, in words. */
  readonly drilled: string;
}

/** A shop like many, where the project names none. */
export const usualShop: Shop = {
  name: 'usual shop',
  drills: '0.2 mm .. 6 mm',
  ring: '0.1 mm',
  edge: '0.25 mm',
  web: '0.2 mm',
  etch: '0 um',
};

export type ShopField = Exclude<keyof Shop, 'name' | 'lands'>;

/** A length that is typed, with what it means. */
export interface LengthField<T extends string> {
  readonly field: T;
  readonly label: string;
  readonly help: string;
  readonly rule: QuantityRule;
}

const length: QuantityRule = { kind: 'length', min: 0 };
const some: QuantityRule = { kind: 'length', min: 0, exclusive: true };

export const shopFields: readonly LengthField<ShopField>[] = [
  {
    field: 'drills',
    label: 'Drills',
    help: 'Diameters of finished holes: from the smallest to the largest as 0.2 mm .. 6 mm, or a list with commas.',
    rule: some,
  },
  {
    field: 'ring',
    label: 'Annular ring',
    help: 'Least copper around a hole, from the rim of the hole to the rim of the copper.',
    rule: length,
  },
  {
    field: 'edge',
    label: 'Edge clearance',
    help: 'Least board between copper or a hole and the rim. Lines that end at a port of the rim may reach it.',
    rule: length,
  },
  { field: 'web', label: 'Between holes', help: 'Least board between the rims of two holes.', rule: length },
  {
    field: 'etch',
    label: 'Etching',
    help: 'By how much lines come out narrower than they are drawn. Files widen every line by it, each edge by half.',
    rule: length,
  },
];

/** Holes this close in diameter are drilled by the same drill, m. */
const SAME_DRILL = 1e-6;

/** Diameters as typed: a range with two points, or a list. @throws QuantityError in words */
function readDrills(text: string): Pick<ShopLimits, 'drills' | 'drilled'> {
  const shown = (v: number) => formatQuantity(v, 'length', { digits: 4 });
  if (text.includes('..')) {
    const ends = text.split('..');
    if (ends.length !== 2) throw new QuantityError('needs SMALLEST .. LARGEST, such as 0.2 mm .. 6 mm');
    const [from, to] = ends.map((t) => readQuantity(t.trim(), some).re);
    if (from > to) throw new QuantityError('must go upwards');
    return {
      drills: (d) => d > from - SAME_DRILL && d < to + SAME_DRILL,
      drilled: `${shown(from)} to ${shown(to)}`,
    };
  }
  const list = text.split(',').map((t) => readQuantity(t.trim(), some).re);
  return {
    drills: (d) => list.some((v) => Math.abs(v - d) < SAME_DRILL),
    drilled: list.map(shown).join(', '),
  };
}

/** What the shop's choice to have lands added means. */
export const LANDS =
  'Round copper is added to files where a hole has less than the annular ring around it, as at the end of a shorted stub. Responses are worked out without it.';

/** Why a field of a shop cannot be read; undefined where it can. */
export function shopProblem(field: ShopField, text: string): string | undefined {
  try {
    if (field === 'drills') readDrills(text);
    else readQuantity(text, length);
    return undefined;
  } catch (error) {
    if (error instanceof QuantityError) return error.message;
    throw error;
  }
}

/**
 * A shop in numbers.
 * @param lines narrowest line and gap that it etches on the board, m
 * @throws QuantityError in words
 */
export function readShop(
  shop: Shop,
  lines: { readonly minWidth: number; readonly minGap: number },
): ShopLimits {
  const read = (field: ShopField) => readQuantity(shop[field], length).re;
  return {
    width: lines.minWidth,
    gap: lines.minGap,
    ring: read('ring'),
    edge: read('edge'),
    web: read('web'),
    etch: read('etch'),
    ...readDrills(shop.drills),
  };
}
