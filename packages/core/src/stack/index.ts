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
  /** Stripline: how far the strip lies off the middle; empty or absent: not at all. */
  readonly offCentre?: string;
  /** Radius that the board is bent to across its lines, or along them; negative: copper inside; empty or absent: flat. */
  readonly bentAcross?: string;
  readonly bentAlong?: string;
  /** Plus and minus what comes out of the shop, by what spreads; absent: as designed. */
  readonly spread?: Readonly<Partial<Record<StackSpread, string>>>;
}

/** What of a board spreads: `etch` is the width of all lines together. */
export const stackSpreads = ['er', 'height', 'thickness', 'etch'] as const;
export type StackSpread = (typeof stackSpreads)[number];

/** The same with how it is spoken of. */
export const boardSpreads: readonly { readonly id: StackSpread; readonly label: string }[] = [
  { id: 'er', label: '\u03B5r' },
  { id: 'height', label: 'board height' },
  { id: 'thickness', label: 'metal thickness' },
  { id: 'etch', label: 'width of all lines' },
];

export type StackField = Exclude<keyof Stack, 'id' | 'name' | 'spread'>;

export interface StackFieldInfo {
  readonly field: StackField;
  readonly label: string;
  readonly help: string;
  readonly rule: QuantityRule;
  /** It may be left empty: what it is then, and the word for that. */
  readonly empty?: { readonly is: number; readonly word: string };
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
    empty: { is: Infinity, word: 'none' },
  },
  {
    field: 'offCentre',
    label: 'Off the middle',
    labelIn: { microstrip: null },
    help: 'Distance of the strip from the middle between the two planes, as unequal sheets leave it. Junctions are modelled as in the middle. Leave empty for none.',
    rule: { kind: 'length', min: 0 },
    empty: { is: 0, word: 'none' },
  },
  {
    field: 'bentAcross',
    label: 'Bent across',
    help: 'Radius of the ground plane of a board that is wrapped round a cylinder with its lines along the axis. Negative: the copper lies inside. Leave empty for a flat board.',
    rule: { kind: 'length' },
    empty: { is: Infinity, word: 'flat' },
  },
  {
    field: 'bentAlong',
    label: 'Bent along',
    help: 'Radius of the ground plane of a board that is wrapped round a cylinder with its lines around it. Negative: the copper lies inside. Leave empty for a flat board.',
    rule: { kind: 'length' },
    empty: { is: Infinity, word: 'flat' },
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
  /** What a bent board was while flat. */
  readonly flat?: Substrate;
}

export interface StackProblem {
  readonly field: StackField;
  readonly message: string;
}

/** The value of one field's text, or the sentence that says why not. */
export function readStackField(info: StackFieldInfo, text: string): number | StackProblem {
  if (info.empty && text.trim() === '') return info.empty.is;
  try {
    const expression = parseExpression(text);
    if (!expression.literal) throw new QuantityError(`"${expression.names[0]}" is not a unit`);
    return checkQuantity(expression.evaluate(), info.rule).re;
  } catch (error) {
    if (error instanceof QuantityError) return { field: info.field, message: error.message };
    throw error;
  }
}

/** Heights of a board below which a radius is none that it could be bent to. */
const LEAST_RADIUS = 3;

/**
 * A board wrapped round a cylinder. Across the curvature the logarithm maps it exactly onto a flat one: at the copper's
 * radius heights become R ln(r/R) and widths stay, the air without end as well. Along it the middle of the dielectric keeps
 * its length, and that of the copper goes with its radius.
 * @param across,along radius of the ground plane, m; Infinity: flat; negative: the copper lies inside
 */
function bent(flat: Substrate, across: number, along: number, between: boolean): Substrate {
  if (across === Infinity && along === Infinity) return flat;
  const { height, thickness, cover } = flat;
  // Between two planes the copper is in the middle, and what one half gains the other loses.
  const over = between ? height / 2 : height;
  const mapped = () => {
    const radius = Math.abs(across);
    const outwards = Math.sign(across);
    const copper = radius + outwards * over;
    /** Distance on the flat board from the copper's radius to another, both away from the ground plane. */
    const from = (away: number) => copper * Math.abs(Math.log((copper + outwards * away) / copper));
    return {
      height: between ? copper * Math.abs(Math.log((radius + outwards * height) / radius)) : from(-height),
      thickness: from(thickness),
      // Inside the cylinder a lid beyond the axis is none.
      cover: copper + outwards * cover > 0 ? from(cover) : Infinity,
    };
  };
  const shape = across === Infinity ? {} : mapped();
  const radius = Math.abs(along);
  const way = Math.sign(along);
  const stretch =
    along === Infinity || between ? undefined : (radius + way * height) / (radius + (way * height) / 2);
  return { ...flat, ...shape, ...(stretch === undefined ? {} : { stretch }) };
}

interface ReadStack {
  readonly value?: ResolvedStack;
  readonly problems: readonly StackProblem[];
}

/** Stacks as they were read: the same document is read at every step of a search. */
const readBefore = new WeakMap<Stack, Map<MediumId, ReadStack>>();

/** All of a stack's properties as numbers, or everything that is wrong with it. */
export function resolveStack(stack: Stack, medium: MediumId): ReadStack {
  let known = readBefore.get(stack);
  if (!known) readBefore.set(stack, (known = new Map<MediumId, ReadStack>()));
  let read = known.get(medium);
  if (!read) known.set(medium, (read = readStack(stack, medium)));
  return read;
}

function readStack(stack: Stack, medium: MediumId): ReadStack {
  const values = {} as Record<StackField, number>;
  const problems: StackProblem[] = [];
  for (const info of stackFields) {
    const read = readStackField(info, stack[info.field] ?? '');
    if (typeof read === 'number') values[info.field] = read;
    else problems.push(read);
  }
  if (problems.length > 0) return { problems };
  const { minWidth, minGap, bentAcross, bentAlong, offCentre, ...rest } = values;
  const between = media[medium].grounds === 2;
  const flat: Substrate = {
    ...rest,
    cover: between ? Infinity : rest.cover,
    ...(between && offCentre > 0 ? { offCentre } : {}),
  };
  for (const [field, radius] of [
    ['bentAcross', bentAcross],
    ['bentAlong', bentAlong],
  ] as const)
    if (Math.abs(radius) < LEAST_RADIUS * rest.height)
      return {
        problems: [
          {
            field,
            message: `must be at least ${LEAST_RADIUS} heights of the board; leave it empty for flat`,
          },
        ],
      };
  const substrate = bent(flat, bentAcross, bentAlong, between);
  const refused = media[medium].refuse(substrate);
  if (refused) return { problems: [{ field: refused.field, message: refused.message }] };
  return { value: { substrate, minWidth, minGap, ...(substrate === flat ? {} : { flat }) }, problems: [] };
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
  // What datasheets of such materials and shops of their kind promise.
  spread: { er: '1.5%', height: '5%', thickness: '10%', etch: '20 um', ...rest.spread },
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
    spread: { er: '5%', height: '10%', etch: '30 um' },
  }),
  laminate('alumina-99.6', 'Alumina 99.6 %', '9.9', '0.0001', '0.635 mm', '5 um', {
    conductivity: '4.1e7 S/m',
    roughness: '0.1 um',
    minWidth: '25 um',
    minGap: '25 um',
    spread: { er: '1%', height: '3%', etch: '3 um' },
  }),
  laminate('fused-quartz', 'Fused quartz', '3.78', '0.0001', '0.254 mm', '3 um', {
    conductivity: '4.1e7 S/m',
    roughness: '0.05 um',
    minWidth: '20 um',
    minGap: '20 um',
    spread: { er: '0.5%', height: '3%', etch: '2 um' },
  }),
  laminate('lcp-2.9', 'Liquid-crystal polymer 2.9', '2.9', '0.0025', '0.1 mm', '18 um', {
    minWidth: '75 um',
    minGap: '75 um',
  }),
  laminate('air', 'Air', '1', '0', '1 mm', '35 um', { roughness: '0.2 um', spread: { er: '0%' } }),
];

/** Bulk conductivities in S/m as text, to choose from. */
export const metals: readonly { name: string; conductivity: string }[] = [
  { name: 'copper', conductivity: '5.8e7 S/m' },
  { name: 'silver', conductivity: '6.1e7 S/m' },
  { name: 'gold', conductivity: '4.1e7 S/m' },
  { name: 'aluminium', conductivity: '3.8e7 S/m' },
];
