import type { MediumId, Substrate } from '../lines';
import { media } from '../lines';
import { checkQuantity, parseExpression, QuantityError, type QuantityRule } from '../units';

/**
 * A substrate as the engineer describes it. Every property is the text that was typed, with its unit, so that it comes
 * back as it was entered (`0.5 oz` stays half an ounce).
 */
export interface Stack {
  readonly id: string;
  readonly name: string;
  /** Relative permittivity. */
  readonly er: string;
  readonly tand: string;
  /** Microstrip: dielectric thickness; stripline: ground-plane spacing. */
  readonly height: string;
  readonly thickness: string;
  readonly conductivity: string;
  readonly roughness: string;
  /** Distance of a metal lid above the dielectric; empty: open. */
  readonly cover: string;
  /** Narrowest line and gap the shop etches. */
  readonly minWidth: string;
  readonly minGap: string;
}

export type StackField = Exclude<keyof Stack, 'id' | 'name'>;

export interface StackFieldInfo {
  readonly field: StackField;
  readonly label: string;
  readonly help: string;
  readonly rule: QuantityRule;
  readonly optional?: boolean;
  /** Where the property has another name in a medium, or none at all (null). */
  readonly labelIn?: Partial<Record<MediumId, string | null>>;
}

/** What each property means and accepts: serves the form, the reader and the command line alike. */
export const stackFields: readonly StackFieldInfo[] = [
  {
    field: 'er',
    label: 'Permittivity',
    help: 'Relative permittivity of the dielectric at the operating frequency, 1 for air.',
    rule: { kind: 'number', min: 1, max: 1000 },
  },
  {
    field: 'tand',
    label: 'Loss tangent',
    help: 'Dielectric loss tangent, for example 0.0012. Sets the dielectric loss.',
    rule: { kind: 'number', min: 0, max: 1 },
  },
  {
    field: 'height',
    label: 'Height',
    labelIn: { stripline: 'Ground spacing' },
    help: 'Microstrip: thickness of the dielectric between strip and ground. Stripline: distance between the two ground planes.',
    rule: { kind: 'length', min: 0, exclusive: true },
  },
  {
    field: 'thickness',
    label: 'Copper',
    help: 'Conductor thickness: a length, or a copper weight such as 0.5 oz (1 oz is 34.8 \u00B5m). 0 um is a vanishing strip with the loss of thick metal.',
    rule: { kind: 'length', min: 0 },
  },
  {
    field: 'conductivity',
    label: 'Conductivity',
    help: 'Bulk conductivity of the metal: copper 5.8e7 S/m, gold 4.1e7 S/m, silver 6.1e7 S/m.',
    rule: { kind: 'conductivity', min: 0, exclusive: true },
  },
  {
    field: 'roughness',
    label: 'Roughness',
    help: 'Rms height of the metal\u2019s surface towards the dielectric. Raises the conductor loss up to twofold (Hammerstad & Bekkadal 1975).',
    rule: { kind: 'length', min: 0 },
  },
  {
    field: 'cover',
    label: 'Lid',
    labelIn: { stripline: null },
    help: 'Distance of a metal lid above the dielectric. Leave empty for an open line. Not used by stripline.',
    rule: { kind: 'length', min: 0, exclusive: true },
    optional: true,
  },
  {
    field: 'minWidth',
    label: 'Least width',
    help: 'Narrowest line the shop etches reliably. A narrower line is pointed out, not forbidden.',
    rule: { kind: 'length', min: 0 },
  },
  {
    field: 'minGap',
    label: 'Least gap',
    help: 'Smallest gap the shop etches reliably.',
    rule: { kind: 'length', min: 0 },
  },
];

/** What a property is called where it is spoken of. */
export const stackFieldLabel = (field: string): string =>
  field === 'name' ? 'Name' : (stackFields.find((f) => f.field === field)?.label ?? field);

/** A stack in numbers, SI units. */
export interface ResolvedStack {
  readonly substrate: Substrate;
  readonly minWidth: number;
  readonly minGap: number;
}

export interface StackProblem {
  readonly field: StackField;
  readonly message: string;
}

/** The value of one field's text, or the sentence that says why not. */
export function readStackField(info: StackFieldInfo, text: string): number | StackProblem {
  if (info.optional && text.trim() === '') return Infinity;
  try {
    const expression = parseExpression(text);
    if (!expression.literal) throw new QuantityError(`"${expression.names[0]}" is not a unit`);
    return checkQuantity(expression.evaluate(), info.rule).re;
  } catch (error) {
    if (error instanceof QuantityError) return { field: info.field, message: error.message };
    throw error;
  }
}

/** All of a stack's properties as numbers, or everything that is wrong with it. */
export function resolveStack(
  stack: Stack,
  medium: MediumId,
): { value?: ResolvedStack; problems: StackProblem[] } {
  const values = {} as Record<StackField, number>;
  const problems: StackProblem[] = [];
  for (const info of stackFields) {
    const read = readStackField(info, stack[info.field]);
    if (typeof read === 'number') values[info.field] = read;
    else problems.push(read);
  }
  if (problems.length > 0) return { problems };
  const { minWidth, minGap, ...rest } = values;
  const substrate: Substrate = { ...rest, cover: media[medium].grounds === 2 ? Infinity : rest.cover };
  const refused = media[medium].refuse(substrate);
  if (refused) return { problems: [{ field: refused.field, message: refused.message }] };
  return { value: { substrate, minWidth, minGap }, problems: [] };
}

const laminate = (
  id: string,
  name: string,
  er: string,
  tand: string,
  height: string,
  thickness: string,
  rest: Partial<Stack> = {},
): Stack => ({
  id,
  name,
  er,
  tand,
  height,
  thickness,
  conductivity: '5.8e7 S/m',
  roughness: '0.5 um',
  cover: '',
  minWidth: '100 um',
  minGap: '100 um',
  ...rest,
});

/** The laminates that ship: generic classes of material with typical data, no maker's product. */
export const laminates: readonly Stack[] = [
  laminate('ptfe-2.94', 'PTFE composite 2.94', '2.94', '0.0012', '0.508 mm', '18 um'),
  laminate('ptfe-2.20', 'PTFE glass 2.20', '2.2', '0.0009', '0.508 mm', '18 um'),
  laminate('hydrocarbon-3.66', 'Hydrocarbon 3.66', '3.66', '0.0037', '0.422 mm', '18 um', {
    roughness: '1 um',
  }),
  laminate('ceramic-10.2', 'Ceramic-filled PTFE 10.2', '10.2', '0.0023', '0.635 mm', '18 um'),
  laminate('fr4', 'FR-4 class', '4.3', '0.02', '1.5 mm', '35 um', {
    roughness: '1.5 um',
    minWidth: '150 um',
    minGap: '150 um',
  }),
  laminate('alumina-99.6', 'Alumina 99.6 %', '9.9', '0.0001', '0.635 mm', '5 um', {
    conductivity: '4.1e7 S/m',
    roughness: '0.1 um',
    minWidth: '25 um',
    minGap: '25 um',
  }),
  laminate('fused-quartz', 'Fused quartz', '3.78', '0.0001', '0.254 mm', '3 um', {
    conductivity: '4.1e7 S/m',
    roughness: '0.05 um',
    minWidth: '20 um',
    minGap: '20 um',
  }),
  laminate('lcp-2.9', 'Liquid-crystal polymer 2.9', '2.9', '0.0025', '0.1 mm', '18 um', {
    minWidth: '75 um',
    minGap: '75 um',
  }),
  laminate('air', 'Air', '1', '0', '1 mm', '35 um', { roughness: '0.2 um' }),
];

/** Bulk conductivities in S/m as text, to choose from. */
export const metals: readonly { name: string; conductivity: string }[] = [
  { name: 'copper', conductivity: '5.8e7 S/m' },
  { name: 'silver', conductivity: '6.1e7 S/m' },
  { name: 'gold', conductivity: '4.1e7 S/m' },
  { name: 'aluminium', conductivity: '3.8e7 S/m' },
];
