import type { Complex } from '../numeric';
import type { Electrical } from '../electrical';
import type { Medium, Sections, Substrate } from '../lines';
import type { SData } from '../results';
import type { QuantityRule } from '../units';

/** One way to give a property of a part. Of a property's faces exactly one is held; the others follow. */
export interface Face {
  readonly name: string;
  readonly label: string;
  /** Definition, meaning and range, shown where the field stands. */
  readonly help: string;
  readonly side: 'electrical' | 'physical';
  readonly rule: QuantityRule;
}

/** A property of a part: one face, or several that follow from one another. */
export interface Property {
  readonly id: string;
  readonly faces: readonly Face[];
  /** May be left out; what then holds, in words ("that of the line it meets"). */
  readonly otherwise?: string;
  /** An adjustment of what is built alone, which `retune` may move: of a length, of a width, or of a mounted part. */
  readonly adjusts?: 'length' | 'width' | 'mounted';
  /** It is moved only where the piece is marked so: of those that other pieces adjust just as well. */
  readonly asked?: boolean;
  /** How far it may be moved; absent: a share of what it adjusts. */
  readonly reach?: (values: PartValues) => number;
  /** The face that it is added to, where that is not what it adjusts. */
  readonly addsTo?: string;
}

/** What a part is chosen to be, where that is not a quantity. */
export interface Choice {
  readonly name: string;
  readonly label: string;
  readonly help: string;
  readonly options: readonly { readonly id: string; readonly label: string }[];
}

/** Values of all faces in SI units, by face name. */
export type PartValues = Readonly<Record<string, Complex>>;

/** Settings of a part that are not quantities: which data a block holds, a port's number. */
export type PartSettings = Readonly<Record<string, string>>;

/** What a part learnt from what it meets and is no quantity of its own: that a part is mounted at an arm, widths along it (m). */
export type PartFacts = Readonly<Record<string, boolean | readonly number[]>>;

/** A part with everything that is known of it. */
export interface PartState {
  readonly values: PartValues;
  readonly settings: PartSettings;
  readonly facts: PartFacts;
}

/** A held face that cannot be; `face` is the one to change. */
export class FaceError extends RangeError {
  constructor(
    readonly face: string,
    message: string,
  ) {
    super(message);
  }
}

/** Symmetric pairs at the design frequency; ohm and m. */
export interface PairCalculator {
  /** What the modes of two strips of `width`, `gap` apart, are. */
  at(
    width: number,
    gap: number,
  ): { readonly ze: number; readonly zo: number; readonly eeffEven: number; readonly eeffOdd: number };
  /** Width and gap for the impedances of both modes. @throws UnreachablePair */
  strips(ze: number, zo: number): [width: number, gap: number];
  /** Gap at which strips of a width have an odd impedance. @throws UnreachablePair */
  gap(zo: number, width: number): number;
  /** Width at which strips a gap apart have an even impedance. @throws UnreachablePair */
  width(ze: number, gap: number): number;
}

/** Where a line changes its direction at once. */
export interface Corner {
  /** By how much it turns to the left, seen as one comes to it, rad. */
  readonly angle: number;
  readonly isMitred: boolean;
}

/** A stretch of line that turns, as one comes along it. */
export interface Turn {
  /** How far on it begins and ends, m; a corner does both at once. */
  readonly from: number;
  readonly to: number;
  /** By how much it turns to the left, rad. */
  readonly angle: number;
  /** It is an arc of a line, which knows of what turns beside it as well. */
  readonly isArc?: boolean;
}

/** How a piece between two lines goes on from a pin. */
export interface Way {
  /** To the other pin, m. */
  readonly length: number;
  readonly turns: readonly Turn[];
}

/** What surrounds a part when its faces are worked out. */
export interface ResolveContext {
  readonly medium: Medium;
  readonly substrate: Substrate;
  /** Design frequency, Hz. */
  readonly f0: number;
  /** Width in m for an impedance at f0. @throws UnreachableImpedance */
  width(z0: number): number;
  /** Impedance in ohm and effective permittivity of a width at f0. */
  line(width: number): { readonly z0: number; readonly eeff: number };
  readonly pair: PairCalculator;
  readonly data: (id: string) => SData | undefined;
  /** Width in m of the copper that meets this pin, or undefined where none does. */
  readonly neighbour: (pin: number) => number | undefined;
  /** Gap in m between the strip that meets this pin and the one coupled to it, or undefined where none is. */
  readonly beside: (pin: number) => number | undefined;
  /** Whether something without copper, a mounted part, and no line meets this pin. */
  readonly bare: (pin: number) => boolean;
  /** Width in m of the line that ends at a pin where this part is mounted; undefined where copper goes on or there is none. */
  readonly pad: (pin: number) => number | undefined;
  /** By how much the copper at a pin goes on before it ends open, m (negative: it ends before); undefined where it does not. */
  readonly open: (pin: number) => number | undefined;
  /** The corner that alone meets a pin, or undefined where none does. */
  readonly corner: (pin: number) => Corner | undefined;
  /** What turns along the line beyond a pin, as one goes away from there; what meets others ends it. */
  readonly turns: (pin: number) => readonly Turn[];
  readonly settings: PartSettings;
}

/** What surrounds a part when it is simulated. */
export interface ElectricalContext {
  readonly medium: Medium;
  readonly substrate: Substrate;
  readonly f0: number;
  /** A cross-section with its static work done; parts of equal shape and dimensions share it. */
  readonly section: Sections['get'];
  readonly data: (id: string) => SData | undefined;
}

/** In what a part may be asked for its electrical behaviour. */
export type Model = 'ideal' | 'modelled';

/** Something for each model: a further model has to be given wherever this stands. */
export type InModel<T> = Readonly<Record<Model, T>>;
export const MODELS: readonly Model[] = ['ideal', 'modelled'];

/** A part that is the same in every model. */
export const alike = (model: PartModel): InModel<PartModel> => ({ ideal: model, modelled: model });

/** What stands between some pins and what those meet, and knows of all of them. */
export interface PinEnd {
  /** Pins that are moved behind it. */
  readonly pins: readonly number[];
  /** Pins that it is joined to as well. */
  readonly beside: readonly number[];
  /** Its pins: at those beside, towards the part, towards what the part meets. */
  readonly electrical: Electrical;
}

/** How a part answers in one model. */
export interface PartModel {
  /**
   * Names of the faces, settings and facts that the answer depends on. It is given these and no other, so that what it
   * does not look at leaves its results as they are.
   */
  readonly reads: readonly string[];
  electrical(state: PartState, context: ElectricalContext): Electrical;
  /** What stands at its pins apart from it, because it changes slowly with frequency where the part does not. */
  ends?(state: PartState, context: ElectricalContext): readonly PinEnd[];
}

/** A uniform length of line: ohm and radians at the design frequency, m. */
export interface UniformLine {
  readonly z0: number;
  readonly theta: number;
  readonly width: number;
  readonly length: number;
}

/** How a part grows from nothing to what it is, for the way on a Smith chart. */
export interface Growth {
  /** Faces that grow along. */
  readonly faces: readonly string[];
  /** The part as a share of itself. @param across it hangs beside the way instead of lying in it */
  at(values: PartValues, share: number, across: boolean): PartValues;
  /** Whether it is less of a way the larger its value. */
  inverse?(across: boolean): boolean;
  /** Share at which it is as good as not there, nearest to what it is; absent: 0. */
  beginning?(values: PartValues): number;
}

/** A face that says what a part is, with the name that lists have for it. */
export interface Told {
  readonly face: string;
  readonly as?: string;
}

export interface Point {
  readonly x: number;
  readonly y: number;
}

/** Where a neighbour joins: the place of the reference plane and the outward direction in radians, counter-clockwise from +x. */
export interface ArtworkPin extends Point {
  readonly angle: number;
}

/** A part's picture in its own coordinates (m, y up): pin 1 at the origin, looking towards -x. */
export interface Artwork {
  /** Closed polygons without crossings; where they overlap their union counts. */
  readonly copper: readonly (readonly Point[])[];
  readonly pins: readonly ArtworkPin[];
  /** Outline of what is not copper: a mounted part, a block, a load, a drilled hole. */
  readonly body?: readonly (readonly Point[])[];
  /** The centre line along which a length is measured. */
  readonly centre?: readonly Point[];
}

/** What surrounds a part when it is drawn. */
export interface ArtworkContext {
  readonly pins: number;
  readonly settings: PartSettings;
  readonly facts: PartFacts;
  /** Width in m of the line met at a pin, for parts without one of their own. */
  readonly width: (pin: number) => number;
  /** The same where a line is met, undefined elsewhere. */
  readonly met: (pin: number) => number | undefined;
  /** How much of this part's centre line the junction at a pin covers with its own copper, m. */
  readonly setback: (pin: number) => number;
  /** How far straight sides may be off an arc, m; absent: as the screen and the field solution take it. */
  readonly chord?: number | undefined;
}

/** What surrounds a part when it is reviewed. */
export interface ReviewContext {
  readonly medium: Medium;
  readonly substrate: Substrate;
  readonly f0: number;
  readonly settings: PartSettings;
  readonly neighbour: (pin: number) => number | undefined;
  /** What the junctions at its pins cover of its length, m. */
  readonly setback: (pin: number) => number;
}

/** A question a part has about itself. */
export interface PartRemark {
  /** The face to look at; empty: the part. */
  readonly face: string;
  readonly message: string;
}

/** What a part may be grown as: `held` and `settings` to begin with, by the name of the menu. */
export interface Variant {
  readonly id: string;
  readonly label: string;
  readonly held: Readonly<Record<string, string>>;
  readonly settings?: PartSettings;
  /** Pin that joins where it is grown (default the first). */
  readonly enter?: number;
  /** Recipes make it; menus leave it out. */
  readonly seldom?: true;
}

/** One kind of part: a folder of its own behind this contract. */
export interface PartDefinition {
  readonly kind: string;
  readonly name: string;
  readonly about: string;
  /** Where the model comes from, in which range it was stated, and what is done outside it. */
  readonly source?: string;
  /** Its place among the groups of the growth menu; lower comes first. */
  readonly group: 'line' | 'stub' | 'junction' | 'end' | 'mounted' | 'other';
  readonly variants: readonly Variant[];
  readonly properties: readonly Property[];
  readonly choices?: readonly Choice[];
  /** Properties beside these that its settings bring along. */
  readonly more?: (settings: PartSettings) => readonly Property[];
  /** Its outline is typed: corners are pairs of properties x1, y1, x2 …, and pins are at sides of it. */
  readonly outlined?: boolean;
  /** A uniform length of line: junctions cover its ends, it can be split, and its copper has handles. */
  line?(values: PartValues): UniformLine;
  /** What stands beside its copper: what it is, and its size, in few letters. Absent: nothing stands there. */
  label?(values: PartValues): { readonly what: string; readonly size: string };
  /** Absent where it has no in-between. */
  readonly grows?: Growth;
  /** The faces that say what it is, in lists. Absent: it is not listed. */
  readonly tells?: readonly Told[];
  /** Works with imported data: it is grown with one of the project's. */
  readonly asks?: 'data';
  /** Mounted between two pads: drawn from pin to pin where both are placed already. */
  readonly bridges?: boolean;
  /** A connector at the rim of the board, which begins at its second pin. */
  readonly connects?: boolean;
  /** Which pins are one like the other to its models: equal letters. Absent: all of a line's or mounted part's, none else. */
  readonly alikePins?: string;
  /** Pairs of faces and facts that change places when its first two pins do; with `side` turned over it is the same piece again. */
  readonly swaps?: readonly (readonly [string, string])[];
  pins(settings: PartSettings, data: (id: string) => SData | undefined): number;
  /**
   * All faces from the held ones.
   * @throws FaceError naming the face, RangeError where the physics cannot follow (an impedance no width has)
   */
  resolve(held: PartValues, context: ResolveContext): PartValues;
  /** What it learns from what it meets, where that is no quantity of its own. */
  facts?(held: PartValues, context: ResolveContext): PartFacts;
  /** A length in m that expressions of its faces may name, such as `lambda`, from the faces held so far. */
  local?(name: string, held: PartValues, context: ResolveContext): number | undefined;
  /** Takes what it lacks from the copper it meets, so that it is worked out after its neighbours. */
  readonly fits?: boolean;
  /** Width in m of its copper at each pin; undefined where it has none of its own. */
  widths?(values: PartValues, settings: PartSettings): readonly (number | undefined)[];
  /** It ends a line open: by how much its copper goes on behind the first pin, m. */
  opens?(values: PartValues): number;
  /** It is a corner between its two pins, seen from the first one. */
  corner?(values: PartValues, settings: PartSettings): Corner | undefined;
  /** How it goes on from one of its two pins to the other one. */
  way?(values: PartValues, settings: PartSettings, pin: number): Way;
  /** Gap in m at each pin between its strip there and the one coupled to it. */
  gaps?(values: PartValues): readonly (number | undefined)[];
  /**
   * By how many times as much its faces and facts grow, m, as every line of copper gets wider when it is etched: a width as
   * much, a gap as much less, a length up to an open end half of it.
   */
  readonly etches?: Readonly<Record<string, number>>;
  /** Facts among these that are differences of lengths: they may be nothing or negative and grow all the same. */
  readonly differences?: readonly string[];
  /** Faces that are in proportion to another one of it as long as nobody holds them, each with that one. */
  readonly follows?: Readonly<Record<string, string>>;
  /** Length of a line's centre line that this part covers with copper of its own, at each pin, m. */
  setbacks?(values: PartValues, settings: PartSettings): readonly number[];
  /** A point on the way: the copper of what lies behind it reaches past it. */
  readonly point?: boolean;
  /**
   * What it is to a field solution: its copper as it is drawn and nothing else; the same with a hole to ground of the diameter
   * `hole` at the end of its centre line; or no copper, so that it is joined to the solved copper at its pins. Absent where
   * it is both at once.
   */
  readonly field?: 'copper' | 'grounded' | 'joined';
  /** What of it is not in its copper, so that a field solution would miss it; undefined where that is all of it. */
  unsolved?(values: PartValues): string | undefined;
  /** Absent for a port, which the solution treats itself. */
  readonly models?: InModel<PartModel>;
  /**
   * What closes a line: the impedance in ohm that it shows at f0, from those of its held faces that count.
   * @param read the value held at a face
   */
  impedance?(
    read: (face: string) => Complex | undefined,
    context: Pick<ResolveContext, 'settings' | 'f0' | 'data'>,
  ): Complex;
  artwork(values: PartValues, context: ArtworkContext): Artwork;
  review?(values: PartValues, context: ReviewContext): readonly PartRemark[];
  /** Held faces and settings of its mirror image. Absent: its mirror image is itself. */
  mirrored?(
    held: Readonly<Record<string, string>>,
    settings: PartSettings,
  ): { held: Readonly<Record<string, string>>; settings: PartSettings };
}

/** All properties of a part with these settings. */
export const propertiesOf = (
  { properties, more }: Pick<PartDefinition, 'properties' | 'more'>,
  settings: PartSettings = {},
): readonly Property[] => (more ? [...properties, ...more(settings)] : properties);

/** A quantity's real value, or `fallback` where it is left out. */
export const valueOf = (values: PartValues, face: string, fallback = 0): number =>
  values[face] ? values[face].re : fallback;

/** A fact that is one length, m; undefined where it is left out. */
export const lengthIn = (facts: PartFacts, name: string): number | undefined =>
  (facts[name] as readonly number[] | undefined)?.[0];

/** Values with some faces, where they are there, as many times as large. */
export const scaled = (values: PartValues, faces: readonly string[], by: number): PartValues => ({
  ...values,
  ...Object.fromEntries(faces.flatMap((f) => (values[f] ? [[f, { re: values[f].re * by, im: 0 }]] : []))),
});

/** Real numbers as a part's values. */
export function realValues(values: Readonly<Record<string, number>>): PartValues {
  // Made for every piece at every step of a search: no lists on the way.
  const out: Record<string, Complex> = {};
  for (const face in values) out[face] = { re: values[face], im: 0 };
  return out;
}

/** Whether a text is one term: no plus or minus outside brackets but at its beginning or in an exponent. */
function isTerm(text: string): boolean {
  let depth = 0;
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '(') depth++;
    else if (text[i] === ')') depth--;
    else if (depth === 0 && i > 0 && /[+-]/.test(text[i]) && !/\d[eE]$/.test(text.slice(0, i))) return false;
  }
  return true;
}

/** The text of a negated quantity: an expression keeps its form, and negated twice it is itself again. */
export function negated(text: string): string {
  const plain = text.trim();
  if (!isTerm(plain)) return `-(${plain})`;
  if (!plain.startsWith('-')) return `-${plain}`;
  const rest = plain.slice(1).trim();
  return /^\([^()]*\)$/.test(rest) ? rest.slice(1, -1) : rest;
}
